package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/netip"
	"net/url"
	"reflect"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/attach"
	"synaptor/internal/doors"
	"synaptor/internal/people"
	"synaptor/internal/store"
)

const (
	signedInCookie = "synaptor_in"
	// signedInFor is how long a session lasts at most, unseenFor how long one that is not used.
	signedInFor = 30 * 24 * time.Hour
	unseenFor   = 7 * 24 * time.Hour
	// seenEvery is how often it is noted that a session is used.
	seenEvery = time.Minute
)

// gate lets in who has signed in, once anybody has set a passphrase or other computers can reach Synaptor; until then everybody who reaches it
// is its owner.
type gate struct {
	people *people.Service
	doors  *doors.Service // nil: it only says what it serves
	in     *scs.SessionManager
	roles  map[string]access.Role // the least that takes a route, by its method and path in the document
	note   func(c *echo.Context, title, by string, err error)

	tries tries
}

func newGate(p *people.Service, db *store.People, doors *doors.Service, roles map[string]access.Role) *gate {
	in := scs.New()
	in.Store, in.Lifetime, in.IdleTimeout, in.HashTokenInStore = people.Sessions{DB: db}, signedInFor, unseenFor, true
	in.Cookie.Name, in.Cookie.SameSite = signedInCookie, http.SameSiteStrictMode
	return &gate{people: p, doors: doors, in: in, roles: roles}
}

// visitor is who a request comes from.
type visitor struct {
	people.Who
	from    attach.Sender // as whom it sends something
	free    bool          // nobody has to sign in
	session string        // what is kept of the cookie; empty: a program, a trusted network, or free
	trusted string        // the address in the trusted network; empty: another visitor
}

const (
	visitorKey = "visitor"
	personKey  = "person" // in a session
	seenKey    = "seen"
	addressKey = "address"
)

// visitorOf is who a request comes from; the gate has found it.
func visitorOf(c *echo.Context) visitor {
	v, _ := c.Get(visitorKey).(visitor)
	return v
}

// fetchRoute is where a token stands in the address, and nothing else says who it is.
const fetchRoute = "GET /api/v1/fetch/{token}/{controller}/{control}/{gesture}"

// find finds who a request comes from: a program with a token, somebody with a session, or somebody in the trusted network.
func (g *gate) find(c *echo.Context) (visitor, error) {
	if g.people != nil && routeOf(c) == fetchRoute {
		who, known := g.people.Token(c.Param("token"))
		if known && who.Terms != nil && who.Terms.Fetch {
			return visitor{Who: who}, nil
		}
		return visitor{}, nil
	}
	if g.people == nil || g.people.Free() { // without people it only says what it serves
		return visitor{Who: people.Who{Role: access.Owner}, free: true}, nil
	}
	r := c.Request()
	if token, is := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer "); is {
		who, _ := g.people.Token(strings.TrimSpace(token))
		return visitor{Who: who}, nil
	}
	if ck, err := r.Cookie(cookieName(signedInCookie, r)); err == nil {
		if v, err := g.session(c, ck.Value); err != nil || v.ID != "" {
			return v, err
		}
	}
	return g.network(hostOf(r.RemoteAddr)), nil
}

// session finds whose session a cookie is of; it is of nobody where it has ended.
func (g *gate) session(c *echo.Context, cookie string) (visitor, error) {
	r := c.Request()
	ctx, err := g.in.Load(r.Context(), cookie)
	if err != nil {
		return visitor{}, fmt.Errorf("read a session: %w", err)
	}
	c.SetRequest(r.WithContext(ctx))
	who, known := g.people.Person(g.in.GetString(ctx, personKey))
	if !known {
		return visitor{}, nil
	}
	v := visitor{Who: who, session: people.HashOf(cookie)}
	now, address, was := time.Now().Unix(), hostOf(r.RemoteAddr), g.in.GetString(ctx, addressKey)
	if address != was {
		if sameFamily(address, was) && g.people.Elsewhere(v.session, address) {
			g.note(c, fmt.Sprintf("A session of %s was used from %s while it was in use at %s: it was ended", who.Name, address, was), who.Name, errElsewhere)
			return visitor{}, g.people.EndSession(v.session)
		}
		g.note(c, fmt.Sprintf("%s is at %s now, after %s", who.Name, address, was), who.Name, nil)
		g.in.Put(ctx, addressKey, address)
		if err := g.people.Moved(v.session, address); err != nil {
			return visitor{}, fmt.Errorf("keep a session: %w", err)
		}
	} else if now-g.in.GetInt64(ctx, seenKey) <= int64(seenEvery.Seconds()) {
		return v, nil
	}
	g.in.Put(ctx, seenKey, now)
	if _, _, err := g.in.Commit(ctx); err != nil {
		return visitor{}, fmt.Errorf("keep a session: %w", err)
	}
	return v, nil
}

var errElsewhere = errors.New("a session is in use at one address at a time")

// sameFamily tells whether two addresses are both IPv4 or both IPv6: a browser uses either for the same name.
func sameFamily(a, b string) bool {
	x, err := netip.ParseAddr(a)
	y, bad := netip.ParseAddr(b)
	return err == nil && bad == nil && x.Unmap().Is4() == y.Unmap().Is4()
}

