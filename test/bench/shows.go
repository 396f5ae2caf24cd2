package main

import (
	"bytes"
	"crypto/rand"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"io"
	"net/http"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// A large show: so many keys, and so many pictures of about a megabyte.
const (
	largeKeys     = 5000
	largePictures = 100
)

// largeShows measures how long the shows of a data folder take: exported, looked at, imported, opened, kept as a version, copied.
// The floor is what it takes to go through as many bytes once.
func largeShows() error {
	a, end, err := inOwnFolder()
	if err != nil {
		return err
	}
	defer end()
	base := "http://" + a.Addr
	if err := fillLarge(a, base); err != nil {
		return err
	}
	took := func(what string, do func() error) (time.Duration, error) {
		began := time.Now()
		err := do()
		d := time.Since(began)
		if err != nil {
			return d, fmt.Errorf("%s: %w", what, err)
		}
		return d, nil
	}
	var archive []byte
	export, err := took("export", func() (err error) {
		archive, err = fetch(http.MethodGet, base+"/api/v1/archive?assumptions=none", nil)
		return err
	})
	if err != nil {
		return err
	}
	began := time.Now()
	sum := sha256.Sum256(archive)
	floor := time.Since(began)
	fmt.Printf("%d keys, %d pictures, an archive of %.0f MB (%x); floor, to go through its bytes once: %v\n", largeKeys, largePictures, float64(len(archive))/1e6, sum[:3], floor.Round(time.Millisecond))
	say := func(what string, d time.Duration) {
		fmt.Printf("  %-44s %8v  %5.1f × the floor\n", what, d.Round(time.Millisecond), float64(d)/float64(floor))
	}
	say("export", export)
	var doc struct{ Token string }
	look, err := took("look", func() error { return into(http.MethodPost, base+"/api/v1/archives", archive, &doc) })
	if err != nil {
		return err
	}
	say("look at the archive", look)
	var made struct{ ID string }
	add, err := took("import", func() error {
		return into(http.MethodPost, base+"/api/v1/archives/"+doc.Token+"/show", []byte(`{"name":"Imported"}`), &made)
	})
	if err != nil {
		return err
	}
	say("add it as a show, every picture checked", add)
	open, err := took("open", func() error {
		if _, err := fetch(http.MethodPost, base+"/api/v1/shows/"+made.ID+"/open", []byte("{}")); err != nil {
			return err
		}
		_, err := fetch(http.MethodGet, base+"/api/v1/show", nil)
		return err
	})
	if err != nil {
		return err
	}
	say("open it, until the show is told", open)
	keep, err := took("version", func() error {
		_, err := fetch(http.MethodPost, base+"/api/v1/versions", []byte(`{"name":"Large"}`))
		return err
	})
	if err != nil {
		return err
	}
	say("keep a version", keep)
	back, err := took("copy", func() error { _, err := fetch(http.MethodPost, base+"/api/v1/backups", nil); return err })
	if err != nil {
		return err
	}
	say("copy the data folder, looked through", back)
	return nil
}

// fillLarge fills the empty show that is open.
func fillLarge(a *app.App, base string) error {
	who := edit.Who{Session: "bench", Actor: "bench"}
	if _, err := fetch(http.MethodPost, base+"/api/v1/controllers", []byte(`{"name":"Grid","layout":"grid-6x4"}`)); err != nil {
		return err
	}
	profile := a.Edit.Program().Show.Profiles()[0].ID
	err := a.Edit.Fill(who, "A large show", func(d *show.Draft) {
		for i := range largeKeys {
			page := fmt.Sprintf("page-%d", i/24)
			if i%24 == 0 {
				d.Put(&show.Page{ID: page, Slug: page, Name: fmt.Sprintf("Page %d", i/24), Profile: profile, Layout: "grid-6x4", Zone: "keys", Position: i / 24})
			}
			d.Put(&show.Mapping{ID: fmt.Sprintf("key-%d", i), Placements: []show.Placement{{Page: page, Control: fmt.Sprintf("%c%d", 'a'+i%6, 1+i%24/6)}},
				Responses: []show.Response{{Gesture: "press", Action: show.Call{Device: "synaptor", Action: "page-home"}}}, Face: show.Face{Label: fmt.Sprintf("Key %d", i)}})
		}
	})
	if err != nil {
		return err
	}
	for i := range largePictures {
		var b bytes.Buffer
		noise := image.NewNRGBA(image.Rect(0, 0, 512, 512))
		_, _ = rand.Read(noise.Pix) // it never fails
		if err := png.Encode(&b, noise); err != nil {
			return err
		}
		if _, err := fetch(http.MethodPost, fmt.Sprintf("%s/api/v1/media?name=Noise%%20%d", base, i), b.Bytes()); err != nil {
			return err
		}
	}
	return nil
}

// into makes a request and decodes the answer.
func into(method, url string, body []byte, out any) error {
	raw, err := fetch(method, url, body)
	if err != nil {
		return err
	}
	return json.Unmarshal(raw, out)
}

// fetch makes a request and gives the bytes of the answer.
func fetch(method, url string, body []byte) ([]byte, error) {
	req, err := http.NewRequest(method, url, bytes.NewReader(body))
	if err != nil {
		return nil, err
	}
	req.Header.Set("Content-Type", "application/json")
	resp, err := http.DefaultClient.Do(req)
	if err != nil {
		return nil, err
	}
	defer resp.Body.Close()
	raw, err := io.ReadAll(resp.Body)
	if err == nil && resp.StatusCode >= 300 {
		err = fmt.Errorf("%s: %s", resp.Status, raw)
	}
	return raw, err
}
