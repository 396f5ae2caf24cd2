package web

import (
	"crypto/rand"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/overlay"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// overlaySetting is where the address of the overlays is kept: it is of the computer, since what takes it in goes on when another show is opened.
const overlaySetting = "overlay"

// overlayGate is the address that the overlays are taken in at, and who has it open.
type overlayGate struct {
	mu   sync.Mutex
	read bool // the address was read
	name string
	last int
	open map[int]overlayGuest
	gone chan struct{} // closed when the address is another one
}

// overlayGuest is a page that is open.
type overlayGuest struct {
	From  string    `json:"from"`
	Since time.Time `json:"since"`
}

// OverlayAddress is where the overlays are taken in.
type OverlayAddress struct {
	// Path is the address below that of Synaptor; empty: there is none.
	Path string         `json:"path"`
	Open []overlayGuest `json:"open"`
	// Safe is how much of the picture at each edge may not be seen on every screen, in percent.
	Safe float64 `json:"safe"`
}

// keptAddress is how the address is kept.
type keptAddress struct{ Name string }

// load reads the address; the lock is held.
func (s *server) loadOverlay() error {
	if s.overlay.read || s.PeopleDB == nil {
		return nil
	}
	var kept keptAddress
	if err := s.PeopleDB.Setting(overlaySetting, &kept); err != nil {
		return err
	}
	s.overlay.name, s.overlay.read, s.overlay.gone = kept.Name, true, make(chan struct{})
	return nil
}

func (s *server) overlayAddress(c *echo.Context) error {
	s.overlay.mu.Lock()
	defer s.overlay.mu.Unlock()
	if err := s.loadOverlay(); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, s.overlayDoc())
}

// overlayDoc says where the overlays are; the lock is held.
func (s *server) overlayDoc() OverlayAddress {
	doc := OverlayAddress{Open: []overlayGuest{}, Safe: overlay.Safe}
	if s.overlay.name != "" {
		doc.Path = "/overlay/" + s.overlay.name
	}
	for _, g := range s.overlay.open {
		doc.Open = append(doc.Open, g)
	}
	slices.SortFunc(doc.Open, func(a, b overlayGuest) int { return a.Since.Compare(b.Since) })
	return doc
}

// newOverlayAddress makes another address, or takes it back: whoever has the old one open sees nothing more.
func (s *server) newOverlayAddress(c *echo.Context) error {
	s.overlay.mu.Lock()
	defer s.overlay.mu.Unlock()
	if err := s.loadOverlay(); err != nil {
		return err
	}
	name := ""
	if c.Request().Method == http.MethodPost {
		name = rand.Text()
	}
	if err := s.PeopleDB.Set(overlaySetting, keptAddress{name}); err != nil {
		return err
	}
	s.overlay.name = name
	close(s.overlay.gone)
	s.overlay.gone = make(chan struct{})
	return c.JSON(http.StatusOK, s.overlayDoc())
}

// mostOverlays is how many pages of the overlays are open at a time.
//
//limit:count pages of the overlays that are open | in the answer
const mostOverlays = 100

// enterOverlay notes a page that is open. gone is closed when its address is no longer one.
func (s *server) enterOverlay(name, from string) (leave func(), gone <-chan struct{}, err error) {
	s.overlay.mu.Lock()
	defer s.overlay.mu.Unlock()
	switch err := s.loadOverlay(); {
	case err != nil:
		return nil, nil, err
	case s.overlay.name == "" || name != s.overlay.name:
		return nil, nil, echo.ErrNotFound
	case len(s.overlay.open) >= mostOverlays:
		return nil, nil, echo.NewHTTPError(http.StatusServiceUnavailable, "The overlays are open in too many places.")
	}
	if s.overlay.open == nil {
		s.overlay.open = map[int]overlayGuest{}
	}
	s.overlay.last++
	id := s.overlay.last
	s.overlay.open[id] = overlayGuest{from, time.Now()}
	s.Hub.Announce("overlay-open", []string{"overlays"}, len(s.overlay.open))
	return func() {
		s.overlay.mu.Lock()
		defer s.overlay.mu.Unlock()
		delete(s.overlay.open, id)
		s.Hub.Announce("overlay-open", []string{"overlays"}, len(s.overlay.open))
	}, s.overlay.gone, nil
}

// takesOverlay tells whether an address is that of the overlays.
func (s *server) takesOverlay(name string) bool {
	s.overlay.mu.Lock()
	defer s.overlay.mu.Unlock()
	return s.loadOverlay() == nil && s.overlay.name != "" && name == s.overlay.name
}

// overlayPage is the page that streaming software takes in: nothing of the application is on it.
func (s *server) overlayPage(c *echo.Context) error {
	if !s.takesOverlay(c.Param("name")) {
		return echo.NewHTTPError(http.StatusNotFound, "There are no overlays at this address. It may have been taken back.")
	}
	return s.file(c, http.StatusOK, "overlay.html")
}

