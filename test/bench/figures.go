package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/core/device"
	"synaptor/internal/journal"
	"synaptor/internal/link/osc"
)

// inputs sends the same press to Synaptor and to the relay, one right after the
// other and each first in turn, so that both meet the same load, and notes when
// each reached its device.
func inputs(dev *child, oscIn, relayAddr string) (ours, bare []time.Duration, err error) {
	syn, err := net.Dial("udp", oscIn)
	if err != nil {
		return nil, nil, err
	}
	presses := map[string][]byte{}
	for i := range 6 {
		control := device.CellID(i, 0)
		if presses[control], err = osc.Encode(device.Message{Address: fmt.Sprintf("/synaptor/producer-grid/%s/press", control)}); err != nil {
			return nil, nil, err
		}
	}
	return pressed(dev, func(control string) error {
		_, err := syn.Write(presses[control])
		return err
	}, relayAddr)
}

// pressed is inputs with any way to press a key.
func pressed(dev *child, press func(control string) error, relayAddr string) (ours, bare []time.Duration, err error) {
	rel, err := net.Dial("udp", relayAddr)
	if err != nil {
		return nil, nil, err
	}
	for i := range warmUp + samples {
		input := 1 + i%6
		cut, err := osc.Encode(device.Message{Address: "/mix/1/program", Args: []any{input}})
		if err != nil {
			return nil, nil, err
		}
		time.Sleep(pace)
		var sent [2]time.Time
		for _, which := range []int{i / 6 % 2, 1 - i/6%2} {
			sent[which] = time.Now()
			if which == 0 {
				err = press(device.CellID(input-1, 0))
			} else {
				_, err = rel.Write(cut)
			}
			if err != nil {
				return nil, nil, err
			}
		}
		var got [2]time.Time
		for got[0].IsZero() || got[1].IsZero() {
			c, err := next(dev)
			if err != nil {
				return nil, nil, err
			}
			if c.program == input && got[c.which].IsZero() {
				got[c.which] = c.at
			}
		}
		if i >= warmUp {
			ours, bare = append(ours, got[0].Sub(sent[0])), append(bare, got[1].Sub(sent[1]))
		}
	}
	return ours, bare, nil
}

// shown is what a switcher shows after a change.
type shown struct {
	which, program, preview int
	at                      time.Time
}

// next waits for a change at one of the switchers.
func next(dev *child) (shown, error) {
	line, err := dev.lines.ReadString('\n')
	if err != nil {
		return shown{}, err
	}
	var s shown
	var ns int64
	_, err = fmt.Sscan(line, &s.which, &s.program, &s.preview, &ns)
	s.at = time.Unix(0, ns)
	return s, err
}

// seen is a delta that a live client got: when, and which preview it shows.
type seen struct {
	at      time.Time
	preview string
}

// follow connects the live clients; each follows the readings and the first
// page.
func follow(addr string) ([]chan seen, error) {
	var out []chan seen
	for range clients {
		ws, _, err := websocket.Dial(context.Background(), "ws://"+addr+"/api/v1/live", nil)
		if err != nil {
			return nil, err
		}
		ws.SetReadLimit(16 << 20)
		topics, _ := json.Marshal(map[string]any{"topics": []string{"readings:sw", "page:page000"}})
		if err := ws.Write(context.Background(), websocket.MessageText, topics); err != nil {
			return nil, err
		}
		ch := make(chan seen, 1000)
		go func() {
			defer close(ch) // whoever waits for it is told
			for {
				_, raw, err := ws.Read(context.Background())
				if err != nil {
					return
				}
				at := time.Now()
				_, rest, ok := strings.Cut(string(raw), `"path":"mix/1/preview","value":`)
				v, _, more := strings.Cut(rest, ",")
				if !ok || !more {
					continue
				}
				if len(ch) == cap(ch) {
					<-ch // nobody waits for the oldest, and a client that stops reading is cut off
				}
				ch <- seen{at, v}
			}
		}()
		out = append(out, ch)
	}
	return out, nil
}

// deltas changes the preview at the device and notes when the clients know.
func deltas(dev *child, live []chan seen, addr string) (first, last []time.Duration, err error) {
	hand, err := net.Dial("tcp", addr)
	if err != nil {
		return nil, nil, err
	}
	tell := func(preview int) error {
		p, err := osc.Encode(device.Message{Address: "/mix/1/preview", Args: []any{preview}})
		if err != nil {
			return err
		}
		_, err = hand.Write(osc.AppendFrame(nil, p))
		return err
	}
	// Whatever was measured before has left some preview or other, and what is so already is no change.
	if err := tell(3); err != nil {
		return nil, nil, err
	}
	for i := range samples / 3 {
		time.Sleep(pace)
		preview := 1 + (i+3)%6
		sent := time.Now()
		if err := tell(preview); err != nil {
			return nil, nil, err
		}
		for {
			c, err := next(dev)
			if err != nil {
				return nil, nil, err
			}
			if c.which == 0 && c.preview == preview {
				break
			}
		}
		var early, late time.Duration
		for _, ch := range live {
			found := false
			for s := range ch {
				if s.preview == fmt.Sprint(preview) && s.at.After(sent) {
					d := s.at.Sub(sent)
					if early == 0 || d < early {
						early = d
					}
					late = max(late, d)
					found = true
					break
				}
			}
			if !found {
				return nil, nil, errors.New("a live client lost its socket")
			}
		}
		first, last = append(first, early), append(last, late)
	}
	return first, last, nil
}

// stages prints how far inside Synaptor the last thousand inputs were at each
// stage, as their traces tell.
func stages(addr string) error {
	resp, err := http.Get("http://" + addr + "/api/v1/journal?limit=1000")
	if err != nil {
		return err
	}
	defer resp.Body.Close()
	var entries []journal.Entry
	if err := json.NewDecoder(resp.Body).Decode(&entries); err != nil {
		return err
	}
	at := map[string][]time.Duration{}
	for _, e := range entries {
		for _, s := range e.Steps {
			at[s.Stage] = append(at[s.Stage], time.Duration(s.OffsetUs)*time.Microsecond)
		}
	}
	for _, stage := range []string{journal.StageDecision, journal.StageDispatch, journal.StageWire, journal.StageConfirm, journal.StageFace} {
		if len(at[stage]) > 0 {
			fmt.Printf("  datagram read → %-23s %s\n", stage, describe(at[stage]))
		}
	}
	fmt.Println()
	return nil
}
