package mqtt

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net"
	"runtime"
	"strconv"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/lights"
	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

func broker(t *testing.T) (*lights.Server, link.Target) {
	t.Helper()
	s, err := lights.Start("127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	_, port, _ := net.SplitHostPort(s.Addr())
	n, _ := strconv.Atoi(port)
	return s, link.Target{Host: "127.0.0.1", Port: n, Stale: time.Second, User: lights.User, Password: lights.Password,
		Link: &device.LinkSpec{Topics: []string{"dome/#"}}}
}

func dial(t *testing.T, to link.Target) (link.Conn, error) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	c, err := Broker{}.Dial(ctx, to)
	if err == nil {
		t.Cleanup(func() { _ = c.Close() })
	}
	return c, err
}

func TestRetainedTopicsComeFirstAndChangesFollow(t *testing.T) {
	_, to := broker(t)
	c, err := dial(t, to)
	if err != nil {
		t.Fatal(err)
	}
	until := func(topic string, value any) {
		t.Helper()
		for {
			b, err := c.Read()
			if err != nil {
				t.Fatal(err)
			}
			if m := b.Messages[0]; m.Address == topic && m.Body == value {
				return
			}
		}
	}
	until("dome/lamp/1/name", "Red walkway")
	p, err := Broker{}.Encode(device.Message{Address: "dome/lamp/1/brightness/set", Body: 35})
	if err == nil {
		err = c.Write(p, 1, time.Now().Add(time.Second))
	}
	if err != nil {
		t.Fatal(err)
	}
	until("dome/lamp/1/brightness", 35.0)
}

func TestAWrongPasswordIsSaid(t *testing.T) {
	_, to := broker(t)
	for password, want := range map[string]string{"white-light": "wrong", "": "none is set"} {
		to.Password = password
		_, err := dial(t, to)
		var auth *link.AuthError
		if !errors.As(err, &auth) || !strings.Contains(auth.Text, want) {
			t.Errorf("%q: %v", password, err)
		}
	}
}

func TestSomethingElseIsRecognised(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			_, _ = c.Write([]byte("HTTP/1.1 400 Bad Request\r\n\r\n" + strings.Repeat("nothing for you here ", 20)))
		}
	}()
	_, err = dial(t, link.Target{Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, Stale: time.Second, Link: &device.LinkSpec{}})
	if !errors.Is(err, link.ErrForeign) {
		t.Errorf("a web server: %v", err)
	}
}

// TestAPacketThatIsAnnouncedTooLargeEndsTheLink: five bytes of a broker must not make room for 256 MB.
func TestAPacketThatIsAnnouncedTooLargeEndsTheLink(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	go func() {
		c, err := l.Accept()
		if err != nil {
			return
		}
		_, _ = c.Write([]byte{0x20, 2, 0, 0, 0x30, 0xFF, 0xFF, 0xFF, 0x7F}) // welcome, then 268,435,455 bytes are to come
	}()
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	c, err := dial(t, link.Target{Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, Stale: time.Second, Link: &device.LinkSpec{}})
	if err == nil {
		_, err = c.Read()
	}
	runtime.ReadMemStats(&after)
	if err == nil || !strings.Contains(err.Error(), "announces a message of") {
		t.Errorf("the link ends with %v", err)
	}
	if took := after.TotalAlloc - before.TotalAlloc; took > 16<<20 {
		t.Errorf("it made room for %d bytes", took)
	}
}

func TestABoundedConnectionFollowsThePackets(t *testing.T) {
	packets := []byte{0xD0, 0, 0x30, 0x80, 0x01}
	packets = append(append(packets, make([]byte, 128)...), 0x40, 2, 1, 2, 0x30, 0x80, 0x80, 0x40) // the last one is 1 MiB
	for size := 1; size < 9; size++ {
		a, z := net.Pipe()
		go func() {
			_, _ = z.Write(packets)
			_, _ = z.Write([]byte{0xFF}) // of the body
			_ = z.Close()
		}()
		b, got, buf := newBounded(a), 0, make([]byte, size)
		var err error
		for err == nil {
			var n int
			n, err = b.Read(buf)
			got += n
		}
		if !errors.Is(err, io.EOF) || got != len(packets)+1 {
			t.Errorf("%d at a time: %d of %d bytes, then %v", size, got, len(packets)+1, err)
		}
	}
}

func TestTopicsThatCannotBePublishedToAreRefused(t *testing.T) {
	for _, topic := range []string{"", "a/#", "a/+/b", "a\x00"} {
		if _, err := (Broker{}).Encode(device.Message{Address: topic}); err == nil {
			t.Errorf("%q was encoded", topic)
		}
	}
}

// message is a paho message of the tests.
type message struct {
	topic   string
	payload []byte
}

func (m message) Duplicate() bool   { return false }
func (m message) Qos() byte         { return 0 }
func (m message) Retained() bool    { return true }
func (m message) Topic() string     { return m.topic }
func (m message) MessageID() uint16 { return 0 }
func (m message) Payload() []byte   { return m.payload }
func (m message) Ack()              {}

func TestRetainedNonsenseIsBoundedAndNamed(t *testing.T) {
	c := &conn{inbox: link.NewInbox()}
	go c.receive(message{"dome/x", make([]byte, MaxPayload+1)})
	var bad *link.BadInput
	if _, err := c.Read(); !errors.As(err, &bad) || !strings.Contains(bad.Error(), "dome/x") {
		t.Errorf("a payload that is too large: %v", err)
	}
	for _, payload := range []string{"\xff\xfe", "{", ""} {
		go c.receive(message{"dome/x", []byte(payload)})
		if b, err := c.Read(); err != nil || len(b.Messages) != 1 {
			t.Errorf("%q: %+v (%v)", payload, b, err)
		}
	}
}

// FuzzBounded: however a stream of packets is cut, it is passed on as it is, and ends before one that is announced as
// larger than a packet may be.
func FuzzBounded(f *testing.F) {
	f.Add([]byte{0x30, 3, 1, 2, 3, 0xd0, 0}, 1)
	f.Add([]byte{0x30, 0xff, 0xff, 0xff, 0x7f, 1}, 3)
	f.Add([]byte{0x30, 0x80, 0x80, 0x80, 0x80, 0x80, 1}, 2)
	f.Fuzz(func(t *testing.T, stream []byte, size int) {
		buf := make([]byte, 1+max(0, size)%64)
		b := newBounded(&replayed{data: stream})
		var got []byte
		for {
			n, err := b.Read(buf)
			got = append(got, buf[:n]...)
			if b.rest > maxPacket {
				t.Fatalf("a packet of %d bytes is awaited", b.rest)
			}
			if err != nil {
				break
			}
		}
		if !bytes.HasPrefix(stream, got) {
			t.Fatalf("%x is passed on as %x", stream, got)
		}
	})
}

// replayed is a connection that brings what it has, and ends.
type replayed struct {
	net.Conn
	data []byte
}

func (r *replayed) Read(p []byte) (int, error) {
	n := copy(p, r.data)
	r.data = r.data[n:]
	if n == 0 {
		return 0, io.EOF
	}
	return n, nil
}

func (r *replayed) Close() error { return nil }
