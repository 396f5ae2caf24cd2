package engine_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"testing"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/plan"
)

// record takes in what is told as a night, as the history has it.
func (r *rig) record(night *plan.Night) {
	for _, c := range r.Changes().Take() {
		switch ev := c.What.(type) {
		case engine.ReadingChanged:
			was := r.readings[ev.Key.String()]
			if ev.Now.Quality != reading.Unknown && !reading.Equal(was.Value, ev.Now.Value, 0) {
				night.Moments = append(night.Moments, plan.Moment{At: time.Now(), Key: ev.Key, Value: ev.Now.Value})
			}
			r.readings[ev.Key.String()] = ev.Now
		case engine.Happened:
			body, _ := json.Marshal(ev) // as the history stores it
			var back engine.Happened
			_ = json.Unmarshal(body, &back)
			night.Moments = append(night.Moments, plan.Moment{At: ev.At, On: back.On, Text: back.Text, Fields: back.Fields})
		case engine.Judged:
			r.judged = append(r.judged, ev)
		case engine.LinkState:
			r.links[ev.State.Device] = ev.State
		}
	}
}

// someReflex is a reflex at random that drives the second mix effect, which none waits for.
func someReflex(rnd *rand.Rand, id string) *show.Reflex {
	x := &show.Reflex{ID: id, Name: id, Then: show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "2", "input": "3"}}}
	level := show.On{Kind: reflex.OnReading, Device: "sound-desk", Path: "channel/5/level"}
	mute := show.On{Kind: reflex.OnReading, Device: "sound-desk", Path: "channel/1/mute"}
	switch rnd.IntN(8) {
	case 0:
		x.On = level
		x.On.Edge, x.On.Level, x.On.Back = reflex.Rises, -20, float64(rnd.IntN(6))
	case 1:
		x.On = level
		x.On.Edge, x.On.Level, x.On.ForMs = reflex.Falls, -20, 500*rnd.IntN(3)
	case 2:
		x.On = mute
		x.On.Edge, x.On.Value = reflex.Becomes, "true"
	case 3:
		x.On = mute
		x.On.Edge = reflex.Changes
	case 4:
		x.On = show.On{Kind: reflex.OnSignal, Signal: "cue"}
		x.Per = []string{"", "name"}[rnd.IntN(2)]
	case 5:
		x.On = show.On{Kind: reflex.OnSignal, Signal: "cue"}
		x.Table = &reflex.Table{By: "name", Columns: []string{"camera"}, Rows: [][]string{{"Imke", "1"}, {"Tobin", "2"}}}
		x.Then.Params["input"] = "{event.camera}"
	case 6:
		x.On = show.On{Kind: reflex.OnSchedule, Schedule: reflex.Schedule{Cron: "* * * * *"}}
	case 7:
		x.On = show.On{Kind: reflex.OnWhile}
		x.When = "reading('sound-desk:channel/1/mute') == false"
		x.Then = show.Call{Device: "dome-switcher", Action: "keyer-on", Params: map[string]string{"keyer": "1"}}
		x.Hold = &show.Hold{AfterMs: 200 * rnd.IntN(4)}
		return x
	}
	if rnd.IntN(3) > 0 {
		x.EveryMs, x.Beyond, x.Length = 500+rnd.IntN(3000), []string{reflex.Drop, reflex.Queue, reflex.Replace}[rnd.IntN(3)], 1+rnd.IntN(4)
	}
	if rnd.IntN(3) == 0 {
		x.Unless = "reading('sound-desk:channel/2/mute') == true"
	}
	if rnd.IntN(4) == 0 && x.On.Kind == reflex.OnSignal {
		x.When = "event.name != 'Saskia'"
	}
	return x
}

// TestWhatItWouldHaveDoneIsWhatItDid: a night at random, lived through and then played from its record, comes to the same, at the same moments.
func TestWhatItWouldHaveDoneIsWhatItDid(t *testing.T) {
	t.Parallel()
	nights := uint64(12)
	if text := os.Getenv("NIGHTS"); text != "" {
		n, err := strconv.ParseUint(text, 10, 64)
		if err != nil {
			t.Fatal(err)
		}
		nights = n
	}
	for seed := range nights {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			on(t, func(r *rig) {
				rnd := rand.New(rand.NewPCG(seed, 7))
				r.Edit(func(d *show.Draft, _ *show.Show) {
					for i := range 6 {
						x := someReflex(rnd, fmt.Sprintf("r%d", i))
						x.Position = i
						d.Put(x)
					}
				})
				r.settle()
				night := plan.Night{From: time.Now(), Before: map[reading.Key]reading.Value{}}
				for k, v := range r.readings {
					key := reading.Key{}
					if n, _ := fmt.Sscanf(k, "sound-desk:%s", &key.Path); n == 1 {
						key.Device = "sound-desk"
						night.Before[key] = v.Value
					}
				}
				r.judged = nil
				for range 120 {
					r.someEvent(rnd)
					r.Settle()
					r.record(&night)
					for wait := time.Duration(rnd.IntN(1500)) * time.Millisecond; wait > 0; wait -= 10 * time.Millisecond {
						time.Sleep(10 * time.Millisecond)
						r.Settle()
						r.record(&night) // at the moment it happens
					}
				}
				night.To = time.Now()
				slices.SortStableFunc(night.Moments, func(a, b plan.Moment) int { return a.At.Compare(b.At) })
				r.sameAs(night)
			})
		})
	}
}

// someEvent has something happen.
func (r *rig) someEvent(rnd *rand.Rand) {
	switch rnd.IntN(4) {
	case 0:
		_ = r.Desk.Operate(deviceMessage("/channel/5/level", float64(-40+5*rnd.IntN(8))))
	case 1, 2:
		_ = r.Desk.Operate(deviceMessage(fmt.Sprintf("/channel/%d/mute", 1+rnd.IntN(2)), rnd.IntN(2)))
	default:
		for range 1 + rnd.IntN(3) {
			r.Ask(engine.Signal{Request: r.request(journal.NextID()), Name: "cue", Fields: map[string]any{"name": []string{"Imke", "Tobin", "Saskia"}[rnd.IntN(3)]}})
		}
	}
}

// sameAs fails unless each reflex would have done in a night what it has done.
func (r *rig) sameAs(night plan.Night) {
	r.Helper()
	for _, x := range r.Program.Reflexes.All {
		f := plan.NewFacts(context.Background(), r.Program, nil, r, func(string) string { return "" }, func(string, string) reading.Stats { return reading.Stats{} })
		would := plan.WouldHave(context.Background(), x, night, f)
		var did, had []string
		for _, j := range r.judged {
			if j.Reflex == x.Source.ID {
				did = append(did, fmt.Sprintf("%s %s %v", j.At.UTC().Format("15:04:05.00"), j.Text, j.Held == ""))
			}
		}
		for _, w := range would.Rows {
			had = append(had, fmt.Sprintf("%s %s %v", w.At.UTC().Format("15:04:05.00"), w.Text, w.Fires))
		}
		if !slices.Equal(did, had) {
			for i := range max(len(did), len(had)) {
				if i >= len(did) || i >= len(had) || did[i] != had[i] {
					r.Errorf("%s (%+v, every %d, %s): from the %d. of %d and %d on\ndid   %v\nwould %v", x.Source.Name, x.Source.On, x.Source.EveryMs, x.Source.Beyond, i, len(did), len(had),
						did[min(i, len(did)):min(i+2, len(did))], had[min(i, len(had)):min(i+2, len(had))])
					break
				}
			}
		}
	}
}
