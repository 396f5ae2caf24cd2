package web

import (
	"crypto/rand"
	"fmt"
	"net"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/attach"
	"synaptor/internal/doors"
	"synaptor/internal/edit"
	"synaptor/internal/people"
)

func hostOf(hostport string) string {
	if h, _, err := net.SplitHostPort(hostport); err == nil {
		return h
	}
	return hostport
}

// guardHost turns away requests that came under another name: a web page
// elsewhere must not reach this server by pointing its own name here.
func (s *server) guardHost(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		to, _ := r.Context().Value(http.LocalAddrContextKey).(net.Addr)
		if host := hostOf(r.Host); s.Doors == nil && !doors.Loopback(host) || s.Doors != nil && !s.Doors.Knows(host, to) {
			return echo.NewHTTPError(http.StatusForbidden, fmt.Sprintf("This server does not answer to the name %q.", r.Host))
		}
		return next(c)
	}
}

// guardOrigin turns away requests that change something, and live sockets, when
// they were started by a page from elsewhere.
func guardOrigin(next echo.HandlerFunc) echo.HandlerFunc {
	cross := http.NewCrossOriginProtection()
	return func(c *echo.Context) error {
		r := c.Request()
		asked := r
		if c.IsWebSocket() { // to open one is more than to look
			asked = r.Clone(r.Context())
			asked.Method = http.MethodPost
		}
		if cross.Check(asked) != nil {
			return foreign(r)
		}
		return next(c)
	}
}

func foreign(r *http.Request) error {
	return echo.NewHTTPError(http.StatusForbidden, fmt.Sprintf("A page from %q may not do this.", r.Header.Get("Origin")))
}

// headers keeps the browser from anything that does not come from here. Style
// attributes are allowed; scripts only as files.
func headers(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin") // with none, the forms of pages would come from nowhere
		if strings.HasPrefix(c.Request().URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		return next(c)
	}
}

const sessionCookie = "synaptor_session"

// cookieName is what a cookie is called: over TLS it has a name of its own, which binds it to this host (RFC 6265bis, 4.1.3.2), so that what was set over TLS
// does not stand in the way where the same address is served over plain HTTP.
func cookieName(name string, r *http.Request) string {
	if r.TLS != nil {
		return "__Host-" + name
	}
	return name
}

// session gives every browser a session of its own, which its undo list hangs on while nobody has to be known. A
// browser that follows a link from elsewhere does not say which it has (SameSite=Strict),
// so it is given none then: it would lose its own.
func session(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if strings.HasPrefix(c.Request().URL.Path, "/overlay/") { // what takes the overlays in has nothing of the application
			return next(c)
		}
		if ck, err := c.Cookie(cookieName(sessionCookie, c.Request())); err == nil && len(ck.Value) >= 20 && len(ck.Value) <= 64 {
			c.Set(sessionCookie, ck.Value)
			return next(c)
		}
		id := rand.Text()
		c.Set(sessionCookie, id)
		if site := c.Request().Header.Get("Sec-Fetch-Site"); site == "cross-site" || site == "same-site" {
			return next(c)
		}
		c.SetCookie(&http.Cookie{Name: cookieName(sessionCookie, c.Request()), Value: id, Path: "/", HttpOnly: true, Secure: c.Request().TLS != nil, SameSite: http.SameSiteStrictMode, MaxAge: 30 * 24 * 3600})
		return next(c)
	}
}

// who has made a request: whoever is known, in whichever browser, else the browser. Undo goes by that.
func who(c *echo.Context) edit.Who {
	if v := visitorOf(c); v.ID != "" {
		return edit.Who{Session: v.ID, Actor: actor(c), Person: v.ID}
	}
	return edit.Who{Session: browserOf(c), Actor: actor(c)}
}

// browserOf is the session of the browser that a request comes from.
func browserOf(c *echo.Context) string {
	id, _ := c.Get(sessionCookie).(string)
	return id
}

// actor names whoever sent a request, for the journal and the edit log.
func actor(c *echo.Context) string {
	return sender(c).String()
}

// sender is whoever sent a request: a browser, which brings the session it was given and
// says where a request comes from; else a program, by its address.
func sender(c *echo.Context) attach.Sender {
	r := c.Request()
	v := visitorOf(c)
	from := v.from
	if v.ID != "" && v.session == "" {
		return from
	}
	if ck, err := r.Cookie(cookieName(sessionCookie, r)); err == nil && (r.Header.Get("Sec-Fetch-Site") != "" || r.Header.Get("Origin") != "") {
		from.Browser = ck.Value[:min(4, len(ck.Value))]
		return from
	}
	from.Address = hostOf(r.RemoteAddr)
	return from
}

// Sender is who sends something as somebody who is known; nobody has to be where they have no id.
func Sender(p *people.Service, who people.Who) attach.Sender {
	from := attach.Sender{ID: who.ID, Person: who.Name, Rights: who.Rights, Watches: who.ID != "" && !who.Role.May(access.Operator)}
	if t := who.Terms; t != nil {
		from.SkipsGuards = t.SkipsGuards
		if t.PerSecond > 0 {
			from.Spend = func() bool { return p.Spend(who.ID) }
		}
	}
	return from
}
