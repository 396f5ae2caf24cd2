// Package httpdev speaks to devices over HTTP: as many requests at a time as the sheet says, questions
// on a connection of their own, and what the device reports as Server-Sent Events, or in its answers.
package httpdev

import (
	"bytes"
	"context"
	"crypto/tls"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/link/socket"
)

const (
	// MaxBody is the largest answer, in bytes, that is read.
	//limit:bytes an answer of an HTTP device | in the journal, as refused
	MaxBody = 1 << 20
	// answerLimit is how long an answer is waited for.
	//limit:count wait for an answer of an HTTP device | as the device's problem
	answerLimit = 2 * time.Second
)

// Requests is the driver.
type Requests struct{}

// Encode implements link.Driver.
func (Requests) Encode(msgs ...device.Message) ([]byte, error) {
	for _, m := range msgs {
		if !strings.HasPrefix(m.Address, "/") {
			return nil, fmt.Errorf("encode a request: %q is not a path", m.Address)
		}
		if _, err := url.ParseRequestURI(m.Address); err != nil {
			return nil, fmt.Errorf("encode a request: %w", err)
		}
	}
	return link.Pack(msgs)
}

// Show implements link.Driver.
func (Requests) Show(payload []byte) []string { return link.ShowPacked(payload) }

// Dial implements link.Driver. Where the sheet names a stream of events it is
// opened; else a connection shows that something is there.
func (Requests) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	c := &conn{to: to, inbox: link.NewInbox(), commands: link.NewHandover(), questions: link.NewHandover(), base: "http://", going: map[string]*going{}}
	if to.Secure {
		c.base = "https://"
	}
	c.base += net.JoinHostPort(to.Host, strconv.Itoa(to.Port))
	c.ctx, c.cancel = context.WithCancel(context.Background())
	c.client = &http.Client{CheckRedirect: sameHost, Transport: &http.Transport{
		DialContext: func(ctx context.Context, _, _ string) (net.Conn, error) {
			return socket.Dial(ctx, to.Host, to.Port, to.Stale)
		},
		TLSClientConfig:        &tls.Config{MinVersion: tls.VersionTLS12},
		MaxResponseHeaderBytes: 64 << 10,
		IdleConnTimeout:        time.Minute,
		MaxIdleConnsPerHost:    requests(to) + 1,
	}}
	var err error
	if to.Link.Path != "" {
		err = c.follow(ctx)
	} else {
		var probe net.Conn
		if probe, err = socket.Dial(ctx, to.Host, to.Port, to.Stale); err == nil {
			_ = probe.Close()
		}
	}
	if err != nil {
		c.cancel()
		return nil, err
	}
	go c.inbox.Serve("http", func() { c.work(c.questions) })
	for range requests(to) {
		go c.inbox.Serve("http", func() { c.work(c.commands) })
	}
	return c, nil
}

// sameHost follows redirects within the device only, so that its credentials
// reach nobody else.
func sameHost(r *http.Request, via []*http.Request) error {
	if len(via) > 3 {
		return errors.New("it redirects in circles")
	}
	if r.URL.Host != via[0].URL.Host {
		return fmt.Errorf("it redirects to %s, another computer", r.URL.Host)
	}
	return nil
}

// requests is how many a device takes at a time.
func requests(to link.Target) int { return max(1, to.Link.Requests) }

type conn struct {
	to     link.Target
	base   string
	client *http.Client
	inbox  *link.Inbox
	// Questions never stand before commands.
	commands, questions link.Handover
	ctx                 context.Context
	cancel              context.CancelFunc

	mu    sync.Mutex
	going map[string]*going // by address, while any is on its way
}

