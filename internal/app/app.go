// Package app puts the parts of Synaptor together and takes them apart again.
package app

import (
	"context"
	"image"
	"io/fs"
	"log/slog"
	"path/filepath"
	"sync"
	"sync/atomic"
	"time"
	_ "time/tzdata" // time zones, where the system has none

	"synaptor/internal/access"
	"synaptor/internal/announce"
	"synaptor/internal/attach"
	"synaptor/internal/attach/bridges"
	"synaptor/internal/attach/hands"
	"synaptor/internal/attach/hardware"
	"synaptor/internal/bench"
	"synaptor/internal/certs"
	"synaptor/internal/core/reading"
	"synaptor/internal/doors"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/host"
	"synaptor/internal/incident"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/link/httpdev"
	"synaptor/internal/link/jsonrpc"
	"synaptor/internal/link/lines"
	"synaptor/internal/link/local"
	"synaptor/internal/link/mqtt"
	"synaptor/internal/link/osc"
	"synaptor/internal/media"
	"synaptor/internal/mirror"
	"synaptor/internal/people"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
	"synaptor/internal/shows"
	"synaptor/internal/store"
)

// Options say how to run.
type Options struct {
	// Listen are the addresses of the interface: host and port, with commas between them. Where others than loopback are among them, and nobody has set a
	// passphrase, whoever sets the first one needs a code.
	Listen string
	OSC    string // host and port for OSC inputs
	Data   string // the data folder
	// Bench starts the simulated devices; Demo does so too, and fills an empty
	// data folder with the demo show.
	Bench bool
	Demo  bool
	// LastGood has the newest copy of the show take its place where it is damaged.
	LastGood  bool
	BenchBase int   // the bench's first port; 0 takes any free ones
	Files     fs.FS // the built interface
	// Hardware has the folders of what can be touched on this computer.
	Hardware []host.Folder
	// Hear asks the network what announces itself; nil: announce.Look.
	Hear func(ctx context.Context, services, interfaces []string) []announce.Heard
	// Quiet keeps Synaptor from announcing itself in the network.
	Quiet bool
}

// App is a running Synaptor.
type App struct {
	Addr    string // of the interface
	OSCAddr string
	Bench   *bench.Bench // nil where no simulated devices run
	Edit    *edit.Service
	Engine  *engine.Engine
	Mirror  *mirror.Mirror
	Hub     *feed.Hub
	Journal *journal.Journal
	History *journal.History
	Markers *journal.Markers
	Bridges *bridges.Service
	Hands   *hands.Service
	People  *people.Service
	Doors   *doors.Service

	Shows *shows.Service
	first *store.Show // the show that was open at the start, until Edit has it
	// What is needed to start the simulated devices later.
	starting  sync.Mutex
	bench     atomic.Pointer[bench.Bench] // Bench, for those who do not know whether it runs
	benchBase int
	computer  *computer
	peopleDB  *store.People
	journalDB *store.Journal
	closers   []func()
	certs     *certs.Certs
	access    *access.Keeper
	announcer *announce.Announcer // nil: nothing is announced
	media     *media.Fetcher
}

// Drivers are all protocols that Synaptor speaks. computer has the functions of
// the computer itself; nil where they are switched off.
func Drivers(computer local.Computer) link.Drivers {
	return link.Drivers{
		"osc/tcp-slip":      osc.TCP{},
		"osc/udp":           osc.UDP{},
		"jsonrpc/websocket": jsonrpc.WebSocket{},
		"http/http":         httpdev.Requests{},
		"mqtt/tcp":          mqtt.Broker{},
		"lines/tcp":         lines.TCP{},
		"local/computer":    local.Driver{Computer: computer},
	}
}

// pictureBudget is how many live pictures a second are fetched, all together.
const pictureBudget = 100

