package main

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/app"
	"synaptor/internal/bench/switcher"
	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/host"
	"synaptor/internal/link/osc"
)

// untilClosed waits until the parent closes standard input.
func untilClosed() { _, _ = io.Copy(io.Discard, os.Stdin) }

// devices runs two switchers, one for Synaptor and one for the relay. Each
// change is printed with its time: the switcher, program, preview, nanoseconds.
func devices() error {
	out := bufio.NewWriter(os.Stdout)
	lines := make(chan string, 10_000)
	var servers [2]*switcher.Server
	for i := range servers {
		var err error
		servers[i], err = switcher.Start("127.0.0.1:0", "127.0.0.1:0", func() {
			at := time.Now().UnixNano()
			if s := servers[i]; s != nil {
				v := s.View().Values
				lines <- fmt.Sprintf("%d %v %v %d\n", i, v["/mix/1/program"], v["/mix/1/preview"], at)
			}
		})
		if err != nil {
			return err
		}
	}
	fmt.Println(servers[0].Addr(), servers[1].Addr())
	go func() {
		for l := range lines {
			_, _ = out.WriteString(l)
			if len(lines) == 0 {
				_ = out.Flush()
			}
		}
	}()
	untilClosed()
	return nil
}

// relay is the floor: each datagram is written, as a frame, to a TCP
// connection. It decides nothing.
func relay(to string) error {
	tcp, err := net.Dial("tcp", to)
	if err != nil {
		return err
	}
	// The switcher reports to the relay as it does to Synaptor.
	hello, err := osc.Encode(device.Message{Address: "/follow"})
	if err != nil {
		return err
	}
	if _, err := tcp.Write(osc.AppendFrame(nil, hello)); err != nil {
		return err
	}
	go func() { _, _ = io.Copy(io.Discard, tcp) }()
	udp, err := net.ListenUDP("udp", &net.UDPAddr{IP: net.IPv4(127, 0, 0, 1)})
	if err != nil {
		return err
	}
	stop, err := answering(udp.LocalAddr().String())
	if err != nil {
		return err
	}
	defer stop()
	fmt.Println(udp.LocalAddr())
	go func() {
		buf := make([]byte, 4096)
		for {
			n, _, err := udp.ReadFromUDPAddrPort(buf)
			if err != nil {
				return
			}
			if _, err := tcp.Write(osc.AppendFrame(nil, buf[:n])); err != nil {
				return
			}
		}
	}()
	untilClosed()
	return nil
}

// answering is the floor of what a client is told of a request: an HTTP request goes to a goroutine, on to
// another one, and out on a live socket.
func answering(addr string) (stop func(), err error) {
	first, second := make(chan []byte), make(chan []byte)
	go func() {
		for m := range first {
			second <- m
		}
	}()
	mux := http.NewServeMux()
	mux.HandleFunc("POST /", func(w http.ResponseWriter, r *http.Request) {
		m, _ := io.ReadAll(r.Body)
		first <- m
		_, _ = w.Write([]byte("{}"))
	})
	mux.HandleFunc("GET /", func(w http.ResponseWriter, r *http.Request) {
		ws, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		defer func() { _ = ws.CloseNow() }()
		for m := range second {
			if ws.Write(r.Context(), websocket.MessageText, m) != nil {
				return
			}
		}
	})
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, err
	}
	s := &http.Server{Handler: mux}
	go func() { _ = s.Serve(l) }()
	return func() { _ = s.Close() }, nil
}

// inOwnFolder starts a Synaptor with an empty show, in a folder that goes with it.
func inOwnFolder(hardware ...host.Folder) (a *app.App, end func(), err error) {
	data, err := os.MkdirTemp("", "synaptor-bench")
	if err != nil {
		return nil, nil, err
	}
	if a, err = app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data, Hardware: hardware}); err != nil {
		return nil, nil, errors.Join(err, os.RemoveAll(data))
	}
	return a, func() {
		a.Close()
		_ = os.RemoveAll(data) // it is for this measurement alone
	}, nil
}

// demoInOwnFolder is inOwnFolder with the demo, whose devices have answered.
func demoInOwnFolder() (a *app.App, end func(), err error) {
	data, err := os.MkdirTemp("", "synaptor-bench")
	if err != nil {
		return nil, nil, err
	}
	if a, err = app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data, Demo: true}); err != nil {
		return nil, nil, errors.Join(err, os.RemoveAll(data))
	}
	end = func() {
		a.Close()
		_ = os.RemoveAll(data) // it is for this measurement alone
	}
	for limit := time.Now().Add(20 * time.Second); time.Now().Before(limit); time.Sleep(10 * time.Millisecond) {
		v := a.Mirror.Current()
		if !slices.ContainsFunc(v.Program.Show.Devices(), func(d *show.Device) bool { return v.Away(d.ID) }) {
			return a, end, nil
		}
	}
	end()
	return nil, nil, errors.New("the devices of the demo do not answer")
}

// synaptor runs Synaptor with a large show whose page in force has the program
// and preview rows, and with what can be touched in a folder.
func synaptor(switcherAddr, hardware string) error {
	app.Tune() // as the program does
	a, end, err := inOwnFolder(host.Simulated(hardware)...)
	if err != nil {
		return err
	}
	defer end()
	where, port, _ := strings.Cut(switcherAddr, ":")
	n, err := strconv.Atoi(port)
	if err != nil {
		return err
	}
	if err := a.Edit.Fill(edit.Who{Session: "bench", Actor: "bench"}, "fill", func(d *show.Draft) { large(d, where, n) }); err != nil {
		return err
	}
	fmt.Println(a.Addr, a.OSCAddr)
	untilClosed()
	return nil
}

func large(d *show.Draft, host string, port int) {
	defer addMacros(d)
	defer addLinks(d)
	defer addHands(d)
	d.Put(&show.Device{ID: "sw", Slug: "dome-switcher", Name: "Dome switcher", Type: "switcher.osc", Host: host, Port: port})
	d.Put(&show.Profile{ID: "p", Slug: "meteor-night", Name: "Meteor Night"})
	d.Put(&show.Controller{ID: "g", Slug: "producer-grid", Name: "Producer grid", Layout: "grid-6x4", Profile: "p"})
	for p := range pages {
		id := fmt.Sprintf("page%03d", p)
		d.Put(&show.Page{ID: id, Slug: id, Name: id, Profile: "p", Layout: "grid-6x4", Zone: "keys", Position: p})
		for i := range 24 {
			control := device.CellID(i%6, i/6)
			action := []string{"put-on-program", "put-on-preview"}[i/6%2]
			d.Put(&show.Mapping{ID: id + control, Placements: []show.Placement{{Page: id, Control: control}},
				Responses: []show.Response{{Gesture: "press", Action: show.Call{Device: "sw", Action: action,
					Params: map[string]string{"input": strconv.Itoa(1 + i%6), "mix": strconv.Itoa(1 + p%2)}}}}})
		}
	}
}