// request makes a request with the credentials of the device.
func (c *conn) request(ctx context.Context, m device.Message) (*http.Request, error) {
	var body io.Reader
	if m.Body != nil {
		b, err := json.Marshal(m.Body)
		if err != nil {
			return nil, err
		}
		if text, ok := m.Body.(string); ok {
			b = []byte(text)
		}
		body = bytes.NewReader(b)
	}
	verb := m.Verb
	if verb == "" {
		verb = http.MethodGet
	}
	at, err := url.ParseRequestURI(c.base + m.Address)
	if err != nil {
		return nil, err
	}
	at.RawQuery = strings.NewReplacer(" ", "%20", "#", "%23").Replace(at.RawQuery) // as it was written by hand
	r, err := http.NewRequestWithContext(ctx, verb, at.String(), body)
	if err != nil {
		return nil, err
	}
	if _, text := m.Body.(string); body != nil && !text {
		r.Header.Set("Content-Type", "application/json")
	}
	r.Header.Set("User-Agent", "Synaptor")
	if login := c.to.Link.Login; login != nil {
		switch login.Kind {
		case "basic":
			r.SetBasicAuth(c.to.User, c.to.Password)
		case "bearer":
			r.Header.Set("Authorization", "Bearer "+c.to.Password)
		}
	}
	return r, nil
}

// refused says why a device did not let Synaptor in; nil when it did.
func (c *conn) refused(r *http.Response) error {
	if r.StatusCode != http.StatusUnauthorized && r.StatusCode != http.StatusForbidden {
		return nil
	}
	e := &link.AuthError{Text: "the user name or the password is wrong"}
	if login := c.to.Link.Login; login != nil && login.Kind == "bearer" {
		e.Text = "the token is wrong"
	}
	if c.to.Password == "" {
		e.Text = "it needs a password or a token, and none is set"
	}
	if _, realm, ok := strings.Cut(r.Header.Get("WWW-Authenticate"), `realm="`); ok {
		e.Found, _, _ = strings.Cut(realm, `"`)
	}
	return e
}

// follow opens the stream of events.
func (c *conn) follow(ctx context.Context) error {
	stop := context.AfterFunc(ctx, c.cancel) // until the headers are there
	r, err := c.request(c.ctx, device.Message{Address: c.to.Link.Path})
	if err != nil {
		return err
	}
	r.Header.Set("Accept", "text/event-stream")
	resp, err := c.client.Do(r)
	if !stop() && err == nil {
		err = context.DeadlineExceeded
		_ = resp.Body.Close()
	}
	if err != nil {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return reached(err)
	}
	if err := c.refused(resp); err != nil {
		_ = resp.Body.Close()
		return err
	}
	kind, _, _ := mime.ParseMediaType(resp.Header.Get("Content-Type"))
	if resp.StatusCode != http.StatusOK || kind != "text/event-stream" {
		_ = resp.Body.Close()
		return fmt.Errorf("%w: %s of %s is no stream of events but %q (%s)", link.ErrForeign, c.to.Link.Path, c.base, kind, resp.Status)
	}
	go c.inbox.Serve("http", func() {
		defer resp.Body.Close()
		c.inbox.Fail(events(resp.Body, func(m device.Message) { c.inbox.Put(link.Batch{Messages: []device.Message{m}}) }))
	})
	return nil
}

// reached sorts out the errors of a request; a redirect elsewhere is a sentence
// of its own.
func reached(err error) error {
	var u *url.Error
	if errors.As(err, &u) && strings.HasPrefix(u.Err.Error(), "it redirects") {
		return link.Problem("Synaptor does not go on: " + u.Err.Error() + ".")
	}
	return link.Reached(err)
}

// work carries out what is handed over, one after another.
func (c *conn) work(from link.Handover) {
	for {
		select {
		case j := <-from.Jobs():
			err := c.carryOut(j)
			for again := c.ended(j); again != nil && err == nil; again = c.ended(*again) {
				err = c.carryOut(link.Job{Payload: again.Payload})
			}
			if err != nil {
				c.inbox.Fail(err)
				return
			}
		case <-c.ctx.Done():
			return
		}
	}
}

// carryOut makes the requests of one command; an error ends the connection.
func (c *conn) carryOut(j link.Job) error {
	b := link.Batch{}
	answer := link.Answer{Command: j.Command, OK: true}
	for _, m := range link.Unpack(j.Payload) {
		text, ok, got, err := c.one(m)
		if err != nil {
			return err
		}
		if got != nil {
			b.Messages = append(b.Messages, *got)
		}
		answer.Text = text
		if !ok {
			answer.OK = false
			break
		}
	}
	switch {
	case j.Command != 0:
		b.Answers = []link.Answer{answer}
	case !answer.OK:
		c.inbox.Bad(errors.New(answer.Text))
		return nil
	}
	c.inbox.Put(b)
	return nil
}

