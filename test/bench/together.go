package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"os"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench"
	"synaptor/internal/bench/faults"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/demo"
	"synaptor/internal/edit"
	"synaptor/test/witness"
)

// What the measure of togethers consists of, and what is wanted of it.
const (
	togethers    = 40
	warmTogether = 8
	rounds       = 5  // of togethers
	adapts       = 10 // runs after a swap that are looked at one by one
	jitter       = 10 // milliseconds
	wantedSkew   = 20 * time.Millisecond
	wantedJitter = 25 * time.Millisecond
)

// slow are the devices of the measure: how long each takes to do what it is told, in milliseconds, and what a
// together changes at it.
var slow = []struct {
	standIn witness.Device
	actMs   int
	user    string
	path    string
	device  string
	actions [2]string
	params  map[string]string
}{
	{witness.Lights, 5, "larkfell", "lamp/3/on", "dome-lights", [2]string{"lamp-on", "lamp-off"}, map[string]string{"lamp": "3"}},
	{witness.Switcher, 40, "", "keyer/1/on", "dome-switcher", [2]string{"keyer-on", "keyer-off"}, map[string]string{"keyer": "1"}},
	{witness.Mixer, 80, "", "channel/6/mute", "sound-desk", [2]string{"mute", "open"}, map[string]string{"channel": "6"}},
	{witness.Intercom, 180, "desk", "line/3/talk", "talkback", [2]string{"talk-on", "talk-off"}, map[string]string{"line": "3"}},
}

// stage runs the simulated devices in a process of their own. A line makes them slow: "slow", the jitter in
// milliseconds, and "swapped" where switcher and intercom take each other's time. "mark" and "skew" measure at the devices, by
// witnesses that share nothing with Synaptor, how far apart they have changed since.
func stage() error {
	b, err := bench.Start(0, nil)
	if err != nil {
		return err
	}
	defer b.Close()
	ports := map[string]int{}
	for _, s := range b.Devices() {
		_, port, err := net.SplitHostPort(s.Addr())
		if err != nil {
			return err
		}
		if ports[s.ID()], err = strconv.Atoi(port); err != nil {
			return err
		}
	}
	var eyes []*witness.Witness
	for _, d := range slow {
		eye, err := witness.Follow(d.standIn, b.StandIn(string(d.standIn)).Addr(), witness.Login{User: d.user, Password: demo.Passwords()[string(d.standIn)]})
		if err != nil {
			return err
		}
		defer eye.Close()
		eyes = append(eyes, eye)
	}
	line, err := json.Marshal(ports)
	if err != nil {
		return err
	}
	fmt.Println(string(line))
	var marked time.Time
	for in := bufio.NewScanner(os.Stdin); in.Scan(); {
		switch words := strings.Fields(in.Text()); words[0] {
		case "mark":
			marked = time.Now()
		case "skew":
			skew, err := changedApart(eyes, marked)
			if err != nil {
				return err
			}
			fmt.Println(skew.Nanoseconds())
		default:
			if err := makeSlow(b, words); err != nil {
				return err
			}
		}
	}
	return nil
}

func makeSlow(b *bench.Bench, words []string) error {
	jitter, err := strconv.Atoi(words[1])
	if err != nil {
		return err
	}
	for i, d := range slow {
		if len(words) > 2 && i%2 == 1 {
			d.actMs = slow[4-i].actMs // 1 and 3
		}
		if err := b.StandIn(string(d.standIn)).SetFaults(faults.Faults{ActMs: d.actMs, JitterMs: jitter}); err != nil {
			return err
		}
	}
	return nil
}

// changedApart is how long it took from the first device that changed since a time to the last one.
func changedApart(eyes []*witness.Witness, since time.Time) (time.Duration, error) {
	var first, last time.Time
	for i, d := range slow {
		var at time.Time
		if err := eyes[i].Until(10*time.Second, func() bool {
			for _, h := range eyes[i].Since(since) {
				if h.Path == d.path {
					at = h.At
					return true
				}
			}
			return false
		}); err != nil {
			return 0, fmt.Errorf("%s of the %s: %w", d.path, d.standIn, err)
		}
		if first.IsZero() || at.Before(first) {
			first = at
		}
		if at.After(last) {
			last = at
		}
	}
	return last.Sub(first), nil
}

