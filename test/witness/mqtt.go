package witness

import (
	"bufio"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"strings"
	"sync"
	"time"
)

// broker is MQTT 3.1.1 with quality of service 0.
type broker struct {
	conn net.Conn
	mu   sync.Mutex
	end  chan struct{}
}

// The types of packets, with their flags (MQTT 3.1.1, section 2.2).
const (
	mqttConnect    = 0x10
	mqttConnected  = 0x20
	mqttPublish    = 0x30
	mqttSubscribe  = 0x82
	mqttPing       = 0xC0
	mqttKind       = 0xF0
	mqttQuality    = 0x06
	mqttCleanLogin = 0xC2 // user, password, clean session
)

func dialBroker(addr string, login Login) (line, error) {
	c, err := net.Dial("tcp", addr)
	if err != nil {
		return nil, err
	}
	b := &broker{conn: c, end: make(chan struct{})}
	hello := text16(nil, "MQTT")
	hello = append(hello, 4, mqttCleanLogin, 0, 60)
	for _, s := range []string{fmt.Sprint("witness", time.Now().UnixNano()), login.User, login.Password} {
		hello = text16(hello, s)
	}
	if err := b.send(mqttConnect, hello); err != nil {
		return nil, err
	}
	if err := b.send(mqttSubscribe, append(text16([]byte{0, 1}, "dome/#"), 0)); err != nil {
		return nil, err
	}
	go func() {
		t := time.NewTicker(20 * time.Second)
		defer t.Stop()
		for {
			select {
			case <-t.C:
				_ = b.send(mqttPing, nil)
			case <-b.end:
				return
			}
		}
	}()
	return b, nil
}

func text16(to []byte, s string) []byte {
	return append(binary.BigEndian.AppendUint16(to, uint16(len(s))), s...)
}

func (b *broker) send(kind byte, body []byte) error {
	packet := []byte{kind}
	packet = append(binary.AppendUvarint(packet, uint64(len(body))), body...)
	b.mu.Lock()
	defer b.mu.Unlock()
	_, err := b.conn.Write(packet)
	return err
}

func (b *broker) hear(tell func(string, any)) error {
	r := bufio.NewReader(b.conn)
	for {
		kind, err := r.ReadByte()
		if err != nil {
			return err
		}
		n, err := binary.ReadUvarint(r)
		if err != nil {
			return err
		}
		body := make([]byte, n)
		if _, err := io.ReadFull(r, body); err != nil {
			return err
		}
		switch kind & mqttKind {
		case mqttConnected:
			if len(body) != 2 || body[1] != 0 {
				return fmt.Errorf("the broker refuses: %v", body)
			}
		case mqttPublish:
			if kind&mqttQuality != 0 || len(body) < 2 {
				return errors.New("the broker does not keep to quality 0")
			}
			end := 2 + int(binary.BigEndian.Uint16(body))
			if path, ours := strings.CutPrefix(string(body[2:end]), "dome/"); ours && path != "error" {
				tell(path, payload(body[end:]))
			}
		}
	}
}

// payload is JSON where it can be, else text.
func payload(b []byte) any {
	var v any
	if json.Unmarshal(b, &v) != nil {
		return string(b)
	}
	return v
}

func (b *broker) set(path string, value any) error {
	body, err := json.Marshal(map[string]any{"value": value})
	if err != nil {
		return err
	}
	return b.send(mqttPublish, append(text16(nil, "dome/"+path+"/set"), body...))
}

func (b *broker) close() {
	close(b.end)
	_ = b.conn.Close()
}
