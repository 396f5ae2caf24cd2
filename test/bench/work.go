package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
)

// What the large show has for measuring beside work: a macro that takes long to be
// rehearsed, and one that goes on dispatching until it is halted.
const (
	workSteps = 1900
	halts     = 300
)

// addMacros puts the macros of the measurement into the large show, and the second one
// on a key.
func addMacros(d *show.Draft) {
	preview := func(i int) *show.Call {
		return &show.Call{Device: "sw", Action: "put-on-preview", Params: map[string]string{"mix": "1", "input": strconv.Itoa(1 + i%6)}}
	}
	d.Put(&show.Macro{ID: "work", Slug: "work", Name: "Work"})
	for i := range workSteps {
		d.Put(&show.Step{ID: fmt.Sprint("work", i), Macro: "work", Position: i, Kind: macro.Do, Action: preview(i)})
	}
	d.Put(&show.Macro{ID: "flow", Slug: "flow", Name: "Flow", OnError: "go-on"})
	d.Put(&show.Step{ID: "again", Macro: "flow", Kind: macro.Repeat, Count: macro.MaxCount})
	for i := range 6 {
		d.Put(&show.Step{ID: fmt.Sprint("flow", i), Macro: "flow", Parent: "again", Position: 2 * i, Kind: macro.Do, Action: preview(i)})
		d.Put(&show.Step{ID: fmt.Sprint("wait", i), Macro: "flow", Parent: "again", Position: 2*i + 1, Kind: macro.Wait, Ms: 3})
	}
	d.ClearPlacement("page000", "f4")
	d.Put(&show.Mapping{ID: "flow", Placements: []show.Placement{{Page: "page000", Control: "f4"}}, Responses: []show.Response{{Gesture: "press",
		Action: show.Call{Device: "synaptor", DeviceName: "Synaptor", Action: "run", Params: map[string]string{"macro": "flow"}}}}})
}

// work rehearses and edits without a pause until it is stopped, and counts both.
func work(addr string) (stop func() (rehearsals, edits int)) {
	ctx, cancel := context.WithCancel(context.Background())
	var wg sync.WaitGroup
	rehearsals, edits := 0, 0
	call := func(method, path string, body any) bool {
		raw, _ := json.Marshal(body) // of texts
		req, err := http.NewRequestWithContext(ctx, method, "http://"+addr+path, bytes.NewReader(raw))
		if err != nil {
			return false
		}
		resp, err := http.DefaultClient.Do(req)
		if err != nil {
			return false
		}
		_, _ = io.Copy(io.Discard, resp.Body)
		_ = resp.Body.Close()
		return resp.StatusCode < 300
	}
	wg.Go(func() {
		for ctx.Err() == nil {
			if call(http.MethodGet, "/api/v1/macros/work/rehearsal", nil) {
				rehearsals++
			}
		}
	})
	wg.Go(func() {
		for i := 0; ctx.Err() == nil; i++ {
			if call(http.MethodPut, "/api/v1/pages/page001", map[string]any{"name": fmt.Sprint("page ", i)}) {
				edits++
			}
			time.Sleep(50 * time.Millisecond)
		}
	})
	return func() (int, int) {
		cancel()
		wg.Wait()
		return rehearsals, edits
	}
}

