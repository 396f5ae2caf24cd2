package kill

import (
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"synaptor/test/process"
)

// archived is the show that is open, as an archive.
func (p *life) archived() []byte {
	p.Helper()
	resp, err := http.Get(p.Base + "/api/v1/archive?assumptions=none")
	if err != nil {
		p.Fatal(err)
	}
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	if err != nil || resp.StatusCode != http.StatusOK {
		p.Fatalf("the archive: %d, %v", resp.StatusCode, err)
	}
	return body
}

// imports adds the show of an archive; ok is false when nobody has acknowledged it.
func (p *life) imports(archive []byte) (id string, ok bool) {
	resp, err := http.Post(p.Base+"/api/v1/archives", "application/octet-stream", bytes.NewReader(archive))
	if err != nil {
		return "", false
	}
	defer resp.Body.Close()
	raw, err := io.ReadAll(resp.Body)
	_, rest, found := strings.Cut(string(raw), `"token":"`)
	token, _, _ := strings.Cut(rest, `"`)
	if err != nil || !found {
		return "", false
	}
	var made struct{ ID string }
	ok = p.call("POST", "/api/v1/archives/"+token+"/show", map[string]any{"name": "Imported"}, &made)
	return made.ID, ok
}

type shows struct {
	Open  string
	Shows []struct{ ID, Name, Problem string }
}

// TestKillingSynaptorWhileItImportsCopiesAndGoesBackLosesNothing: a show that was acknowledged is there, one that was not is
// there as a whole or not at all; the show that is open is as it was, or as it was to become; every copy is good.
func TestKillingSynaptorWhileItImportsCopiesAndGoesBackLosesNothing(t *testing.T) {
	bin, err := process.Build(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	data := t.TempDir()
	first, err := process.Start(bin, data, "--bench-ports", "0")
	if err != nil {
		t.Fatal(err)
	}
	p := &life{t, first, bin, data}
	p.call("POST", "/api/v1/demo", nil, nil)
	var list shows
	p.call("GET", "/api/v1/shows", nil, &list)
	for _, s := range list.Shows {
		if s.Name == "Meteor Night" {
			p.call("POST", "/api/v1/shows/"+s.ID+"/open", map[string]any{"sure": true}, nil)
		}
	}
	archive := p.archived()
	var version struct{ ID int64 }
	p.call("POST", "/api/v1/versions", map[string]any{"name": "First"}, &version)
	back := fmt.Sprintf("/api/v1/versions/%d/restore", version.ID)
	p.call("DELETE", "/api/v1/pages/replay", nil, nil)
	without := p.archived()
	p.call("POST", back, nil, nil)
	random := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 2))
	acknowledged := map[string]bool{}
	for range max(5, kills(t)/4) {
		began, ended := make(chan struct{}, 3), make(chan string, 1000)
		go func() {
			defer close(ended)
			began <- struct{}{}
			for range 5 { // deleted ones are kept too, and there is a most
				id, ok := p.imports(archive)
				if !ok {
					return
				}
				ended <- id
			}
		}()
		go func() {
			began <- struct{}{}
			for p.call("POST", "/api/v1/backups", nil, nil) {
			}
		}()
		go func() {
			began <- struct{}{}
			for p.call("DELETE", "/api/v1/pages/replay", nil, nil) && p.call("POST", back, nil, nil) {
			}
		}()
		for range 3 {
			<-began
		}
		time.Sleep(time.Duration(random.IntN(300)) * time.Millisecond) // anywhere: this is what is tried
		p.Kill()
		for id := range ended {
			acknowledged[id] = true
		}
		p = p.again()
		if again := p.archived(); !bytes.Equal(again, archive) && !bytes.Equal(again, without) {
			t.Fatal("the show that is open is neither what it was nor what it was to become")
		}
		p.call("POST", back, nil, nil)
		if !bytes.Equal(p.archived(), archive) {
			t.Fatal("the version does not come back")
		}
		p.wholeShows(acknowledged)
		p.goodCopies(bin)
	}
	p.Kill()
}

// wholeShows holds that each show that is listed can be read, and that those are listed which were acknowledged.
func (p *life) wholeShows(acknowledged map[string]bool) {
	p.Helper()
	var list shows
	if !p.call("GET", "/api/v1/shows", nil, &list) {
		p.Fatal("it does not answer after a kill")
	}
	there := map[string]bool{}
	for _, s := range list.Shows {
		if there[s.ID] = true; s.Problem != "" {
			p.Fatalf("the show %s: %s", s.Name, s.Problem)
		}
	}
	for id := range acknowledged {
		if !there[id] {
			p.Fatalf("the show %s was acknowledged, and is not there", id)
		}
	}
}

// goodCopies holds that the newest copy becomes a data folder in which Synaptor starts.
func (p *life) goodCopies(bin string) {
	p.Helper()
	found, err := filepath.Glob(filepath.Join(p.data, "backups", "2*"))
	if err != nil || len(found) == 0 {
		return
	}
	folder := filepath.Join(p.TempDir(), "restored")
	if err := os.CopyFS(folder, os.DirFS(found[len(found)-1])); err != nil {
		p.Fatal(err)
	}
	again := start(p.T, bin, folder)
	defer again.Kill()
	var list shows
	if !again.call("GET", "/api/v1/shows", nil, &list) || len(list.Shows) == 0 {
		p.Fatalf("the copy %s has no show", found[len(found)-1])
	}
	for _, s := range list.Shows {
		if s.Problem != "" {
			p.Fatalf("in the copy the show %s: %s", s.Name, s.Problem)
		}
	}
}
