package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"os"
	"slices"
	"strconv"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/link/osc"
)

// What the measure of macros consists of.
const (
	floodRate  = 5000 // inputs a second
	besides    = 8    // macros that run at the same time
	stepEvery  = 20   // milliseconds between their steps
	rehearsals = 200
	longRun    = 60 // seconds from which on there is no flood
)

// flood sends inputs to an OSC input, evenly, until it is closed: turns of a dial, or
// presses that each drive a device.
func flood(addr, what string) error {
	c, err := net.Dial("udp", addr)
	if err != nil {
		return err
	}
	m := device.Message{Address: "/synaptor/producer-grid/b2/press"}
	if what == "turns" {
		m = device.Message{Address: "/synaptor/scope-console/dial2/turn", Args: []any{0.1}}
	}
	press, err := osc.Encode(m)
	if err != nil {
		return err
	}
	fmt.Println("ready")
	closed := make(chan struct{})
	go func() {
		untilClosed()
		close(closed)
	}()
	began, sent := time.Now(), 0
	for {
		select {
		case <-closed:
			return nil
		case <-time.After(time.Millisecond):
		}
		for due := int(time.Since(began).Seconds() * floodRate); sent < due; sent++ {
			if _, err := c.Write(press); err != nil {
				return err
			}
		}
	}
}

// staged starts Synaptor with the demo show and its devices in a process of their own,
// and calls f.
func staged(f func(*app.App, *child) error) error {
	dev, line, err := run("stage")
	if err != nil {
		return err
	}
	defer dev.stop()
	ports := map[string]int{}
	if err := json.Unmarshal([]byte(line), &ports); err != nil {
		return err
	}
	data, err := os.MkdirTemp("", "synaptor-bench")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data)
	app.Tune() // as the program does
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data})
	if err != nil {
		return err
	}
	defer a.Close()
	if err := a.FillDemo(ports); err != nil {
		return err
	}
	if err := connected(a); err != nil {
		return err
	}
	return f(a, dev)
}

// macros measures how true runs are to their plan: for so many seconds.
func macros(seconds int) error {
	if err := staged(together); err != nil {
		return err
	}
	return staged(func(a *app.App, _ *child) error {
		if err := rehearsed(a); err != nil {
			return err
		}
		ids, err := tickers(a, seconds)
		if err != nil {
			return err
		}
		if seconds > longRun {
			return dispatched(a, ids, seconds, "")
		}
		if err := dispatched(a, ids, seconds, "turns"); err != nil {
			return err
		}
		return dispatched(a, ids, seconds, "presses")
	})
}

// connected waits for the devices of the demo.
func connected(a *app.App) error {
	for limit := time.Now().Add(20 * time.Second); time.Now().Before(limit); time.Sleep(5 * time.Millisecond) {
		up := true
		v := a.Mirror.View()
		for _, id := range []string{"dome-switcher", "sound-desk", "dome-camera", "replay-player", "dome-lights", "talkback"} {
			up = up && v.Link(id).Phase == link.Up
		}
		if up {
			return nil
		}
	}
	return errors.New("the devices of the demo do not answer")
}

var bencher = edit.Who{Session: "bench", Actor: "bench"}

// tickers makes macros that send something every 20 ms, for so many seconds.
func tickers(a *app.App, seconds int) ([]string, error) {
	var ids []string
	for i := range besides {
		id, err := a.Edit.AddMacro(bencher, edit.MacroFields{Name: fmt.Sprintf("Ticker %d", i)})
		if err != nil {
			return nil, err
		}
		m := a.Edit.Program().Show.Macro(id)
		// They get into each other's way on the same channels, which is not what is measured.
		settings := edit.MacroFields{Name: m.Name, OnError: "go-on"}
		if err := a.Edit.EditMacro(bencher, id, a.Edit.Program().Show.Rev(m.Ref()), settings); err != nil {
			return nil, err
		}
		ids = append(ids, id)
		parent, left := "", seconds*1000/stepEvery
		// A repeat repeats 100 times at most, a macro runs 2000 steps at most: longer
		// runs wait longer between steps, and start again.
		count := min(100, left)
		if parent, err = a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{}}, edit.StepFields{Kind: macro.Repeat, Count: count}); err != nil {
			return nil, err
		}
		for n := range 9 {
			action := edit.Action{Device: "sound-desk", Action: []string{"mute", "open"}[n%2], Params: map[string]string{"channel": strconv.Itoa(1 + i%6)}}
			if _, err := a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{Parent: parent, At: 2 * n}}, edit.StepFields{Kind: macro.Do, Action: &action}); err != nil {
				return nil, err
			}
			ms := max(stepEvery, seconds*1000/(count*9))
			if _, err := a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{Parent: parent, At: 2*n + 1}}, edit.StepFields{Kind: macro.Wait, Ms: ms}); err != nil {
				return nil, err
			}
		}
	}
	return ids, nil
}

