package expr

import (
	"fmt"
	"reflect"
	"testing"

	"synaptor/internal/core/reading"
)

func TestConditionsReadAsSentences(t *testing.T) {
	scope := Scope{Device: "sw", Bind: map[string]string{"mix": "1", "input": "2"}}
	for source, want := range map[string][]Sentence{
		"reading('mix/'+mix+'/program') == input":                             {{"sw:mix/1/program", "==", "2", false}},
		"reading('other:on')":                                                 {{"other:on", "==", true, false}},
		"reading('other:on') == true":                                         {{"other:on", "==", true, false}},
		"reading('level') > -12.5":                                            {{"sw:level", ">", -12.5, false}},
		"reading('level') > 3 and reading('mute') != true":                    {{"sw:level", ">", 3.0, false}, {"sw:mute", "!=", true, false}},
		"reading('level') > 3 or reading('mute')":                             {{"sw:level", ">", 3.0, false}, {"sw:mute", "==", true, true}},
		"reading('a') == 1 or (reading('b') == 2 and reading('c') == 3)":      {{"sw:a", "==", 1.0, false}, {"sw:b", "==", 2.0, true}, {"sw:c", "==", 3.0, false}},
		"(reading('a') == 1 or reading('b') == 2) and reading('c') == 3":      nil,
		"reading('a') == reading('b')":                                        nil,
		"quality('a') == 'unknown'":                                           nil,
		"reading('level') > 3 && (reading('a') == 'x' && reading('b') <= 12)": {{"sw:level", ">", 3.0, false}, {"sw:a", "==", "x", false}, {"sw:b", "<=", 12.0, false}},
	} {
		p, err := Compile(source, scope)
		if err != nil {
			t.Fatal(err)
		}
		got, ok := p.Sentences()
		if ok != (want != nil) || ok && !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %v %v", source, got, ok)
		}
		if ok {
			written, err := Condition(got)
			if err != nil {
				t.Error(err)
			}
			if again, _ := Compile(written, Scope{}); again == nil || !reflect.DeepEqual(again.Deps, p.Deps) {
				t.Errorf("%s was written %s", source, written)
			}
		}
		// Written for a show, it means the same.
		again, err := Compile(p.Absolute(), Scope{})
		if err != nil {
			t.Errorf("%s became %s: %v", source, p.Absolute(), err)
			continue
		}
		if !reflect.DeepEqual(again.Deps, p.Deps) {
			t.Errorf("%s depends on %v, %s on %v", source, p.Deps, again.Source, again.Deps)
		}
	}
}

func TestSentencesAreWrittenAsExpressions(t *testing.T) {
	for _, c := range []struct {
		s     Sentence
		value any
		holds bool
	}{
		{Sentence{"a:x", "==", `say "hi" \o/`, false}, `say "hi" \o/`, true},
		{Sentence{"a:x", "!=", "it's", false}, "it's", false},
		{Sentence{"a:x", ">=", -12.5, false}, -12.5, true},
		{Sentence{"a:x", "<", 1.0, false}, 1.0, false},
		{Sentence{"a:x", "==", true, false}, true, true},
		{Sentence{"a:x'); evil('", "==", "1", false}, "1", true},
	} {
		source, err := c.s.Source()
		if err != nil {
			t.Fatal(err)
		}
		p, err := Compile(source, Scope{})
		if err != nil {
			t.Fatalf("%s: %v", source, err)
		}
		if got := p.Holds(fixed{c.value}); got != c.holds {
			t.Errorf("%s is %v for %v", source, got, c.value)
		}
		if again, err := Condition([]Sentence{c.s}); err != nil || again != source {
			t.Errorf("alone, %s is written %s", source, again)
		}
		back, ok := p.Sentences()
		if !ok || len(back) != 1 || !reflect.DeepEqual(back[0], c.s) {
			t.Errorf("%s is read back as %v", source, back)
		}
	}
	for _, bad := range []Sentence{{"x", "==", "1", false}, {"a:x", "=", "1", false}, {"a:x", "==", nil, false}, {"a:x", "==", []any{}, false}} {
		if source, err := bad.Source(); err == nil {
			t.Errorf("%v was written as %s", bad, source)
		}
	}
}

// fixed is a world in which every reading has one value.
type fixed struct{ v any }

func (f fixed) Reading(reading.Key) reading.Reading {
	return reading.Reading{Value: f.v, Quality: reading.Confirmed}
}

func TestSentencesAreSaidAsAPersonWould(t *testing.T) {
	got := InWords([]Sentence{{Reading: "sw:mix/1/program", Is: "==", Value: "3"}, {Reading: "desk:main/level", Is: "<=", Value: -10.0}, {Reading: "sw:keyer/1/on", Is: "!=", Value: true, Or: true}},
		func(k reading.Key) string { return "«" + k.Path + "»" }, func(_ reading.Key, v reading.Value) string { return Text(v) })
	if want := "«mix/1/program» is 3 and «main/level» is at most -10 or «keyer/1/on» is not true"; got != want {
		t.Errorf("said %q", got)
	}
}

// TestSentencesOfAnEvent are written and read as those of readings are.
func TestSentencesOfAnEvent(t *testing.T) {
	list := []Sentence{{Reading: "event:text", Is: "startsWith", Value: "!map"}, {Reading: "event:amount", Is: ">", Value: 5.0}, {Reading: "sw:on", Is: "==", Value: true, Or: true}}
	source, err := Condition(list)
	if err != nil || source != `event.text startsWith "!map" and event.amount > 5 or reading("sw:on") == true` {
		t.Fatalf("they are written as %s, %v", source, err)
	}
	p, err := Compile(source, Scope{})
	if err != nil {
		t.Fatal(err)
	}
	back, ok := p.Sentences()
	if !ok || fmt.Sprint(back) != fmt.Sprint(list) || !p.OfEvent {
		t.Errorf("they are read as %v, %v", back, ok)
	}
	for _, wrong := range []string{"event:", "event:a.b", "event:a b", "event:'x'"} {
		if _, err := (Sentence{Reading: wrong, Is: "==", Value: "x"}).Source(); err == nil {
			t.Errorf("%s is a field", wrong)
		}
	}
}
