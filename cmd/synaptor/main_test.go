package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"synaptor/internal/archive"
	"synaptor/internal/core/show"
)

func TestNothingThatIsSaidIsAnOrderToTheTerminal(t *testing.T) {
	var out bytes.Buffer
	if _, err := (plain{&out}).Write([]byte("Meteor\x1b[2J\x07 \u202eback\n\tübers Dach\n")); err != nil || out.String() != "Meteor·[2J· ·back\n\tübers Dach\n" {
		t.Errorf("it says %q (%v)", out.String(), err)
	}
	var said bytes.Buffer
	if run([]string{"\x1b]0;owned\x07"}, &said, &said); strings.ContainsAny(said.String(), "\x1b\x07") {
		t.Errorf("it says %q", said.String())
	}
}

func TestTheCommandLineSaysWhatIsWrong(t *testing.T) {
	for name, c := range map[string]struct {
		args []string
		code int
		says string
	}{
		"no such service":       {[]string{"service", "start"}, 2, "say install, remove or status"},
		"a service too many":    {[]string{"service", "status", "now"}, 2, `"now" was not expected`},
		"version":               {[]string{"version"}, 0, "SQLite 3."},
		"help":                  {[]string{"--help"}, 0, "synaptor bench"},
		"help of serve":         {[]string{"serve", "--help"}, 0, "-demo"},
		"help of bench":         {[]string{"bench", "--help"}, 0, "-ports"},
		"no such command":       {[]string{"dance"}, 2, `no command "dance"`},
		"no such flag":          {[]string{"serve", "--loud"}, 2, "not defined"},
		"no such flag alone":    {[]string{"--loud"}, 2, "not defined"},
		"something left over":   {[]string{"bench", "now"}, 2, `"now" was not expected`},
		"rehearse nothing":      {[]string{"rehearse"}, 2, "ARCHIVE is missing"},
		"rehearse no archive":   {[]string{"rehearse", "/dev/null", "Meteor!"}, 1, "no archive"},
		"export without a file": {[]string{"export", "--demo"}, 2, "FILE is missing"},
		"export of nobody":      {[]string{"export", "--from", "http://127.0.0.1:1", "/tmp/x"}, 1, "no Synaptor answers"},
		"bridge of nothing":     {[]string{"bridge"}, 2, "say --port"},
		"bridge to nobody":      {[]string{"bridge", "--check", "http://127.0.0.1:1"}, 1, "nothing answers at ws://127.0.0.1:1/api/v1/wire"},
		"bridge in no terminal": {[]string{"bridge", "--terminal", "grid-6x4"}, 1, "no terminal"},
		"no such layout":        {[]string{"bridge", "--terminal", "nothing"}, 1, "there are console-3x3"},
		"import of nothing":     {[]string{"import", "/nonexistent.zip"}, 1, "no such file"},
		"import to nobody":      {[]string{"import", "--to", "http://127.0.0.1:1", "main_test.go"}, 1, "no Synaptor answers"},
		"no address at all":     {[]string{"serve", "--listen", "7420", "--data", "/nonexistent/x"}, 2, "is not an address to listen on"},
		"a folder that is not":  {[]string{"serve", "--listen", "127.0.0.1:0", "--osc", "127.0.0.1:0", "--data", "/dev/null/x"}, 2, "data folder"},
	} {
		var out, errOut bytes.Buffer
		if code := run(c.args, &out, &errOut); code != c.code {
			t.Errorf("%s: exit code %d, want %d", name, code, c.code)
		}
		if all := out.String() + errOut.String(); !strings.Contains(all, c.says) {
			t.Errorf("%s: says %q, want %q", name, all, c.says)
		}
	}
}

