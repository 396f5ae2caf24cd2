// Package bench runs the simulated devices that ship with Synaptor: real
// servers on loopback, with a real protocol and an honest simulation each, so
// that everything can be tried with nothing plugged in.
package bench

import (
	"fmt"
	"log/slog"
	"net"
	"os"
	"strconv"

	"synaptor/internal/bench/camera"
	"synaptor/internal/bench/chat"
	"synaptor/internal/bench/intercom"
	"synaptor/internal/bench/keys"
	"synaptor/internal/bench/lights"
	"synaptor/internal/bench/meeting"
	"synaptor/internal/bench/mixer"
	"synaptor/internal/bench/music"
	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/player"
	"synaptor/internal/bench/prompter"
	"synaptor/internal/bench/slides"
	"synaptor/internal/bench/streaming"
	"synaptor/internal/bench/switcher"
	"synaptor/internal/bench/titles"
	"synaptor/internal/bench/touch"
	"synaptor/internal/bench/workstation"
)

// Bench is the set of running stand-ins.
type Bench struct {
	Streaming   *streaming.Server
	Switcher    *switcher.Server
	Workstation *workstation.Server
	Keys        *keys.Server // a controller; nil where there are no pseudo-terminals
	Folder      string       // has the files of what can be touched; empty: there are none
	all         []panel.StandIn
	touched     map[string]bool // those of all that are no devices but controllers, by id
}

// Ports of the stand-ins, counted from the base.
const (
	streamingPort = iota
	switcherPort
	mixerPort
	intercomPort
	lightsPort
	cameraPort
	playerPort
	chatPort
	titlesPort
	slidesPort
	prompterPort
	picturePort // of the switcher
	meetingPort
	musicPort
)

// UsualBase is the base port of the demo.
const UsualBase = 7430

// UsualPicturePort is where the switcher of the demo has its pictures.
const UsualPicturePort = UsualBase + picturePort

// UsualHour is the hour at which the demo's night begins.
const UsualHour = "21:30"

// Start runs every stand-in on loopback, from a base port on, in the order of
// the constants above; 0 takes free ports. changed is called after a change
// with the stand-in's id; it may be nil.
func Start(base int, changed func(id string)) (b *Bench, err error) {
	if changed == nil {
		changed = func(string) {}
	}
	addr := func(offset int) string {
		if base == 0 {
			return "127.0.0.1:0"
		}
		return net.JoinHostPort("127.0.0.1", strconv.Itoa(base+offset))
	}
	told := func(id string) func() { return func() { changed(id) } }
	b = &Bench{touched: map[string]bool{}}
	defer func() {
		if err != nil {
			b.Close()
			err = fmt.Errorf("start the bench (is another Synaptor running?): %w", err)
		}
	}()
	for _, start := range []func() (panel.StandIn, error){
		func() (panel.StandIn, error) {
			b.Streaming, err = streaming.Start(addr(streamingPort), told("streaming"))
			return running(b.Streaming, err)
		},
		func() (panel.StandIn, error) {
			b.Switcher, err = switcher.Start(addr(switcherPort), addr(picturePort), told("switcher"))
			return running(b.Switcher, err)
		},
		func() (panel.StandIn, error) { return running(mixer.Start(addr(mixerPort), told("mixer"))) },
		func() (panel.StandIn, error) { return running(intercom.Start(addr(intercomPort), told("intercom"))) },
		func() (panel.StandIn, error) { return running(lights.Start(addr(lightsPort), told("lights"))) },
		func() (panel.StandIn, error) { return running(camera.Start(addr(cameraPort), told("camera"))) },
		func() (panel.StandIn, error) { return running(player.Start(addr(playerPort), told("player"))) },
		func() (panel.StandIn, error) { return running(chat.Start(addr(chatPort), told("chat"))) },
		func() (panel.StandIn, error) { return running(titles.Start(addr(titlesPort), told("titles"))) },
		func() (panel.StandIn, error) { return running(slides.Start(addr(slidesPort), told("slides"))) },
		func() (panel.StandIn, error) { return running(prompter.Start(addr(prompterPort), told("prompter"))) },
		func() (panel.StandIn, error) { return running(meeting.Start(addr(meetingPort), told("meeting"))) },
		func() (panel.StandIn, error) { return running(music.Start(addr(musicPort), told("music"))) },
		func() (panel.StandIn, error) {
			b.Workstation, err = workstation.Start(told("workstation"))
			return running(b.Workstation, err)
		},
	} {
		s, err := start()
		if err != nil {
			return b, err
		}
		b.all = append(b.all, s)
	}
	if err := b.layOut(told); err != nil { // a computer without pseudo-terminals has a bench all the same
		slog.Warn("the bench has not all that can be touched", "err", err)
	}
	return b, nil
}

// layOut puts what can be touched on the bench.
func (b *Bench) layOut(told func(string) func()) (err error) {
	if b.Keys, err = keys.Start(told("keys")); err != nil {
		return err
	}
	b.all, b.touched["keys"] = append(b.all, b.Keys), true
	if b.Folder, err = touch.Folder(); err != nil {
		return err
	}
	for _, one := range []struct {
		id    string
		start func(folder string, changed func()) (*touch.Stand, error)
	}{{"faders", touch.FaderRow}, {"numeric", touch.NumericBlock}, {"foot", touch.FootBoard}} {
		s, err := one.start(b.Folder, told(one.id))
		if err != nil {
			return err
		}
		b.all, b.touched[s.ID()] = append(b.all, s), true
	}
	return nil
}

// running keeps a stand-in that did not start from becoming a StandIn that is
// not nil.
func running[S panel.StandIn](s S, err error) (panel.StandIn, error) {
	if err != nil {
		return nil, err
	}
	return s, nil
}

// StandIns lists the stand-ins in the order of their ports.
func (b *Bench) StandIns() []panel.StandIn { return b.all }

// Devices lists those of the stand-ins that are devices at an address of the network: all but what can be touched.
func (b *Bench) Devices() (out []panel.StandIn) {
	for _, s := range b.all {
		if !b.touched[s.ID()] {
			out = append(out, s)
		}
	}
	return out
}

// StandIn finds a stand-in by id, or nil.
func (b *Bench) StandIn(id string) panel.StandIn {
	for _, s := range b.all {
		if s.ID() == id {
			return s
		}
	}
	return nil
}

// Close ends every stand-in.
func (b *Bench) Close() {
	for _, s := range b.all {
		s.Close()
	}
	if b.Folder != "" {
		_ = os.RemoveAll(b.Folder) // it is below that for what is temporary
	}
}
