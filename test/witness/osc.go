package witness

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"net"
	"strings"
	"sync"
	"time"
)

// say encodes an OSC 1.0 message.
func say(address string, args ...any) []byte {
	var b bytes.Buffer
	text := func(s string) {
		b.WriteString(s)
		b.Write(make([]byte, 4-len(s)%4))
	}
	tags, body := ",", []byte{}
	for _, a := range args {
		switch a := a.(type) {
		case int:
			tags += "i"
			body = binary.BigEndian.AppendUint32(body, uint32(int32(a)))
		case float64:
			tags += "f"
			body = binary.BigEndian.AppendUint32(body, math.Float32bits(float32(a)))
		case string:
			tags += "s"
			body = append(append(body, a...), make([]byte, 4-len(a)%4)...)
		}
	}
	text(address)
	text(tags)
	b.Write(body)
	return b.Bytes()
}

// parse decodes an OSC message with its first argument.
func parse(p []byte) (address string, value any, err error) {
	text := func() string {
		i := bytes.IndexByte(p, 0)
		if i < 0 {
			err = errors.New("a text has no end")
			return ""
		}
		s := string(p[:i])
		p = p[min(len(p), i+4-i%4):]
		return s
	}
	address = text()
	tags := text()
	if err != nil || len(tags) < 2 {
		return address, nil, err
	}
	switch tags[1] {
	case 'T', 'F':
		return address, tags[1] == 'T', nil
	case 's':
		return address, text(), err
	case 'i', 'f':
		if len(p) < 4 {
			return "", nil, errors.New("a number has no end")
		}
		n := binary.BigEndian.Uint32(p)
		if tags[1] == 'i' {
			return address, float64(int32(n)), nil
		}
		return address, float64(math.Float32frombits(n)), nil
	}
	return "", nil, fmt.Errorf("%s has an argument of the kind %q", address, tags[1:])
}

// wire gives a value as the desks take it: switches are 0 and 1, levels are floats, choices are ints.
func wire(path string, value any) any {
	switch v := value.(type) {
	case bool:
		if v {
			return 1
		}
		return 0
	case float64:
		if strings.HasSuffix(path, "/level") || strings.HasSuffix(path, "/position") {
			return v
		}
		return int(v)
	}
	return value
}

// stream is OSC over TCP with SLIP framing (RFC 1055).
type stream struct {
	conn net.Conn
	mu   sync.Mutex
}

func dialStream(addr string) (line, error) {
	c, err := net.Dial("tcp", addr)
	if err != nil {
		return nil, err
	}
	s := &stream{conn: c}
	return s, s.send(say("/follow"))
}

const (
	slipEnd, slipEsc        = 0xC0, 0xDB
	slipEscEnd, slipEscText = 0xDC, 0xDD
)

func (s *stream) send(p []byte) error {
	frame := []byte{slipEnd}
	for _, b := range p {
		switch b {
		case slipEnd:
			frame = append(frame, slipEsc, slipEscEnd)
		case slipEsc:
			frame = append(frame, slipEsc, slipEscText)
		default:
			frame = append(frame, b)
		}
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	_, err := s.conn.Write(append(frame, slipEnd))
	return err
}

func (s *stream) hear(tell func(string, any)) error {
	r := bufio.NewReader(s.conn)
	for {
		frame, err := r.ReadBytes(slipEnd)
		if err != nil {
			return err
		}
		frame = bytes.ReplaceAll(frame[:len(frame)-1], []byte{slipEsc, slipEscEnd}, []byte{slipEnd})
		frame = bytes.ReplaceAll(frame, []byte{slipEsc, slipEscText}, []byte{slipEsc})
		if len(frame) == 0 {
			continue
		}
		address, value, err := parse(frame)
		if err != nil {
			return err
		}
		if address != "/error" {
			tell(strings.TrimPrefix(address, "/"), value)
		}
	}
}

func (s *stream) set(path string, value any) error { return s.send(say("/"+path, wire(path, value))) }
func (s *stream) close()                           { _ = s.conn.Close() }

// datagrams is OSC over UDP, with a subscription that expires.
type datagrams struct {
	conn net.Conn
	end  chan struct{}
}

func dialDatagrams(addr string) (line, error) {
	c, err := net.Dial("udp", addr)
	if err != nil {
		return nil, err
	}
	d := &datagrams{c, make(chan struct{})}
	if _, err := c.Write(say("/follow", 30)); err != nil {
		return nil, err
	}
	go func() {
		t := time.NewTicker(10 * time.Second)
		defer t.Stop()
		for {
			select {
			case <-t.C:
				_, _ = c.Write(say("/follow", 30))
			case <-d.end:
				return
			}
		}
	}()
	return d, nil
}

func (d *datagrams) hear(tell func(string, any)) error {
	buf := make([]byte, 65536)
	for {
		n, err := d.conn.Read(buf)
		if err != nil {
			return err
		}
		address, value, err := parse(buf[:n])
		if err != nil {
			return err
		}
		if address != "/error" {
			tell(strings.TrimPrefix(address, "/"), value)
		}
	}
}

func (d *datagrams) set(path string, value any) error {
	_, err := d.conn.Write(say("/"+path, wire(path, value)))
	return err
}

func (d *datagrams) close() {
	close(d.end)
	_ = d.conn.Close()
}

// textLines is a device that speaks in lines of text.
type textLines struct{ conn net.Conn }

func dialLines(addr string) (line, error) {
	c, err := net.Dial("tcp", addr)
	if err != nil {
		return nil, err
	}
	_, err = io.WriteString(c, "STATE?\n")
	return &textLines{c}, err
}

func (l *textLines) hear(tell func(string, any)) error {
	lines := bufio.NewScanner(l.conn)
	for lines.Scan() {
		word, value, _ := strings.Cut(lines.Text(), " ")
		switch word {
		case "ERR":
		case "PRESET":
			n, name, _ := strings.Cut(value, " NAME ")
			tell("preset/"+n+"/name", name)
		default:
			tell(strings.ToLower(word), value)
		}
	}
	if err := lines.Err(); err != nil {
		return err
	}
	return io.EOF
}

func (l *textLines) set(path string, value any) error {
	_, err := fmt.Fprintf(l.conn, "%s %v\n", strings.ToUpper(path), value)
	return err
}

func (l *textLines) close() { _ = l.conn.Close() }