func TestTheDemoIsExportedAndRehearsedTheSameToTheByte(t *testing.T) {
	file := filepath.Join(t.TempDir(), "demo.zip")
	say := func(code int, args ...string) string {
		t.Helper()
		var out, errOut bytes.Buffer
		if got := run(args, &out, &errOut); got != code {
			t.Fatalf("%v: exit code %d: %s", args, got, errOut.String())
		}
		return out.String() + errOut.String()
	}
	say(0, "export", "--demo", file)
	again := filepath.Join(t.TempDir(), "again.zip")
	say(0, "export", "--demo", again)
	if a, err := os.ReadFile(file); err != nil {
		t.Error(err)
	} else if b, err := os.ReadFile(again); err != nil || !bytes.Equal(a, b) {
		t.Errorf("exported again the demo is other bytes (%v)", err)
	} else if later, err := asItBegins(anHourLater(t, a)); err != nil || !bytes.Equal(a, later) {
		t.Errorf("exported an hour later the demo is other bytes (%v)", err)
	}
	first := say(0, "rehearse", file, "Surprise sound", "--seed", "4", "--json")
	if first != say(0, "rehearse", "--json", "--seed", "4", file, "surprise-sound") {
		t.Error("the same seed gave another rehearsal")
	}
	others := map[string]bool{}
	for _, seed := range []string{"1", "2", "3", "4", "5", "6"} {
		others[strings.ReplaceAll(say(0, "rehearse", file, "surprise-sound", "--seed", seed, "--json"), seed, "")] = true
	}
	if len(others) < 2 {
		t.Error("the seed decides nothing")
	}
	if text := say(0, "rehearse", file, "Meteor!"); !strings.Contains(text, "All-sky cam") || !strings.Contains(text, "Telescope → Countdown") {
		t.Errorf("Meteor! is %s", text)
	}
	if text := say(1, "rehearse", file, "Nothing"); !strings.Contains(text, "there are: Open the night") {
		t.Errorf("no such macro: %s", text)
	}
}

