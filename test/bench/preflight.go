package main

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/core/face"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/core/show/showtest"
	"synaptor/internal/demo"
	"synaptor/internal/inspect"
	"synaptor/internal/journal"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

// How often each thing is done.
const (
	wholeLooks = 20
	editLooks  = 200
	safePushes = 100
)

// measurePreflight measures how long a large show takes to be looked through, all of it and after one edit, beside the time that it takes to write it down
// once; and how soon after a press of Safe all outputs have been sent their safe pictures, beside one press of a key.
func measurePreflight() error {
	if err := measureLooks(); err != nil {
		return err
	}
	return measureSafe()
}

func measureLooks() error {
	app.Tune() // as the program does
	font, err := face.NewFont()
	if err != nil {
		return err
	}
	lib, err := sheet.Load(nil)
	if err != nil {
		return err
	}
	d := show.NewDraft(show.Empty())
	demo.Build(d, nil, nil)
	showtest.Enlarge(d)
	sh, sources := d.Now(), program.Sources{Encode: app.Drivers(nil).Encode}
	p, in := program.Compile(nil, sh, lib, sources), inspect.New(font, nil)
	var whole, after, floor []time.Duration
	took := func(into *[]time.Duration, do func()) {
		began := time.Now()
		do()
		*into = append(*into, time.Since(began))
	}
	var j *inspect.Judged
	for range wholeLooks {
		took(&floor, func() { sh.Canonical() })
		took(&whole, func() { j = in.Judge(nil, p, time.Now()) })
	}
	for n := range editLooks {
		d := show.NewDraft(p.Show)
		m := p.Show.Mapping(fmt.Sprintf("large-%d-b2", n%200)).Clone()
		m.Face.Label = fmt.Sprint("Label ", n)
		d.Put(m)
		next, err := p.Show.Apply(d.Edit("edit", int64(n+1)))
		if err != nil {
			return err
		}
		p = p.With(next)
		took(&after, func() { j = in.Judge(j, p, time.Now()) })
	}
	fmt.Printf("preflight of %d mappings, %d macros, %d reflexes: %d findings, verdict %s (µs: median, p95, p99, worst)\n", len(p.Mappings), len(p.Macros), len(p.Show.Reflexes()),
		len(j.Findings), preflight.Verdict(j.Findings))
	written := describe(floor)
	fmt.Println("  to write the show down once (floor)       ", written)
	for _, row := range []struct {
		what string
		d    []time.Duration
	}{{"all of it", whole}, {"after one edit", after}} {
		f := describe(row.d)
		fmt.Printf("  %-42s %v   %.2f × the floor\n", row.what, f, ratio(f.median, written.median))
	}
	return nil
}

// measureSafe presses Safe, and a key, in turn, and reads from the journal when their commands were sent.
func measureSafe() error {
	a, end, err := demoInOwnFolder()
	if err != nil {
		return err
	}
	defer end()
	base := "http://" + a.Addr
	var first, last, one []time.Duration
	for i := range safePushes {
		safe, err := sentAfter(base, "/api/v1/safe", `{}`)
		if err != nil {
			return err
		}
		key, err := sentAfter(base, fmt.Sprintf("/api/v1/input/producer-grid/%c1/press", 'a'+i%6), "")
		if err != nil {
			return err
		}
		if len(safe) == 0 || len(key) == 0 {
			continue // it was refused, as a cut beside a transition is
		}
		first, last, one = append(first, safe[0]), append(last, safe[len(safe)-1]), append(one, key[0])
	}
	floor := describe(one)
	fmt.Println("Safe, all outputs of the demo, from the request on (µs: median, p95, p99, worst)")
	fmt.Println("  a key (floor)                             ", floor)
	for _, row := range []struct {
		what string
		d    []time.Duration
	}{{"the first safe picture is sent", first}, {"the last one, so that all land together", last}} {
		f := describe(row.d)
		fmt.Printf("  %-42s %v   %.2f × a key\n", row.what, f, ratio(f.median, floor.median))
	}
	return nil
}

// sentAfter asks for something and gives when its commands were sent, after it was asked for.
func sentAfter(base, path, body string) (sent []time.Duration, err error) {
	var made struct{ ID string }
	if err := into(http.MethodPost, base+path, []byte(body), &made); err != nil {
		return nil, err
	}
	for limit := time.Now().Add(5 * time.Second); time.Now().Before(limit); time.Sleep(5 * time.Millisecond) {
		raw, err := fetch(http.MethodGet, base+"/api/v1/journal/"+made.ID, nil)
		if err != nil {
			continue // it is not written yet
		}
		var e journal.Entry
		if err := json.Unmarshal(raw, &e); err != nil {
			return nil, err
		}
		if e.Outcome == "" || e.Outcome == journal.UnderWay {
			continue
		}
		for _, s := range e.Steps {
			if s.Stage == journal.StageDispatch {
				sent = append(sent, time.Duration(s.OffsetUs)*time.Microsecond)
			}
		}
		slices.Sort(sent)
		return sent, nil
	}
	return nil, fmt.Errorf("%s did not come to its end", path)
}
