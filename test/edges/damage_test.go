// Package edges does to Synaptor what comes from outside and should not: damaged files, disks without room, and what
// takes more memory than there is. It runs as a process of its own.
package edges

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"synaptor/test/process"
)

// program is built once.
func program(t *testing.T) string {
	t.Helper()
	bin, err := process.Build(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	return bin
}

// call makes a request and gives the status with the answer; 0 where there is none.
func call(base, method, path string, body any) (status int, answer []byte) {
	raw, isRaw := body.([]byte)
	if !isRaw && body != nil {
		raw, _ = json.Marshal(body)
	}
	req, err := http.NewRequest(method, base+path, bytes.NewReader(raw))
	if err != nil {
		return 0, []byte(err.Error())
	}
	req.AddCookie(&http.Cookie{Name: "synaptor_session", Value: "THESAMESESSIONALLTHETIME"})
	resp, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, []byte(err.Error())
	}
	defer resp.Body.Close()
	answer, err = io.ReadAll(resp.Body)
	if err != nil {
		return 0, []byte(err.Error())
	}
	return resp.StatusCode, answer
}

// works notes what does not: reading the show and the journal, an edit, an undo and a press.
func works(t *testing.T, what, base string) {
	t.Helper()
	for _, c := range []struct {
		method, path string
		body         any
		status       int
	}{
		{"GET", "/api/v1/show", nil, 200}, {"GET", "/api/v1/journal", nil, 200}, {"POST", "/api/v1/profiles", map[string]string{"name": "After"}, 201},
		{"POST", "/api/v1/undo", nil, 200}, {"GET", "/healthz", nil, 200},
	} {
		if status, answer := call(base, c.method, c.path, c.body); status != c.status {
			t.Errorf("%s: %s %s answered %d %.300s", what, c.method, c.path, status, answer)
		}
	}
}

// edits counts the keys and profiles of the show.
func edits(t *testing.T, base string) int {
	t.Helper()
	var doc struct{ Mappings, Profiles []any }
	if status, body := call(base, "GET", "/api/v1/show", nil); status != 200 || json.Unmarshal(body, &doc) != nil {
		t.Fatalf("the show answered %d %.300s", status, body)
	}
	return len(doc.Mappings) + len(doc.Profiles)
}

// lived is a data folder of a demo that was killed, and how many things are in its show.
func lived(t *testing.T, bin string) (dir string, had int) {
	t.Helper()
	dir = t.TempDir()
	p, err := process.Start(bin, dir, "--demo", "--bench-ports", "0")
	if err != nil {
		t.Fatal(err)
	}
	for i := range 20 {
		call(p.Base, "POST", "/api/v1/profiles", map[string]string{"name": fmt.Sprintf("Night %d", i)})
		call(p.Base, "POST", "/api/v1/input/producer-grid/b1/press", nil)
	}
	had = edits(t, p.Base)
	p.Kill()
	write(t, filepath.Join(dir, "local.json"), []byte(`{"enabled": false}`))
	write(t, filepath.Join(dir, "sheets", "own.desk.json"), []byte(`{"sheet":"synaptor.controller/1","type":"own.desk","title":"Desk","zone":"keys","grid":{"columns":2,"rows":2}}`))
	return dir, had
}

func write(t *testing.T, path string, body []byte) {
	t.Helper()
	if err := os.WriteFile(path, body, 0o600); err != nil {
		t.Fatal(err)
	}
}

// spoilers are ways in which a file is damaged.
var spoilers = map[string]func(body []byte, r *rand.Rand) []byte{
	"rubbish": func([]byte, *rand.Rand) []byte { return bytes.Repeat([]byte("rubbish "), 600) },
	"empty":   func([]byte, *rand.Rand) []byte { return nil },
	"half":    func(b []byte, _ *rand.Rand) []byte { return b[:len(b)/2] },
	"zeros":   func(b []byte, _ *rand.Rand) []byte { return make([]byte, len(b)) },
	"flips": func(b []byte, r *rand.Rand) []byte {
		b = bytes.Clone(b)
		for range 1 + len(b)/500 {
			if len(b) > 0 {
				b[r.IntN(len(b))] ^= byte(1 << r.IntN(8))
			}
		}
		return b
	},
}

// filesIn lists the files of a folder, with those of its folders.
func filesIn(t *testing.T, dir string) (out []string) {
	t.Helper()
	err := filepath.WalkDir(dir, func(path string, d os.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			rel, _ := filepath.Rel(dir, path)
			out = append(out, rel)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// spoiled starts Synaptor in a copy of a folder with one file damaged. It has to run, or say which file is wrong and
// leave it as it is.
func spoiled(t *testing.T, bin, from, file, how string, had int, r *rand.Rand) {
	t.Helper()
	dir := filepath.Join(t.TempDir(), "data")
	if err := os.CopyFS(dir, os.DirFS(from)); err != nil {
		t.Fatal(err)
	}
	path, what := filepath.Join(dir, file), file+", "+how
	body, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	bad := spoilers[how](body, r)
	write(t, path, bad)
	p, err := process.Start(bin, dir)
	if err == nil {
		defer p.Kill()
		if _, journal := call(p.Base, "GET", "/api/v1/journal", nil); edits(t, p.Base) < had && !bytes.Contains(journal, []byte("The data was repaired")) {
			t.Errorf("%s: of %d things in the show %d are left, and nobody says so", what, had, edits(t, p.Base))
		}
		works(t, what, p.Base)
		return
	}
	said := err.Error()
	if !strings.Contains(said, path) || strings.Contains(said, "goroutine ") {
		t.Errorf("%s: it does not start, and says %s", what, said)
	}
	if !strings.HasPrefix(filepath.Base(file), "show.db") {
		t.Errorf("%s keeps it from starting: %s", what, said)
	}
	if after, err := os.ReadFile(path); err != nil || !bytes.Equal(after, bad) {
		t.Errorf("%s: the file was changed (%v): %s", what, err, said)
	}
}

func TestEachFileDamagedInTurn(t *testing.T) {
	bin := program(t)
	dir, had := lived(t, bin)
	r := rand.New(rand.NewPCG(1, 2))
	for _, file := range filesIn(t, dir) {
		for how := range spoilers {
			spoiled(t, bin, dir, file, how, had, r)
		}
	}
}

// TestDamageAtRandom flips a few bits of a random file; DAMAGES sets how often.
func TestDamageAtRandom(t *testing.T) {
	times := 4
	if s := os.Getenv("DAMAGES"); s != "" {
		n, err := strconv.Atoi(s)
		if err != nil {
			t.Fatalf("DAMAGES=%s: %v", s, err)
		}
		times = n
	}
	bin := program(t)
	dir, had := lived(t, bin)
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	files := filesIn(t, dir)
	for range times {
		spoiled(t, bin, dir, files[r.IntN(len(files))], "flips", had, r)
	}
}
