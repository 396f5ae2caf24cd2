package main

import (
	"bufio"
	"fmt"
	"net"
	"os"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench/chat"
	"synaptor/internal/bench/mixer"
	"synaptor/internal/core/device"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// What reflexes are measured beside.
const (
	manyReflexes  = 1000
	changesASec   = 2000
	messagesASec  = 500
	reflexSeconds = 10
)

// night is a sound desk and an audience; a line such as "changes 2000" on standard input says how much happens a second.
func night() error {
	desk, err := mixer.Start("127.0.0.1:0", nil)
	if err != nil {
		return err
	}
	audience, err := chat.Start("127.0.0.1:0", nil)
	if err != nil {
		return err
	}
	fmt.Println(desk.Addr(), audience.Addr())
	var changes, messages atomic.Int64
	go happen(&changes, func(n int) {
		_ = desk.Operate(device.Message{Address: "/channel/5/level", Args: []any{-40 + float64(n%200)/10}})
	})
	go happen(&messages, func(n int) {
		_ = audience.Operate(device.Message{Address: "/say", Args: []any{fmt.Sprintf("Viewer %d: message %d", n%1000, n)}})
	})
	in := bufio.NewScanner(os.Stdin)
	for in.Scan() {
		what, rate, _ := strings.Cut(in.Text(), " ")
		n, err := strconv.Atoi(rate)
		if err != nil {
			return err
		}
		map[string]*atomic.Int64{"changes": &changes, "messages": &messages}[what].Store(int64(n))
	}
	return nil
}

// happen has something happen so many times a second.
func happen(rate *atomic.Int64, do func(int)) {
	n, due := 0, 0.0
	for last := time.Now(); ; time.Sleep(time.Millisecond) {
		now := time.Now()
		due += now.Sub(last).Seconds() * float64(rate.Load())
		last = now
		for ; due >= 1; due-- {
			n++
			do(n)
		}
	}
}

// nightShow is Synaptor with the large show, a sound desk and an audience, and with reflexes where it is asked for them.
func nightShow(switcherAddr, deskAddr, audienceAddr, reflexes string) error {
	app.Tune() // as the program does
	a, end, err := inOwnFolder()
	if err != nil {
		return err
	}
	defer end()
	many, err := strconv.Atoi(reflexes)
	if err != nil {
		return err
	}
	token, err := a.Edit.PutSecret(chat.Token)
	if err != nil {
		return err
	}
	if err := a.Edit.Fill(edit.Who{Session: "bench", Actor: "bench"}, "fill", func(d *show.Draft) {
		at := func(addr string) int { return portOf(addr) }
		large(d, "127.0.0.1", at(switcherAddr))
		d.Put(&show.Device{ID: "desk", Slug: "sound-desk", Name: "Sound desk", Type: "mixer.osc", Host: "127.0.0.1", Port: at(deskAddr)})
		d.Put(&show.Device{ID: "chat", Slug: "audience", Name: "Audience", Type: "chat.http", Host: "127.0.0.1", Port: at(audienceAddr), Secret: token})
		for i := range many {
			d.Put(benchReflex(i))
		}
	}); err != nil {
		return err
	}
	fmt.Println(a.Addr, a.OSCAddr)
	untilClosed()
	return nil
}

func portOf(addr string) int {
	_, port, _ := net.SplitHostPort(addr)
	n, _ := strconv.Atoi(port)
	return n
}

// benchReflex is one of a thousand: fifty wait for the level that changes, a hundred for what the audience says, others for other readings, and some follow.
func benchReflex(i int) *show.Reflex {
	r := &show.Reflex{ID: fmt.Sprint("r", i), Name: fmt.Sprint("Reflex ", i), Position: i, Then: show.Call{Device: "sw", Action: "keyer-on", Params: map[string]string{"keyer": "1"}}}
	level := show.On{Kind: reflex.OnReading, Device: "desk", Path: "channel/5/level", Edge: reflex.Rises, Level: 5, Back: 1}
	switch {
	case i < 50:
		r.On = level
	case i < 150:
		r.On, r.When, r.EveryMs, r.Per = show.On{Kind: reflex.OnDevice, Device: "chat", Event: "message"}, fmt.Sprintf("event.text == '!command%d'", i), 60_000, "who"
	case i < 200:
		r.On, r.When = show.On{Kind: reflex.OnWhile}, fmt.Sprintf("reading('desk:channel/%d/mute') == false and reading('desk:channel/%d/level') > %d", 1+i%6, 1+i%6, 20+i)
		r.Then, r.Hold = show.Call{Device: "desk", Action: "level", Params: map[string]string{"channel": "6", "level": "-30"}}, &show.Hold{By: 12}
	default:
		r.On = level
		r.On.Path, r.On.Level = fmt.Sprintf("channel/%d/level", []int{1, 2, 3, 4, 6}[i%5]), float64(i%40)
	}
	return r
}

// spent is how long a process has had a core.
func (c *child) spent() time.Duration {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", c.cmd.Process.Pid))
	if err != nil {
		return 0
	}
	fields := strings.Fields(string(raw[strings.LastIndexByte(string(raw), ')')+1:]))
	user, _ := strconv.Atoi(fields[11])
	system, _ := strconv.Atoi(fields[12])
	return time.Duration(user+system) * 10 * time.Millisecond // clock ticks of 1/100 s
}

// measureReflexes measures what a thousand reflexes cost: how much more of a core beside 2,000 changes of a reading and 500 messages a second, and a press.
func measureReflexes() error {
	dev, addrs, err := run("devices")
	if err != nil {
		return err
	}
	defer dev.stop()
	driven, floor, _ := strings.Cut(addrs, " ")
	world, where, err := run("night")
	if err != nil {
		return err
	}
	defer world.stop()
	desk, audience, _ := strings.Cut(where, " ")
	rel, relayAddr, err := run("relay", floor)
	if err != nil {
		return err
	}
	defer rel.stop()
	cost := map[string]time.Duration{}
	for _, n := range []int{0, manyReflexes} {
		syn, where, err := run("night-show", driven, desk, audience, strconv.Itoa(n))
		if err != nil {
			return err
		}
		_, oscIn, _ := strings.Cut(where, " ")
		time.Sleep(5 * time.Second) // its devices are connected, and its findings are found
		for _, load := range [][2]string{{"changes", strconv.Itoa(changesASec)}, {"messages", strconv.Itoa(messagesASec)}} {
			if _, err := fmt.Fprintf(world.in, "%s %s\n", load[0], load[1]); err != nil {
				return err
			}
			before := syn.spent()
			time.Sleep(reflexSeconds * time.Second)
			cost[fmt.Sprint(load[0], n)] = syn.spent() - before
			fmt.Printf("%d reflexes, %s %s a second: %.1f %% of a core\n", n, load[1], load[0], 100*cost[fmt.Sprint(load[0], n)].Seconds()/reflexSeconds)
			ours, bare, err := inputs(dev, oscIn, relayAddr)
			if err != nil {
				return err
			}
			report(ours, bare)
			if _, err := fmt.Fprintf(world.in, "%s 0\n", load[0]); err != nil {
				return err
			}
		}
		syn.stop()
	}
	for _, what := range []string{"changes", "messages"} {
		more := cost[fmt.Sprint(what, manyReflexes)] - cost[what+"0"]
		fmt.Printf("%d reflexes cost %.1f %% of a core beside %s\n", manyReflexes, 100*more.Seconds()/reflexSeconds, what)
	}
	return nil
}
