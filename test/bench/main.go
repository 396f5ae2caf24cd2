// Command bench measures what lies between a touch and a device, each figure
// beside a floor that is measured in the same run: a bare relay from a UDP
// datagram to a TCP write. Synaptor, the relay and the simulated devices are
// processes of their own.
package main

import (
	"bufio"
	"fmt"
	"io"
	"os"
	"os/exec"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"time"
)

func main() {
	var err error
	switch {
	case len(os.Args) == 1:
		err = measure(false)
	case os.Args[1] == "inputs":
		err = measure(true)
	case os.Args[1] == "standins":
		err = standIns()
	case os.Args[1] == "many" && len(os.Args) == 3:
		err = many(os.Args[2])
	case os.Args[1] == "desk":
		err = drawn()
	case os.Args[1] == "overlay":
		err = overlaid()
	case os.Args[1] == "stage":
		err = stage()
	case os.Args[1] == "flood" && len(os.Args) == 4:
		err = flood(os.Args[2], os.Args[3])
	case os.Args[1] == "macros" && len(os.Args) <= 3:
		seconds := 20
		if len(os.Args) == 3 {
			if seconds, err = strconv.Atoi(os.Args[2]); err != nil {
				break
			}
		}
		err = macros(seconds)
	case os.Args[1] == "together":
		err = staged(together)
	case os.Args[1] == "links":
		err = rig()
	case os.Args[1] == "sweep":
		err = sweep(os.Args[2:])
	case os.Args[1] == "crowd":
		err = crowd()
	case os.Args[1] == "shows":
		err = largeShows()
	case os.Args[1] == "reflexes":
		err = measureReflexes()
	case os.Args[1] == "journal":
		err = measureJournal()
	case os.Args[1] == "preflight":
		err = measurePreflight()
	case os.Args[1] == "night":
		err = night()
	case os.Args[1] == "night-show" && len(os.Args) == 6:
		err = nightShow(os.Args[2], os.Args[3], os.Args[4], os.Args[5])
	case os.Args[1] == "devices":
		err = devices()
	case os.Args[1] == "relay" && len(os.Args) == 3:
		err = relay(os.Args[2])
	case os.Args[1] == "synaptor" && len(os.Args) == 4:
		err = synaptor(os.Args[2], os.Args[3])
	default:
		err = fmt.Errorf("bench takes no arguments")
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

const (
	warmUp  = 200
	samples = 3000
	pace    = 2 * time.Millisecond
	clients = 20
	pages   = 200
)

// child is a part of the measurement in a process of its own.
type child struct {
	cmd   *exec.Cmd
	in    io.WriteCloser
	lines *bufio.Reader
}

// run starts this program again in another role; the first line it prints says
// where it listens.
func run(args ...string) (*child, string, error) {
	self, err := os.Executable()
	if err != nil {
		return nil, "", err
	}
	c := &child{cmd: exec.Command(self, args...)}
	c.cmd.Stderr = os.Stderr
	out, err := c.cmd.StdoutPipe()
	if err != nil {
		return nil, "", err
	}
	// A child ends when its standard input does, so none is left behind.
	if c.in, err = c.cmd.StdinPipe(); err != nil {
		return nil, "", err
	}
	if err := c.cmd.Start(); err != nil {
		return nil, "", err
	}
	c.lines = bufio.NewReader(out)
	line, err := c.lines.ReadString('\n')
	return c, strings.TrimSpace(line), err
}

func (c *child) stop() {
	_ = c.in.Close()
	_ = c.cmd.Wait()
}

// figures describe a set of durations.
type figures struct{ median, p95, p99, worst time.Duration }

func describe(d []time.Duration) figures {
	slices.Sort(d)
	at := func(p int) time.Duration { return d[min(len(d)-1, len(d)*p/100)] }
	return figures{at(50), at(95), at(99), d[len(d)-1]}
}

func (f figures) String() string {
	us := func(d time.Duration) string { return fmt.Sprintf("%8.1f", float64(d.Nanoseconds())/1000) }
	return us(f.median) + us(f.p95) + us(f.p99) + us(f.worst)
}

// measure measures everything, or only what lies between an input and a device.
func measure(onlyInputs bool) error {
	dev, addrs, err := run("devices")
	if err != nil {
		return err
	}
	defer dev.stop()
	driven, floor, _ := strings.Cut(addrs, " ")
	folder, keys, pads, err := layOut()
	if err != nil {
		return err
	}
	defer func() {
		keys.Close()
		pads.Close()
		_ = os.RemoveAll(folder) // it is for this measurement alone
	}()
	syn, where, err := run("synaptor", driven, folder)
	if err != nil {
		return err
	}
	defer syn.stop()
	rel, relayAddr, err := run("relay", floor)
	if err != nil {
		return err
	}
	defer rel.stop()
	web, oscIn, _ := strings.Cut(where, " ")

	live, err := follow(web)
	if err != nil {
		return err
	}
	fmt.Printf("%s/%s, %d cores, %s; %d pages, %d mappings, %d live clients, %d samples\n\n", runtime.GOOS, runtime.GOARCH, runtime.NumCPU(), runtime.Version(),
		pages, pages*24, clients, samples)
	ours, bare, err := inputs(dev, oscIn, relayAddr)
	if err != nil {
		return err
	}
	report(ours, bare)
	if err := stages(web); err != nil {
		return err
	}
	if err := beside(dev, web, oscIn, relayAddr); err != nil {
		return err
	}
	if err := byHand(dev, oscIn, relayAddr, keys, pads); err != nil {
		return err
	}
	if err := byWire(dev, web, oscIn, relayAddr, driven); err != nil {
		return err
	}
	if onlyInputs {
		return nil
	}

	first, last, err := deltas(dev, live, driven)
	if err != nil {
		return err
	}
	fmt.Println("device change → delta at the first client", describe(first))
	fmt.Println("device change → delta at all", clients, "clients  ", describe(last))
	fmt.Println()
	if err := rig(); err != nil {
		return err
	}
	if err := manyDevices(); err != nil {
		return err
	}
	if err := macros(20); err != nil {
		return err
	}
	return drawn()
}

func ratio(a, b time.Duration) float64 { return float64(a) / float64(b) }
