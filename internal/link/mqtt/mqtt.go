// Package mqtt speaks MQTT 3.1.1: it subscribes to the topics that a sheet
// names and publishes with QoS 0, so that nothing is sent again later.
package mqtt

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"time"

	paho "github.com/eclipse/paho.mqtt.golang"
	"github.com/eclipse/paho.mqtt.golang/packets"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/link/socket"
)

// MaxPayload is the largest payload, in bytes, that is read.
//
//limit:bytes an MQTT payload | in the wire view
const MaxPayload = 64 << 10

// Broker is the driver.
type Broker struct{}

// Encode implements link.Driver.
func (Broker) Encode(msgs ...device.Message) ([]byte, error) {
	for _, m := range msgs {
		if m.Address == "" || strings.ContainsAny(m.Address, "#+\x00") || len(m.Address) > 65535 {
			return nil, fmt.Errorf("encode MQTT: %q is not a topic to publish to", m.Address)
		}
	}
	return link.Pack(msgs)
}

// Show implements link.Driver.
func (Broker) Show(payload []byte) []string { return link.ShowPacked(payload) }

// Dial implements link.Driver.
func (Broker) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	c := &conn{inbox: link.NewInbox()}
	scheme := "tcp"
	if to.Secure {
		scheme = "ssl"
	}
	o := paho.NewClientOptions().AddBroker(scheme + "://" + net.JoinHostPort(to.Host, strconv.Itoa(to.Port)))
	o.SetClientID(fmt.Sprintf("synaptor-%d", time.Now().UnixNano())).SetProtocolVersion(4).SetCleanSession(true)
	o.SetAutoReconnect(false).SetConnectRetry(false).SetOrderMatters(true).SetWriteTimeout(to.Stale)
	o.SetKeepAlive(2 * time.Second).SetPingTimeout(time.Second)
	o.SetUsername(to.User).SetPassword(to.Password)
	o.SetConnectionLostHandler(func(_ paho.Client, err error) { c.inbox.Fail(link.Reached(err)) })
	o.SetDefaultPublishHandler(func(_ paho.Client, m paho.Message) { c.inbox.Serve("mqtt", func() { c.receive(m) }) })
	o.SetCustomOpenConnectionFn(func(_ *url.URL, _ paho.ClientOptions) (net.Conn, error) {
		return c.open(ctx, to)
	})
	c.client = paho.NewClient(o)
	if err := wait(ctx, c.client.Connect()); err != nil {
		c.drop()
		return nil, refusal(err, to)
	}
	_ = c.socket.SetDeadline(time.Time{})
	filters := map[string]byte{}
	for _, t := range to.Link.Topics {
		filters[t] = 0
	}
	if len(filters) > 0 {
		if err := wait(ctx, c.client.SubscribeMultiple(filters, nil)); err != nil {
			c.drop()
			return nil, link.Reached(err)
		}
	}
	return c, nil
}

// open makes the connection; its handshake has until the context ends.
func (c *conn) open(ctx context.Context, to link.Target) (net.Conn, error) {
	tcp, err := socket.Dial(ctx, to.Host, to.Port, to.Stale)
	if err != nil {
		return nil, err
	}
	if !c.keep(tcp) {
		return nil, net.ErrClosed // given up meanwhile
	}
	if until, ok := ctx.Deadline(); ok {
		_ = tcp.SetDeadline(until)
	}
	if !to.Secure {
		return newBounded(tcp), nil
	}
	secure := tls.Client(tcp, &tls.Config{ServerName: to.Host, MinVersion: tls.VersionTLS12})
	if err := secure.HandshakeContext(ctx); err != nil {
		_ = tcp.Close()
		return nil, err
	}
	return newBounded(secure), nil
}

// wait waits for a token until the context ends.
func wait(ctx context.Context, t paho.Token) error {
	select {
	case <-t.Done():
		return t.Error()
	case <-ctx.Done():
		return ctx.Err()
	}
}

// refusal sorts out why a broker does not let Synaptor in.
func refusal(err error, to link.Target) error {
	if errors.Is(err, packets.ErrorRefusedBadUsernameOrPassword) || errors.Is(err, packets.ErrorRefusedNotAuthorised) {
		if to.Password == "" {
			return &link.AuthError{Text: "it needs a user name and a password, and none is set"}
		}
		return &link.AuthError{Text: "the user name or the password is wrong"}
	}
	return link.Reached(err)
}

type conn struct {
	client paho.Client
	inbox  *link.Inbox
	once   sync.Once

	mu      sync.Mutex // the library makes the socket in a goroutine of its own
	socket  *socket.Conn
	dropped bool
}

// keep takes over the socket; false when the connection was given up by then.
func (c *conn) keep(s *socket.Conn) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.dropped {
		_ = s.Close()
		return false
	}
	c.socket = s
	return true
}

// receive takes in a message of the broker, retained ones too.
func (c *conn) receive(m paho.Message) {
	if len(m.Payload()) > MaxPayload {
		c.inbox.Bad(fmt.Errorf("%s carries %d bytes; %d is the most", m.Topic(), len(m.Payload()), MaxPayload))
		return
	}
	c.inbox.Put(link.Batch{Messages: []device.Message{{Address: m.Topic(), Body: link.Body(m.Payload())}}})
}

// Read implements link.Conn.
func (c *conn) Read() (link.Batch, error) { return c.inbox.Read() }

// Write implements link.Conn.
func (c *conn) Write(payload []byte, _ uint64, deadline time.Time) error {
	for _, m := range link.Unpack(payload) {
		if time.Now().After(deadline) {
			return link.ErrLate
		}
		body, err := text(m.Body)
		if err != nil {
			return err
		}
		t := c.client.Publish(m.Address, 0, false, body)
		if !t.WaitTimeout(time.Until(deadline)) {
			return context.DeadlineExceeded // what is stuck is lost with the connection
		}
		if err := t.Error(); err != nil {
			return err
		}
	}
	return nil
}

// text gives a payload: a text as it is, anything else as JSON.
func text(body any) ([]byte, error) {
	if s, ok := body.(string); ok {
		return []byte(s), nil
	}
	if body == nil {
		return nil, nil
	}
	return link.JSON(body)
}

// TryWrite implements link.Conn: the library's publishing may wait.
func (c *conn) TryWrite([]byte, uint64) (ok bool, err error) { return false, nil }

// Close implements link.Conn.
func (c *conn) Close() error {
	c.drop()
	return nil
}

func (c *conn) drop() {
	c.once.Do(func() {
		c.inbox.Close()
		c.mu.Lock()
		c.dropped = true
		if c.socket != nil {
			_ = c.socket.Close() // first, so that nothing more leaves
		}
		c.mu.Unlock()
		c.client.Disconnect(0)
	})
}
