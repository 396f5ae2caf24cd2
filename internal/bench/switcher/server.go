package switcher

import (
	"fmt"
	"net"
	"net/http"
	"strconv"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/pictures"
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
	s.Listener = panel.NewListener(addr, s.ServeOSC)
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
