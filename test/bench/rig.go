package main

import (
	"context"
	"encoding/json"
	"fmt"
	"net"
	"os"
	"runtime"
	"runtime/debug"
	"strconv"
	"strings"
	"sync"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench"
	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/demo"
	"synaptor/internal/edit"
	"synaptor/internal/link"
	"synaptor/internal/sheet"
)

// command is how one driver is measured: an action with a number in it, and the
// reading that tells that it arrived.
type command struct {
	standIn, typ, action, param, path string
	from, to                          int
}

var commands = []command{
	{"switcher", "switcher.osc", "transition-frames", "frames", "mix/1/transition/frames", 1, 240},
	{"mixer", "mixer.osc", "main-level", "level", "main/level", -80, 9},
	{"streaming", "streaming.jsonrpc", "transition-length", "ms", "transition/ms", 100, 900},
	{"intercom", "intercom.http", "level", "level", "line/1/level", -50, 10},
	{"lights", "lights.mqtt", "brightness", "level", "lamp/1/brightness", 1, 99},
	{"camera", "camera.lines", "brightness", "level", "brightness", 1, 99},
	{"workstation", "computer.local", "volume", "level", "volume", 1, 99},
}

// listener is a link's sink that waits for one reading.
type listener struct {
	mu    sync.Mutex
	path  string
	want  reading
	found chan time.Time
	up    chan time.Time
	down  chan time.Time // nil: nobody waits for it
}

type reading = any

func (l *listener) LinkChanged(s link.State) {
	if s.Phase == link.Down && l.down != nil {
		select {
		case l.down <- time.Now():
		default:
		}
	}
	if s.Phase == link.Up {
		select {
		case l.up <- time.Now():
		default:
		}
	}
}

func (l *listener) Reported(_ string, at time.Time, reports []device.Report) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, r := range reports {
		if r.Path == l.path && fmt.Sprint(r.Value) == fmt.Sprint(l.want) {
			select {
			case l.found <- at:
			default:
			}
		}
	}
}
func (*listener) Raised(string, time.Time, []device.Event)      {}
func (*listener) Written(string, uint64, time.Time)             {}
func (*listener) Dropped(string, uint64, time.Time, string)     {}
func (*listener) Answered(_ string, _ time.Time, _ link.Answer) {}
func (*listener) Replied(string, time.Time, device.Reply)       {}
func (*listener) Listed(string, time.Time, []device.List)       {}

func (*listener) Asked(string, time.Time)           {}
func (*listener) Leaving(string, uint64, time.Time) {}
func (l *listener) expect(path string, want any) <-chan time.Time {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.path, l.want, l.found = path, want, make(chan time.Time, 1)
	return l.found
}

// rig measures links: each driver under the supervisor beside the same driver
// alone, how fast a link is back, and what a full state costs.
func rig() error {
	b, err := bench.Start(0, nil)
	if err != nil {
		return err
	}
	defer b.Close()
	lib, err := sheet.Load(nil)
	if err != nil {
		return err
	}
	drivers := app.Drivers(b.Workstation)
	fmt.Println("microseconds, command → the device's report      median     p95     p99   worst   ratio")
	for _, c := range commands {
		typ := lib.Device(c.typ)
		to, err := target(b, c.standIn, typ)
		if err != nil {
			return err
		}
		ours, bare, err := drive(c, typ, drivers.For(typ), to)
		if err != nil {
			return fmt.Errorf("%s: %w", c.typ, err)
		}
		x, y := describe(ours), describe(bare)
		fmt.Printf("%-22s under the supervisor     %s %7.2f\n", c.typ, x, ratio(x.median, y.median))
		fmt.Printf("%-22s the driver alone         %s\n", "", y)
	}
	fmt.Println()
	fmt.Println("milliseconds, until the state is right again                      median   worst")
	for _, c := range commands {
		typ := lib.Device(c.typ)
		to, err := target(b, c.standIn, typ)
		if err != nil {
			return err
		}
		for _, m := range []struct {
			title   string
			measure func(*bench.Bench, command, *device.Type, link.Driver, link.Target) ([]time.Duration, error)
		}{{"after the cable was out", cables}, {"after it said nothing for a while", silences}} {
			took, err := m.measure(b, c, typ, drivers.For(typ), to)
			if err != nil {
				return fmt.Errorf("%s %s: %w", c.typ, m.title, err)
			}
			f := describe(took)
			fmt.Printf("%-22s %-40s %7.0f %7.0f\n", c.typ, m.title, float64(f.median.Microseconds())/1000, float64(f.worst.Microseconds())/1000)
		}
	}
	return fullState()
}

func target(b *bench.Bench, standIn string, typ *device.Type) (link.Target, error) {
	host, port, err := net.SplitHostPort(b.StandIn(standIn).Addr())
	if err != nil {
		return link.Target{}, err
	}
	n, err := strconv.Atoi(port)
	to := link.Target{Host: host, Port: n, Link: &typ.Sheet.Link, Stale: typ.Deadline, Password: demo.Passwords()[standIn]}
	if typ.Sheet.Link.Login != nil {
		to.User = typ.Sheet.Link.Login.User
	}
	return to, err
}

