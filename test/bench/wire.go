package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"slices"
	"strings"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/link/osc"
	"synaptor/internal/wire"
)

// Bridges of the measurement, each with a controller of 24 keys with pictures; how many changes of faces are measured, and how long after
// each other: a key gets no two faces within 40 ms.
const (
	bridgesHere = 8
	faceSamples = 400
	facePace    = 60 * time.Millisecond
	pixels      = 72
)

func serial(i int) string { return fmt.Sprint("bench-", i) }

// addLinks attaches the boards of the bridges to the controller.
func addLinks(d *show.Draft) {
	for i := range bridgesHere {
		d.Put(&show.Link{ID: serial(i), Controller: "g", Kind: show.LinkWire, Match: serial(i), Position: i})
	}
}

// bridged is a bridge that is connected, and what its keys show: when a face came, and of which control.
type bridged struct {
	ws    *websocket.Conn
	seq   int64
	faces chan lit
}

// lit is a key that shows the preview state.
type lit struct {
	at      time.Time
	control string
}

// bridge connects one, which acknowledges what it is shown.
func bridge(addr string, i int) (*bridged, error) {
	ws, _, err := websocket.Dial(context.Background(), "ws://"+addr+"/api/v1/wire", nil)
	if err != nil {
		return nil, err
	}
	ws.SetReadLimit(1 << 20)
	b := &bridged{ws: ws, faces: make(chan lit, 1000)}
	hello := wire.Hello{Type: wire.TypeHello, Version: wire.Newest, Bridge: serial(i), Controllers: []wire.Controller{
		{Serial: serial(i), Layout: "grid-6x4", Shows: map[string]wire.Shows{"*": {Width: pixels, Height: pixels, Picture: "png"}}}}}
	if err := b.say(hello); err != nil {
		return nil, err
	}
	go func() {
		for b.say(wire.Heartbeat{Type: wire.TypeBeat}) == nil {
			time.Sleep(wire.Beat)
		}
	}()
	go b.hear()
	return b, nil
}

func (b *bridged) say(m any) error {
	raw, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return b.ws.Write(context.Background(), websocket.MessageText, raw)
}

func (b *bridged) hear() {
	defer close(b.faces)
	for {
		kind, raw, err := b.ws.Read(context.Background())
		if err != nil {
			return
		}
		at := time.Now()
		var f wire.Face
		if kind != websocket.MessageText || json.Unmarshal(raw, &f) != nil || f.Type != wire.TypeFace || f.Lost {
			continue
		}
		if b.say(wire.Ack{Type: wire.TypeAck, Seq: f.Seq}) != nil {
			return
		}
		if slices.Contains(f.Shapes, "preview") && !slices.Contains(f.Shapes, "pending-preview") {
			if len(b.faces) == cap(b.faces) {
				<-b.faces
			}
			b.faces <- lit{at, f.Control}
		}
	}
}

// press presses a key: Synaptor hears the up as well, a moment later.
func (b *bridged) press(control string) error {
	b.seq += 2
	if err := b.say(wire.Input{Type: wire.TypeDown, Controller: serial(0), Control: control, Seq: b.seq - 1}); err != nil {
		return err
	}
	up := wire.Input{Type: wire.TypeUp, Controller: serial(0), Control: control, Seq: b.seq}
	time.AfterFunc(pace/2, func() { _ = b.say(up) }) // it may have ended
	return nil
}

