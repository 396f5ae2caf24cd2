package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"sync/atomic"

	"github.com/coder/websocket"
)

// The crowd: as many panels as a large house would ever have, over a few sessions each.
const (
	panels       = 1000
	panelPersons = 50
)

// crowd measures an input while nobody has to be known, then as a program whose rights are asked for at every command, then beside a thousand
// panels that are connected.
func crowd() error {
	dev, addrs, err := run("devices")
	if err != nil {
		return err
	}
	defer dev.stop()
	driven, floor, _ := strings.Cut(addrs, " ")
	syn, where, err := run("synaptor", driven, "")
	if err != nil {
		return err
	}
	defer syn.stop()
	rel, relayAddr, err := run("relay", floor)
	if err != nil {
		return err
	}
	defer rel.stop()
	web, oscIn, _ := strings.Cut(where, " ")
	measured := func(title string) error {
		fmt.Println(title)
		ours, bare, err := inputs(dev, oscIn, relayAddr)
		if err != nil {
			return err
		}
		report(ours, bare)
		return nil
	}
	if err := measured("while nobody has to be known"); err != nil {
		return err
	}
	owner, err := newGuest(web)
	if err != nil {
		return err
	}
	if err := owner.call("POST", "/api/v1/claim", map[string]any{"name": "Tobin", "passphrase": "seven bright meteors"}, nil); err != nil {
		return err
	}
	rights := map[string]any{"controllers": []string{"g"}, "changes": []string{"a:*", "b:*", "sw:mix/1/*", "sw:mix/2/*"}}
	if err := owner.call("POST", "/api/v1/tokens", map[string]any{"name": "Bench", "role": "operator", "terms": map[string]any{"from": "127.0.0.1", "rights": rights}}, nil); err != nil {
		return err
	}
	if err := measured("as a program with rights to four patterns"); err != nil {
		return err
	}
	for _, look := range []struct{ title, topic string }{{"whose keys are about something else", "page:none"}, {"whose lamps all change at each press", "page:page002"}} {
		here, stop, err := owner.gather(web, look.topic, rights)
		if err != nil {
			return err
		}
		err = measured(fmt.Sprintf("beside %d panels of %d tablets %s", panels, panelPersons, look.title))
		fmt.Println(here.Load(), "panels are still there")
		stop()
		if err != nil {
			return err
		}
	}
	return nil
}

// guest is a browser.
type guest struct {
	base   string
	client *http.Client
}

func newGuest(web string) (*guest, error) {
	jar, err := cookiejar.New(nil)
	return &guest{"http://" + web, &http.Client{Jar: jar}}, err
}

// call makes a request and decodes the answer into out, where that is not nil.
func (g *guest) call(method, path string, body, out any) error {
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	req, err := http.NewRequest(method, g.base+path, bytes.NewReader(raw))
	if err != nil {
		return err
	}
	resp, err := g.client.Do(req)
	if err != nil {
		return err
	}
	defer resp.Body.Close()
	raw, err = io.ReadAll(resp.Body)
	if err == nil && resp.StatusCode >= 300 {
		err = fmt.Errorf("%s: %s %s", path, resp.Status, raw)
	}
	if err == nil && out != nil {
		err = json.Unmarshal(raw, out)
	}
	return err
}

// gather pairs tablets and connects their panels; here counts those that are connected.
func (g *guest) gather(web, topic string, rights map[string]any) (here *atomic.Int64, stop func(), err error) {
	ctx, cancel := context.WithCancel(context.Background())
	here = &atomic.Int64{}
	for i := range panelPersons {
		tablet, err := g.pair(web, fmt.Sprint("Tablet ", i, " ", topic), rights)
		for j := 0; err == nil && j < panels/panelPersons; j++ {
			err = tablet.look(ctx, web, topic, here)
		}
		if err != nil {
			cancel()
			return nil, nil, err
		}
	}
	return here, cancel, nil
}

// pair gives a browser to a new tablet.
func (g *guest) pair(web, name string, rights map[string]any) (*guest, error) {
	var who struct{ ID string }
	var p struct{ Link string }
	tablet, err := newGuest(web)
	tablet.client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse } // there is no panel to show
	if err == nil {
		err = g.call("POST", "/api/v1/people", map[string]any{"name": name, "role": "operator", "panel": true, "rights": rights}, &who)
	}
	if err == nil {
		err = g.call("POST", "/api/v1/people/"+who.ID+"/pairing", nil, &p)
	}
	if err != nil {
		return nil, err
	}
	resp, err := tablet.client.PostForm(tablet.base+p.Link, url.Values{})
	if err != nil {
		return nil, err
	}
	resp.Body.Close()
	if resp.StatusCode != http.StatusSeeOther {
		return nil, fmt.Errorf("pairing: %s", resp.Status)
	}
	return tablet, nil
}

// look connects a panel that follows a page.
func (g *guest) look(ctx context.Context, web, topic string, here *atomic.Int64) error {
	ws, _, err := websocket.Dial(ctx, "ws://"+web+"/api/v1/live", &websocket.DialOptions{HTTPClient: g.client})
	if err != nil {
		return err
	}
	ws.SetReadLimit(16 << 20)
	raw, err := json.Marshal(map[string]any{"topics": []string{topic}})
	if err != nil {
		return err
	}
	if err := ws.Write(ctx, websocket.MessageText, raw); err != nil {
		return err
	}
	here.Add(1)
	go func() {
		defer here.Add(-1)
		for {
			if _, _, err := ws.Read(ctx); err != nil {
				return
			}
		}
	}()
	return nil
}
