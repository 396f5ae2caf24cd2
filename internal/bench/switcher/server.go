package switcher

import (
	"errors"
	"fmt"
	"net"
	"net/http"
	"strconv"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/pictures"
	"synaptor/internal/core/device"
	"synaptor/internal/link/osc"
)

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Listener
	pictures *panel.Web
}

// Start listens on a TCP address, such as 127.0.0.1:7431, and delivers the
// pictures of its inputs at another one. changed may be nil.
func Start(addr, pictureAddr string, changed func()) (*Server, error) {
	s := &Server{}
	mux := http.NewServeMux()
	mux.HandleFunc("/picture/{input}", s.picture)
	s.pictures = panel.NewWeb(pictureAddr, mux)
	if err := s.pictures.Open(); err != nil {
		return nil, fmt.Errorf("start the pictures of the bench's video switcher: %w", err)
	}
	_, port, _ := net.SplitHostPort(s.pictures.Addr())
	n, _ := strconv.Atoi(port)
	s.Core = panel.NewCore("switcher", "Video switcher", time.Second/FrameRate, func() panel.Machine {
		m := NewMachine()
		m.Values().Put("/pictures/port", n)
		return m
	}, changed)
	s.Listener = panel.NewListener(addr, s.serve)
	if err := s.Core.Start(s.Listener); err != nil {
		return nil, fmt.Errorf("start the bench's video switcher: %w", err)
	}
	return s, nil
}

// picture serves the picture of an input, with its name in it.
func (s *Server) picture(w http.ResponseWriter, r *http.Request) {
	name, ok := s.View().Values["/input/"+r.PathValue("input")+"/name"].(string)
	if !ok || s.Faults().Cut {
		http.NotFound(w, r)
		return
	}
	pictures.Serve(w, pictures.Kind(name), name)
}

// Close implements panel.StandIn.
func (s *Server) Close() {
	s.pictures.Cut()
	s.Core.Close()
}

// serve reads what a client sends until it leaves. Nonsense is answered and
// ends nothing.
func (s *Server) serve(c net.Conn) {
	out := panel.NewOutbox(func(b []byte) error { _, err := c.Write(b); return err }, func() { _ = c.Close() })
	defer out.Close()
	send := func(due time.Time, msgs []device.Message) {
		for _, m := range msgs {
			if p, err := osc.Encode(m); err == nil {
				out.Send(due, osc.AppendFrame(nil, p))
			}
		}
	}
	var following *panel.Follower
	defer func() { s.Leave(following) }()
	frames := osc.NewFrameReader(c)
	for {
		frame, err := frames.Next()
		var msgs []device.Message
		switch {
		case errors.Is(err, osc.ErrOversized), errors.Is(err, osc.ErrBadEscape):
		case err != nil:
			return
		default:
			msgs, err = osc.Decode(frame)
		}
		if err != nil && !s.Faults().Silent {
			send(s.Due(), refusal("", err))
		}
		for _, m := range msgs {
			if m.Address == "/follow" {
				s.Leave(following)
				following = s.FollowAll(send)
				continue
			}
			if answer := s.answer(m); answer != nil {
				send(s.Due(), answer)
			}
		}
	}
}

// refusal says what is refused, and why.
func refusal(of string, err error) []device.Message {
	return []device.Message{{Address: "/error", Args: []any{err.Error(), of}}}
}

// answer carries out a message and returns what it is answered with, if
// anything.
func (s *Server) answer(m device.Message) []device.Message {
	if m.Address != "/ask" {
		if heard, err := s.Handle(m); heard && err != nil {
			return refusal(m.Address, err)
		}
		return nil
	}
	address := ""
	if len(m.Args) > 0 {
		address, _ = m.Args[0].(string)
	}
	heard, values := s.Asked(address)
	if heard && (len(values) != 1 || address == "") {
		return refusal(m.Address, fmt.Errorf("%q is not known here", address))
	}
	return values
}
