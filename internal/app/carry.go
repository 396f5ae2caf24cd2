package app

import (
	"context"
	"errors"
	"io"
	"log/slog"

	"synaptor/internal/bench/keys"
	"synaptor/internal/bridge"
	"synaptor/internal/host"
)

// benchPort is where the keys of the bench are: their port may be called otherwise each time it is opened.
type benchPort struct{ keys *keys.Server }

// String implements bridge.Port.
func (benchPort) String() string { return "The keys of the bench" }

// Open implements bridge.Port.
func (p benchPort) Open(ctx context.Context) (io.ReadWriteCloser, error) {
	path := p.keys.Addr()
	if path == "" {
		return nil, errors.New("they are not plugged in")
	}
	return bridge.SerialPort{Path: path, Baud: 115200}.Open(ctx)
}

// carryBench has what lies on the bench be carried as it is on a desk: the keys by the reference bridge, the rest as hardware of this
// computer.
func (a *App) carryBench() error {
	if a.Bench == nil {
		return nil
	}
	if a.Bench.Keys != nil {
		a.carryKeys()
	}
	if a.Bench.Folder == "" {
		return nil
	}
	return a.watchHardware(host.Simulated(a.Bench.Folder))
}

func (a *App) carryKeys() {
	b := bridge.Bridge{Token: a.People.Inside(), URL: "ws://" + own(a.Addr) + "/api/v1/wire", Name: "Bench", Port: benchPort{a.Bench.Keys}, Say: func(text string) { slog.Debug("bridge", "says", text) }}
	done := make(chan struct{})
	ctx, cancel := context.WithCancel(context.Background())
	a.onClose(func() {
		cancel()
		<-done
	})
	go func() {
		defer close(done)
		b.Run(ctx)
	}()
}

// watchHardware watches folders for what can be touched.
func (a *App) watchHardware(folders []host.Folder) error {
	if len(folders) == 0 {
		return nil
	}
	w, err := host.Watch(a.Hands, folders)
	if err != nil {
		return err
	}
	a.onClose(w.Close)
	return nil
}
