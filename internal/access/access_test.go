package access

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"synaptor/internal/core/reading"
)

func TestRightsNameReadingsByPattern(t *testing.T) {
	for _, c := range []struct {
		pattern, path string
		want          bool
	}{
		{"*", "mix/1/program", true}, {"mix/1/*", "mix/1/program", true}, {"mix/1/*", "mix/1/keyer/1/on", true}, {"mix/1/*", "mix/10/program", false}, {"mix/1/*", "mix/2/program", false},
		{"mix/*/program", "mix/2/program", true}, {"mix/*/program", "mix/2/preview", false}, {"mix/1", "mix/1", true}, {"mix/1", "mix/1/program", false}, {"mix/1/program", "mix/1", false},
		{"out/2/source", "out/2/source", true}, {"out/2/source", "out/1/source", false}, {"*/2/source", "out/2/source", true},
	} {
		if got := covers(c.pattern, c.path); got != c.want {
			t.Errorf("that %q covers %q is %v", c.pattern, c.path, got)
		}
	}
}

func TestACommandTakesTheRightToAllThatItChanges(t *testing.T) {
	key := func(path string) reading.Key { return reading.Key{Device: "dome-switcher", Path: path} }
	rights := &Rights{Changes: []string{"dome-switcher:mix/2/*", "dome-switcher:out/*/source", "sound-desk:*"}}
	k := NewKeeper(nil)
	k.SetRights(map[string]*Rights{"o": rights, "controllers": {Controllers: []string{"c"}}, "nothing": {Changes: []string{}}})
	for name, c := range map[string]struct {
		command Command
		want    string
	}{
		"of whoever has none that are narrow": {Command{Device: "dome-switcher", Changes: []reading.Key{key("mix/1/program")}}, ""},
		"within them":                         {Command{Actor: Actor{ID: "o"}, Device: "dome-switcher", Changes: []reading.Key{key("mix/2/program"), key("out/3/source")}}, ""},
		"one of two outside":                  {Command{Actor: Actor{ID: "o", Name: "Oyelaran"}, Device: "dome-switcher", Changes: []reading.Key{key("mix/2/program"), key("mix/1/program")}}, "Oyelaran may not change mix/1/program"},
		"of another device":                   {Command{Actor: Actor{ID: "o"}, Device: "talkback", Changes: []reading.Key{{Device: "talkback", Path: "line/1/talk"}}}, "may not change line/1/talk"},
		"without declared effects":            {Command{Actor: Actor{ID: "o"}, Device: "dome-switcher"}, "the right to all of the device"},
		"without, of a whole device":          {Command{Actor: Actor{ID: "o"}, Device: "sound-desk"}, ""},
		"what one has opened oneself":         {Command{Actor: Actor{ID: "o"}, Device: "talkback", Closes: true, Changes: []reading.Key{{Device: "talkback", Path: "line/1/talk"}}}, ""},
		"controllers only":                    {Command{Actor: Actor{ID: "controllers"}, Device: "talkback", Changes: []reading.Key{{Device: "talkback", Path: "line/1/talk"}}}, ""},
		"of somebody who was taken away":      {Command{Actor: Actor{ID: "gone", Name: "Imke"}, Device: "sound-desk", Changes: []reading.Key{{Device: "sound-desk", Path: "main/level"}}}, "Imke may not do anything"},
		"nothing at all":                      {Command{Actor: Actor{ID: "nothing"}, Device: "sound-desk", Changes: []reading.Key{{Device: "sound-desk", Path: "main/level"}}}, "may not change"},
	} {
		if got := k.Allow(c.command); got != c.want && (c.want == "" || !strings.Contains(got, c.want)) {
			t.Errorf("%s: %q", name, got)
		}
	}
	var none *Rights
	if none.Narrow() || !none.MayPress("c") || !(&Rights{}).MayPress("c") || (&Rights{Controllers: []string{"d"}}).MayPress("c") || !(&Rights{Controllers: []string{"c"}}).MayPress("c") {
		t.Error("controllers are pressed that may not be, or the other way round")
	}
	for _, bad := range []string{"dome-switcher", ":*", "dome-switcher:", "a b:*", "x:" + strings.Repeat("y", 300)} {
		if (&Rights{Changes: []string{bad}}).Check() == "" {
			t.Errorf("%.40q is taken for a pattern", bad)
		}
	}
	if rights.Check() != "" || none.Check() != "" || (&Rights{Controllers: make([]string, 101)}).Check() == "" {
		t.Error("rights that are right are refused, or the other way round")
	}
}

