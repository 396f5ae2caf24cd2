package edges

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/test/process"
)

// disk is a disk of its own, in memory; DISK allows the test to mount one, for which it has to be root.
func disk(t *testing.T) string {
	t.Helper()
	if os.Getenv("DISK") == "" {
		t.Skip("it needs to mount a disk: DISK=true, as root")
	}
	dir := t.TempDir()
	run(t, "mount", "-t", "tmpfs", "-o", "size=24m", "none", dir)
	t.Cleanup(func() { run(t, "umount", "-l", dir) })
	return dir
}

func run(t *testing.T, name string, args ...string) {
	t.Helper()
	if out, err := exec.Command(name, args...).CombinedOutput(); err != nil {
		t.Fatalf("%s %v: %v: %s", name, args, err, out)
	}
}

// fill writes a file until there is no room left.
func fill(t *testing.T, dir string) (file string) {
	t.Helper()
	file = filepath.Join(dir, "filler")
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	for _, part := range []int{1 << 20, 4096, 1} {
		for err == nil {
			_, err = f.Write(make([]byte, part))
		}
		err = nil
	}
	if err := f.Close(); err != nil {
		t.Log(err)
	}
	return file
}

// pressed presses a key and gives what became of it.
func pressed(t *testing.T, base string) string {
	t.Helper()
	status, body := call(base, "POST", "/api/v1/input/producer-grid/b1/press", nil)
	var made struct{ ID string }
	if status != 202 || json.Unmarshal(body, &made) != nil {
		t.Fatalf("the press answered %d %.300s", status, body)
	}
	for limit := time.Now().Add(20 * time.Second); time.Now().Before(limit); time.Sleep(20 * time.Millisecond) {
		var e struct{ Outcome string }
		if status, body := call(base, "GET", "/api/v1/journal/"+made.ID, nil); status == 200 && json.Unmarshal(body, &e) == nil && e.Outcome != "under way" && e.Outcome != "" {
			return e.Outcome
		}
	}
	return "nothing"
}

// health is what the interface says of the journal.
func health(t *testing.T, base string) (waiting int, problem string) {
	t.Helper()
	var doc struct {
		Journal struct {
			Waiting int
			Problem string
		}
	}
	if status, body := call(base, "GET", "/api/v1/show", nil); status != 200 || json.Unmarshal(body, &doc) != nil {
		t.Fatalf("the show answered %d %.300s", status, body)
	}
	return doc.Journal.Waiting, doc.Journal.Problem
}

// refused makes an edit that cannot be stored, and wants the reason.
func refused(t *testing.T, base, reason string) {
	t.Helper()
	big := map[string]string{"name": strings.Repeat("Night ", 10)}
	for i := range 50 {
		status, body := call(base, "POST", "/api/v1/profiles", big)
		if status == 201 {
			continue // there was room for this one
		}
		if status < 500 || !bytes.Contains(body, []byte(reason)) || bytes.Contains(body, []byte("SQL")) || bytes.Contains(body, []byte("database")) {
			t.Errorf("edit %d answered %d %s, want %q", i, status, body, reason)
		}
		return
	}
	t.Errorf("50 edits were stored")
}

func awaited(t *testing.T, what string, is func() bool) {
	t.Helper()
	for limit := time.Now().Add(30 * time.Second); !is(); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(limit) {
			t.Fatalf("%s: it does not come true", what)
		}
	}
}

func TestPressesGoOnWhileTheDiskIsFull(t *testing.T) {
	dir := disk(t)
	bin := program(t)
	p, err := process.Start(bin, filepath.Join(dir, "data"), "--demo", "--bench-ports", "0")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { p.Kill() }()
	awaited(t, "a key works", func() bool { return pressed(t, p.Base) == "confirmed" })
	filler := fill(t, dir)
	const reason = "there is no room left on the disk"
	refused(t, p.Base, reason)
	for range 20 {
		if got := pressed(t, p.Base); got != "confirmed" {
			t.Errorf("while the disk is full a press is %s", got)
		}
	}
	awaited(t, "the journal says that the disk is full", func() bool {
		pressed(t, p.Base)
		n, problem := health(t, p.Base)
		return n > 0 && strings.Contains(problem, reason)
	})
	if err := os.Remove(filler); err != nil {
		t.Fatal(err)
	}
	awaited(t, "the journal is written again", func() bool { pressed(t, p.Base); _, problem := health(t, p.Base); return problem == "" })
	works(t, "with room again", p.Base)
}

