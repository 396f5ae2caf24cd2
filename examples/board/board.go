// Command board is a sketch for keys of your own: four keys with a lamp each, at the end of a serial port, on a microcontroller, with TinyGo.
// docs/wire-protocol.md has the messages; "synaptor bridge --port /dev/ttyACM0" carries them.
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"time"
)

const hello = `{"type":"hello","version":2,"bridge":"My board","controllers":[{"serial":"my-board-1","name":"My board",` +
	`"sheet":{"sheet":"synaptor.controller/1","type":"my-board","title":"Four keys","zone":"keys","grid":{"columns":4,"rows":1}},"shows":{"*":{"any":true}}}]}`

var names = []string{"a1", "b1", "c1", "d1"}

func main() { run(line, pressed, light) }

// run is the board. pressed tells whether a key is down, light gives its lamp a colour, #rrggbb.
func run(line io.ReadWriter, pressed func(key int) bool, light func(key int, colour string)) {
	type message struct {
		Type, Control, Colour string
		Seq                   int64
		Lost, Begins          bool
	}
	told := make(chan message, 16)
	go func() {
		for s := bufio.NewScanner(line); s.Scan(); {
			var m message
			if json.Unmarshal(s.Bytes(), &m) == nil {
				told <- m
			}
		}
	}()
	welcomed, seq, down := false, 0, make([]bool, len(names))
	for {
		select {
		case m := <-told:
			switch {
			case m.Type == "beat" && (m.Begins || !welcomed):
				welcomed = false
				fmt.Fprintln(line, hello)
			case m.Type == "welcome":
				welcomed = true
			case m.Type == "face" && !m.Lost:
				if key := slices.Index(names, m.Control); key >= 0 {
					light(key, m.Colour)
				}
				fmt.Fprintf(line, `{"type":"ack","seq":%d}`+"\n", m.Seq)
			}
		case <-time.After(5 * time.Millisecond):
			for key, name := range names {
				if now := pressed(key); now != down[key] {
					down[key], seq = now, seq+1
					kind := map[bool]string{true: "down", false: "up"}[now]
					fmt.Fprintf(line, `{"type":%q,"controller":"my-board-1","control":%q,"seq":%d}`+"\n", kind, name, seq)
				}
			}
		}
	}
}
