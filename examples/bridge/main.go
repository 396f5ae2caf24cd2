// Command bridge is a whole bridge, written from docs/wire-protocol.md alone: it carries a controller whose keys are pressed by writing
// their names, and says what they show. Its argument is ws://127.0.0.1:7420/api/v1/wire.
package main

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"time"

	"github.com/coder/websocket"
)

func main() {
	ctx := context.Background()
	ws, _, err := websocket.Dial(ctx, os.Args[1], nil)
	if err != nil {
		fmt.Println("No Synaptor answers:", err)
		os.Exit(1)
	}
	say := func(text string, args ...any) {
		_ = ws.Write(ctx, websocket.MessageText, fmt.Appendf(nil, text, args...))
	}
	say(`{"type":"hello","version":2,"bridge":"Example","controllers":[{"serial":"example-1","name":"Example","layout":"grid-6x4","shows":{"*":{"any":true}}}]}`)
	go func() {
		for range time.Tick(time.Second) {
			say(`{"type":"beat"}`)
		}
	}()
	go func() {
		seq := 0
		for s := bufio.NewScanner(os.Stdin); s.Scan(); seq += 2 {
			say(`{"type":"down","controller":"example-1","control":%q,"seq":%d}`, s.Text(), seq+1)
			say(`{"type":"up","controller":"example-1","control":%q,"seq":%d}`, s.Text(), seq+2)
		}
	}()
	for {
		_, data, err := ws.Read(ctx)
		if err != nil {
			fmt.Println("Synaptor is lost:", err)
			os.Exit(1)
		}
		var m struct {
			Type, Control, Words, Text string
			Lines                      []string
			Seq                        int64
			Lost                       bool
		}
		switch _ = json.Unmarshal(data, &m); {
		case m.Type == "face" && !m.Lost:
			fmt.Printf("%s: %s, %s\n", m.Control, strings.Join(m.Lines, " "), m.Words)
			say(`{"type":"ack","seq":%d}`, m.Seq)
		case m.Text != "":
			fmt.Println(m.Text)
		}
	}
}
