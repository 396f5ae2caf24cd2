package reading

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
)

func TestAVersionNeverChanges(t *testing.T) {
	rnd := rand.New(rand.NewPCG(1, 2))
	r := NewReplica()
	type taken struct {
		version *Version
		want    map[Key]Reading
		paths   map[string][]string
	}
	now, order := map[Key]Reading{}, map[string][]string{}
	var all []taken
	for i := range 2000 {
		k := Key{fmt.Sprint("device-", rnd.IntN(3)), fmt.Sprint("path-", rnd.IntN(10))}
		switch rnd.IntN(10) {
		case 0:
			r.Drop(k)
			delete(now, k)
			order[k.Device] = slices.DeleteFunc(slices.Clone(order[k.Device]), func(p string) bool { return p == k.Path })
		case 1:
			r.Forget(k.Device)
			for o := range now {
				if o.Device == k.Device {
					delete(now, o)
				}
			}
			order[k.Device] = nil
		default:
			if _, had := now[k]; !had {
				order[k.Device] = append(slices.Clip(order[k.Device]), k.Path)
			}
			now[k] = Reading{Value: i, Quality: Confirmed}
			r.Set(k, now[k])
		}
		if rnd.IntN(5) == 0 {
			want, ps := map[Key]Reading{}, map[string][]string{}
			for k, v := range now {
				want[k] = v
			}
			for d, p := range order {
				ps[d] = p
			}
			all = append(all, taken{r.Version(), want, ps})
		}
	}
	for i, v := range all {
		for k, want := range v.want {
			if got := v.version.Reading(k); got != want {
				t.Fatalf("version %d: %v is %v, want %v", i, k, got, want)
			}
		}
		for d, want := range v.paths {
			if got := v.version.Paths(d); !slices.Equal(got, want) {
				t.Fatalf("version %d: %s has %v, want %v", i, d, got, want)
			}
		}
	}
}
