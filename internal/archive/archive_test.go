package archive

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"math"
	"os"
	"path/filepath"
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
	d.Put(&show.Reflex{ID: "r", Name: "Duck the music", Owner: "somebody here", Then: show.Call{Device: "sound-desk", Action: "mute"}})
	level := reading.Key{Device: "sound-desk", Path: "channel/1/level"}
	body := []byte("the bytes of a picture")
	sum := sha256.Sum256(body)
	logo := Picture{ID: hex.EncodeToString(sum[:]), Name: "Logo", Kind: "image/png", Width: 72, Height: 72, Frames: 1, Tags: "mark", Body: body}
	return Archive{Show: d.Now(), Media: []Picture{logo}, Sheets: map[string][]byte{"own.json": []byte("{}")}, Assumed: plan.Assumed{
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
	if bytes.Contains(body, []byte("somebody here")) || sample().Show.Reflex("r").Owner == "" {
		t.Error("it says whose rights a reflex has")
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
	if len(a.Media) != 1 || a.Media[0].Name != "Logo" || string(a.Media[0].Body) != "the bytes of a picture" {
		t.Errorf("pictures %+v", a.Media)
	}
}

// TestOlderFormatsAreRead: one archive of each is kept.
func TestOlderFormatsAreRead(t *testing.T) {
	kept, err := filepath.Glob("testdata/format-*.synaptor.zip")
	if err != nil || len(kept) != 5 {
		t.Fatalf("kept are %v, %v", kept, err)
	}
	for _, name := range kept {
		body, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		a, err := Read(bytes.NewReader(body), int64(len(body)))
		if err != nil || a.Show.Macro("m") == nil || a.Assumed.Median["sound-desk"] != 5*time.Millisecond || string(a.Sheets["own.json"]) != "{}" {
			t.Errorf("%s: %+v, %v", name, a, err)
		}
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
	const ok, two = `{"format":"synaptor.archive/1","name":"x"}`, `{"format":"synaptor.archive/2","name":"x"}`
	for name, c := range map[string]struct {
		body []byte
		says string
	}{
		"nothing":                {nil, "no archive"},
		"cut off":                {good[:len(good)/2], "no archive"},
		"another format":         {zipped("manifest.json", `{"format":"synaptor.archive/9","name":"x"}`), "has the format"},
		"no manifest":            {zipped("show.json", "[]"), "no manifest.json"},
		"no show":                {zipped("manifest.json", ok), "no show.json"},
		"leaves its folder":      {zipped("../manifest.json", ok), "leave its folder"},
		"the same file twice":    {zipped("manifest.json", ok, "manifest.json", ok), "twice"},
		"an unknown field":       {zipped("manifest.json", `{"format":"synaptor.archive/1","name":"x","more":1}`), "unknown field"},
		"a field no key has":     {zipped("manifest.json", ok, "show.json", `[{"kind":"mapping","id":"x","body":{"id":"x","placements":null,"responses":null,"face":{},"dance":1}}]`), "unknown field"},
		"an unknown kind":        {zipped("manifest.json", ok, "show.json", `[{"kind":"dance","id":"x","body":{}}]`), "unknown kind"},
		"the same entity twice":  {zipped("manifest.json", ok, "show.json", `[{"kind":"macro","id":"x","body":{"id":"x"}},{"kind":"macro","id":"x","body":{"id":"x"}}]`), "twice"},
		"another id within":      {zipped("manifest.json", ok, "show.json", `[{"kind":"macro","id":"x","body":{"id":"y"}}]`), "says of itself"},
		"a bomb":                 {zipped("manifest.json", ok, "sheets/big.json", strings.Repeat(" ", maxFile+1)), "too large"},
		"a picture that is gone": {zipped("manifest.json", two, "show.json", "[]", "media.json", `[{"id":"`+strings.Repeat("0", 64)+`","name":"Logo"}]`), "is missing"},
		"a damaged picture":      {zipped("manifest.json", two, "show.json", "[]", "media/"+strings.Repeat("0", 64), "x", "media.json", `[{"id":"`+strings.Repeat("0", 64)+`","name":"Logo"}]`), "is damaged"},
		"a picture in no list":   {zipped("manifest.json", two, "show.json", "[]", "media/x", "x"), "in no list"},
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