// one makes a request. text is what the device answered, in short.
func (c *conn) one(m device.Message) (text string, ok bool, got *device.Message, err error) {
	ctx, cancel := context.WithTimeout(c.ctx, answerLimit)
	defer cancel()
	r, err := c.request(ctx, m)
	if err != nil {
		return err.Error(), false, nil, nil
	}
	resp, err := c.client.Do(r)
	var elsewhere link.Problem
	if err = reached(err); errors.As(err, &elsewhere) {
		return string(elsewhere), false, nil, nil
	}
	if err != nil {
		return "", false, nil, err
	}
	defer resp.Body.Close()
	if err := c.refused(resp); err != nil {
		return "", false, nil, err
	}
	body, err := io.ReadAll(io.LimitReader(resp.Body, MaxBody+1))
	switch {
	case err != nil:
		return "", false, nil, link.Reached(err)
	case len(body) > MaxBody:
		return fmt.Sprintf("the answer to %s is larger than %d bytes", m.Address, MaxBody), false, nil, nil
	case resp.StatusCode >= 300:
		return fmt.Sprintf("%s (%s)", orStatus(detail(body), resp), resp.Status), false, nil, nil
	}
	path, _, _ := strings.Cut(m.Address, "?")
	return link.Short(body), true, &device.Message{Verb: r.Method, Address: decoded(path), Body: link.Body(body)}, nil
}

// decoded gives a path without what was encoded in its parts, but for what would make
// two of one.
func decoded(path string) string {
	parts := strings.Split(path, "/")
	for i, p := range parts {
		if plain, err := url.PathUnescape(p); err == nil && !strings.Contains(plain, "/") {
			parts[i] = plain
		}
	}
	return strings.Join(parts, "/")
}

func orStatus(text string, r *http.Response) string {
	if text == "" {
		return http.StatusText(r.StatusCode)
	}
	return text
}

// detail gives the words of a problem document (RFC 9457), or of a short text.
func detail(body []byte) string {
	var p struct{ Detail, Title, Error, Message string }
	if json.Unmarshal(body, &p) == nil {
		for _, t := range []string{p.Detail, p.Title, p.Error, p.Message} {
			if t != "" {
				return link.Short([]byte(t))
			}
		}
		return ""
	}
	return link.Short(body)
}

// Read implements link.Conn.
func (c *conn) Read() (link.Batch, error) { return c.inbox.Read() }

// Write implements link.Conn.
func (c *conn) Write(payload []byte, command uint64, deadline time.Time) error {
	j := link.Job{Payload: payload, Command: command}
	if command == 0 {
		return c.questions.Until(j, deadline, c.ctx.Done())
	}
	for wait, ended := c.begin(j); ended != nil; wait, ended = c.begin(j) {
		wait = min(wait, time.Until(deadline))
		select {
		case <-ended:
		case <-time.After(wait):
		case <-c.ctx.Done():
			return link.Reached(net.ErrClosed)
		}
		if !time.Now().Before(deadline) {
			return link.ErrLate
		}
	}
	err := c.commands.Until(j, deadline, c.ctx.Done())
	if err != nil {
		c.ended(j)
	}
	return err
}

// TryWrite implements link.Conn.
func (c *conn) TryWrite(payload []byte, command uint64) (ok bool, err error) {
	j := link.Job{Payload: payload, Command: command}
	if command == 0 {
		return c.questions.Try(j), nil
	}
	if _, ended := c.begin(j); ended != nil {
		return false, nil
	}
	if !c.commands.Try(j) {
		c.ended(j)
		return false, nil
	}
	return true, nil
}

// Close implements link.Conn.
func (c *conn) Close() error {
	c.cancel()
	c.inbox.Close()
	c.client.CloseIdleConnections()
	return nil
}
