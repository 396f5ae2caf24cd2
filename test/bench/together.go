package main

import (
	"fmt"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// together measures how far apart the effects of a together start on devices that take 5, 40,
// 80 and 180 ms until they do what they are told, and how soon that is so again after two of them have swapped.
func together(a *app.App, dev *child) error {
	id, err := a.Edit.AddMacro(bencher, edit.MacroFields{Name: "All at once"})
	if err != nil {
		return err
	}
	in, err := a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{}}, edit.StepFields{Kind: macro.OneOf})
	if err != nil {
		return err
	}
	branches := func() []*show.Step { return macro.Within(a.Edit.Program().Show.StepsOf(id), in) }
	for i, b := range branches() {
		group, err := a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{Parent: b.ID}}, edit.StepFields{Kind: macro.Together})
		if err != nil {
			return err
		}
		for n, action := range []edit.Action{
			{Device: "dome-lights", Action: []string{"lamp-on", "lamp-off"}[i], Params: map[string]string{"lamp": "3"}},
			{Device: "dome-switcher", Action: []string{"keyer-on", "keyer-off"}[i], Params: map[string]string{"keyer": "1"}},
			{Device: "sound-desk", Action: []string{"mute", "open"}[i], Params: map[string]string{"channel": "6"}},
			{Device: "talkback", Action: []string{"talk-on", "talk-off"}[i], Params: map[string]string{"line": "3"}},
		} {
			if _, err := a.Edit.AddStep(bencher, id, edit.Place{Spot: macro.Spot{Parent: group, At: n}}, edit.StepFields{Kind: macro.Do, Action: &action}); err != nil {
				return err
			}
		}
	}
	skew := func() (time.Duration, error) {
		entry, err := started(a, id)
		if err != nil {
			return 0, err
		}
		row, err := finished(a, entry, 20*time.Second)
		for _, t := range row.Together {
			if t.MeasuredUs > 0 {
				return time.Duration(t.MeasuredUs) * time.Microsecond, err
			}
		}
		return 0, err
	}
	measure := func(runs, warm int) (skews []time.Duration, err error) {
		for i := range runs + warm {
			s, err := skew()
			if err != nil {
				return nil, err
			}
			if i >= warm {
				skews = append(skews, s)
			}
		}
		return skews, nil
	}
	steady, err := measure(togethers, warmTogether)
	if err != nil {
		return err
	}
	if _, err := fmt.Fprintln(dev.in, "swap"); err != nil {
		return err
	}
	first, err := measure(adapts, 0)
	if err != nil {
		return err
	}
	runs := adapts
	for runs > 0 && first[runs-1] <= wantedSkew {
		runs--
	}
	after, err := measure(togethers, 0)
	if err != nil {
		return err
	}
	fmt.Println("microseconds                             median     p95     p99   worst")
	fmt.Println("together on 5, 40, 80 and 180 ms: skew ", describe(steady))
	fmt.Println("after 40 and 180 have swapped          ", describe(after))
	fmt.Printf("%d runs were further apart than %v after the swap\n", runs, wantedSkew)
	return nil
}

// adapts is how many runs after the swap are looked at one by one; wantedSkew is what is wanted of them.
const (
	adapts     = 10
	wantedSkew = 25 * time.Millisecond
)
