package app

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"path/filepath"
	"strconv"
	"strings"

	"synaptor/internal/access"
	"synaptor/internal/announce"
	"synaptor/internal/attach"
	"synaptor/internal/certs"
	"synaptor/internal/doors"
	"synaptor/internal/host"
	"synaptor/internal/link"
	"synaptor/internal/link/socket"
	"synaptor/internal/night"
	"synaptor/internal/people"
	"synaptor/internal/sheet"
	"synaptor/internal/store"
	"synaptor/internal/web"
)

// doorsSetting is where it is kept what is open.
const doorsSetting = "doors"

// openPeople reads who may get in, and where.
func (a *App) openPeople(o Options) (err error) {
	listen, err := doors.Split(o.Listen)
	if err != nil {
		return err
	}
	if a.peopleDB, err = store.OpenPeople(o.Data); err != nil {
		return err
	}
	a.onClose(func() { closing("people", a.peopleDB.Close()) })
	var kept doors.Config
	if err := a.peopleDB.Setting(doorsSetting, &kept); err != nil {
		a.noteRepair(fmt.Sprintf("Which addresses were open is not known, so none is but those of the command line: %v.", err))
	}
	a.certs = certs.Open(o.Data)
	a.access = access.NewKeeper(func() {
		if a.Engine != nil {
			for _, c := range a.access.Claims() {
				a.People.Miss(c.By)
			}
			a.Engine.ClaimsChanged()
			a.Hub.Publish("claims", []string{"show"}, a.access.Claims())
			a.Hub.Publish("locked", []string{"show"}, a.access.Locked())
		}
	})
	a.Doors, err = doors.New(doors.Options{Listen: listen, Certs: a.certs, Kept: kept, Keep: func(c doors.Config) error { return a.peopleDB.Set(doorsSetting, c) },
		Listening: socket.Listens, Changed: a.opened})
	if err != nil {
		return err
	}
	if a.People, err = people.Open(a.peopleDB); err != nil {
		return err
	}
	a.People.Reachable = a.Doors.Opened
	a.People.InForce = a.inForce
	a.inForce(a.People.Rights())
	a.People.OnPaired = func(name string) { a.Engine.PanelDid(name, true) }
	a.People.OnGone(func(id string) {
		a.access.Give(func(c access.Claim) bool { return c.By == id })
		if who, _ := a.People.Person(id); who.Panel {
			a.Engine.PanelDid(who.Name, false)
		}
	})
	return nil
}

// inForce has commands judged by what everybody may do now, the trusted network too.
func (a *App) inForce(all map[string]*access.Rights) {
	if t := a.Doors.Trusted(); t != nil {
		all[access.Network] = &access.Rights{Controllers: t.Controllers}
	}
	a.access.SetRights(all)
	if a.Bridges != nil {
		a.sayCode()
	}
}

// opened has everybody asked anew who may be in: something else is open. What a trusted network means is said to all who look.
func (a *App) opened() {
	a.People.Again()
	a.sayCode()
	a.Hub.Publish("doors", []string{"status"}, a.doorsRow())
	if a.announcer != nil {
		a.announcer.Set(a.announced())
	}
}

// announced is what is said of Synaptor in the networks that can reach it.
func (a *App) announced() announce.What {
	w := announce.What{Name: strings.TrimSuffix(doors.LocalName(), ".local"), Host: doors.LocalName(), Addresses: map[string][]net.IP{}, Text: []string{"path=/"}}
	v := a.Doors.View(func(string) string { return "" })
	for _, r := range v.Rows {
		u, err := url.Parse(r.URL)
		if err != nil || r.URL == "" || !r.Wide {
			continue
		}
		w.Port, _ = strconv.Atoi(u.Port())
		w.Addresses[r.Name] = append(w.Addresses[r.Name], net.ParseIP(r.Address))
		if u.Scheme == "https" && len(w.Text) == 1 {
			w.Text = append(w.Text, "tls=1", "fp="+v.TLS.Fingerprint)
		}
	}
	return w
}

