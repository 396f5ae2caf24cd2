// Package web is the HTTP side: the API, the live socket, the interface's
// files. It is thin: rules are in core, changes in edit, inputs in attach.
package web

import (
	"context"
	"io/fs"
	"net/http"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/announce"
	"synaptor/internal/attach/bridges"
	"synaptor/internal/attach/hands"
	"synaptor/internal/bench"
	"synaptor/internal/certs"
	"synaptor/internal/doors"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/help"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/media"
	"synaptor/internal/mirror"
	"synaptor/internal/night"
	"synaptor/internal/people"
	"synaptor/internal/sheet"
	"synaptor/internal/shows"
	"synaptor/internal/store"
)

// Deps are what the server serves from.
type Deps struct {
	Shows   *shows.Service
	Edit    *edit.Service
	Engine  *engine.Engine
	Mirror  *mirror.Mirror
	Hub     *feed.Hub
	Journal *journal.Journal
	History *journal.History
	Markers *journal.Markers
	// JournalDB is asked for what became of a night, and Nights has those that were closed.
	JournalDB *store.Journal
	Nights    night.Folder
	Drivers   link.Drivers
	Own       *sheet.Own // the user's own device sheets
	Media     *media.Fetcher
	Bridges   *bridges.Service
	Hands     *hands.Service
	// People are who may get in, and PeopleDB where they are kept.
	People   *people.Service
	PeopleDB *store.People
	// Doors are the addresses that Synaptor is reached at.
	Doors *doors.Service
	Certs *certs.Certs
	// Listen asks the network what announces itself by some services: announce.Look.
	Listen func(ctx context.Context, services, interfaces []string) []announce.Heard
	// Opened is told when something else is open; may be nil.
	Opened func()
	// Access decides what may leave, and knows what is claimed.
	Access *access.Keeper
	// Bench gives the stand-ins that run in this process, nil where none do.
	Bench func() *bench.Bench
	// Demo adds the demo as a show, with its stand-ins.
	Demo   func(edit.Who) (string, error)
	Files  fs.FS  // the built interface
	OSCIn  string // the address OSC inputs are taken at, for the interface
	Unread string // why the hardware of this computer itself cannot be read; empty: it can
}

type server struct {
	Deps
	gate     *gate
	archives waiting
	locks    locks
	overlay  overlayGate
	turn     chan struct{} // see work
	help     func() help.Library
	// countTimer ends the roll call of the controllers.
	countEnd   sync.Mutex
	countTimer *time.Timer
	large      chan struct{} // held while a large body is in memory, see fewLarge
}

// New returns the handler of everything that Synaptor serves.
func New(d Deps) *echo.Echo {
	s := &server{Deps: d, turn: make(chan struct{}, 1), large: make(chan struct{}, maxLarge), help: sync.OnceValue(readHelp)}
	e := echo.New()
	e.HTTPErrorHandler = s.problem
	b, err := documentedBodies(openAPI)
	if err != nil {
		panic(err) // it is part of the program
	}
	s.gate = newGate(d.People, d.PeopleDB, d.Doors, b.roles)
	s.gate.note = s.noteAccess
	e.Use(contained, headers, s.guardHost, guardOrigin, session, s.gate.let, s.unlocked, s.fewLarge, b.strict)

	e.GET("/healthz", func(c *echo.Context) error { return c.String(http.StatusOK, "ok\n") }, s.measured)
	e.GET("/metrics", s.metrics, s.measured)
	e.GET("/api/openapi.json", func(c *echo.Context) error { return c.JSONBlob(http.StatusOK, openAPI) })
	e.GET("/api/schemas/:name", s.schema)

	v1 := e.Group("/api/v1")

	s.routesOfRig(v1)
	s.routesOfPatch(v1)
	s.routesOfMacros(v1)
	s.routesOfShows(v1)
	s.routesOfLive(v1)
	s.routesOfPeople(v1)
	s.routesOfEntrance(e)

	s.static(e)
	return e
}

// bodyTime is how long a request may take to come in.
//
//limit:count time in which a request comes in | the connection ends
const bodyTime = 30 * time.Second

// HTTP returns a server for a handler with limits against slow callers.
func HTTP(h http.Handler) *http.Server {
	return &http.Server{Handler: h, ReadHeaderTimeout: 5 * time.Second, ReadTimeout: bodyTime, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10}
}
