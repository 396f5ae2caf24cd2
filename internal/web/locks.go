package web

import (
	"net/http"
	"sync"

	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
)

// locks are the browsers that edit nothing until they unlock.
type locks struct {
	mu sync.Mutex
	of map[string]bool // by session
}

// maxLocks bounds what is kept of browsers that are locked.
//
//limit:count browsers that are locked | nowhere; all are unlocked
const maxLocks = 1000

func (l *locks) has(session string) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.of[session]
}

func (l *locks) set(session string, on bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.of == nil || len(l.of) >= maxLocks {
		l.of = map[string]bool{}
	}
	if delete(l.of, session); on {
		l.of[session] = true
	}
}

// unlocked turns edits away while this browser, or everybody, is locked. An edit is what takes an editor and changes something.
func (s *server) unlocked(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if c.Request().Method == http.MethodGet || s.gate.roles[routeOf(c)] != access.Editor {
			return next(c)
		}
		switch {
		case s.Access.Locked():
			return echo.NewHTTPError(http.StatusLocked, "Edits are locked for all. An editor unlocks them at Locked, in the top bar.")
		case s.locks.has(browserOf(c)):
			return echo.NewHTTPError(http.StatusLocked, "You have locked edits for yourself. Unlock them at Locked, in the top bar.")
		}
		return next(c)
	}
}

// LockForm locks edits, for whoever asks or for all.
type LockForm struct {
	Locked bool `json:"locked"`
	All    bool `json:"all,omitempty"`
}

func (s *server) setLocked(c *echo.Context) error {
	var f LockForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	if !f.All {
		s.locks.set(browserOf(c), f.Locked)
		return c.NoContent(http.StatusNoContent)
	}
	if !visitorOf(c).Role.May(access.Editor) {
		return echo.NewHTTPError(http.StatusForbidden, "Only an editor locks edits for all.")
	}
	s.Access.Lock(f.Locked)
	what := "Edits are taken again"
	if f.Locked {
		what = "Edits are refused for all"
	}
	s.noteAccess(c, what, actor(c), nil)
	return c.NoContent(http.StatusNoContent)
}
