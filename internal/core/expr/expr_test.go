package expr

import (
	"strconv"
	"testing"
	"time"

	"synaptor/internal/core/reading"
)

type world map[string]reading.Reading

func (w world) Reading(k reading.Key) reading.Reading {
	if r, ok := w[k.String()]; ok {
		return r
	}
	return reading.Reading{Quality: reading.Unknown}
}

var dome = world{
	"sw:mix/1/program": {Value: "2", Quality: reading.Confirmed},
	"sw:mix/1/preview": {Value: "1", Expected: "3", Quality: reading.Pending},
	"sw:input/2/name":  {Value: "Telescope feed", Quality: reading.Confirmed},
	"sw:rate":          {Value: 25, Quality: reading.Confirmed},
}

func TestExpressionsEvaluateInTheirScope(t *testing.T) {
	scope := Scope{Device: "sw", Bind: map[string]string{"mix": "1", "input": "2"}}
	for source, want := range map[string]any{
		"reading('mix/'+mix+'/program') == input": true,
		"reading('mix/'+mix+'/preview')":          "1",
		"expected('mix/1/preview')":               "3",
		"quality('mix/1/preview')":                "pending",
		"name('input/'+input)":                    "Telescope feed",
		"name('input/9')":                         "9",
		"int(input)":                              2,
		"reading('rate') * 2":                     50,
		"reading('nothing')":                      nil,
	} {
		p, err := Compile(source, scope)
		if err != nil {
			t.Errorf("%s: %v", source, err)
			continue
		}
		if got, err := p.Eval(dome); err != nil || got != want {
			t.Errorf("%s = %v (%v), want %v", source, got, err, want)
		}
	}
}

func TestDependenciesAreFoundBeforeRunning(t *testing.T) {
	p, err := Compile("reading('mix/'+mix+'/program') == input or name('input/'+input) == ''",
		Scope{Device: "sw", Bind: map[string]string{"mix": "1", "input": "2"}})
	if err != nil {
		t.Fatal(err)
	}
	want := []string{"sw:input/2/name", "sw:mix/1/program"}
	if len(p.Deps) != 2 || p.Deps[0].String() != want[0] || p.Deps[1].String() != want[1] {
		t.Errorf("deps are %v, want %v", p.Deps, want)
	}
}

func TestExpressionsThatCannotBeWatchedAreRefused(t *testing.T) {
	for _, source := range []string{
		"reading(reading('a'))",
		"reading('mix/1/program')", // a show's expression without a device
		"reading()",
		"nothing(1)",
		"1 +",
		"now()",
	} {
		if _, err := Compile(source, Scope{}); err == nil {
			t.Errorf("%s was accepted", source)
		}
	}
}

func TestTemplatesKeepTheTypeOfASingleExpression(t *testing.T) {
	scope := Scope{Device: "sw", Bind: map[string]string{"input": "2"}}
	for source, want := range map[string]any{
		"{int(input)}":            2,
		"Cam {input}":             "Cam 2",
		"{{{name('input/2')}}}":   "{Telescope feed}",
		"{reading('rate')}f":      "25f",
		"{reading('rate') == 25}": true,
		"":                        "",
	} {
		tpl, err := CompileTemplate(source, scope)
		if err != nil {
			t.Errorf("%q: %v", source, err)
			continue
		}
		if got, err := tpl.Eval(dome); err != nil || got != want {
			t.Errorf("%q = %#v (%v), want %#v", source, got, err, want)
		}
	}
	for _, source := range []string{"{", "a}", "{1 +}"} {
		if _, err := CompileTemplate(source, scope); err == nil {
			t.Errorf("%q was accepted", source)
		}
	}
}

// FuzzTemplate feeds arbitrary templates; whatever is accepted can be worked
// out without an end of the program.
func FuzzTemplate(f *testing.F) {
	for _, s := range []string{"{name('a:b')} x", "{{}}", "{1 + 2}", "{reading('d:a') ? 'x' : upper('y')}", "{len(map(1..3, # * 2))}"} {
		f.Add(s)
	}
	for _, s := range []string{"{len(reduce(1..40, #acc + #acc, 'x'))}", "{count(1..999000, true)}", "{upper(reading('sw:rate') + t)}"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, source string) {
		began := time.Now()
		defer func() {
			// A thousand times what is allowed: a bound that does not hold is missed by more.
			if took := time.Since(began); took > 5*time.Second {
				t.Fatalf("%q took %v", source, took)
			}
		}()
		if tpl, err := CompileTemplate(source, Scope{Texts: map[string]string{"t": source}}); err == nil {
			_ = tpl.Text(dome)
		}
		if p, err := Compile("t", Scope{Texts: map[string]string{"t": source}}); err == nil {
			_, _ = p.Eval(dome)
		}
	})
}

func TestTextsByHandMayHoldJSON(t *testing.T) {
	for text, want := range map[string]string{
		`{"on": true}`: `{"on": true}`, `{}`: `{}`, `a } b`: `a } b`, `{ "n": {reading('sw:rate')} }`: `{ "n": 25 }`, "{name('sw:input/2')}!": "Telescope feed!",
	} {
		p, err := Compile("t", Scope{Texts: map[string]string{"t": text}})
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if got, err := p.Eval(dome); err != nil || got != want {
			t.Errorf("%s is %v (%v), want %s", text, got, err, want)
		}
	}
}

// TestWhatComesAndGoesIsRememberedForAWhileOnly: a dial that is turned all night must not fill the
// memory, and must not push out what the keys of the show need.
func TestWhatComesAndGoesIsRememberedForAWhileOnly(t *testing.T) {
	kept, err := Compile("reading('level') == 7.25", Scope{Device: "d"})
	if err != nil {
		t.Fatal(err)
	}
	for i := range 5000 {
		if _, err := Compile("reading('level') == "+strconv.Itoa(i), Scope{Device: "d", Passing: true}); err != nil {
			t.Fatal(err)
		}
	}
	if n := len(passing.by) + len(passing.old); n > 2*passing.most {
		t.Errorf("%d are remembered", n)
	}
	for _, isPassing := range []bool{false, true} {
		if p, err := Compile("reading('level') == 7.25", Scope{Device: "d", Passing: isPassing}); err != nil || p != kept {
			t.Errorf("what the show needs was compiled again (%v)", err)
		}
	}
	first, _ := Compile("reading('level') == 4999", Scope{Device: "d", Passing: true})
	if again, _ := Compile("reading('level') == 4999", Scope{Device: "d", Passing: true}); again != first {
		t.Error("the newest was not remembered")
	}
}