// started runs a macro and gives the id of its run.
func started(a *app.App, id string) (string, error) {
	entry := journal.NextID()
	if refused := a.Engine.RunMacro(engine.Input{Entry: entry, At: time.Now(), Via: "macros", Actor: "bench"}, id); refused != "" {
		return "", errors.New(refused)
	}
	return entry, nil
}

// finished waits until a run has ended, and gives it.
func finished(a *app.App, entry string, limit time.Duration) (row engine.RunRow, err error) {
	for until := time.Now().Add(limit); time.Now().Before(until); time.Sleep(10 * time.Millisecond) {
		v := a.Mirror.View()
		row, _ = v.Run(entry)
		if row.Ended {
			return row, nil
		}
	}
	return row, fmt.Errorf("the run of %s has not ended: %d steps", row.Name, len(row.Steps))
}

// dispatched measures how late steps are dispatched while many macros run and a flood of
// inputs comes; the floor is a plain timer of this process in the same seconds.
func dispatched(a *app.App, ids []string, seconds int, inputs string) error {
	rate := 0 // a long run is about drift alone
	if inputs != "" {
		rate = floodRate
		f, _, err := run("flood", a.OSCAddr, inputs)
		if err != nil {
			return err
		}
		defer f.stop()
	}
	bare, stop := make(chan []time.Duration), make(chan struct{})
	go func() {
		var late []time.Duration
		for at := time.Now(); ; {
			select {
			case <-stop:
				bare <- late
				return
			default:
			}
			at = at.Add(stepEvery * time.Millisecond)
			time.Sleep(time.Until(at))
			late = append(late, time.Since(at))
		}
	}()
	var entries []string
	for _, id := range ids {
		entry, err := started(a, id)
		if err != nil {
			return err
		}
		entries = append(entries, entry)
	}
	var late, first, last []time.Duration
	for _, entry := range entries {
		row, err := finished(a, entry, time.Duration(seconds)*time.Second*3+time.Minute)
		if err != nil {
			return err
		}
		for i, s := range row.Steps {
			d := time.Duration(s.DispatchedUs-s.PlannedUs) * time.Microsecond
			late = append(late, d)
			if i < len(row.Steps)/10 {
				first = append(first, d)
			} else if i >= len(row.Steps)*9/10 {
				last = append(last, d)
			}
		}
	}
	close(stop)
	got, floor := describe(late), describe(<-bare)
	fmt.Printf("%d macros beside each other for %d s, and %d %s a second; %d steps\n", besides, seconds, rate, inputs, len(late))
	fmt.Println("microseconds                             median     p95     p99   worst")
	fmt.Println("a step's dispatch, later than planned  ", got)
	fmt.Println("floor: a plain timer in the same time  ", floor)
	fmt.Printf("ratio to the floor                      %8.2f%8.2f%8.2f\n", ratio(got.median, floor.median), ratio(got.p95, floor.p95), ratio(got.p99, floor.p99))
	fmt.Printf("drift: the last tenth is %d µs later than the first, at the median\n\n", (describe(last).median - describe(first).median).Microseconds())
	return nil
}

// rehearsed measures a rehearsal of 200 steps.
func rehearsed(a *app.App) error {
	id, err := a.Edit.AddMacro(bencher, edit.MacroFields{Name: "Two hundred"})
	if err != nil {
		return err
	}
	for n := range 200 {
		f := edit.StepFields{Kind: macro.Wait, Ms: 600}
		if n%2 == 0 {
			f = edit.StepFields{Kind: macro.Do, Action: &edit.Action{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "1", "input": strconv.Itoa(1 + n%5)}}}
		}
		if _, err := a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{At: n}}, f); err != nil {
			return err
		}
	}
	var took []time.Duration
	for range rehearsals {
		v := a.Mirror.Current()
		began := time.Now()
		if _, e := v.Rehearse(context.Background(), id, 1); e != nil {
			err = e
		}
		took = append(took, time.Since(began))
	}
	fmt.Println("a rehearsal of 200 steps, in words     ", describe(slices.Clone(took)))
	fmt.Println()
	return err
}