// Start starts everything; what was started is stopped again when a part fails. It fails with an *OutsideError where the world keeps it from starting.
func Start(o Options) (a *App, err error) {
	for _, list := range []string{o.Listen, o.OSC} { // before anything is written
		if _, err := doors.Split(list); err != nil {
			return nil, &OutsideError{err.Error(), err}
		}
	}
	a = &App{media: media.NewFetcher(pictureBudget)}
	defer func() {
		if err != nil {
			a.Close()
			err = Outside(err, o.flagOf)
		}
	}()
	state, err := a.openStores(o.Data, o.LastGood)
	if err != nil {
		return a, inWords(o.Data, err)
	}
	own, err := sheet.OpenOwn(filepath.Join(o.Data, "sheets"))
	if err != nil {
		return a, err
	}
	sheets, err := own.Load()
	if err != nil {
		return a, err
	}
	for _, p := range sheets.Problems {
		slog.Warn("a sheet was left out", "file", p.File, "line", p.Line, "field", p.Field, "reason", p.Reason)
	}
	if o.Bench || o.Demo {
		if err := a.startBench(o.BenchBase); err != nil {
			return a, err
		}
	}
	a.benchBase = o.BenchBase
	if a.computer, err = a.openComputer(o.Data); err != nil {
		return a, err
	}
	drivers := Drivers(a.computer)
	if err := a.startEngine(drivers, sheets, state, o); err != nil {
		return a, err
	}
	a.takeIn()
	a.watchSheets(own)
	if o.Demo && a.Edit.Empty() {
		if err := a.fillDemo(); err != nil {
			return a, err
		}
	}
	in, err := attach.ListenOSC(o.OSC, a.Edit, a.Engine, knower{a.People})
	if err != nil {
		return a, err
	}
	a.OSCAddr = in.Addr()
	a.onClose(in.Close)
	return a, a.serve(o, drivers, own)
}

// startEngine compiles the show and starts what lives with it.
func (a *App) startEngine(drivers link.Drivers, sheets *sheet.Library, state *store.State, o Options) (err error) {
	if err := a.openPeople(o); err != nil {
		return err
	}
	sources := program.Sources{Encode: drivers.Encode, Known: known(state)}
	if a.Edit, err = edit.Open(a.first, sheets, sources, a.Hub); err != nil {
		return err
	}
	a.tidies()
	behind := openBehind(state)
	a.onClose(behind.close)
	a.noteLost(state, a.Edit.Last())
	a.Edit.Stored = func(seq int64) { behind.KeepEdits(a.Shows.Current(), seq) }
	a.Edit.Stored(a.Edit.Last())
	lived := a.live(state)
	cfg := engine.Config{Drivers: drivers, Journal: a.Journal, Outside: parker{a.Edit}, Live: lived, Unclean: a.endedUncleanly(state), Access: a.access, Markers: a.Markers}
	if in, noted := openIntents(o.Data); in != nil {
		a.onClose(func() { closing("intents", in.slots.Close()) })
		lived = lived.WithIntents(noted)
		cfg.Intents, cfg.Live = in, lived
	}
	for _, r := range lived.Runs {
		journal.GoOnFrom(r.Entry) // the journal may be a new one
	}
	a.Engine = engine.New(cfg, a.Edit.Program())
	a.onClose(func() {
		a.Engine.Close()
		if a.Mirror != nil {
			a.Mirror.Close() // it takes in what the engine said last
		}
	})
	a.Mirror, err = mirror.New(a.Edit.Program(), mirror.Config{Changes: a.Engine.Changes(), Sync: a.Engine.Sync, Journal: a.Journal, Hub: a.Hub,
		Live: lived, Keep: behind.KeepKnown, KeepLive: behind.KeepLive, History: recorder{a.History},
		Pictures: a.Edit.Pictured, SignIns: a.signIns, Used: func() (map[string]int, error) { return a.journalDB.Used(a.Shows.Current()) }})
	if err != nil {
		return err
	}
	a.Edit.Attach(a.Engine, a.Mirror)
	a.Hands = hands.New(hands.Config{Shows: a.Edit, Engine: a.Engine, Hub: a.Hub, Others: func() []hardware.Row { return a.Bridges.Boards() }})
	a.onClose(a.Hands.Close)
	a.Bridges, err = bridges.New(bridges.Config{Shows: a.Edit, Engine: a.Engine, Hub: a.Hub, Pictures: a.picture, Frames: a.frame, Learns: a.Hands.Learns, Lets: a.lets})
	if err != nil {
		return err
	}
	a.Shows.Attach(shows.Live{Edit: a.Edit, Engine: a.Engine, Mirror: a.Mirror, Journal: a.Journal})
	for _, note := range a.Edit.Repaired {
		a.noteRepair(note)
	}
	return nil
}

