package doors

import (
	"crypto/rand"
	"errors"
	"fmt"
	"net"
	"slices"
	"time"

	"synaptor/internal/certs"
)

// wayBack is how long a change waits to be confirmed from an address that it has opened; then it is as it was.
const wayBack = 30 * time.Second

// pending is a change that is to be confirmed.
type pending struct {
	token  string
	before Config
	opened []string
	until  time.Time
	timer  *time.Timer
}

// Pending is a change that is undone unless the link is opened at one of the addresses that it has opened.
type Pending struct {
	Path      string    `json:"path"`
	Addresses []string  `json:"addresses"` // URLs
	Until     time.Time `json:"until"`
}

// ErrBusy says that a change waits for its confirmation.
var ErrBusy = errors.New("a change of the addresses waits to be confirmed; that comes first")

// Change opens and closes what a configuration says, at once. Where that opens something, or has it served in another way, it is undone after 30 s unless it
// is confirmed from there. from is the address that the request came to, which is not closed. It fails with a *Refused, or with ErrBusy.
func (s *Service) Change(c Config, from net.Addr) (*Pending, error) {
	if err := c.Check(); err != nil {
		return nil, err
	}
	s.turn.Lock()
	defer s.turn.Unlock()
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.pending != nil || s.ctx.Err() != nil {
		return nil, ErrBusy
	}
	if c.TLS != certs.Plain {
		if _, err := s.o.Certs.Get(c.TLS, "localhost"); err != nil {
			return nil, &Refused{"tls", certs.Sentence(err)}
		}
	}
	before, were := s.config, s.urls()
	s.config = c
	here := from.String()
	if d := s.doors[here]; d != nil && !d.fixed && !slices.Contains(s.wanted(), here) {
		s.config = before
		return nil, &Refused{"addresses", "You are here by this address; close it from another one."}
	}
	s.settle()
	for at, why := range s.trouble {
		if host, _, _ := net.SplitHostPort(at); !slices.Contains(before.Addresses, host) && slices.Contains(c.Addresses, host) {
			s.config = before
			s.settle()
			return nil, &Refused{"addresses", fmt.Sprintf("%s cannot be opened: %s.", host, why)}
		}
	}
	opened := slices.DeleteFunc(s.urls(), func(u string) bool { return slices.Contains(were, u) })
	if len(opened) == 0 {
		if err := s.o.Keep(c); err != nil {
			s.config = before
			s.settle()
			return nil, err
		}
		return nil, nil
	}
	p := &pending{token: rand.Text(), before: before, opened: opened, until: time.Now().Add(wayBack)}
	p.timer = time.AfterFunc(wayBack, func() { s.Back(p.token) })
	s.pending = p
	return p.view(), nil
}

func (p *pending) view() *Pending {
	return &Pending{"/here/" + p.token, p.opened, p.until.UTC()}
}

// Pending is the change that waits; nil: none does.
func (s *Service) Pending() *Pending {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.pending == nil {
		return nil
	}
	return s.pending.view()
}

// ErrNotPending says that nothing waits to be confirmed, or not from here.
var ErrNotPending = errors.New("nothing waits to be confirmed from here: the change was confirmed, or undone")

// Confirm keeps a change, from one of the addresses that it has opened. It fails with ErrNotPending.
func (s *Service) Confirm(token string, url string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	p := s.pending
	if p == nil || p.token != token || !slices.Contains(p.opened, url) {
		return ErrNotPending
	}
	if err := s.o.Keep(s.config); err != nil {
		return err
	}
	p.timer.Stop()
	s.pending = nil
	return nil
}

// Back undoes a change that waits; an empty token is any.
func (s *Service) Back(token string) {
	s.turn.Lock()
	defer s.turn.Unlock()
	s.mu.Lock()
	defer s.mu.Unlock()
	p := s.pending
	if p == nil || s.ctx.Err() != nil || token != "" && p.token != token {
		return
	}
	p.timer.Stop()
	s.pending, s.config = nil, p.before
	s.settle()
}

// urls are the addresses that are open to others, as browsers take them. The lock is held.
func (s *Service) urls() (out []string) {
	for _, d := range s.doors {
		host, port, _ := net.SplitHostPort(d.address)
		if !Wide(d.address) {
			continue
		}
		hosts := []string{host}
		if ip := net.ParseIP(host); ip != nil && ip.IsUnspecified() {
			hosts = nil
			for _, i := range s.o.Interfaces() {
				hosts = append(hosts, i.Address)
			}
		}
		for _, h := range hosts {
			out = append(out, scheme(d.secure)+net.JoinHostPort(h, port))
		}
	}
	slices.Sort(out)
	return out
}

func scheme(secure bool) string {
	if secure {
		return "https://"
	}
	return "http://"
}
