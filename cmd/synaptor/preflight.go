package main

import (
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"time"

	"synaptor/internal/core/face"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/inspect"
)

// preflightResult is what a preflight of an archive writes as JSON.
type preflightResult struct {
	Verdict  string              `json:"verdict"`
	Findings []preflightFinding  `json:"findings"`
	Accepted []preflightAccepted `json:"accepted"`
	// Unchecked says what only a running Synaptor can tell.
	Unchecked []string `json:"unchecked"`
}

// preflightFinding is a finding; Subject is its kind and id, Fix what an edit could do about it, or empty.
type preflightFinding struct {
	ID       string `json:"id"`
	Severity string `json:"severity"`
	Subject  string `json:"subject"`
	At       string `json:"at,omitempty"`
	Sentence string `json:"sentence"`
	Sure     string `json:"sure"`
	Fix      string `json:"fix"`
}

// preflightAccepted is one that somebody has decided to live with.
type preflightAccepted struct {
	preflightFinding
	Reason string    `json:"reason"`
	By     string    `json:"by"`
	When   time.Time `json:"when"`
}

// unchecked is what an archive does not tell.
var unchecked = []string{"whether devices answer, and how fast", "passwords", "what devices have by now: scenes, inputs, presets", "sign-ins"}

// errFound says how bad it is what was found: its value is the exit code.
type errFound int

// Error implements error.
func (e errFound) Error() string { return fmt.Sprint("exit code ", int(e)) }

// How a preflight exits, besides 0 for a show that is ready.
const (
	exitReadyBut errFound = 3
	exitNotReady errFound = 4
)

// runPreflight looks the show of an archive through, with no device.
func runPreflight(args []string, out, errOut io.Writer) error {
	f := flag.NewFlagSet("preflight", flag.ContinueOnError)
	asJSON := f.Bool("json", false, "write all of it as JSON")
	if err := parse(f, args, errOut, "ARCHIVE"); err != nil {
		return err
	}
	a, p, err := openArchive(f.Arg(0))
	if err != nil {
		return err
	}
	font, err := face.NewFont()
	if err != nil {
		return err
	}
	pictures := map[string]bool{}
	for _, m := range a.Media {
		pictures[m.ID] = true
	}
	found := inspect.New(font, func() map[string]bool { return pictures }).Judge(nil, p, time.Now()).Findings
	if a.Sealed != nil {
		found = append(found, preflight.Carried()...)
	}
	r := resultOf(a.Show, found)
	if *asJSON {
		e := json.NewEncoder(out)
		e.SetIndent("", " ")
		err = e.Encode(r)
	} else {
		r.write(out, a.Show.Settings().Name)
	}
	switch {
	case err != nil:
		return err
	case r.Verdict == preflight.NotReady:
		return exitNotReady
	case r.Verdict == preflight.ReadyBut:
		return exitReadyBut
	}
	return nil
}

// resultOf weighs what was found in a show.
func resultOf(s *show.Show, found []preflight.Finding) preflightResult {
	weighed := preflight.Weigh(s, found)
	r := preflightResult{Verdict: preflight.Verdict(preflight.Open(weighed)), Findings: []preflightFinding{}, Accepted: []preflightAccepted{}, Unchecked: unchecked}
	for _, w := range weighed {
		one := preflightFinding{ID: w.ID, Severity: w.Severity, Subject: string(w.Subject.Kind) + " " + w.Subject.ID, At: w.At, Sentence: w.Text, Sure: w.Sure}
		if w.Fix != nil {
			one.Fix = w.Fix.Title
		}
		if w.Counts() {
			r.Findings = append(r.Findings, one)
		} else {
			r.Accepted = append(r.Accepted, preflightAccepted{one, w.Accepted.Reason, w.Accepted.By, w.Accepted.When})
		}
	}
	return r
}

// verdicts are the verdicts in words.
var verdicts = map[string]string{preflight.Ready: "is ready", preflight.ReadyBut: "is ready, but somebody should look at this", preflight.NotReady: "is not ready"}

// write tells a person what was found.
func (r preflightResult) write(out io.Writer, name string) {
	fmt.Fprintf(out, "%s %s.\n", name, verdicts[r.Verdict])
	for _, f := range r.Findings {
		fmt.Fprintf(out, "\n%-8s %s (%s)\n", f.Severity, f.Sentence, f.ID)
		if f.Fix != "" {
			fmt.Fprintf(out, "%-8s fix: %s\n", "", f.Fix)
		}
	}
	for _, f := range r.Accepted {
		fmt.Fprintf(out, "\naccepted %s (%s)\n%-8s by %s, %s: %s\n", f.Sentence, f.ID, "", f.By, f.When.Format(time.DateOnly), f.Reason)
	}
	fmt.Fprintln(out, "\nNot checked here:")
	for _, what := range r.Unchecked {
		fmt.Fprintln(out, " ", what)
	}
}
