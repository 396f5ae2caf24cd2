package link_test

import (
	"context"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/link/osc"
)

// stubborn is OSC to a device that takes only some commands at once.
type stubborn struct {
	osc.TCP
	tries atomic.Int64
	mu    sync.Mutex
	order []uint64 // of the commands that were written
}

func (s *stubborn) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	c, err := s.TCP.Dial(ctx, to)
	return &stubbornConn{c, s}, err
}

func (s *stubborn) note(command uint64) {
	if command > 0 {
		s.mu.Lock()
		defer s.mu.Unlock()
		s.order = append(s.order, command)
	}
}

func (s *stubborn) written() []uint64 {
	s.mu.Lock()
	defer s.mu.Unlock()
	return slices.Clone(s.order)
}

type stubbornConn struct {
	link.Conn
	s *stubborn
}

func (c *stubbornConn) TryWrite(payload []byte, command uint64) (bool, error) {
	if c.s.tries.Add(1)%4 == 0 {
		return false, nil
	}
	ok, err := c.Conn.TryWrite(payload, command)
	if ok {
		c.s.note(command)
	}
	return ok, err
}

func (c *stubbornConn) Write(payload []byte, command uint64, deadline time.Time) error {
	for range 3 {
		runtime.Gosched() // what comes after it gets its chance
	}
	c.s.note(command)
	return c.Conn.Write(payload, command, deadline)
}

// TestCommandsToADeviceNeverOvertakeEachOther has every fourth command take the way by the queue,
// and the next one try to leave at once.
func TestCommandsToADeviceNeverOvertakeEachOther(t *testing.T) {
	w, s := newWatcher(), &stubborn{}
	l := openWith(t, bench(t).Addr(), w, s)
	w.until(t, "the link is up", func() bool { return w.state.Phase == link.Up })
	payload, err := s.Encode(device.Message{Address: "/mix/1/preview", Args: []any{2}})
	if err != nil {
		t.Fatal(err)
	}
	const most = 20_000
	for id := uint64(1); id <= most; {
		if _, err := l.Send(link.Command{ID: id, Payload: payload, Deadline: time.Now().Add(10 * time.Second)}); err != nil {
			runtime.Gosched() // the queue is full
			continue
		}
		id++
	}
	w.until(t, "all are written", func() bool { return len(s.written()) == most })
	if order := s.written(); !slices.IsSorted(order) {
		at := 1
		for order[at] > order[at-1] {
			at++
		}
		t.Errorf("command %d was written before command %d", order[at-1], order[at])
	}
}

// TestALinkThatIsUpHasNoOldProblem: what was wrong before it came up is over.
func TestALinkThatIsUpHasNoOldProblem(t *testing.T) {
	s := bench(t)
	w := newWatcher()
	if err := s.SetFaults(faults.Faults{Cut: true}); err != nil {
		t.Fatal(err)
	}
	open(t, s.Addr(), w)
	w.until(t, "the link is down, and says why", func() bool { return w.state.Phase == link.Down && w.state.Problem != "" })
	if err := s.SetFaults(faults.Faults{}); err != nil {
		t.Fatal(err)
	}
	w.until(t, "it is up, and says nothing more", func() bool { return w.state.Phase == link.Up && w.state.Problem == "" })
}
