package main

import (
	"fmt"
	"time"
)

// task is something that hands do.
type task struct {
	title string
	udp   bool
	do    func() (wrong string, err error)
}

const (
	talks   = 10
	presses = 24
	detents = 30
	eighth  = 125 * time.Millisecond
)

func (r *sweeping) tasks() []task {
	return []task{
		{"talk, HTTP", false, func() (string, error) { return r.talk("a4", "intercom", "/line/2/talk", true) }},
		{"talk, OSC", true, func() (string, error) { return r.talk("b4", "mixer", "/channel/5/mute", 0) }},
		{"toggle, JSON-RPC", false, func() (string, error) { return r.pressed("streaming", "/input/1/muted", "c4") }},
		{"toggle, MQTT", false, func() (string, error) { return r.pressed("lights", "/lamp/1/on", "d4") }},
		{"presses, OSC", false, func() (string, error) { return r.pressed("switcher", "/mix/1/preview", "a1", "b1") }},
		{"presses, HTTP", false, func() (string, error) { return r.pressed("intercom", "/line/3/listen", "c1", "d1") }},
		{"detents, MQTT", false, func() (string, error) { return r.turned("dial1", "lights", "/lamp/2/brightness") }},
		{"detents, lines", false, func() (string, error) { return r.turned("dial2", "camera", "/brightness") }},
	}
}

// talk holds a key and lets it go, again and again. What is open after that is wrong, and so is what was
// not opened.
func (r *sweeping) talk(key, id, address string, open any) (string, error) {
	left, unopened, unsaid := 0, 0, 0
	for range talks {
		down, err := r.touch("producer-grid", r.keys, key, "down", nil)
		if err != nil {
			return "", err
		}
		opened := r.within(time.Second, func() bool { return fmt.Sprint(r.value(id, address)) == fmt.Sprint(open) })
		time.Sleep(350 * time.Millisecond)
		up, err := r.touch("producer-grid", r.keys, key, "up", nil)
		if err != nil {
			return "", err
		}
		outcome, _ := r.ended(down)
		if !opened {
			if unopened++; outcome == "confirmed" {
				unsaid++
			}
		}
		closed := r.within(8*time.Second, func() bool { return fmt.Sprint(r.value(id, address)) != fmt.Sprint(open) })
		if outcome, _ := r.ended(up); !closed || outcome != "confirmed" && outcome != "sent" {
			left++
		}
	}
	return verdict(fmt.Sprintf("%d", left), "open", left, unopened, unsaid), nil
}

// verdict is a cell of the table.
func verdict(n, what string, wrong, said, unsaid int) string {
	switch {
	case wrong == 0 && said == 0 && unsaid == 0:
		return "right"
	case wrong == 0 && unsaid == 0:
		return fmt.Sprintf("%d lost, said so", said)
	}
	return fmt.Sprintf("%s %s, %d unsaid", n, what, unsaid)
}

func (r *sweeping) within(d time.Duration, ok func() bool) bool {
	for end := time.Now().Add(d); time.Now().Before(end); time.Sleep(2 * time.Millisecond) {
		if ok() {
			return true
		}
	}
	return ok()
}

// pressed presses keys in turns, eight times a second: the device does each once, and Synaptor says so.
func (r *sweeping) pressed(id, address string, keys ...string) (string, error) {
	var entries []string
	said := 0
	n, err := r.changes(id, address, func() error {
		next := time.Now()
		for i := range presses {
			entry, err := r.touch("producer-grid", r.keys, keys[i%len(keys)], "press", nil)
			if err != nil {
				return err
			}
			entries = append(entries, entry)
			next = next.Add(eighth)
			time.Sleep(time.Until(next))
		}
		for _, e := range entries {
			if outcome, _ := r.ended(e); outcome != "confirmed" {
				said++
			}
		}
		return nil
	})
	return verdict(fmt.Sprintf("%d of %d", n, presses), "done", presses-n-said, said, max(0, presses-n-said)), err
}

// turned turns a dial that moves something by so much a detent.
func (r *sweeping) turned(dial, id, address string) (string, error) {
	by := 1.0
	number := func() (v float64) {
		_, _ = fmt.Sscan(fmt.Sprint(r.value(id, address)), &v)
		return v
	}
	if number() >= 50 {
		by = -1
	}
	from := number()
	for range detents {
		if _, err := r.touch("scope-console", r.dial, dial, "turn", by); err != nil {
			return "", err
		}
		time.Sleep(30 * time.Millisecond)
	}
	wanted := from + by*detents
	if r.within(8*time.Second, func() bool { return near(number(), wanted) }) {
		return "right", nil
	}
	return fmt.Sprintf("%.0f of %d", (number()-from)*by, detents), nil
}

func near(a, b float64) bool { return a-b < 0.2 && b-a < 0.2 }
