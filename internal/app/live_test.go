package app_test

import (
	"context"
	"encoding/json"
	"net"
	"net/http"
	"sync"
	"sync/atomic"
	"time"

	"github.com/coder/websocket"
)

// live is a live client that keeps what it was told.
type live struct {
	r      *rig
	ws     *websocket.Conn
	cable  *cable
	heard  chan []byte // what was read and not yet taken in; closed at the end of the connection
	seq    int64
	values map[string]json.RawMessage
	errs   []string
	end    error // why the connection ended, once heard is closed
}

func (r *rig) follow(topics ...string) *live {
	r.Helper()
	l := &live{r: r, cable: &cable{gone: make(chan struct{})}, heard: make(chan []byte, 10_000), values: map[string]json.RawMessage{}}
	client := &http.Client{Jar: r.client.Jar, Transport: &http.Transport{DialContext: l.cable.dial}}
	ws, _, err := websocket.Dial(context.Background(), r.base+"/api/v1/live", &websocket.DialOptions{HTTPClient: client, HTTPHeader: http.Header{"Origin": {r.base}}})
	if err != nil {
		r.Fatal(err)
	}
	ws.SetReadLimit(4 << 20)
	l.ws = ws
	r.Cleanup(l.close)
	// As a browser, which also hears when its page is busy: who does not read is taken for vanished, and what it holds is let go.
	go func() {
		defer close(l.heard)
		for {
			_, raw, err := ws.Read(context.Background())
			if err != nil {
				l.end = err
				return
			}
			l.heard <- raw
		}
	}()
	l.send(map[string]any{"topics": topics})
	l.next()
	return l
}

func (l *live) close() { _ = l.ws.CloseNow() }

// cable is the connection of a live client. Once it is dead nothing comes through it, and neither side is told.
type cable struct {
	net.Conn
	dead atomic.Bool
	once sync.Once
	gone chan struct{} // closed with the connection
}

func (c *cable) dial(ctx context.Context, network, addr string) (_ net.Conn, err error) {
	c.Conn, err = (&net.Dialer{}).DialContext(ctx, network, addr)
	return c, err
}

func (c *cable) Read(b []byte) (int, error) {
	n, err := c.Conn.Read(b)
	if c.dead.Load() {
		<-c.gone
		return 0, net.ErrClosed
	}
	return n, err
}

func (c *cable) Close() error {
	c.once.Do(func() { close(c.gone) })
	return c.Conn.Close()
}

func (l *live) send(m any) {
	l.r.Helper()
	raw, err := json.Marshal(m)
	if err == nil {
		err = l.ws.Write(context.Background(), websocket.MessageText, raw)
	}
	if err != nil {
		l.r.Fatal(err)
	}
}

func (l *live) touch(control, edge string, seq int) {
	l.r.Helper()
	l.send(map[string]any{"input": map[string]any{"controller": "producer-grid", "control": control, "edge": edge, "via": "panel", "seq": seq}})
}

// hear waits for a message; false: the connection has ended.
func (l *live) hear() ([]byte, bool) {
	l.r.Helper()
	select {
	case raw, open := <-l.heard:
		return raw, open
	case <-time.After(patience):
		l.r.Fatalf("the live socket says nothing; the journal ends with %s", l.r.lately())
		return nil, false
	}
}

// ends waits until the connection has been ended from the other side.
func (l *live) ends() {
	l.r.Helper()
	for open := true; open; {
		_, open = l.hear()
	}
}

// next takes in one message.
func (l *live) next() {
	l.r.Helper()
	raw, open := l.hear()
	if !open {
		l.r.Fatalf("live socket: %v; the journal ends with %s", l.end, l.r.lately())
	}
	var m struct {
		Type, Text string
		Seq        int64
		Values     map[string]json.RawMessage
	}
	if err := json.Unmarshal(raw, &m); err != nil {
		l.r.Fatal(err)
	}
	if m.Type == "error" {
		l.errs = append(l.errs, m.Text)
		return
	}
	if m.Seq != l.seq+1 {
		l.r.Fatalf("message %d came after %d", m.Seq, l.seq)
	}
	l.seq = m.Seq
	if m.Type == "snapshot" {
		l.values = map[string]json.RawMessage{}
	}
	for k, v := range m.Values {
		l.values[k] = v
	}
}

type face struct {
	Label   string   `json:"label"`
	On      []string `json:"on"`
	Pending []string `json:"pending"`
	Unknown bool     `json:"unknown"`
	Away    bool     `json:"away"`
	Refusal string   `json:"refusal"`
}

func (f face) is(role string) bool {
	for _, r := range f.On {
		if r == role {
			return true
		}
	}
	return false
}

// face gives the face of a key of the demo's page as it was last told.
func (l *live) face(control string) face {
	var f face
	_ = json.Unmarshal(l.values["face/cut-"+control], &f)
	return f
}

func (l *live) device(id string) map[string]any {
	var d map[string]any
	_ = json.Unmarshal(l.values["device/"+id], &d)
	return d
}

// until takes in messages until a condition holds.
func (l *live) until(what string, ok func() bool) {
	l.r.Helper()
	for limit := time.Now().Add(patience); !ok(); {
		if time.Now().After(limit) {
			l.r.Fatalf("the live feed did not show that %s; the journal ends with %s", what, l.r.lately())
		}
		l.next()
	}
}
