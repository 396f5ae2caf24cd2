package web

import (
	"maps"
	"net/netip"
	"strings"
	"sync"
	"time"
)

// Getting in is tried slowly: so many times at once, then once in a while, by address and by name.
const (
	triesAtOnce = 5
	tryEvery    = 10 * time.Second
	//limit:count addresses and names whose tries to get in are counted | a try from another one waits
	maxTries = 10_000
)

// tries counts those of everybody. The zero value has counted none.
type tries struct {
	mu sync.Mutex
	of map[string]*bucket // by address and by name
	// tidied is when those were let go of last that need no counting.
	tidied time.Time
}

// bucket counts tries: they come back one by one.
type bucket struct {
	left float64
	at   time.Time
}

// now brings a bucket up to date.
func (b *bucket) now(at time.Time) {
	b.left, b.at = min(triesAtOnce, b.left+max(0, at.Sub(b.at).Seconds())/tryEvery.Seconds()), at
}

// keysOf are those of the buckets of an address and of a name; without a name only the first.
func keysOf(address, name string) []string {
	keys := []string{"address " + networkOf(address)}
	if name = strings.ToLower(strings.TrimSpace(name)); name != "" {
		keys = append(keys, "name "+name)
	}
	return keys
}

// find finds the buckets of keys, where each of them has a try left; ok is false where one has none, or there are too many to count one more. The lock is held.
func (t *tries) find(keys []string, at time.Time) (out []*bucket, ok bool) {
	if t.of == nil {
		t.of = map[string]*bucket{}
	}
	t.tidy(at)
	for _, key := range keys {
		b := t.of[key]
		if b == nil {
			if len(t.of) >= maxTries {
				return nil, false
			}
			b = &bucket{triesAtOnce, at}
			t.of[key] = b
		}
		if b.now(at); b.left < 1 {
			return nil, false // no other one is begun for somebody who has to wait
		}
		out = append(out, b)
	}
	return out, true
}

// tidyEvery is how often buckets are let go of where there are many.
const tidyEvery = time.Second

// tidy lets go of those that have all their tries again, where there are many. The lock is held.
func (t *tries) tidy(at time.Time) {
	if since := at.Sub(t.tidied); len(t.of) < maxTries-1 || since >= 0 && since < tidyEvery {
		return
	}
	t.tidied = at
	maps.DeleteFunc(t.of, func(_ string, b *bucket) bool {
		b.now(at)
		return b.left >= triesAtOnce
	})
}

// networkOf is what an address counts as: of IPv6 the network, since whoever is in one has all of its addresses (RFC 4291).
func networkOf(address string) string {
	a, err := netip.ParseAddr(address)
	if err != nil || a.Unmap().Is4() {
		return address
	}
	p, err := a.WithZone("").Prefix(64)
	if err != nil {
		return address
	}
	return p.String()
}

// try counts a try of somebody at an address to get in, as somebody where a name is given; false: there were too many. It counts before it is known what
// comes of it, so that many at once are no way round; one that succeeds is given back with succeeded.
func (t *tries) try(address, name string, at time.Time) bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	all, ok := t.find(keysOf(address, name), at)
	if !ok {
		return false
	}
	for _, b := range all {
		b.left--
	}
	return true
}

func (t *tries) succeeded(address, name string, at time.Time) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, key := range keysOf(address, name) {
		if b := t.of[key]; b != nil {
			b.now(at)
			b.left = min(triesAtOnce, b.left+1)
		}
	}
}

// try counts a try of whoever is at an address; see tries.
func (g *gate) try(address, name string) bool { return g.tries.try(address, name, time.Now()) }

func (g *gate) succeeded(address, name string) { g.tries.succeeded(address, name, time.Now()) }
