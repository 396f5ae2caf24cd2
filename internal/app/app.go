// Package app puts the parts of Synaptor together and takes them apart again.
package app

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"sync/atomic"
	"time"

	"synaptor/internal/attach"
	"synaptor/internal/bench"
	"synaptor/internal/core/show"
	"synaptor/internal/demo"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/journal"
	"synaptor/internal/link/osc"
	"synaptor/internal/sheet"
	"synaptor/internal/store"
	"synaptor/internal/web"
)

// Options say how to run.
type Options struct {
	Listen string // host and port of the interface; loopback only
	OSC    string // host and port for OSC inputs
	Data   string // the data folder
	// Demo starts the bench and fills an empty data folder with the demo show.
	Demo      bool
	BenchBase int   // the bench's first port; 0 takes any free ones
	Files     fs.FS // the built interface
}

// App is a running Synaptor.
type App struct {
	Addr    string // of the interface
	OSCAddr string
	Bench   *bench.Bench // nil without Demo
	Edit    *edit.Service
	Engine  *engine.Engine
	Hub     *feed.Hub
	Journal *journal.Journal

	closers []func()
	failed  chan error
}

// Drivers are all protocols that Synaptor speaks.
func Drivers() engine.Drivers { return engine.Drivers{"osc/tcp-slip": osc.TCP{}, "osc/udp": osc.UDP{}} }

// Start starts everything; what was started is stopped again when a part fails.
func Start(o Options) (a *App, err error) {
	if err := web.CheckListen(o.Listen); err != nil {
		return nil, err
	}
	if err := web.CheckListen(o.OSC); err != nil {
		return nil, err
	}
	a = &App{failed: make(chan error, 1)}
	defer func() {
		if err != nil {
			a.Close()
		}
	}()
	db, err := store.OpenShow(o.Data)
	if err != nil {
		return a, err
	}
	a.onClose(func() { closing("show", db.Close()) })
	jdb, err := store.OpenJournal(o.Data)
	if err != nil {
		return a, err
	}
	a.onClose(func() { closing("journal", jdb.Close()) })

	a.Hub = feed.NewHub()
	a.Journal, err = journal.Open(jdb, func(e journal.Entry) { a.Hub.Announce("journal/"+e.ID, []string{"journal"}, e) })
	if err != nil {
		return a, err
	}
	a.onClose(a.Journal.Close)
	sheets, err := loadSheets(o.Data)
	if err != nil {
		return a, err
	}
	if a.Edit, err = edit.Open(db, sheets, Drivers(), a.Hub); err != nil {
		return a, err
	}
	if o.Demo {
		if err := a.startBench(o.BenchBase); err != nil {
			return a, err
		}
	}
	a.Engine = engine.New(engine.Config{Drivers: Drivers(), Journal: a.Journal, Hub: a.Hub}, a.Edit.Snapshot())
	a.onClose(a.Engine.Close)
	a.Edit.Attach(a.Engine)
	if o.Demo && a.Edit.Empty() {
		if err := a.fillDemo(); err != nil {
			return a, err
		}
	}
	in, err := attach.ListenOSC(o.OSC, a.Edit, a.Engine)
	if err != nil {
		return a, err
	}
	a.OSCAddr = in.Addr()
	a.onClose(in.Close)
	return a, a.serve(o, sheets)
}

func loadSheets(data string) (*sheet.Library, error) {
	own := filepath.Join(data, "sheets")
	if err := os.MkdirAll(own, 0o700); err != nil {
		return nil, fmt.Errorf("make the folder for device sheets: %w", err)
	}
	lib, err := sheet.Load(os.DirFS(own))
	if err != nil {
		return nil, err
	}
	for _, p := range lib.Problems {
		slog.Warn("a sheet was left out", "file", filepath.Join(own, p.File), "line", p.Line, "reason", p.Reason)
	}
	return lib, nil
}

func (a *App) startBench(base int) error {
	var running atomic.Pointer[bench.Bench] // a stand-in may change before all have started
	publish := func(id string) {
		if b := running.Load(); b != nil {
			a.Hub.Publish("bench/"+id, []string{"bench"}, b.StandIn(id).View())
		}
	}
	b, err := bench.Start(base, publish)
	if err != nil {
		return err
	}
	a.Bench = b
	a.onClose(b.Close)
	running.Store(b)
	for _, s := range b.StandIns() {
		publish(s.ID())
	}
	return nil
}

func (a *App) fillDemo() error {
	ports := map[string]int{}
	for _, s := range a.Bench.StandIns() {
		_, port, err := net.SplitHostPort(s.Addr())
		if err != nil {
			return err
		}
		if ports[s.ID()], err = strconv.Atoi(port); err != nil {
			return err
		}
	}
	return a.Edit.Fill(edit.Who{Session: "demo", Actor: "Synaptor"}, "Start with the demo show", func(d *show.Draft) { demo.Build(d, ports) })
}

func (a *App) serve(o Options, sheets *sheet.Library) error {
	l, err := net.Listen("tcp", o.Listen)
	if err != nil {
		return fmt.Errorf("listen on %s (another Synaptor may hold the port; choose one with --listen): %w", o.Listen, err)
	}
	a.Addr = l.Addr().String()
	srv := web.HTTP(web.New(web.Deps{Edit: a.Edit, Engine: a.Engine, Hub: a.Hub, Journal: a.Journal, Sheets: sheets, Bench: a.Bench, Files: o.Files, OSCIn: a.OSCAddr}))
	ctx, cancel := context.WithCancel(context.Background())
	srv.BaseContext = func(net.Listener) context.Context { return ctx }
	go func() {
		if err := srv.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			a.failed <- err
		}
	}()
	a.onClose(func() {
		cancel() // live sockets end with it
		down, stop := context.WithTimeout(context.Background(), 2*time.Second)
		defer stop()
		if srv.Shutdown(down) != nil {
			_ = srv.Close()
		}
	})
	return nil
}

// Failed gives the error that ended serving.
func (a *App) Failed() <-chan error { return a.failed }

func (a *App) onClose(f func()) { a.closers = append(a.closers, f) }

// Close stops everything, in the reverse order of its start.
func (a *App) Close() {
	for i := len(a.closers) - 1; i >= 0; i-- {
		a.closers[i]()
	}
	a.closers = nil
}

func closing(what string, err error) {
	if err != nil {
		slog.Error("closing failed", "what", what, "err", err)
	}
}