// sayCode has attached controllers show what whoever sets the first passphrase has to know, until somebody has.
func (a *App) sayCode() {
	text := ""
	if code := a.People.ClaimCode(); code != "" {
		text = "Code " + code
	}
	a.Bridges.Say(text)
}

// doorsRow is what the status line says of the doors.
func (a *App) doorsRow() doorsRow {
	name := func(id string) string {
		if c := a.Edit.Program().Controllers[id]; c != nil {
			return c.Name
		}
		return ""
	}
	return doorsRow{a.Doors.Trust(name)}
}

// doorsRow is what the status line says of the doors.
type doorsRow struct {
	Trust string `json:"trust"` // what the trusted network means; empty: none is
}

// lets tells who a bridge with a token presses as.
func (a *App) lets(ctx context.Context, token string) (context.Context, attach.Sender, error) {
	ctx, who, err := a.People.Lets(ctx, token)
	return ctx, web.Sender(a.People, who), err
}

// knower tells who sends OSC messages. It implements attach.Knower.
type knower struct{ people *people.Service }

// Version implements attach.Knower.
func (k knower) Version() int64 { return k.people.Version() }

// Sends implements attach.Knower.
func (k knower) Sends(address, token string) (attach.Sender, bool) {
	if token != "" {
		who, may := k.people.Presses(token)
		return web.Sender(k.people, who), may
	}
	if k.people.Free() {
		return attach.Sender{}, doors.Loopback(address)
	}
	who, known := k.people.At(address)
	return web.Sender(k.people, who), known && who.Role.May(access.Operator)
}

// serve opens the doors.
func (a *App) serve(o Options, drivers link.Drivers, own *sheet.Own) error {
	hear := o.Hear
	if hear == nil {
		hear = announce.Look
	}
	if !o.Quiet {
		a.announcer = &announce.Announcer{}
		a.onClose(a.announcer.Close)
	}
	handler := web.New(web.Deps{Shows: a.Shows, Edit: a.Edit, Engine: a.Engine, Mirror: a.Mirror, Hub: a.Hub, Journal: a.Journal, History: a.History, Markers: a.Markers, JournalDB: a.journalDB, Nights: night.Folder(filepath.Join(o.Data, "nights")), Drivers: drivers, Own: own,
		Media: a.media, Bridges: a.Bridges, Hands: a.Hands, People: a.People, PeopleDB: a.peopleDB, Doors: a.Doors, Certs: a.certs, Access: a.access, Opened: a.opened, Listen: hear,
		Bench: a.bench.Load, Demo: a.addDemo, Files: o.Files, OSCIn: a.OSCAddr, Unread: host.Unread})
	if err := a.watchHardware(o.Hardware); err != nil {
		return err
	}
	if err := a.Doors.Open(func() *http.Server { return web.HTTP(handler) }); err != nil {
		return err
	}
	a.onClose(a.Doors.Close) // live sockets end with it
	a.Addr = a.Doors.Addr()
	a.opened()
	if code := a.People.ClaimCode(); code != "" {
		slog.Info("nobody has set a passphrase, and other computers can reach Synaptor: whoever does needs this code", "code", code)
	}
	return a.carryBench()
}

// ClaimCode is what whoever sets the first passphrase has to know; empty: nothing.
func (a *App) ClaimCode() string { return a.People.ClaimCode() }

// Opened lists the addresses at which other computers reach Synaptor.
func (a *App) Opened() []string { return a.Doors.URLs() }

// own is an address of this computer's own, for what connects to itself.
func own(address string) string {
	host, port, err := net.SplitHostPort(address)
	if ip := net.ParseIP(host); err == nil && ip != nil && ip.IsUnspecified() {
		return net.JoinHostPort("127.0.0.1", port)
	}
	return address
}