// network is the visitor at an address of the trusted network; nobody at another one.
func (g *gate) network(address string) visitor {
	if g.doors == nil || !g.people.Claimed() {
		return visitor{}
	}
	t := g.doors.Trusted()
	if !t.Covers(address) {
		return visitor{}
	}
	return visitor{Who: people.Who{ID: access.Network, Name: "Somebody at " + address, Role: access.Operator, Rights: &access.Rights{Controllers: t.Controllers}}, trusted: address}
}

// let lets a request through that its visitor may make.
func (g *gate) let(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		v, err := g.find(c)
		if err != nil {
			return err
		}
		v.from = Sender(g.people, v.Who)
		c.Set(visitorKey, v)
		path := c.Request().URL.Path
		least, isAPI := g.roles[routeOf(c)]
		switch {
		case isAPI && v.Role.May(least), !isAPI && (v.Role.May(access.Viewer) || open(path)):
			return next(c)
		case v.Role != access.Nobody:
			return echo.NewHTTPError(http.StatusForbidden, fmt.Sprintf("This takes %s; you are here as %s.", article(least), article(v.Role)))
		case !isAPI && !strings.HasPrefix(path, "/api/"):
			return c.Redirect(http.StatusSeeOther, g.wayIn(path)+"?to="+url.QueryEscape(c.Request().URL.RequestURI()))
		}
		return echo.NewHTTPError(http.StatusUnauthorized, "Sign in first.")
	}
}

// wayIn is the page that lets somebody in who wants to see another one.
func (g *gate) wayIn(path string) string {
	switch {
	case !g.people.Claimed():
		return "/claim"
	case strings.HasPrefix(path, "/panel") || strings.HasPrefix(path, "/legend"):
		return "/pair"
	}
	return "/sign-in"
}

// measured lets in what measures: a program on this computer, or one with a token.
func (s *server) measured(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if !doors.Loopback(hostOf(c.Request().RemoteAddr)) && !visitorOf(c).Role.May(access.Viewer) {
			return echo.NewHTTPError(http.StatusUnauthorized, "From another computer this takes a token.")
		}
		return next(c)
	}
}

// open tells whether a path is seen by whoever comes: the sign-in, and what the interface is made of, which says nothing.
func open(path string) bool {
	switch path {
	case "/sign-in", "/claim", "/pair", "/authority.crt", "/favicon.svg", "/healthz", "/metrics":
		return true
	}
	for _, below := range []string{"/invitation/", "/pair/", "/here/", "/assets/", "/overlay/"} {
		if strings.HasPrefix(path, below) {
			return true
		}
	}
	return false
}

func article(r access.Role) string {
	if r == access.Viewer {
		return "a viewer"
	}
	return "an " + string(r)
}

// enter gives a browser a session of somebody: a new one, whatever it had.
func (g *gate) enter(c *echo.Context, who people.Who) error {
	ctx, err := g.in.Load(c.Request().Context(), "")
	if err != nil {
		return err
	}
	g.in.Put(ctx, personKey, who.ID)
	g.in.Put(ctx, seenKey, time.Now().Unix())
	address := hostOf(c.Request().RemoteAddr)
	g.in.Put(ctx, addressKey, address)
	token, until, err := g.in.Commit(ctx)
	if err != nil {
		return fmt.Errorf("begin a session: %w", err)
	}
	if err := g.people.SignedIn(people.HashOf(token), who.ID, c.Request().UserAgent(), address); err != nil {
		return fmt.Errorf("begin a session: %w", err)
	}
	g.cookie(c, token, until)
	return nil
}

// cookie gives a browser its session; over TLS it sends it over TLS alone.
func (g *gate) cookie(c *echo.Context, token string, until time.Time) {
	m := *g.in
	m.Cookie.Secure, m.Cookie.Name = c.Request().TLS != nil, cookieName(signedInCookie, c.Request())
	m.WriteSessionCookie(c.Request().Context(), c.Response(), token, until)
}

// leave ends the session of a browser.
func (g *gate) leave(c *echo.Context) error {
	v := visitorOf(c)
	if v.session == "" {
		return nil
	}
	g.cookie(c, "", time.Time{})
	return g.people.EndSession(v.session)
}

// while gives a context that ends when its visitor may not do what takes a role any more.
func (g *gate) while(ctx context.Context, v visitor, least access.Role) context.Context {
	return g.people.While(ctx, func() bool { return g.still(v, least) })
}

// still tells whether a visitor is in, and may do what takes a role.
func (g *gate) still(v visitor, least access.Role) bool {
	switch {
	case g.people.Free():
		return v.free
	case v.free:
		return false
	case v.trusted != "":
		now := g.network(v.trusted)
		return now.Role.May(least) && reflect.DeepEqual(now.Rights, v.Rights)
	case v.session != "":
		who, known := g.people.Person(v.ID)
		return known && who.Role == v.Role && reflect.DeepEqual(who.Rights, v.Rights) && g.people.HasSession(v.session)
	}
	return v.Role.May(least) && g.people.HasProgram(v.ID)
}

// all has a route be for those who press all controllers: who was given some does nothing else.
func all(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if err := given(c, "", ""); err != nil {
			return err
		}
		return next(c)
	}
}

// given tells whether whoever asks may press a controller; without an id: whether all of them. It fails with a sentence where not.
func given(c *echo.Context, controller, name string) error {
	r := visitorOf(c).Rights
	switch {
	case controller != "" && !r.MayPress(controller):
		return &attach.NotGiven{Controller: name}
	case controller == "" && r != nil && r.Controllers != nil:
		return echo.NewHTTPError(http.StatusForbidden, "You press the controllers that are given to you, and nothing else.")
	}
	return nil
}
