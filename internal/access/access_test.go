package access

import (
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
	for name, c := range map[string]struct {
		command Command
		want    string
	}{
		"of whoever has none that are narrow": {Command{Device: "dome-switcher", Changes: []reading.Key{key("mix/1/program")}}, ""},
		"within them":                         {Command{Actor: Actor{Rights: rights}, Device: "dome-switcher", Changes: []reading.Key{key("mix/2/program"), key("out/3/source")}}, ""},
		"one of two outside":                  {Command{Actor: Actor{Name: "Oyelaran", Rights: rights}, Device: "dome-switcher", Changes: []reading.Key{key("mix/2/program"), key("mix/1/program")}}, "Oyelaran may not change mix/1/program"},
		"of another device":                   {Command{Actor: Actor{Rights: rights}, Device: "talkback", Changes: []reading.Key{{Device: "talkback", Path: "line/1/talk"}}}, "may not change line/1/talk"},
		"without declared effects":            {Command{Actor: Actor{Rights: rights}, Device: "dome-switcher"}, "the right to all of the device"},
		"without, of a whole device":          {Command{Actor: Actor{Rights: rights}, Device: "sound-desk"}, ""},
		"what one has opened oneself":         {Command{Actor: Actor{Rights: rights}, Device: "talkback", Closes: true, Changes: []reading.Key{{Device: "talkback", Path: "line/1/talk"}}}, ""},
		"controllers only":                    {Command{Actor: Actor{Rights: &Rights{Controllers: []string{"c"}}}, Device: "talkback", Changes: []reading.Key{{Device: "talkback", Path: "line/1/talk"}}}, ""},
		"nothing at all":                      {Command{Actor: Actor{Rights: &Rights{Changes: []string{}}}, Device: "sound-desk", Changes: []reading.Key{{Device: "sound-desk", Path: "main/level"}}}, "may not change"},
	} {
		if got := Allow(c.command); got != c.want && (c.want == "" || !strings.Contains(got, c.want)) {
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

func BenchmarkAllow(b *testing.B) {
	c := Command{Actor: Actor{Rights: &Rights{Changes: []string{"a:*", "b:*", "c:*", "dome-switcher:mix/2/*"}}}, Device: "dome-switcher",
		Changes: []reading.Key{{Device: "dome-switcher", Path: "mix/2/program"}, {Device: "dome-switcher", Path: "mix/2/preview"}}}
	for b.Loop() {
		Allow(c)
	}
}
