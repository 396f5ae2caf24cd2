package archive

import (
	"archive/zip"
	"bytes"
	"math"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/plan"
)

func sample() Archive {
	d := show.NewDraft(show.Empty())
	d.Put(&show.Settings{ID: show.SettingsID, Name: "Meteor Night", FrameRate: 25})
	d.Put(&show.Device{ID: "sound-desk", Slug: "sound-desk", Name: "Sound desk", Type: "mixer.osc", Secret: "a password"})
	d.Put(&show.Macro{ID: "m", Slug: "m", Name: "Meteor!"})
	d.Put(&show.Step{ID: "s", Macro: "m", Kind: "wait", Ms: 100})
	level := reading.Key{Device: "sound-desk", Path: "channel/1/level"}
	return Archive{Show: d.Now(), Sheets: map[string][]byte{"own.json": []byte("{}")}, Assumed: plan.Assumed{
		Values: map[reading.Key]reading.Value{level: math.Inf(-1), {Device: "sound-desk", Path: "channel/1/mute"}: true},
		Median: map[string]time.Duration{"sound-desk": 5 * time.Millisecond}, P95: map[string]time.Duration{"sound-desk": 7 * time.Millisecond}, Turns: map[string]string{"t": "b"}}}
}

func written(t *testing.T, a Archive) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := Write(&b, a); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestAnArchiveIsReadAsItWasWrittenWithoutPasswords(t *testing.T) {
	body := written(t, sample())
	if !bytes.Equal(body, written(t, sample())) {
		t.Error("the same show gives other bytes")
	}
	if bytes.Contains(body, []byte("a password")) {
		t.Error("the password is in it")
	}
	a, err := Read(bytes.NewReader(body), int64(len(body)))
	if err != nil {
		t.Fatal(err)
	}
	if a.Show.Macro("m") == nil || len(a.Show.StepsOf("m")) != 1 || a.Show.Device("sound-desk").Secret != "" {
		t.Errorf("read %s", a.Show.Canonical())
	}
	if a.Assumed.Values[reading.Key{Device: "sound-desk", Path: "channel/1/level"}] != "-inf" || a.Assumed.Median["sound-desk"] != 5*time.Millisecond || a.Assumed.Turns["t"] != "b" {
		t.Errorf("assumed %+v", a.Assumed)
	}
	if string(a.Sheets["own.json"]) != "{}" {
		t.Errorf("sheets %v", a.Sheets)
	}
}

func TestWhatIsNoArchiveIsRefusedWithAReason(t *testing.T) {
	good := written(t, sample())
	zipped := func(files ...string) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for i := 0; i < len(files); i += 2 {
			f, err := z.Create(files[i])
			if err == nil {
				_, err = f.Write([]byte(files[i+1]))
			}
			if err != nil {
				t.Fatal(err)
			}
		}
		if err := z.Close(); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	const ok = `{"format":"synaptor.archive/1","name":"x"}`
	for name, c := range map[string]struct {
		body []byte
		says string
	}{
		"nothing":               {nil, "no archive"},
		"cut off":               {good[:len(good)/2], "no archive"},
		"another format":        {zipped("manifest.json", `{"format":"synaptor.archive/9","name":"x"}`), "has the format"},
		"no manifest":           {zipped("show.json", "[]"), "no manifest.json"},
		"no show":               {zipped("manifest.json", ok), "no show.json"},
		"leaves its folder":     {zipped("../manifest.json", ok), "leave its folder"},
		"the same file twice":   {zipped("manifest.json", ok, "manifest.json", ok), "twice"},
		"an unknown field":      {zipped("manifest.json", `{"format":"synaptor.archive/1","name":"x","more":1}`), "unknown field"},
		"an unknown kind":       {zipped("manifest.json", ok, "show.json", `[{"kind":"dance","id":"x","body":{}}]`), "unknown kind"},
		"the same entity twice": {zipped("manifest.json", ok, "show.json", `[{"kind":"macro","id":"x","body":{"id":"x"}},{"kind":"macro","id":"x","body":{"id":"x"}}]`), "twice"},
		"another id within":     {zipped("manifest.json", ok, "show.json", `[{"kind":"macro","id":"x","body":{"id":"y"}}]`), "says of itself"},
		"a bomb":                {zipped("manifest.json", ok, "sheets/big.json", strings.Repeat(" ", maxFile+1)), "too large"},
	} {
		if _, err := Read(bytes.NewReader(c.body), int64(len(c.body))); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want %q", name, err, c.says)
		}
	}
}

// FuzzRead: an archive that is read can be written, and is then the same.
func FuzzRead(f *testing.F) {
	var b bytes.Buffer
	if err := Write(&b, sample()); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes(), []byte("[]"), []byte("{}"))
	f.Add([]byte("PK"), []byte(`[{"kind":"page","id":"a","body":{"id":"a"}}]`), []byte(`{"readings":{"a":{"b":"-inf"}},"medianUs":{"a":-1}}`))
	f.Fuzz(func(t *testing.T, whole, shown, assumed []byte) {
		for _, body := range [][]byte{whole, packed(t, shown, assumed)} {
			a, err := Read(bytes.NewReader(body), int64(len(body)))
			if err != nil {
				if err.Error() == "" {
					t.Error("it is refused without a word")
				}
				continue
			}
			var first, second bytes.Buffer
			if err := Write(&first, a); err != nil {
				t.Fatalf("what was read cannot be written: %v", err)
			}
			again, err := Read(bytes.NewReader(first.Bytes()), int64(first.Len()))
			if err != nil {
				t.Fatalf("what was written cannot be read: %v", err)
			}
			if err := Write(&second, again); err != nil || !bytes.Equal(first.Bytes(), second.Bytes()) {
				t.Fatalf("read again it is another one (%v)", err)
			}
		}
	})
}

// packed is an archive of parts that are made up.
func packed(t *testing.T, shown, assumed []byte) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, body := range map[string][]byte{"manifest.json": []byte(`{"format":"` + Format + `","name":"n"}`), "show.json": shown, "assumptions.json": assumed} {
		w, err := z.Create(name)
		if err == nil {
			_, err = w.Write(body)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestWhatGrowsWhenItIsReadIsBounded(t *testing.T) {
	for name, c := range map[string]struct{ shown, assumed, says string }{
		"a thing of many parts": {`[{"kind":"mapping","id":"m","body":{"id":"m","placements":[` + strings.Repeat("{},", 400_000) + `{}]}}]`, "{}", "1048576 is the most"},
		"many things":           {"[" + strings.Repeat(`{},`, 3_000_000) + "{}]", "{}", "unknown kind"},
		"many assumptions":      {"[]", `{"turns":{` + strings.Repeat(`"a":"",`, 2_000_000) + `"b":""}}`, "8388608 is the most"},
		"a list without end":    {`[`, "{}", "cannot be read"},
		"two lists":             {`[] []`, "{}", "after its list"},
		"no list":               {`{}`, "{}", "is no list"},
	} {
		body := packed(t, []byte(c.shown), []byte(c.assumed))
		if _, err := Read(bytes.NewReader(body), int64(len(body))); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
}
