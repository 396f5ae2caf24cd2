// Package cable pulls a network cable: the switcher runs in a network
// namespace of its own, behind a virtual cable that is taken down and up again.
// Nothing tells either side; that is what a lost cable is like.
package cable

import (
	"bufio"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/switcher"
	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/link/osc"
	"synaptor/internal/sheet"
)

const (
	here  = "10.213.7.1"
	there = "10.213.7.2"
	port  = 7431
)

// TestMain plays the switcher when it is started again inside the namespace.
func TestMain(m *testing.M) {
	if os.Getenv("SYNAPTOR_TEST_SWITCHER") == "" {
		os.Exit(m.Run())
	}
	s, err := switcher.Start(fmt.Sprintf("%s:%d", there, port), there+":0", nil)
	if err != nil {
		fmt.Println("error", err)
		os.Exit(1)
	}
	fmt.Println("ready")
	in := bufio.NewScanner(os.Stdin)
	for in.Scan() { // each line asks what reached the switcher
		fmt.Println(strings.Join(s.View().Recent, "|"))
	}
}

func ip(t *testing.T, args ...string) {
	t.Helper()
	if out, err := exec.Command("ip", args...).CombinedOutput(); err != nil {
		t.Fatalf("ip %s: %v %s", strings.Join(args, " "), err, out)
	}
}

// far is the switcher at the other end of the cable.
type far struct {
	*testing.T
	in  *os.File
	out *bufio.Reader
}

// lay makes the namespace and the cable, and starts the switcher.
func lay(t *testing.T) far {
	t.Helper()
	if _, err := exec.LookPath("ip"); err != nil || os.Geteuid() != 0 {
		t.Skip("a cable can only be laid by root, with iproute2")
	}
	ns := fmt.Sprintf("synaptor-%d", os.Getpid())
	if out, err := exec.Command("ip", "netns", "add", ns).CombinedOutput(); err != nil {
		t.Skipf("this machine makes no network namespaces: %s", out)
	}
	t.Cleanup(func() { _ = exec.Command("ip", "netns", "del", ns).Run() })
	ip(t, "link", "add", "synaptor-a", "type", "veth", "peer", "name", "synaptor-b", "netns", ns)
	t.Cleanup(func() { _ = exec.Command("ip", "link", "del", "synaptor-a").Run() })
	ip(t, "addr", "add", here+"/30", "dev", "synaptor-a")
	ip(t, "link", "set", "synaptor-a", "up")
	ip(t, "-n", ns, "addr", "add", there+"/30", "dev", "synaptor-b")
	ip(t, "-n", ns, "link", "set", "synaptor-b", "up")

	cmd := exec.Command("ip", "netns", "exec", ns, os.Args[0])
	cmd.Env = append(os.Environ(), "SYNAPTOR_TEST_SWITCHER=1")
	r, w, err := os.Pipe()
	if err != nil {
		t.Fatal(err)
	}
	cmd.Stdin = r
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = w.Close(); _ = cmd.Wait() })
	f := far{t, w, bufio.NewReader(out)}
	if line, err := f.out.ReadString('\n'); line != "ready\n" {
		t.Fatalf("the switcher did not start: %q %v", line, err)
	}
	return f
}

// reached lists the messages that reached the switcher.
func (f far) reached() string {
	f.Helper()
	if _, err := fmt.Fprintln(f.in); err != nil {
		f.Fatal(err)
	}
	line, err := f.out.ReadString('\n')
	if err != nil {
		f.Fatal(err)
	}
	return line
}

// sink passes on what the test waits for.
type sink struct {
	phases chan link.State
	values chan device.Report
}

func (s sink) LinkChanged(st link.State) { s.phases <- st }
func (s sink) Reported(_ string, _ time.Time, reports []device.Report) {
	for _, r := range reports {
		if r.Path == "mix/1/program" {
			s.values <- r
		}
	}
}
func (sink) Written(string, uint64, time.Time)         {}
func (sink) Dropped(string, uint64, time.Time, string) {}
func (sink) Replied(string, time.Time, device.Reply)   {}
func (sink) Listed(string, time.Time, []device.List)   {}

func (sink) Asked(string, time.Time)                  {}
func (sink) Leaving(string, uint64, time.Time)        {}
func (sink) Answered(string, time.Time, link.Answer)  {}
func (sink) Raised(string, time.Time, []device.Event) {}

func (s sink) until(t *testing.T, p link.Phase) link.State {
	t.Helper()
	limit := time.After(15 * time.Second)
	for {
		select {
		case st := <-s.phases:
			if st.Phase == p {
				return st
			}
		case <-limit:
			t.Fatalf("the link was not %s within 15 s", p)
		}
	}
}

func TestACableThatIsPulledAndPutBackDeliversNothingLate(t *testing.T) {
	f := lay(t)
	lib, err := sheet.Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	s := sink{make(chan link.State, 100), make(chan device.Report, 100)}
	l := link.Open(link.Config{Device: "sw", Name: "Dome switcher", Target: link.Target{Host: there, Port: port}, Type: lib.Device("switcher.osc"), Driver: osc.TCP{}, Sink: s})
	defer l.Close()
	s.until(t, link.Up)
	send := func(input int) {
		t.Helper()
		p, err := osc.TCP{}.Encode(device.Message{Address: "/mix/1/program", Args: []any{input}})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := l.Send(link.Command{ID: uint64(input), Payload: p, Deadline: time.Now().Add(250 * time.Millisecond)}); err != nil {
			t.Fatal(err)
		}
	}
	send(2)
	for r := range s.values {
		if r.Value == "2" {
			break
		}
	}

	ip(t, "link", "set", "synaptor-a", "down")
	send(3) // into the kernel, and no further
	if st := s.until(t, link.Down); st.Problem == "" {
		t.Error("the loss has no reason")
	}
	time.Sleep(time.Second) // the cable stays out so long
	ip(t, "link", "set", "synaptor-a", "up")
	ip(t, "addr", "replace", here+"/30", "dev", "synaptor-a")
	s.until(t, link.Up)

	send(4)
	for r := range s.values {
		if r.Value == "4" {
			break
		}
	}
	if got := f.reached(); strings.Contains(got, "/mix/1/program 3") || !strings.Contains(got, "/mix/1/program 2") {
		t.Errorf("what reached the switcher: %s", got)
	}
}
