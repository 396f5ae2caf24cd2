package feed

import (
	"encoding/json"
	"fmt"
	"sync"
	"testing"
	"time"
)

func decode(t *testing.T, m Message) (string, int64, map[string]any) {
	t.Helper()
	var d struct {
		Type   string
		Seq    int64
		Values map[string]any
	}
	if err := json.Unmarshal(m.Encode(), &d); err != nil {
		t.Fatalf("%s: %v", m.Encode(), err)
	}
	return d.Type, d.Seq, d.Values
}

func TestAClientGetsASnapshotThenNumberedDeltas(t *testing.T) {
	h := NewHub()
	h.Publish("a", []string{"x"}, 1)
	h.Publish("b", []string{"y"}, 1)
	c := h.Join()
	typ, seq, values := decode(t, h.Follow(c, []string{"x"}))
	if typ != "snapshot" || seq != 1 || len(values) != 1 || values["a"] != 1.0 {
		t.Errorf("%s %d %v", typ, seq, values)
	}
	h.Publish("a", []string{"x"}, 2)
	h.Publish("b", []string{"y"}, 2)
	h.Announce(`q"uote`, []string{"x"}, "once")
	m, ok := c.Take()
	typ, seq, values = decode(t, m)
	if !ok || typ != "delta" || seq != 2 || len(values) != 2 || values["a"] != 2.0 || values[`q"uote`] != "once" {
		t.Errorf("%s %d %v", typ, seq, values)
	}
	if _, ok := c.Take(); ok {
		t.Error("there is nothing more to take")
	}
	h.Publish("a", []string{"x"}, 2)
	if _, ok := c.Take(); ok {
		t.Error("a value that did not change was sent again")
	}
	h.Remove("a")
	m, _ = c.Take()
	if _, _, values = decode(t, m); values["a"] != nil || len(values) != 1 {
		t.Errorf("a value that is gone: %v", values)
	}
}

func TestASlowClientGetsTheNewestAndNoQueue(t *testing.T) {
	h := NewHub()
	c := h.Join()
	h.Follow(c, []string{"x"})
	for i := range 10_000 {
		h.Publish(fmt.Sprint("k", i%3), []string{"x"}, i)
	}
	m, _ := c.Take()
	if _, seq, values := decode(t, m); len(values) != 3 || seq != 2 || values["k0"] != 9999.0 {
		t.Errorf("%d values, number %d: %v", len(values), seq, values)
	}
}

func TestWhoeverPublishesIsAskedBeforeASnapshot(t *testing.T) {
	h := NewHub()
	h.OnFollow(func() {
		if h.Followed([]string{"late"}) {
			h.Publish("fresh", []string{"late"}, true)
		}
	})
	c := h.Join()
	if _, _, values := decode(t, h.Follow(c, []string{"late"})); values["fresh"] != true {
		t.Errorf("the snapshot has %v", values)
	}
	h.Leave(c)
	if h.Followed([]string{"late"}) || h.Clients() != 0 {
		t.Error("a client that left still follows")
	}
}

func TestAThousandClientsComeAndGoWhileValuesChange(t *testing.T) {
	h := NewHub()
	var wg sync.WaitGroup
	stop := make(chan struct{})
	wg.Go(func() {
		for i := 0; ; i++ {
			select {
			case <-stop:
				return
			default:
				h.Publish("k", []string{"x"}, i)
			}
		}
	})
	var clients sync.WaitGroup
	for range 1000 {
		clients.Go(func() {
			c := h.Join()
			defer h.Leave(c)
			last := h.Follow(c, []string{"x"}).Seq
			for range 3 {
				<-c.Wake
				if m, ok := c.Take(); ok {
					if m.Seq != last+1 {
						t.Errorf("number %d came after %d", m.Seq, last)
					}
					last = m.Seq
				}
			}
		})
	}
	clients.Wait()
	close(stop)
	wg.Wait()
	if h.Clients() != 0 || h.Followed([]string{"x"}) {
		t.Errorf("%d clients are left", h.Clients())
	}
}

func TestManyClientsAreToldLessOften(t *testing.T) {
	h := NewHub()
	for n, want := range map[int]time.Duration{1: 0, 100: 0, 101: 100 * time.Microsecond, 1100: 100 * time.Millisecond, 5000: 200 * time.Millisecond} {
		for h.Clients() < n {
			h.Join()
		}
		if h.Clients() == n && h.Pace() != want {
			t.Errorf("%d clients are told every %v", n, h.Pace())
		}
	}
}

func TestWhoFollowsTwoTopicsOfAKeyIsToldOnce(t *testing.T) {
	h := NewHub()
	c := h.Join()
	h.Follow(c, []string{"a", "b", "b"})
	h.Publish("key", []string{"a", "b"}, 1)
	if m, ok := c.Take(); !ok || len(m.Values) != 1 {
		t.Errorf("it is told %+v", m)
	}
	if _, again := c.Take(); again {
		t.Error("it is told a second time")
	}
	h.Follow(c, []string{"b"})
	h.Publish("key", []string{"b"}, 2)
	if m, ok := c.Take(); !ok || string(m.Values["key"]) != "2" {
		t.Errorf("following another topic it is told %+v", m)
	}
	h.Leave(c)
	if len(h.Topics()) != 0 {
		t.Errorf("gone, it follows %v", h.Topics())
	}
}
