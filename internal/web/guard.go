package web

import (
	"crypto/rand"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"

	"github.com/labstack/echo/v5"

	"synaptor/internal/attach"
	"synaptor/internal/edit"
)

// CheckListen refuses every listen address that is not loopback: until sign-in
// exists, whoever reaches Synaptor may do everything.
func CheckListen(addr string) error {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return fmt.Errorf("%q is not an address to listen on, such as 127.0.0.1:7420", addr)
	}
	if !loopback(host) {
		return fmt.Errorf("synaptor listens on this computer only (127.0.0.1, [::1] or localhost), not on %q: it has no sign-in yet, "+
			"so anybody in the network could run your show", addr)
	}
	return nil
}

func loopback(host string) bool {
	if strings.EqualFold(host, "localhost") {
		return true
	}
	ip, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return err == nil && ip.Unmap().IsLoopback()
}

func hostOf(hostport string) string {
	if h, _, err := net.SplitHostPort(hostport); err == nil {
		return h
	}
	return hostport
}

// guardHost turns away requests that came under another name: a web page
// elsewhere must not reach this server by pointing its own name here.
func guardHost(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if !loopback(hostOf(c.Request().Host)) {
			return echo.NewHTTPError(http.StatusForbidden, fmt.Sprintf("This server does not answer to the name %q.", c.Request().Host))
		}
		return next(c)
	}
}

// guardOrigin turns away requests that change something, and live sockets, when
// they were started by a page from elsewhere.
func guardOrigin(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		changes := r.Method != http.MethodGet && r.Method != http.MethodHead
		if !changes && !c.IsWebSocket() {
			return next(c)
		}
		if site := r.Header.Get("Sec-Fetch-Site"); site == "cross-site" || site == "same-site" {
			return foreign(r)
		}
		if origin := r.Header.Get("Origin"); origin != "" {
			u, err := url.Parse(origin)
			if err != nil || u.Host != r.Host {
				return foreign(r)
			}
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

// session gives every browser a session of its own, which its undo list hangs on. A
// browser that follows a link from elsewhere does not say which it has (SameSite=Strict),
// so it is given none then: it would lose its own.
func session(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if ck, err := c.Cookie(sessionCookie); err == nil && len(ck.Value) >= 20 && len(ck.Value) <= 64 {
			c.Set(sessionCookie, ck.Value)
			return next(c)
		}
		id := rand.Text()
		c.Set(sessionCookie, id)
		if site := c.Request().Header.Get("Sec-Fetch-Site"); site == "cross-site" || site == "same-site" {
			return next(c)
		}
		c.SetCookie(&http.Cookie{Name: sessionCookie, Value: id, Path: "/", HttpOnly: true, SameSite: http.SameSiteStrictMode, MaxAge: 30 * 24 * 3600})
		return next(c)
	}
}

// who is the session that a request belongs to.
func who(c *echo.Context) edit.Who {
	id, _ := c.Get(sessionCookie).(string)
	return edit.Who{Session: id, Actor: actor(c)}
}

// actor names whoever sent a request, for the journal and the edit log.
func actor(c *echo.Context) string { return sender(c).String() }

// sender is whoever sent a request: a browser, which brings the session it was given and
// says where a request comes from; else a program, by its address.
func sender(c *echo.Context) attach.Sender {
	r := c.Request()
	v := visitorOf(c)
	if v.ID != "" && v.session == "" {
		return attach.Sender{Person: v.Name, Rights: v.Rights}
	}
	if ck, err := r.Cookie(sessionCookie); err == nil && (r.Header.Get("Sec-Fetch-Site") != "" || r.Header.Get("Origin") != "") {
		return attach.Sender{Person: v.Name, Rights: v.Rights, Browser: ck.Value[:min(4, len(ck.Value))]}
	}
	return attach.Sender{Address: hostOf(r.RemoteAddr)}
}
