package streaming

import (
	"fmt"
	"image"
	"net/http"
	"sync/atomic"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/pictures"
)

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Web
	over atomic.Pointer[func(*image.RGBA)]
}

// Over has something drawn over what is on program: it is the page that the streaming software takes in as a source.
func (s *Server) Over(draw func(*image.RGBA)) { s.over.Store(&draw) }

// Start listens on a TCP address, such as 127.0.0.1:7430. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{Core: panel.NewCore("streaming", "Streaming software", 20*time.Millisecond, newMachine, changed)}
	rpc := &panel.RPC{Core: s.Core, Model: model, Password: Password, Methods: methods}
	mux := http.NewServeMux()
	mux.Handle("/control", rpc)
	mux.HandleFunc("/picture/scene/{scene}", func(w http.ResponseWriter, r *http.Request) {
		scene := r.PathValue("scene")
		for _, set := range sets {
			for _, sc := range set.scenes {
				if sc[0] == scene {
					over := func(*image.RGBA) {}
					if draw := s.over.Load(); draw != nil && s.View().Values["/program/scene"] == scene {
						over = *draw
					}
					pictures.ServeWith(w, pictures.Kind(sc[1]), sc[1], over)
					return
				}
			}
		}
		http.NotFound(w, r)
	})
	s.Web = panel.NewWeb(addr, mux)
	rpc.Web = s.Web
	if err := s.Core.Start(s.Web); err != nil {
		return nil, fmt.Errorf("start the bench's streaming software: %w", err)
	}
	return s, nil
}

// methods are those besides setting values.
var methods = map[string]panel.Method{
	"take": {Address: "/take"}, "lookback.save": {Address: "/lookback/save"}, "lookback.air": {Address: "/lookback/air"}, "lookback.away": {Address: "/lookback/away"},
	"source.place": {Address: "/source/place", Takes: []string{"path", "place", "over"}}, "source.back": {Address: "/source/back", Takes: []string{"path", "over"}},
	"place.keep": {Address: "/place/keep", Takes: []string{"path", "place"}}, "comment.show": {Address: "/comment/show", Takes: []string{"who", "words"}},
	"comment.hide": {Address: "/comment/hide"}, "comments.hide": {Address: "/comments/hide"},
}