// drive sends the command again and again, by a link and by the driver alone.
func drive(c command, typ *device.Type, d link.Driver, to link.Target) (ours, bare []time.Duration, err error) {
	l := &listener{up: make(chan time.Time, 1)}
	lk := link.Open(link.Config{Device: "d", Name: c.standIn, Target: to, Type: typ, Driver: d, Sink: l})
	defer lk.Close()
	<-l.up
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	conn, err := d.Dial(ctx, to)
	if err != nil {
		return nil, nil, err
	}
	defer conn.Close()
	followAlone(typ, d, conn)
	alone := &listener{}
	go func() {
		for {
			batch, err := conn.Read()
			if err != nil {
				return
			}
			at := time.Now()
			for _, m := range batch.Messages {
				got, _ := typ.Match(m)
				alone.Reported("d", at, got.Reports)
			}
		}
	}()
	for i := range 600 {
		n := c.from + i%(c.to-c.from)
		bound, err := typ.Bind("d", c.action, only(typ, c, n), 25)
		if err != nil {
			return nil, nil, err
		}
		msgs, err := bound.Messages(expr.Nothing{})
		if err != nil {
			return nil, nil, err
		}
		payload, err := d.Encode(msgs...)
		if err != nil {
			return nil, nil, err
		}
		want := bound.Effects(expr.Nothing{})[0].Value
		// The same command by one and by the other way, each first in turn.
		for turn := range 2 {
			time.Sleep(pace / 4)
			who := l
			if (i+turn)%2 == 1 {
				who = alone
			}
			found := who.expect(c.path, want)
			sent := time.Now()
			if who == l {
				_, err = lk.Send(link.Command{ID: uint64(i + 1), Payload: payload, Deadline: sent.Add(time.Second)})
			} else {
				err = conn.Write(payload, 0, sent.Add(time.Second))
			}
			if err != nil {
				return nil, nil, err
			}
			select {
			case at := <-found:
				if i < 100 {
					continue
				}
				if who == l {
					ours = append(ours, at.Sub(sent))
				} else {
					bare = append(bare, at.Sub(sent))
				}
			case <-time.After(time.Second):
				return nil, nil, fmt.Errorf("no report of %s = %v", c.path, want)
			}
		}
	}
	return ours, bare, nil
}

// only fills in the parameters that an action has.
func only(typ *device.Type, c command, n int) map[string]string {
	params := map[string]string{}
	for _, p := range typ.Action(c.action).Params {
		switch {
		case p.ID == c.param:
			params[p.ID] = strconv.Itoa(n)
		case p.Of != "" && p.Default == "":
			params[p.ID] = "1"
		}
	}
	return params
}

// followAlone has a device report changes to a driver that is alone.
func followAlone(typ *device.Type, d link.Driver, c link.Conn) {
	for _, m := range typ.Start() {
		if p, err := d.Encode(m); err == nil {
			_ = c.Write(p, 0, time.Now().Add(time.Second))
		}
	}
}

// standIns runs the bench in a process of its own and says where.
func standIns() error {
	b, err := bench.Start(0, nil)
	if err != nil {
		return err
	}
	addrs := map[string]string{}
	for _, s := range b.Devices() {
		addrs[s.ID()] = s.Addr()
	}
	line, err := json.Marshal(addrs)
	if err != nil {
		return err
	}
	fmt.Println(string(line))
	untilClosed()
	return nil
}

// many runs Synaptor with no device, then with forty, and says what that costs.
func many(addrs string) error {
	var at map[string]string
	if err := json.Unmarshal([]byte(addrs), &at); err != nil {
		return err
	}
	a, end, err := inOwnFolder()
	if err != nil {
		return err
	}
	defer end()
	who := edit.Who{Session: "bench", Actor: "bench"}
	before := resident()
	passwords := demo.Passwords()
	var list []edit.DeviceFields
	for i := range 40 {
		c := commands[i%(len(commands)-1)] // the computer itself is one only
		host, port, _ := net.SplitHostPort(at[c.standIn])
		n, _ := strconv.Atoi(port)
		password := passwords[c.standIn]
		list = append(list, edit.DeviceFields{Name: fmt.Sprintf("%s %d", c.standIn, i), Type: c.typ, Host: host, Port: n, Password: &password})
	}
	if _, err := a.Edit.AddDevices(who, list); err != nil {
		return err
	}
	time.Sleep(3 * time.Second) // they connect
	debug.FreeOSMemory()
	start, used := time.Now(), processor()
	time.Sleep(10 * time.Second)
	share := (processor() - used).Seconds() / time.Since(start).Seconds()
	debug.FreeOSMemory()
	fmt.Printf("40 devices connected: %.1f MB more than none, %.1f %% of one core idle, %d goroutines\n", resident()-before, 100*share, runtime.NumGoroutine())
	return nil
}

// resident is the memory of this process in megabytes.
func resident() float64 {
	debug.FreeOSMemory()
	b, _ := os.ReadFile("/proc/self/statm")
	var total, pages int
	_, _ = fmt.Sscan(string(b), &total, &pages)
	return float64(pages*os.Getpagesize()) / 1e6
}

// processor is the time this process has used.
func processor() time.Duration {
	b, _ := os.ReadFile("/proc/self/stat")
	_, rest, _ := strings.Cut(string(b), ") ")
	fields := strings.Fields(rest)
	if len(fields) < 13 {
		return 0
	}
	user, _ := strconv.Atoi(fields[11])
	system, _ := strconv.Atoi(fields[12])
	return time.Duration(user+system) * 10 * time.Millisecond // USER_HZ is 100
}

func manyDevices() error {
	dev, addrs, err := run("standins")
	if err != nil {
		return err
	}
	defer dev.stop()
	syn, line, err := run("many", addrs)
	if err != nil {
		return err
	}
	defer syn.stop()
	fmt.Println(line)
	return nil
}
