package web

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/attach"
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

// gate lets in who has signed in, once anybody has set a passphrase; until then everybody who reaches Synaptor is its owner.
type gate struct {
	people *people.Service
	in     *scs.SessionManager
	roles  map[string]access.Role // the least that takes a route, by its method and path in the document

	mu    sync.Mutex
	tries map[string]*bucket // by address and by name
}

func newGate(p *people.Service, db *store.People, roles map[string]access.Role) *gate {
	in := scs.New()
	in.Store, in.Lifetime, in.IdleTimeout, in.HashTokenInStore = people.Sessions{DB: db}, signedInFor, unseenFor, true
	in.Cookie.Name, in.Cookie.SameSite = signedInCookie, http.SameSiteStrictMode
	return &gate{people: p, in: in, roles: roles, tries: map[string]*bucket{}}
}

// visitor is who a request comes from.
type visitor struct {
	people.Who
	free    bool   // nobody has to sign in
	session string // what is kept of the cookie; empty: a program, or free
}

const (
	visitorKey = "visitor"
	personKey  = "person" // in a session
	seenKey    = "seen"
)

// visitorOf is who a request comes from; the gate has found it.
func visitorOf(c *echo.Context) visitor {
	v, _ := c.Get(visitorKey).(visitor)
	return v
}

// find finds who a request comes from: a program with a token, or somebody with a session.
func (g *gate) find(c *echo.Context) (visitor, error) {
	if g.people == nil || !g.people.Claimed() { // without people it only says what it serves
		return visitor{Who: people.Who{Role: access.Owner}, free: true}, nil
	}
	r := c.Request()
	if token, is := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer "); is {
		who, _ := g.people.Token(strings.TrimSpace(token))
		return visitor{Who: who}, nil
	}
	ck, err := r.Cookie(signedInCookie)
	if err != nil {
		return visitor{}, nil
	}
	ctx, err := g.in.Load(r.Context(), ck.Value)
	if err != nil {
		return visitor{}, fmt.Errorf("read a session: %w", err)
	}
	c.SetRequest(r.WithContext(ctx))
	who, known := g.people.Person(g.in.GetString(ctx, personKey))
	if !known {
		return visitor{}, nil
	}
	if now := time.Now().Unix(); now-g.in.GetInt64(ctx, seenKey) > int64(seenEvery.Seconds()) {
		g.in.Put(ctx, seenKey, now)
		if _, _, err := g.in.Commit(ctx); err != nil {
			return visitor{}, fmt.Errorf("keep a session: %w", err)
		}
	}
	return visitor{Who: who, session: people.HashOf(ck.Value)}, nil
}

// let lets a request through that its visitor may make.
func (g *gate) let(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		v, err := g.find(c)
		if err != nil {
			return err
		}
		c.Set(visitorKey, v)
		least, isAPI := g.roles[routeOf(c)]
		switch {
		case isAPI && v.Role.May(least), !isAPI && (v.Role.May(access.Viewer) || open(c.Request().URL.Path)):
			return next(c)
		case v.Role != access.Nobody:
			return echo.NewHTTPError(http.StatusForbidden, fmt.Sprintf("This takes %s; you are here as %s.", article(least), article(v.Role)))
		case !isAPI && !strings.HasPrefix(c.Request().URL.Path, "/api/"):
			return c.Redirect(http.StatusSeeOther, "/sign-in?to="+url.QueryEscape(c.Request().URL.RequestURI()))
		}
		return echo.NewHTTPError(http.StatusUnauthorized, "Sign in first.")
	}
}

// open tells whether a path is seen by whoever comes: the sign-in, and what the interface is made of, which says nothing.
func open(path string) bool {
	return path == "/sign-in" || strings.HasPrefix(path, "/invitation/") || strings.HasPrefix(path, "/assets/") || path == "/favicon.svg"
}

func article(r access.Role) string {
	if r == access.Viewer {
		return "a viewer"
	}
	return "an " + string(r)
}

// Sign-in is tried slowly: so many times at once, then once in a while, by address and by name.
const (
	triesAtOnce = 5
	tryEvery    = 10 * time.Second
	//limit:count addresses and names whose tries to sign in are counted | nowhere; all are counted anew
	maxTries = 10_000
)

// bucket counts tries: they come back one by one.
type bucket struct {
	left float64
	at   time.Time
}

// buckets are those of an address and of a name, as they are now. The lock is held.
func (g *gate) buckets(address, name string, now time.Time) (out []*bucket) {
	if len(g.tries) > maxTries {
		clear(g.tries)
	}
	for _, key := range []string{"address " + address, "name " + strings.ToLower(strings.TrimSpace(name))} {
		b := g.tries[key]
		if b == nil {
			b = &bucket{triesAtOnce, now}
			g.tries[key] = b
		}
		b.left, b.at = min(triesAtOnce, b.left+now.Sub(b.at).Seconds()/tryEvery.Seconds()), now
		out = append(out, b)
	}
	return out
}

// try counts a try of somebody at an address to get in as somebody; false: there were too many. It counts before it is known what comes
// of it, so that many at once are no way round; one that succeeds is given back with succeeded.
func (g *gate) try(address, name string) bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	all := g.buckets(address, name, time.Now())
	if slices.ContainsFunc(all, func(b *bucket) bool { return b.left < 1 }) {
		return false
	}
	for _, b := range all {
		b.left--
	}
	return true
}

func (g *gate) succeeded(address, name string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	for _, b := range g.buckets(address, name, time.Now()) {
		b.left = min(triesAtOnce, b.left+1)
	}
}

// enter gives a browser a session of somebody: a new one, whatever it had.
func (g *gate) enter(c *echo.Context, who people.Who) error {
	ctx, err := g.in.Load(c.Request().Context(), "")
	if err != nil {
		return err
	}
	g.in.Put(ctx, personKey, who.ID)
	g.in.Put(ctx, seenKey, time.Now().Unix())
	token, until, err := g.in.Commit(ctx)
	if err != nil {
		return fmt.Errorf("begin a session: %w", err)
	}
	if err := g.people.SignedIn(people.HashOf(token), who.ID, c.Request().UserAgent()); err != nil {
		return fmt.Errorf("begin a session: %w", err)
	}
	g.in.WriteSessionCookie(ctx, c.Response(), token, until)
	return nil
}

// leave ends the session of a browser.
func (g *gate) leave(c *echo.Context) error {
	v := visitorOf(c)
	if v.session == "" {
		return nil
	}
	g.in.WriteSessionCookie(c.Request().Context(), c.Response(), "", time.Time{})
	return g.people.EndSession(v.session)
}

// while gives a context that ends when its visitor may not do what takes a role any more.
func (g *gate) while(ctx context.Context, v visitor, least access.Role) context.Context {
	return g.people.While(ctx, func() bool { return g.still(v, least) })
}

// still tells whether a visitor is in, and may do what takes a role.
func (g *gate) still(v visitor, least access.Role) bool {
	switch {
	case !g.people.Claimed():
		return v.free
	case v.free:
		return false
	case v.session != "":
		who, known := g.people.Person(v.ID)
		return known && who.Role == v.Role && reflect.DeepEqual(who.Rights, v.Rights) && g.people.HasSession(v.session)
	}
	return v.Role.May(least) && g.people.HasProgram(v.ID)
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