// anHourLater is an archive of the demo as it would have been an hour later: its clocks have gone on.
func anHourLater(t *testing.T, body []byte) []byte {
	t.Helper()
	a, err := archive.Read(bytes.NewReader(body), int64(len(body)))
	if err != nil {
		t.Fatal(err)
	}
	clocks := 0
	for k, v := range a.Assumed.Values {
		if hour, err := time.Parse("15:04", fmt.Sprint(v)); err == nil {
			a.Assumed.Values[k] = hour.Add(time.Hour).Format("15:04")
			clocks++
		}
	}
	if clocks == 0 {
		t.Error("there is no clock in the demo")
	}
	var out bytes.Buffer
	if err := archive.Write(&out, a); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func TestAnArchiveIsImportedIntoARunningSynaptor(t *testing.T) {
	demo, err := startDemo()
	if err != nil {
		t.Fatal(err)
	}
	defer demo.close()
	to, file := "http://"+demo.Addr, filepath.Join(t.TempDir(), "night.zip")
	for _, c := range []struct {
		code int
		says string
		args []string
	}{
		{0, "has the show", []string{"export", "--from", to, file}},
		{0, "Dome switcher, Video switcher (OSC)", []string{"import", "--dry-run", "--to", to, file}},
		{0, "page Cut: beside, Cut 2", []string{"import", "--dry-run", "--into", "Meteor Night", "--parts", "page:Cut", "--to", to, file}},
		{1, "no macro", []string{"import", "--into", "Meteor Night", "--parts", "macro:Nothing", "--to", to, file}},
		{1, "is no part", []string{"import", "--into", "Meteor Night", "--parts", "Cut", "--to", to, file}},
		{1, "open there is Meteor Night", []string{"import", "--into", "Studio", "--to", to, file}},
		{2, "need --into", []string{"import", "--parts", "page:Cut", file}},
		{0, "macro Meteor!: in place", []string{"import", "--into", "Meteor Night", "--in-place", "--parts", "macro:Meteor!", "--to", to, file}},
		{0, "fires by itself", []string{"import", "--dry-run", "--into", "Meteor Night", "--parts", "reflex:Duck the music", "--to", to, file}},
		{0, "It is in Meteor Night now", []string{"import", "--into", "Meteor Night", "--to", to, file}},
		{0, "It is open.", []string{"import", "--to", to, "--name", "From the command line", "--open", file}},
		{1, "no archive", []string{"import", "--to", to, "main_test.go"}},
		{0, "rules hold.", []string{"bridge", "--check", to}},
		{0, "has 2 shows", []string{"backup", "--of", to}},
		{1, "is no copy", []string{"restore", "--data", t.TempDir(), t.TempDir()}},
		{2, "in use", []string{"restore", "--data", demo.folder, filepath.Join(demo.folder)}},
		{1, "60 is the most", []string{"import", "--to", to, "--name", strings.Repeat("x", 61), file}},
	} {
		var out, errOut bytes.Buffer
		if got := run(c.args, &out, &errOut); got != c.code || !strings.Contains(out.String()+errOut.String(), c.says) {
			t.Errorf("%v: exit code %d: %s%s", c.args, got, out.String(), errOut.String())
		}
	}
	if name := demo.Edit.Program().Show.Settings().Name; name != "From the command line" {
		t.Errorf("open is %s", name)
	}
	if list, err := demo.Shows.List(); err != nil || len(list) != 2 {
		t.Errorf("there are %+v, %v", list, err)
	}
}

func TestAPreflightOfAnArchiveEndsWithHowBadItIs(t *testing.T) {
	file := filepath.Join(t.TempDir(), "demo.zip")
	say := func(code int, args ...string) string {
		t.Helper()
		var out, errOut bytes.Buffer
		if got := run(args, &out, &errOut); got != code {
			t.Fatalf("%v: exit code %d, want %d: %s", args, got, code, errOut.String())
		}
		return out.String()
	}
	say(0, "export", "--demo", file)
	text := say(3, "preflight", file)
	for _, part := range []string{"Meteor Night is ready, but", "caution  Start or stop the recording", "fix: Have", "accepted Set the hue", "by Tobin, 2026-08-11: The spare head can", "Not checked here:"} {
		if !strings.Contains(text, part) {
			t.Errorf("it does not say %q:\n%s", part, text)
		}
	}
	var doc preflightResult
	if err := json.Unmarshal([]byte(say(3, "preflight", "--json", file)), &doc); err != nil {
		t.Fatal(err)
	}
	if doc.Verdict != "ready-but" || len(doc.Findings) != 1 || doc.Findings[0].ID != "risk-unguarded" || doc.Findings[0].Subject != "mapping stream-a3" || len(doc.Accepted) != 1 || len(doc.Unchecked) == 0 {
		t.Errorf("as JSON it is %+v", doc)
	}
	spoil := func(change func(*show.Draft, *archive.Archive)) string {
		a, _, err := openArchive(file)
		if err != nil {
			t.Fatal(err)
		}
		d := show.NewDraft(a.Show)
		change(d, a)
		a.Show = d.Now()
		other := filepath.Join(t.TempDir(), "other.zip")
		var b bytes.Buffer
		if err := errors.Join(archive.Write(&b, *a), os.WriteFile(other, b.Bytes(), 0o600)); err != nil {
			t.Fatal(err)
		}
		return other
	}
	key := func(d *show.Draft, a *archive.Archive, change func(*show.Mapping)) {
		m := a.Show.Mapping("stream-a3").Clone()
		change(m)
		d.Put(m)
	}
	say(0, "preflight", spoil(func(d *show.Draft, a *archive.Archive) {
		key(d, a, func(m *show.Mapping) { m.Guard = &show.Guard{Kind: "twice", Ms: 2000} })
	}))
	say(4, "preflight", spoil(func(d *show.Draft, a *archive.Archive) {
		key(d, a, func(m *show.Mapping) { m.Responses[0].Action.Action = "fly" })
	}))
	say(1, "preflight", "main_test.go")
	say(2, "preflight")
}
