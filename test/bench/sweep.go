package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// condition is a network or a device that is slow.
type condition struct {
	faults.Faults
	udpOnly bool
}

func (c condition) String() string {
	s := fmt.Sprintf("%d ms", c.LatencyMs)
	if c.JitterMs > 0 {
		s += fmt.Sprintf(", up to %d more", c.JitterMs)
	}
	if c.LossPercent > 0 {
		s += fmt.Sprintf(", %d %% lost", c.LossPercent)
	}
	return s
}

// sweep has hands at work on devices that are slower and slower, and looks at the devices: what they
// did, against what was asked and what Synaptor says of it. only are the latencies, in milliseconds;
// none: all of them.
func sweep(only []string) error {
	data, err := os.MkdirTemp("", "synaptor-sweep")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data)
	a, err := app.Start(app.Options{Data: data, Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Demo: true})
	if err != nil {
		return err
	}
	defer a.Close()
	r := &sweeping{app: a, base: "http://" + a.Addr}
	if err := r.rig(); err != nil {
		return err
	}
	fmt.Printf("%-28s", "")
	for _, t := range r.tasks() {
		fmt.Printf(" %16s", t.title)
	}
	fmt.Printf(" %10s\n", "links lost")
	for _, c := range conditions() {
		if len(only) > 0 && !slices.Contains(only, strconv.Itoa(c.LatencyMs)) {
			continue
		}
		if err := r.under(c); err != nil {
			return err
		}
	}
	return nil
}

func conditions() (out []condition) {
	for _, ms := range []int{0, 40, 80, 200, 300, 400, 900} {
		out = append(out, condition{Faults: faults.Faults{LatencyMs: ms}}, condition{Faults: faults.Faults{LatencyMs: ms, JitterMs: ms / 10}},
			condition{faults.Faults{LatencyMs: ms, JitterMs: ms / 10, LossPercent: 30}, true})
	}
	return out
}

// sweeping is a Synaptor with a page of keys of its own, and its simulated devices.
type sweeping struct {
	app        *app.App
	base       string
	keys, dial string // pages
	mu         sync.Mutex
	lost       int
}

// call sends a request as another program does.
func (r *sweeping) call(method, path string, body, out any) error {
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	req, err := http.NewRequest(method, r.base+"/api/v1"+path, bytes.NewReader(raw))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	resp, err := http.DefaultClient.Do(req)
	if err != nil {
		return err
	}
	defer resp.Body.Close()
	if resp.StatusCode >= 300 {
		var p struct{ Detail string }
		_ = json.NewDecoder(resp.Body).Decode(&p)
		return fmt.Errorf("%s %s: %s %s", method, path, resp.Status, p.Detail)
	}
	if out == nil {
		return nil
	}
	return json.NewDecoder(resp.Body).Decode(out)
}

// on gives a control of the sweep's pages something to do.
func (r *sweeping) on(page, control, gesture, dev, action string, params map[string]string) error {
	return r.call("PUT", "/pages/"+page+"/controls/"+control, map[string]any{"device": dev, "action": action, "params": params, "gesture": gesture}, nil)
}

func (r *sweeping) rig() error {
	for _, p := range []struct {
		id           *string
		layout, zone string
	}{{&r.keys, "grid-6x4", "keys"}, {&r.dial, "console-3x3", "dials"}} {
		var made struct{ ID string }
		if err := r.call("POST", "/pages", map[string]any{"name": "Sweep", "profile": "meteor-night", "layout": p.layout, "zone": p.zone}, &made); err != nil {
			return err
		}
		*p.id = made.ID
	}
	for _, m := range []struct {
		page, control, gesture, device, action string
		params                                 map[string]string
	}{
		{r.keys, "a4", "talk", "talkback", "talk-toggle", map[string]string{"line": "2"}},
		{r.keys, "b4", "talk", "sound-desk", "mute-toggle", map[string]string{"channel": "5"}},
		{r.keys, "c4", "press", "stream-pc", "mute-toggle", map[string]string{"input": "1"}},
		{r.keys, "d4", "press", "dome-lights", "lamp-toggle", map[string]string{"lamp": "1"}},
		{r.keys, "a1", "press", "dome-switcher", "put-on-preview", map[string]string{"mix": "1", "input": "3"}},
		{r.keys, "b1", "press", "dome-switcher", "put-on-preview", map[string]string{"mix": "1", "input": "4"}},
		{r.keys, "c1", "press", "talkback", "listen-on", map[string]string{"line": "3"}},
		{r.keys, "d1", "press", "talkback", "listen-off", map[string]string{"line": "3"}},
		{r.dial, "dial1", "turn", "dome-lights", "brightness-by", map[string]string{"lamp": "2"}},
		{r.dial, "dial2", "turn", "dome-camera", "brightness-by", nil},
	} {
		if err := r.on(m.page, m.control, m.gesture, m.device, m.action, m.params); err != nil {
			return err
		}
	}
	return nil
}

