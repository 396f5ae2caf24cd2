package app

import (
	"net"
	"strconv"
	"sync/atomic"

	"synaptor/internal/access"
	"synaptor/internal/bench"
	"synaptor/internal/core/show"
	"synaptor/internal/demo"
	"synaptor/internal/edit"
	"synaptor/internal/store"
)

// startBench starts the simulated devices.
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
	a.bench.Store(b)
	a.onClose(b.Close)
	running.Store(b)
	for _, s := range b.StandIns() {
		publish(s.ID())
	}
	return nil
}

// ports are those of the simulated devices, by stand-in.
func (a *App) ports() (map[string]int, error) {
	out := map[string]int{}
	for _, s := range a.Bench.Devices() {
		_, port, err := net.SplitHostPort(s.Addr())
		if err == nil {
			out[s.ID()], err = strconv.Atoi(port)
		}
		if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// fillDemo fills the empty show that is open with the demo.
func (a *App) fillDemo() error {
	ports, err := a.ports()
	if err != nil {
		return err
	}
	if err := a.expectPeople(); err != nil {
		return err
	}
	return a.FillDemo(ports)
}

// expectPeople lists the people of the demo, where nobody is listed: they have no passphrases, and nobody has to sign in before Tobin sets one.
func (a *App) expectPeople() (err error) {
	if len(a.People.All()) > 0 {
		return nil
	}
	for _, p := range demo.People() {
		r := &access.Rights{Controllers: p.Controllers, Changes: p.Changes}
		if p.Panel {
			_, err = a.People.AddPanel(p.Name, access.Role(p.Role), r, 0)
		} else {
			_, err = a.People.Expect(p.Name, access.Role(p.Role), r)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// FillDemo fills an empty show with the demo, whose devices are at these ports of this computer.
func (a *App) FillDemo(ports map[string]int) error {
	secrets, err := demoSecrets(a.Edit.PutSecret)
	if err != nil {
		return err
	}
	if err := a.Edit.Fill(edit.Who{Session: "demo", Actor: "Synaptor"}, startWithDemo, func(d *show.Draft) { demo.Build(d, ports, secrets) }); err != nil {
		return err
	}
	return a.Edit.ArrangeDesk("", demo.Desk())
}

const startWithDemo = "Start with the demo show"

// demoSecrets stores the passwords of the demo, and gives what refers to them.
func demoSecrets(put func(string) (string, error)) (map[string]string, error) {
	secrets := map[string]string{}
	for id, password := range demo.Passwords() {
		var err error
		if secrets[id], err = put(password); err != nil {
			return nil, err
		}
	}
	return secrets, nil
}

// addDemo adds the demo as a show of its own, with the simulated devices, which are started where they do not run yet.
func (a *App) addDemo(who edit.Who) (id string, err error) {
	a.starting.Lock()
	defer a.starting.Unlock()
	if a.Bench == nil {
		if err := a.startBench(a.benchBase); err != nil {
			return "", err
		}
		a.computer.use(a.Bench.Workstation)
		a.takeIn()
		if err := a.carryBench(); err != nil {
			return "", err
		}
	}
	ports, err := a.ports()
	if err != nil {
		return "", err
	}
	return a.Shows.MakeWith(func(db *store.Show) error {
		secrets, err := demoSecrets(db.PutSecret)
		if err != nil {
			return err
		}
		d := show.NewDraft(show.Empty())
		demo.Build(d, ports, secrets)
		if err := db.Commit(1, who.Session, who.Actor, d.Edit(startWithDemo, 1)); err != nil {
			return err
		}
		return db.SetDesk("", demo.Desk())
	})
}
