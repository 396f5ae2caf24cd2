package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"slices"
	"time"

	"synaptor/internal/app"
	"synaptor/test/browser"
	"synaptor/web"
)

const (
	overlayChanges = 60
	overlayFades   = 4 * time.Second
)

// overlaid measures how long it takes from an action to the frame in which the page of the overlays shows it, how many frames it draws while overlays fade,
// and how soon it shows what it shows.
func overlaid() error {
	b, err := browser.Start()
	if err != nil {
		return err
	}
	defer b.Close()
	data, err := os.MkdirTemp("", "synaptor-bench")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data)
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data, Demo: true, Files: web.Files()})
	if err != nil {
		return err
	}
	defer a.Close()
	base := "http://" + a.Addr
	post := func(path string, body, into any) error {
		raw, err := json.Marshal(body)
		if err != nil {
			return err
		}
		resp, err := http.Post(base+path, "application/json", bytes.NewReader(raw))
		if err != nil {
			return err
		}
		defer resp.Body.Close()
		return json.NewDecoder(resp.Body).Decode(into)
	}
	var at struct{ Path string }
	if err := post("/api/v1/overlay-address", nil, &at); err != nil {
		return err
	}
	p, err := b.Open(base, 1280, 720, true)
	if err != nil {
		return err
	}
	defer p.Close()
	toggle := func(id string) error {
		var made struct{ ID string }
		return post("/api/v1/devices/synaptor/try", map[string]any{"action": "overlay", "params": map[string]string{"overlay": id}}, &made)
	}
	if err := toggle("corner-clock"); err != nil {
		return err
	}
	if err := p.Goto(at.Path); err != nil {
		return err
	}
	if err := p.See(".overlay.on"); err != nil {
		return err
	}
	paint, err := browser.Eval[float64](p, `performance.getEntriesByType("paint").find((e) => e.name === "first-contentful-paint")?.startTime ?? performance.now()`)
	if err != nil {
		return err
	}
	// The frame after a change of what is on the page, by the clock that the bench has too.
	if err := p.Wait(`(window.seen = 0, new MutationObserver(() => requestAnimationFrame(() => (window.seen = Date.now()))).observe(document.body, {subtree: true, attributes: true, attributeFilter: ["class"]}), true)`); err != nil {
		return err
	}
	var took []time.Duration
	for range overlayChanges {
		if err := p.Wait(`(window.seen = 0, true)`); err != nil {
			return err
		}
		began := time.Now()
		if err := toggle("name-plate"); err != nil {
			return err
		}
		if err := p.Wait(`window.seen > 0`); err != nil {
			return err
		}
		ms, err := browser.Eval[float64](p, `window.seen`)
		if err != nil {
			return err
		}
		took = append(took, time.Duration(ms-float64(began.UnixMicro())/1000)*time.Millisecond)
		time.Sleep(50 * time.Millisecond)
	}
	slices.Sort(took)
	if err := p.Wait(`(window.frames = 0, window.began = performance.now(), (function next() { window.frames++; requestAnimationFrame(next); })(), true)`); err != nil {
		return err
	}
	for end := time.Now().Add(overlayFades); time.Now().Before(end); time.Sleep(200 * time.Millisecond) {
		if err := toggle("name-plate"); err != nil {
			return err
		}
	}
	rate, err := browser.Eval[float64](p, `window.frames / (performance.now() - window.began) * 1000`)
	if err != nil {
		return err
	}
	fmt.Printf("overlays: from the action to its frame: median %v, 95th percentile %v (wanted: two frames, 33ms)\n", took[len(took)/2], took[len(took)*95/100])
	fmt.Printf("overlays: %.0f frames a second while one fades; first paint after %.0f ms (wanted: 60, 150)\n", rate, paint)
	return nil
}