// tell has the devices' process do something.
func tell(dev *child, words ...any) error {
	_, err := fmt.Fprintln(dev.in, words...)
	return err
}

// allAtOnce makes a macro with a together on all slow devices, on and off in turn.
func allAtOnce(a *app.App) (string, error) {
	id, err := a.Edit.AddMacro(bencher, edit.MacroFields{Name: "All at once"})
	if err != nil {
		return "", err
	}
	in, err := a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{}}, edit.StepFields{Kind: macro.Turns})
	if err != nil {
		return "", err
	}
	branches := macro.Within(a.Edit.Program().Show.StepsOf(id), in)
	for i, b := range branches {
		if err := addTogether(a, id, b, i); err != nil {
			return "", err
		}
	}
	return id, nil
}

func addTogether(a *app.App, id string, branch *show.Step, which int) error {
	group, err := a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{Parent: branch.ID}}, edit.StepFields{Kind: macro.Together})
	if err != nil {
		return err
	}
	for n, d := range slow {
		action := edit.Action{Device: d.device, Action: d.actions[which], Params: d.params}
		if _, err := a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{Parent: group, At: n}}, edit.StepFields{Kind: macro.Do, Action: &action}); err != nil {
			return err
		}
	}
	return nil
}

// together measures how far apart the effects of a together start on devices that take 5, 40, 80 and 180 ms until they
// do what they are told, and how soon that is so again after two of them have swapped.
func together(a *app.App, dev *child) error {
	id, err := allAtOnce(a)
	if err != nil {
		return err
	}
	measure := func(runs int) (skews []time.Duration, err error) {
		for range runs {
			skew, err := oneTogether(a, dev, id)
			if err != nil {
				return nil, err
			}
			skews = append(skews, skew)
		}
		return skews, nil
	}
	fmt.Println("together on 5, 40, 80 and 180 ms, microseconds between the first and the last device, heard at the devices")
	for _, c := range []struct {
		jitter int
		wanted time.Duration
	}{{0, wantedSkew}, {jitter, wantedJitter}} {
		if err := tell(dev, "slow", c.jitter); err != nil {
			return err
		}
		if _, err := measure(warmTogether); err != nil {
			return err
		}
		held := 0
		for round := range rounds {
			skews, err := measure(togethers)
			if err != nil {
				return err
			}
			f := describe(skews)
			if f.p95 <= c.wanted {
				held++
			}
			fmt.Printf("%2d ms of jitter, round %d                 %v\n", c.jitter, round+1, f)
		}
		fmt.Printf("the 95th percentile is at most %v in %d rounds of %d\n", c.wanted, held, rounds)
	}
	if err := tell(dev, "slow", jitter, "swapped"); err != nil {
		return err
	}
	first, err := measure(adapts)
	if err != nil {
		return err
	}
	runs := adapts
	for runs > 0 && first[runs-1] <= wantedJitter {
		runs--
	}
	after, err := measure(togethers)
	if err != nil {
		return err
	}
	fmt.Println("after 40 and 180 have swapped          ", describe(after))
	fmt.Printf("the %d runs after the swap, in ms:", adapts)
	for _, skew := range first {
		fmt.Printf(" %.0f", macro.Millis(skew))
	}
	fmt.Printf("; the last one further apart than %v is run %d\n\n", wantedJitter, runs)
	return nil
}

// oneTogether runs the together once and gives how far apart its devices have changed.
func oneTogether(a *app.App, dev *child, id string) (time.Duration, error) {
	if err := tell(dev, "mark"); err != nil {
		return 0, err
	}
	entry, err := started(a, id)
	if err != nil {
		return 0, err
	}
	row, err := finished(a, entry, 20*time.Second)
	if err != nil {
		return 0, err
	}
	if row.State != macro.Ended {
		return 0, errors.New("the run has " + row.State + ": " + row.Reason)
	}
	if err := tell(dev, "skew"); err != nil {
		return 0, err
	}
	line, err := dev.lines.ReadString('\n')
	if err != nil {
		return 0, err
	}
	ns, err := strconv.ParseInt(strings.TrimSpace(line), 10, 64)
	return time.Duration(ns), err
}