// haltTimes runs and halts a macro, and notes how long after the request its last command
// was dispatched, and a client's face said that it was halted; inside counts from when
// Synaptor had read the request.
// floor is what a bare HTTP request takes until a bare live socket says so, right after each halt.
func haltTimes(addr, relayAddr string) (inside, dispatch, faces, floor []time.Duration, err error) {
	ws, _, err := websocket.Dial(context.Background(), "ws://"+addr+"/api/v1/live", nil)
	if err != nil {
		return nil, nil, nil, nil, err
	}
	defer func() { _ = ws.CloseNow() }()
	ws.SetReadLimit(16 << 20)
	topics, _ := json.Marshal(map[string]any{"topics": []string{"page:page000", "runs"}})
	if err := ws.Write(context.Background(), websocket.MessageText, topics); err != nil {
		return nil, nil, nil, nil, err
	}
	bare, _, err := websocket.Dial(context.Background(), "ws://"+relayAddr, nil)
	if err != nil {
		return nil, nil, nil, nil, err
	}
	defer func() { _ = bare.CloseNow() }()
	f := &feedOf{ws: ws, values: map[string]json.RawMessage{}}
	for range halts {
		id, err := post(addr, "/api/v1/macros/flow/run")
		if err != nil {
			return nil, nil, nil, nil, err
		}
		if err := f.until(func() bool { return len(f.run(id).Steps) > 2 }); err != nil {
			return nil, nil, nil, nil, err
		}
		sent := time.Now()
		halted, err := post(addr, "/api/v1/halt")
		if err != nil {
			return nil, nil, nil, nil, err
		}
		var face struct{ Run struct{ ID, State string } }
		err = f.until(func() bool {
			return json.Unmarshal(f.values["face/flow"], &face) == nil && face.Run.ID == id && face.Run.State == "halted"
		})
		if err != nil {
			return nil, nil, nil, nil, err
		}
		faces = append(faces, f.at.Sub(sent))
		if err := f.until(func() bool { return f.run(id).Ended }); err != nil {
			return nil, nil, nil, nil, err
		}
		row := f.run(id)
		last := row.Started.Add(time.Duration(row.Steps[len(row.Steps)-1].DispatchedUs) * time.Microsecond)
		dispatch = append(dispatch, max(0, last.Sub(sent)))
		read, err := readAt(addr, halted)
		if err != nil {
			return nil, nil, nil, nil, err
		}
		inside = append(inside, max(0, last.Sub(read)))
		began := time.Now()
		if _, err := post(relayAddr, "/halt"); err != nil {
			return nil, nil, nil, nil, err
		}
		if _, _, err := bare.Read(context.Background()); err != nil {
			return nil, nil, nil, nil, err
		}
		floor = append(floor, time.Since(began))
	}
	return inside, dispatch, faces, floor, nil
}

// readAt is when Synaptor had read the request of a journal entry.
func readAt(addr, entry string) (time.Time, error) {
	resp, err := http.Get("http://" + addr + "/api/v1/journal/" + entry)
	if err != nil {
		return time.Time{}, err
	}
	defer resp.Body.Close()
	var e struct{ At time.Time }
	return e.At, json.NewDecoder(resp.Body).Decode(&e)
}

// post makes a request without a body and gives the id it is answered with.
func post(addr, path string) (string, error) {
	resp, err := http.Post("http://"+addr+path, "application/json", strings.NewReader("{}"))
	if err != nil {
		return "", err
	}
	defer resp.Body.Close()
	var out struct{ ID string }
	if err := json.NewDecoder(resp.Body).Decode(&out); err != nil {
		return "", err
	}
	if resp.StatusCode >= 300 {
		return "", fmt.Errorf("%s: %s", path, resp.Status)
	}
	return out.ID, nil
}

// feedOf is what a live client knows.
type feedOf struct {
	ws     *websocket.Conn
	values map[string]json.RawMessage
	at     time.Time // of the last message
}

func (f *feedOf) until(holds func() bool) error {
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	for !holds() {
		_, raw, err := f.ws.Read(ctx)
		if err != nil {
			return fmt.Errorf("the live feed: %w", err)
		}
		f.at = time.Now()
		var m struct{ Values map[string]json.RawMessage }
		if err := json.Unmarshal(raw, &m); err != nil {
			return err
		}
		for k, v := range m.Values {
			f.values[k] = v
		}
	}
	return nil
}

func (f *feedOf) run(id string) (row engine.RunRow) {
	_ = json.Unmarshal(f.values["run/"+id], &row) // not there yet: empty
	return row
}

// beside measures inputs and halts while rehearsals and edits go on.
func beside(dev *child, web, oscIn, relayAddr string) error {
	stop := work(web)
	ours, bare, err := inputs(dev, oscIn, relayAddr)
	if err != nil {
		return err
	}
	inside, dispatch, faces, floor, err := haltTimes(web, relayAddr)
	if err != nil {
		return err
	}
	rehearsals, edits := stop()
	fmt.Printf("beside rehearsals of %d steps and edits without a pause (%d rehearsals, %d edits)\n", workSteps, rehearsals, edits)
	report(ours, bare)
	fmt.Println("halt is read → last command dispatched ", describe(inside))
	fmt.Println("halt → the last command is dispatched  ", describe(dispatch))
	fmt.Println("halt → the face of a client says so    ", describe(faces))
	fmt.Println("floor: bare request → a bare socket    ", describe(floor))
	fmt.Println()
	return nil
}

// report prints what an input took beside the floor.
func report(ours, bare []time.Duration) {
	a, b := describe(ours), describe(bare)
	fmt.Println("microseconds                             median     p95     p99   worst")
	fmt.Println("input → command at the device          ", a)
	fmt.Println("floor: bare relay, UDP → TCP           ", b)
	fmt.Printf("ratio to the floor                      %8.2f%8.2f%8.2f\n\n", ratio(a.median, b.median), ratio(a.p95, b.p95), ratio(a.p99, b.p99))
}