// touch sends a gesture, or down and up, and gives the journal entry.
func (r *sweeping) touch(controller, page, control, gesture string, value any) (string, error) {
	body := map[string]any{"page": page}
	if value != nil {
		body["value"] = value
	}
	var made struct{ ID string }
	err := r.call("POST", "/input/"+controller+"/"+control+"/"+gesture, body, &made)
	return made.ID, err
}

// ended waits for the end of an entry.
func (r *sweeping) ended(entry string) (outcome, reason string) {
	for range 400 {
		var e struct{ Outcome, Reason string }
		if r.call("GET", "/journal/"+entry, nil, &e) == nil && e.Outcome != "under way" {
			return e.Outcome, e.Reason
		}
		time.Sleep(50 * time.Millisecond)
	}
	return "never", ""
}

// standIn is a device that can be watched.
type standIn interface {
	panel.StandIn
	Follow(func(time.Time, []device.Message)) *panel.Follower
	Leave(*panel.Follower)
}

func (r *sweeping) device(id string) standIn { return r.app.Bench.StandIn(id).(standIn) }

// value is what a device has at an address.
func (r *sweeping) value(id, address string) any { return r.device(id).View().Values[address] }

// changes counts how often a device changes a value while a function runs.
func (r *sweeping) changes(id, address string, f func() error) (n int, err error) {
	var mu sync.Mutex
	d := r.device(id)
	follower := d.Follow(func(_ time.Time, msgs []device.Message) {
		mu.Lock()
		defer mu.Unlock()
		for _, m := range msgs {
			if m.Address == address {
				n++
			}
		}
	})
	defer d.Leave(follower)
	err = f()
	mu.Lock()
	defer mu.Unlock()
	return n, err
}

// under has everything done under a condition, once Synaptor has seen for some seconds how slow the
// devices are by now.
func (r *sweeping) under(c condition) error {
	for _, s := range r.app.Bench.Devices() {
		f := c.Faults
		if c.udpOnly && s.ID() != "mixer" {
			f.LossPercent = 0
		}
		if err := s.SetFaults(f); err != nil {
			return err
		}
	}
	time.Sleep(5 * time.Second)
	watch := make(chan struct{})
	r.lost = 0
	go r.watch(watch)
	tasks := r.tasks()
	said := make([]string, len(tasks))
	var wg sync.WaitGroup
	var failed error
	for i, t := range tasks {
		if c.udpOnly && !t.udp {
			said[i] = "–"
			continue
		}
		wg.Go(func() {
			wrong, err := t.do()
			r.mu.Lock()
			defer r.mu.Unlock()
			if said[i] = wrong; err != nil {
				failed = err
			}
		})
	}
	wg.Wait()
	close(watch)
	fmt.Printf("%-28s", c)
	for _, s := range said {
		fmt.Printf(" %16s", s)
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	fmt.Printf(" %10d\n", r.lost)
	return failed
}

// watch counts the links that are lost.
func (r *sweeping) watch(quit chan struct{}) {
	was := 0
	for {
		select {
		case <-quit:
			return
		case <-time.After(50 * time.Millisecond):
		}
		resp, err := http.Get(r.base + "/metrics")
		if err != nil {
			continue
		}
		var b bytes.Buffer
		_, _ = b.ReadFrom(resp.Body)
		_ = resp.Body.Close()
		down := 0
		for line := range strings.Lines(b.String()) {
			if strings.HasPrefix(line, "synaptor_device_up{") && strings.HasSuffix(line, " 0\n") {
				down++
			}
		}
		r.mu.Lock()
		r.lost += max(0, down-was)
		r.mu.Unlock()
		was = down
	}
}