const (
	// overlayBeat is how often a page that nothing happens on is told that it is still heard.
	overlayBeat = 5 * time.Second
	// overlayPatience is how long a page may take to read; what does not read is left.
	overlayPatience = 5 * time.Second
)

// overlayEvents tells a page what it shows, as Server-Sent Events: at once, and whenever that changes. What does not read is told the newest when it does.
func (s *server) overlayEvents(c *echo.Context) error {
	leave, gone, err := s.enterOverlay(c.Param("name"), hostOf(c.Request().RemoteAddr))
	if err != nil {
		return err
	}
	defer leave()
	client := s.Hub.Join()
	defer s.Hub.Leave(client)
	h := c.Response().Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("Cache-Control", "no-store")
	out := http.NewResponseController(c.Response())
	tell := func(page json.RawMessage) error {
		if err := out.SetWriteDeadline(time.Now().Add(overlayPatience)); err != nil {
			return err
		}
		line := []byte(": still here\n\n")
		if page != nil {
			line = fmt.Appendf(nil, "data: %s\n\n", page)
		}
		if _, err := c.Response().Write(line); err != nil {
			return err
		}
		return out.Flush()
	}
	if tell(s.Hub.Follow(client, []string{"overlay"}).Values["overlay"]) != nil {
		return nil // it has gone
	}
	beat := time.NewTicker(overlayBeat)
	defer beat.Stop()
	for {
		var page json.RawMessage
		select {
		case <-c.Request().Context().Done():
			return nil
		case <-gone:
			return nil
		case <-beat.C:
		case <-client.Wake:
			m, has := client.Take()
			if page = m.Values["overlay"]; !has || page == nil {
				continue
			}
		}
		if tell(page) != nil {
			return nil
		}
	}
}

// overlayPicture gives a picture that an overlay shows; no other one.
func (s *server) overlayPicture(c *echo.Context) error {
	if !s.takesOverlay(c.Param("name")) || !slices.ContainsFunc(s.Edit.Program().Show.Overlays(), func(o *show.Overlay) bool { return o.Picture == c.Param("id") }) {
		return echo.ErrNotFound
	}
	return s.mediaBody(c)
}

// portraitRate is how often a picture of who has said something is asked for, at most, by second: it does not move.
const portraitRate = 0.1

// overlayPortrait gives the picture of who has said what an overlay shows, from the device that has it; no other one, and nothing of where it is.
func (s *server) overlayPortrait(c *echo.Context) error {
	if !s.takesOverlay(c.Param("name")) {
		return echo.ErrNotFound
	}
	v := s.Mirror.View()
	shown := v.Overlays().Elements
	i := slices.IndexFunc(shown, func(e overlay.Element) bool {
		return e.ID == c.Param("id") && e.Portrait != "" && e.Portrait == c.Param("mark")
	})
	if i < 0 {
		return echo.ErrNotFound
	}
	url, ok := v.PortraitURL(shown[i].Whose)
	if !ok {
		return echo.ErrNotFound
	}
	p, err := s.Media.Get(c.Request().Context(), url, portraitRate)
	if err != nil {
		slog.Debug("the picture of a viewer is not shown", "overlay", c.Param("id"), "err", err)
		return echo.ErrNotFound // the page shows the first letter of the name
	}
	h := c.Response().Header()
	h.Set("Cache-Control", "private, max-age=600")
	h.Set("X-Content-Type-Options", "nosniff")
	return c.Blob(http.StatusOK, p.Type, p.Data)
}

// OverlayDoc is an overlay, and what is to be said of it; whether it is shown is a reading of Synaptor.
type OverlayDoc struct {
	show.Overlay
	Rev int64 `json:"rev"`
	// Outside says that not every screen shows all of it, Unreadable that its words are lost on a light picture.
	Outside    bool `json:"outside,omitempty"`
	Unreadable bool `json:"unreadable,omitempty"`
}

// OverlayChange is an overlay as it is to be; Rev is the revision that it was read at.
type OverlayChange struct {
	edit.OverlayForm
	Rev int64 `json:"rev,omitempty"`
}

func (s *server) listOverlays(c *echo.Context) error {
	out := []OverlayDoc{}
	sh := s.Edit.Program().Show
	for _, o := range sh.Overlays() {
		out = append(out, OverlayDoc{*o, sh.Rev(o.Ref()), overlay.Outside(o), overlay.Unreadable(o)})
	}
	return c.JSON(http.StatusOK, out)
}

func (s *server) addOverlay(c *echo.Context) error {
	var f edit.OverlayForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.AddOverlay(who(c), f))
}

func (s *server) editOverlay(c *echo.Context) error {
	var f OverlayChange
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.EditOverlay(who(c), c.Param("id"), f.Rev, f.OverlayForm))
}

func (s *server) removeOverlay(c *echo.Context) error {
	return done(c, s.Edit.RemoveOverlay(who(c), c.Param("id")))
}
