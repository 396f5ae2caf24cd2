package main

import (
	"bufio"
	"fmt"
	"net"
	"strings"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench"
	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/sheet"
)

// cables cuts the cable and puts it back.
func cables(b *bench.Bench, c command, typ *device.Type, d link.Driver, to link.Target) ([]time.Duration, error) {
	l := &listener{up: make(chan time.Time, 10), down: make(chan time.Time, 1)}
	lk := link.Open(link.Config{Device: "d", Name: c.standIn, Target: to, Type: typ, Driver: d, Sink: l})
	defer lk.Close()
	<-l.up
	var out []time.Duration
	for range 10 {
		s := b.StandIn(c.standIn)
		if err := s.SetFaults(faults.Faults{Cut: true}); err != nil {
			return nil, err
		}
		<-l.down
		back := time.Now()
		if err := s.SetFaults(faults.Faults{}); err != nil {
			return nil, err
		}
		out = append(out, (<-l.up).Sub(back))
	}
	return out, nil
}

// silences has the device say nothing for a while, in which a hand on it changes something.
func silences(b *bench.Bench, c command, typ *device.Type, d link.Driver, to link.Target) ([]time.Duration, error) {
	l := &listener{up: make(chan time.Time, 10)}
	lk := link.Open(link.Config{Device: "d", Name: c.standIn, Target: to, Type: typ, Driver: d, Sink: l})
	defer lk.Close()
	<-l.up
	s := b.StandIn(c.standIn)
	var out []time.Duration
	for i := range 12 {
		if err := s.SetFaults(faults.Faults{Silent: true}); err != nil {
			return nil, err
		}
		time.Sleep(100 * time.Millisecond)
		value := c.from + i + 2
		if err := s.Operate(device.Message{Address: "/" + c.path, Args: []any{value}}); err != nil {
			return nil, err
		}
		found := l.expect(c.path, value)
		time.Sleep(time.Duration(700+190*i) * time.Millisecond)
		over := time.Now()
		if err := s.SetFaults(faults.Faults{}); err != nil {
			return nil, err
		}
		select {
		case at := <-found:
			out = append(out, at.Sub(over))
		case <-time.After(20 * time.Second):
			return nil, fmt.Errorf("%s was never read as %d", c.path, value)
		}
		time.Sleep(300 * time.Millisecond)
	}
	return out, nil
}

const manySheet = `{"sheet":"synaptor.device/1","type":"many","title":"Many","role":"other",
"link":{"driver":"lines","transport":"tcp","port":1,"start":[{"line":"STATE?"}],"ask":{"line":"MODEL?"},"identify":{"reading":"model"},"alive":"1s"},
"index":{"n":{"title":"value","range":"1..500"}},
"readings":[{"path":"model","title":"m","type":"text","from":{"line":"MODEL {value}"}},{"path":"v/{n}","title":"v","type":"int","from":{"line":"V {n} {value}"}}],"actions":[]}`

// fullState measures how long a link takes from its start to the full state of
// a device with 500 readings.
func fullState() error {
	typ, p := sheet.ParseDevice("many.json", []byte(manySheet))
	if p != nil {
		return p
	}
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return err
	}
	defer ln.Close()
	var state strings.Builder
	for n := 1; n <= 500; n++ {
		fmt.Fprintf(&state, "V %d %d\n", n, n*3)
	}
	go func() {
		for {
			c, err := ln.Accept()
			if err != nil {
				return
			}
			go func() {
				defer c.Close()
				r := bufio.NewScanner(c)
				for r.Scan() {
					answer := "MODEL many\n"
					if r.Text() == "STATE?" {
						answer = state.String()
					}
					if _, err := c.Write([]byte(answer)); err != nil {
						return
					}
				}
			}()
		}
	}()
	var took []time.Duration
	for range 50 {
		l := &listener{up: make(chan time.Time, 1)}
		began := time.Now()
		lk := link.Open(link.Config{Device: "d", Name: "Many", Type: typ, Driver: app.Drivers(nil).For(typ), Sink: l,
			Target: link.Target{Host: "127.0.0.1", Port: ln.Addr().(*net.TCPAddr).Port, Link: &typ.Sheet.Link}})
		took = append(took, (<-l.up).Sub(began))
		lk.Close()
	}
	f := describe(took)
	fmt.Printf("\nconnect → full state of 500 readings: median %.1f ms, worst %.1f ms\n", float64(f.median.Microseconds())/1000, float64(f.worst.Microseconds())/1000)
	return nil
}
