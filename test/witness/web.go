package witness

import (
	"bufio"
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"

	"github.com/coder/websocket"
)

// events is a device behind HTTP that tells what happens as Server-Sent Events.
type events struct {
	addr  string
	login Login
	resp  *http.Response
}

func dialEvents(ctx context.Context, addr string, login Login) (line, error) {
	e := &events{addr: addr, login: login}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, "http://"+addr+"/events", nil)
	if err != nil {
		return nil, err
	}
	e.resp, err = e.do(req)
	return e, err
}

func (e *events) do(req *http.Request) (*http.Response, error) {
	req.SetBasicAuth(e.login.User, e.login.Password)
	resp, err := http.DefaultClient.Do(req)
	if err != nil {
		return nil, err
	}
	if resp.StatusCode != http.StatusOK {
		_ = resp.Body.Close()
		return nil, fmt.Errorf("%s %s: %s", req.Method, req.URL.Path, resp.Status)
	}
	return resp, nil
}

func (e *events) hear(tell func(string, any)) error {
	lines := bufio.NewScanner(e.resp.Body)
	lines.Buffer(nil, 1<<20)
	kind := ""
	for lines.Scan() {
		if k, is := strings.CutPrefix(lines.Text(), "event: "); is {
			kind = k
		}
		data, is := strings.CutPrefix(lines.Text(), "data: ")
		if !is || kind != "state" && kind != "change" {
			continue
		}
		var tree any
		if err := json.Unmarshal([]byte(data), &tree); err != nil {
			return err
		}
		leaves("", tree, tell)
	}
	if err := lines.Err(); err != nil {
		return err
	}
	return io.EOF
}

func (e *events) set(path string, value any) error {
	body, err := json.Marshal(map[string]any{"value": value})
	if err != nil {
		return err
	}
	req, err := http.NewRequest(http.MethodPut, "http://"+e.addr+"/"+path, bytes.NewReader(body))
	if err != nil {
		return err
	}
	resp, err := e.do(req)
	if err != nil {
		return err
	}
	return resp.Body.Close()
}

func (e *events) close() { _ = e.resp.Body.Close() }

// calls is JSON-RPC 2.0 over a WebSocket, behind a challenge.
type calls struct {
	ctx context.Context
	ws  *websocket.Conn
	mu  sync.Mutex
	id  int
}

// rpc is what either side says.
type rpc struct {
	Version string         `json:"jsonrpc"`
	ID      *int           `json:"id,omitempty"`
	Method  string         `json:"method,omitempty"`
	Params  map[string]any `json:"params,omitempty"`
	Result  any            `json:"result,omitempty"`
	Error   any            `json:"error,omitempty"`
}

func dialCalls(ctx context.Context, addr string, login Login) (line, error) {
	ws, _, err := websocket.Dial(ctx, "ws://"+addr+"/control", nil)
	if err != nil {
		return nil, err
	}
	ws.SetReadLimit(1 << 20)
	c := &calls{ctx: ctx, ws: ws}
	hello, err := c.next()
	if err != nil {
		return nil, err
	}
	challenge, _ := hello.Params["challenge"].(string)
	sum := hmac.New(sha256.New, []byte(login.Password))
	sum.Write([]byte(challenge))
	if err := c.call("enter", map[string]any{"answer": fmt.Sprintf("%x", sum.Sum(nil))}); err != nil {
		return nil, err
	}
	in, err := c.next()
	if err != nil {
		return nil, err
	}
	if in.Error != nil {
		return nil, fmt.Errorf("it does not let the witness in: %v", in.Error)
	}
	return c, c.call("state", nil)
}

func (c *calls) next() (m rpc, err error) {
	_, data, err := c.ws.Read(c.ctx)
	if err != nil {
		return m, err
	}
	return m, json.Unmarshal(data, &m)
}

func (c *calls) call(method string, params map[string]any) error {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.id++
	data, err := json.Marshal(rpc{Version: "2.0", ID: &c.id, Method: method, Params: params})
	if err != nil {
		return err
	}
	return c.ws.Write(c.ctx, websocket.MessageText, data)
}

func (c *calls) hear(tell func(string, any)) error {
	told := func(path string, value any) { tell(path, inDecibels(path, value)) }
	for {
		m, err := c.next()
		if err != nil {
			return err
		}
		tree, isState := m.Result.(map[string]any)
		switch {
		case m.Error != nil:
			return fmt.Errorf("it refuses: %v", m.Error)
		case m.Method == "changed":
			leaves("", m.Params, told)
		case isState:
			model := tree["model"]
			delete(tree, "model")
			leaves("", tree, told)
			tell("model", model) // last: then everything was heard
		}
	}
}

func (c *calls) set(path string, value any) error {
	if strings.HasSuffix(path, "/level") {
		return errors.New("the witness does not set levels here")
	}
	return c.call("set", map[string]any{"path": path, "value": value})
}

func (c *calls) close() { _ = c.ws.CloseNow() }

// inDecibels gives a level of the streaming software, which has faders of its own: each point is a share of
// the way and the decibels there; straight lines lie between. Other values stay as they are.
func inDecibels(path string, value any) any {
	share, isNumber := value.(float64)
	if !isNumber || !strings.HasSuffix(path, "/level") {
		return value
	}
	points := [][2]float64{{0, -60}, {0.1, -40}, {0.3, -20}, {0.5, -10}, {0.8, 0}, {1, 6}}
	if share <= 0 {
		return "-inf"
	}
	for i, p := range points[1:] {
		if share <= p[0] {
			before := points[i]
			return before[1] + (share-before[0])/(p[0]-before[0])*(p[1]-before[1])
		}
	}
	return points[len(points)-1][1]
}