// TestNothingIsHalfKeptOnADiskThatIsFull: an export needs no disk, a copy and an import are refused with the reason and leave nothing
// behind, and all of them work once there is room.
func TestNothingIsHalfKeptOnADiskThatIsFull(t *testing.T) {
	dir := disk(t)
	bin := program(t)
	data := filepath.Join(dir, "data")
	p, err := process.Start(bin, data, "--demo", "--bench-ports", "0")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { p.Kill() }()
	status, archive := call(p.Base, "GET", "/api/v1/archive", nil)
	if status != 200 {
		t.Fatalf("the archive answered %d", status)
	}
	folders := func() (names []string) {
		t.Helper()
		for _, of := range []string{"shows", "backups"} {
			list, err := os.ReadDir(filepath.Join(data, of))
			if err != nil && !os.IsNotExist(err) {
				t.Fatal(err)
			}
			for _, e := range list {
				if e.IsDir() {
					names = append(names, of+"/"+e.Name())
				}
			}
		}
		return names
	}
	before := folders()
	filler := fill(t, dir)
	const reason = "no room left on the disk"
	if status, again := call(p.Base, "GET", "/api/v1/archive", nil); status != 200 || len(again) < len(archive)/2 {
		t.Errorf("an export answered %d with %d bytes", status, len(again))
	}
	if status, body := call(p.Base, "POST", "/api/v1/backups", nil); status < 500 || !bytes.Contains(body, []byte(reason)) {
		t.Errorf("a copy answered %d %.300s", status, body)
	}
	imports := func() (int, []byte) {
		t.Helper()
		var doc struct{ Token string }
		if status, body := call(p.Base, "POST", "/api/v1/archives", archive); status != 200 || json.Unmarshal(body, &doc) != nil {
			t.Fatalf("looking at an archive answered %d %.300s", status, body)
		}
		return call(p.Base, "POST", "/api/v1/archives/"+doc.Token+"/show", map[string]string{"name": "Imported"})
	}
	if status, body := imports(); status < 500 || !bytes.Contains(body, []byte(reason)) || bytes.Contains(body, []byte("SQL")) {
		t.Errorf("an import answered %d %.300s", status, body)
	}
	if now := folders(); !slices.Equal(now, before) {
		t.Errorf("left behind is %v, before there was %v", now, before)
	}
	if err := os.Remove(filler); err != nil {
		t.Fatal(err)
	}
	if status, body := call(p.Base, "POST", "/api/v1/backups", nil); status >= 300 {
		t.Errorf("with room again a copy answered %d %.300s", status, body)
	}
	if status, body := imports(); status != 201 {
		t.Errorf("with room again an import answered %d %.300s", status, body)
	}
	works(t, "with room again", p.Base)
}

func TestAStartOnADiskThatIsFullOrReadOnlySaysSo(t *testing.T) {
	dir := disk(t)
	bin := program(t)
	data := filepath.Join(dir, "data")
	p, err := process.Start(bin, data, "--demo", "--bench-ports", "0")
	if err != nil {
		t.Fatal(err)
	}
	works(t, "at first", p.Base)
	p.Kill()
	begins := func(what string) {
		t.Helper()
		p, err := process.Start(bin, data)
		if err == nil {
			defer p.Kill()
			if status, _ := call(p.Base, "GET", "/api/v1/show", nil); status != 200 {
				t.Errorf("%s: the show answers %d", what, status)
			}
			return
		}
		if s := err.Error(); !strings.Contains(s, "the data folder") || strings.Contains(s, "goroutine ") || strings.Contains(s, "SQL") {
			t.Errorf("%s: %s", what, s)
		}
	}
	fill(t, dir)
	begins("on a full disk")
	run(t, "mount", "-o", "remount,ro", dir)
	begins("on a disk that is read-only")
	run(t, "mount", "-o", "remount,rw", dir)
	if err := os.Remove(filepath.Join(dir, "filler")); err != nil {
		t.Fatal(err)
	}
	if p, err = process.Start(bin, data); err != nil {
		t.Fatal(fmt.Errorf("with room again: %w", err))
	}
	works(t, "with room again", p.Base)
	p.Kill()
}