// picture is a picture of the library as its pixels; nil where there is none that can be shown.
func (a *App) picture(id string) image.Image {
	body, kind, err := a.Edit.MediaBody(id)
	if err != nil {
		return nil
	}
	img, err := media.Decode(body, kind)
	if err != nil {
		slog.Warn("a picture is not painted", "id", id, "err", err)
		return nil
	}
	return img
}

// frame is a frame of a live picture of a device.
func (a *App) frame(ctx context.Context, device, source string, perSecond float64) (image.Image, error) {
	url, ok := a.Mirror.View().PictureURL(device, source)
	if !ok {
		return nil, edit.ErrNotFound
	}
	return a.fetched(ctx, url, perSecond)
}

// fetched is a picture of a device, at an address of it, no older than the frame time of the rate.
func (a *App) fetched(ctx context.Context, url string, perSecond float64) (image.Image, error) {
	p, err := a.media.Get(ctx, url, perSecond)
	if err != nil {
		return nil, err
	}
	return media.Decode(p.Data, p.Type)
}

// noteIncident writes a failure that was contained into the journal.
func (a *App) noteIncident(i incident.Incident) {
	what := "A failure in the " + i.Where + " was contained"
	reason := i.Text
	if i.Cause != "" {
		reason = i.Cause + ": " + i.Text
	}
	a.Journal.Record(journal.Event{Entry: journal.NextID(), At: i.At, Stage: journal.StageDecision, Text: what, Title: what, Device: "Synaptor",
		Origin: &journal.Origin{ControllerName: "Synaptor", Gesture: "incident", Via: "Synaptor", Actor: "Synaptor"}, Outcome: journal.Failed, Reason: reason})
}

// parker lets a key park a device: an edit, made outside of the engine.
type parker struct{ edit *edit.Service }

// Park implements engine.Self.
func (p parker) Park(id string, parked bool) {
	go incident.Contain("edit", "park "+id, func() {
		if err := p.edit.ParkDevice(edit.Who{Session: "keys", Actor: "A key"}, id, parked); err != nil {
			slog.Warn("a device could not be parked", "device", id, "err", err)
		}
	})
}

// sheetsEvery is how often the folder of own sheets is looked at.
const sheetsEvery = time.Second

// recorder writes down what the mirror tells of.
type recorder struct{ *journal.History }

// Was implements mirror.History.
func (r recorder) Was(at time.Time, k reading.Key, v reading.Value) {
	r.Add(journal.Was{At: at, Key: k, Value: v})
}

// Happened implements mirror.History.
func (r recorder) Happened(h engine.Happened) { r.AddEvent(h.At, h) }

// watchSheets reads the sheets again whenever one in the folder changes.
func (a *App) watchSheets(own *sheet.Own) {
	mark := own.Mark()
	a.every(sheetsEvery, "sheets", func() {
		if now := own.Mark(); now != mark {
			mark = now
			a.readSheets(own)
		}
	})
}

// readSheets reads the sheets again and puts them in force.
func (a *App) readSheets(own *sheet.Own) {
	lib, err := own.Load()
	if err != nil {
		slog.Error("the sheets cannot be read again", "err", err)
		return
	}
	a.Edit.SetSheets(lib)
}

// Failed gives the error that ended serving.
func (a *App) Failed() <-chan error { return a.Doors.Failed() }

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
