package sheet

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// own is a folder with a lamp's sheet in a file that is not called as its type.
func own(t *testing.T) (o *Own, dir string) {
	t.Helper()
	dir = t.TempDir()
	o, err := OpenOwn(dir)
	if err != nil {
		t.Fatal(err)
	}
	write(t, dir, "mine.json", minimal)
	return o, dir
}

func write(t *testing.T, dir, name, body string) {
	t.Helper()
	if err := os.WriteFile(filepath.Join(dir, name), []byte(body), 0o600); err != nil {
		t.Fatal(err)
	}
}

func load(t *testing.T, o *Own) *Library {
	t.Helper()
	l, err := o.Load()
	if err != nil || len(l.Problems) > 0 {
		t.Fatalf("%v, %v", err, l.Problems)
	}
	return l
}

func TestUnchangedBytesAreTheSameType(t *testing.T) {
	o, dir := own(t)
	first := load(t, o)
	write(t, dir, "other.json", strings.Replace(minimal, "own.lamp", "own.other", 1))
	second := load(t, o)
	if second.Device("own.lamp") != first.Device("own.lamp") || second.Device("switcher.osc") != first.Device("switcher.osc") {
		t.Error("a sheet whose bytes are the same is another type")
	}
	if first.Same(second) || !second.Same(load(t, o)) {
		t.Error("libraries are compared wrongly")
	}
	write(t, dir, "mine.json", strings.Replace(minimal, `"title": "`, `"title": "Other `, 1))
	third := load(t, o)
	if third.Device("own.lamp") == second.Device("own.lamp") || third.Device("own.other") != second.Device("own.other") {
		t.Error("a sheet that changed is the same type, or another one is not")
	}
}

func TestAnOwnSheetIsReplacedAndRemovedWhateverItsFileIsCalled(t *testing.T) {
	o, dir := own(t)
	load(t, o)
	if !o.IsOwn("own.lamp") || o.IsOwn("switcher.osc") {
		t.Error("what is one's own is not known")
	}
	changed := strings.Replace(minimal, `"title": "`, `"title": "Other `, 1)
	if o.Known([]byte(changed)) || !o.Known([]byte(minimal)) {
		t.Error("what is in force is not known")
	}
	if _, err := o.Import([]byte(changed)); err != nil {
		t.Fatal(err)
	}
	if l := load(t, o); !strings.HasPrefix(l.Device("own.lamp").Sheet.Title, "Other ") {
		t.Errorf("it is called %q", l.Device("own.lamp").Sheet.Title)
	}
	if entries, _ := os.ReadDir(dir); len(entries) != 1 {
		t.Errorf("there are %d files", len(entries))
	}
	if err := o.Remove("own.lamp"); err != nil {
		t.Fatal(err)
	}
	if l := load(t, o); l.Device("own.lamp") != nil || o.IsOwn("own.lamp") {
		t.Error("it is still there")
	}
	if err := o.Remove("own.lamp"); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("removed twice: %v", err)
	}
	if err := o.Remove("switcher.osc"); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("a built-in sheet was removed: %v", err)
	}
}

const desk = `{"sheet":"synaptor.controller/1","type":"own.lamp","title":"Desk","zone":"keys","grid":{"columns":2,"rows":2}}`

func TestAControllerSheetDoesNotReplaceADeviceSheet(t *testing.T) {
	o, dir := own(t)
	load(t, o)
	if _, err := o.Import([]byte(desk)); err == nil || !strings.Contains(err.Error(), "your own device sheet") {
		t.Errorf("a controller sheet with the type of a device sheet: %v", err)
	}
	if l := load(t, o); l.Device("own.lamp") == nil {
		t.Error("the device sheet is gone")
	}
	write(t, dir, "mine.json", desk)
	load(t, o)
	if _, err := o.Import([]byte(minimal)); err == nil || !strings.Contains(err.Error(), "your own controller sheet") {
		t.Errorf("a device sheet with the type of a controller sheet: %v", err)
	}
	write(t, dir, "zoo.json", minimal)
	if l, err := o.Load(); err != nil || len(l.Problems) != 1 || l.Problems[0].File != "zoo.json" || l.Problems[0].Field != "/type" {
		t.Errorf("both in the folder: %v, %v", l.Problems, err)
	}
}

func TestAFileThatWasLeftOutIsReplacedByItsTypeAndRemovedByItsName(t *testing.T) {
	o, dir := own(t)
	write(t, dir, "mine.json", strings.Replace(minimal, `"bool"`, `"boole"`, 1))
	write(t, dir, "rubbish.json", "{")
	if l, err := o.Load(); err != nil || len(l.Problems) != 2 {
		t.Fatalf("%v, %v", l.Problems, err)
	}
	if _, err := o.Import([]byte(minimal)); err != nil {
		t.Fatal(err)
	}
	if l, err := o.Load(); err != nil || len(l.Problems) != 1 || l.OwnFile("own.lamp") != "mine.json" {
		t.Errorf("repaired it is in %q: %v, %v", l.OwnFile("own.lamp"), l.Problems, err)
	}
	for name, want := range map[string]error{"../mine.json": fs.ErrInvalid, "mine.txt": fs.ErrInvalid, "": fs.ErrInvalid, "other.json": fs.ErrNotExist, "rubbish.json": nil} {
		if err := o.RemoveFile(name); !errors.Is(err, want) {
			t.Errorf("%q is removed: %v, want %v", name, err, want)
		}
	}
	load(t, o)
}