// byWire measures inputs by the wire beside the floor, and how soon faces are on the sockets of eight bridges.
func byWire(dev *child, web, oscIn, relayAddr, driven string) error {
	var all []*bridged
	for i := range bridgesHere {
		b, err := bridge(web, i)
		if err != nil {
			return err
		}
		defer func() { _ = b.ws.CloseNow() }()
		all = append(all, b)
		if i > 0 {
			continue
		}
		fmt.Println("by the wire, from a bridge whose controller shows what is pressed")
		ours, bare, err := pressed(dev, b.press, relayAddr)
		if err != nil {
			return err
		}
		report(ours, bare)
		fmt.Println("by OSC, beside the same bridge")
		if ours, bare, err = inputs(dev, oscIn, relayAddr); err != nil {
			return err
		}
		report(ours, bare)
		datagram, message, err := transports()
		if err != nil {
			return err
		}
		fmt.Printf("nothing but a datagram, handed over                   %s\n", describe(datagram))
		fmt.Printf("nothing but a message by WebSocket, handed over       %s\n\n", describe(message))
	}
	live, err := faceFeed(web)
	if err != nil {
		return err
	}
	first, last, beyond, err := facesOf(dev, all, live, driven)
	if err != nil {
		return err
	}
	fmt.Printf("face at a live client → at all %d bridges             %s\n", bridgesHere, describe(beyond))
	fmt.Printf("device change → face of %d pixels at the first bridge %s\n", pixels, describe(first))
	fmt.Printf("device change → face at all %d bridges of 24 keys     %s\n\n", bridgesHere, describe(last))
	return nil
}

// faceFeed is a live client of the page, which tells when the key of a preview shows it: what the bridges' faces are held against.
func faceFeed(addr string) (<-chan lit, error) {
	ws, _, err := websocket.Dial(context.Background(), "ws://"+addr+"/api/v1/live", nil)
	if err != nil {
		return nil, err
	}
	ws.SetReadLimit(16 << 20)
	if err := ws.Write(context.Background(), websocket.MessageText, []byte(`{"topics":["page:page000"]}`)); err != nil {
		return nil, err
	}
	out := make(chan lit, 1000)
	go func() {
		defer close(out)
		for {
			_, raw, err := ws.Read(context.Background())
			if err != nil {
				return
			}
			at := time.Now()
			var d struct {
				Values map[string]struct {
					Mapping     string
					On, Pending []string
				}
			}
			if json.Unmarshal(raw, &d) != nil {
				continue
			}
			for _, f := range d.Values {
				control, of := strings.CutPrefix(f.Mapping, "page000")
				if of && slices.Contains(f.On, "preview") && len(f.Pending) == 0 {
					if len(out) == cap(out) {
						<-out
					}
					out <- lit{at, control}
				}
			}
		}
	}()
	return out, nil
}

// awaited waits until a key shows the preview after a moment.
func awaited(faces <-chan lit, control string, after time.Time) (time.Time, error) {
	late := time.After(5 * time.Second)
	for {
		select {
		case f, open := <-faces:
			if !open {
				return time.Time{}, errors.New("a bridge lost its socket")
			}
			if f.control == control && f.at.After(after) {
				return f.at, nil
			}
		case <-late:
			return time.Time{}, fmt.Errorf("%s did not show its preview: the machine is too busy to measure this", control)
		}
	}
}

// facesOf changes the preview at the device, and notes when the key of it shows that on each board, and how long after a live client.
func facesOf(dev *child, all []*bridged, live <-chan lit, addr string) (first, last, beyond []time.Duration, err error) {
	hand, err := net.Dial("tcp", addr)
	if err != nil {
		return nil, nil, nil, err
	}
	defer hand.Close()
	for i := range faceSamples {
		time.Sleep(facePace)
		preview := 1 + i%6
		p, err := osc.Encode(device.Message{Address: "/mix/1/preview", Args: []any{preview}})
		if err != nil {
			return nil, nil, nil, err
		}
		sent := time.Now()
		if _, err := hand.Write(osc.AppendFrame(nil, p)); err != nil {
			return nil, nil, nil, err
		}
		if i == 0 {
			continue // it may be so already
		}
		for {
			c, err := next(dev)
			if err != nil {
				return nil, nil, nil, err
			}
			if c.which == 0 && c.preview == preview {
				break
			}
		}
		var early, late time.Time
		for _, b := range all {
			at, err := awaited(b.faces, device.CellID(preview-1, 1), sent)
			if err != nil {
				return nil, nil, nil, err
			}
			if early.IsZero() || at.Before(early) {
				early = at
			}
			if at.After(late) {
				late = at
			}
		}
		at, err := awaited(live, device.CellID(preview-1, 1), sent)
		if err != nil {
			return nil, nil, nil, err
		}
		first, last, beyond = append(first, early.Sub(sent)), append(last, late.Sub(sent)), append(beyond, max(0, late.Sub(at)))
	}
	return first, last, beyond, nil
}