func TestAnOutputIsClaimedForAWhile(t *testing.T) {
	told := make(chan bool, 10)
	k := NewKeeper(func() { told <- true })
	k.SetRights(map[string]*Rights{"tablet": {Changes: []string{"dome-switcher:out/2/*"}}, "tobin": nil, "imke": {Changes: []string{"dome-switcher:out/2/source"}}})
	foyer := Command{Actor: Actor{ID: "tobin", Name: "Tobin"}, Device: "dome-switcher", Changes: []reading.Key{{Device: "dome-switcher", Path: "out/2/source"}}}
	if err := k.Take("", "Somebody", "dome-switcher:out/2/*", "Foyer screen"); !errors.Is(err, ErrUnknown) {
		t.Errorf("by nobody: %v", err)
	}
	if err := k.Take("tablet", "Saskia's tablet", "dome-switcher:out/1/*", "Dome projector"); err == nil {
		t.Error("an output is claimed by somebody who may not change it")
	}
	if err := k.Take("imke", "Imke", "dome-switcher:out/2/*", "Foyer screen"); err == nil {
		t.Error("an output is claimed by somebody who may change a part of it")
	}
	if err := k.Take("gone", "Somebody", "dome-switcher:out/2/*", "Foyer screen"); err == nil {
		t.Error("an output is claimed by somebody who is gone")
	}
	for range 2 {
		if err := k.Take("tablet", "Saskia's tablet", "dome-switcher:out/2/*", "Foyer screen"); err != nil {
			t.Fatal(err)
		}
	}
	<-told
	var taken *TakenError
	if err := k.Take("tobin", "Tobin", "dome-switcher:out/2/*", "Foyer screen"); !errors.As(err, &taken) || taken.By != "tablet" {
		t.Errorf("by somebody else: %v", err)
	}
	if got := k.Allow(foyer); got != "Saskia's tablet has taken Foyer screen for a while." {
		t.Errorf("others are told %q", got)
	}
	anything := foyer
	anything.Changes = nil
	if k.Allow(anything) == "" {
		t.Error("an action that may change anything is let through")
	}
	other, own, closing := foyer, foyer, foyer
	other.Changes = []reading.Key{{Device: "dome-switcher", Path: "out/1/source"}}
	own.Actor.ID = "tablet"
	closing.Closes = true
	for name, c := range map[string]Command{"another output": other, "their own": own, "what is closed": closing} {
		if got := k.Allow(c); got != "" {
			t.Errorf("%s: %q", name, got)
		}
	}
	if by, name := k.Holder("dome-switcher:out/2/*"); by != "tablet" || name != "Saskia's tablet" {
		t.Errorf("it is held by %q, %q", by, name)
	}
	if k.Give(func(c Claim) bool { return c.By == "tobin" }) || !k.Give(func(c Claim) bool { return c.By == "tablet" }) || k.Allow(foyer) != "" || len(k.Claims()) != 0 {
		t.Error("given back, it is claimed")
	}
}

// BenchmarkAllow is a decision as the engine asks for it: rights of four patterns, two readings, twenty claims of others.
func BenchmarkAllow(b *testing.B) {
	k := NewKeeper(nil)
	all := map[string]*Rights{}
	for i := range 1000 {
		all[fmt.Sprint("panel ", i)] = &Rights{Changes: []string{"a:*", "b:*", "c:*", "dome-switcher:mix/2/*"}}
	}
	k.SetRights(all)
	for i := range 20 {
		if err := k.Take("panel 1", "Panel", fmt.Sprintf("dome-switcher:mix/2/x%d/*", i), "Output"); err != nil {
			b.Fatal(err)
		}
	}
	c := Command{Actor: Actor{ID: "panel 7"}, Device: "dome-switcher", Changes: []reading.Key{{Device: "dome-switcher", Path: "mix/2/program"}, {Device: "dome-switcher", Path: "mix/2/preview"}}}
	for b.Loop() {
		if k.Allow(c) != "" {
			b.Fatal("refused")
		}
	}
}
