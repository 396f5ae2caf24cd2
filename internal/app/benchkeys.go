package app

import (
	"context"
	"io"
	"log/slog"

	"synaptor/internal/bench/keys"
	"synaptor/internal/bridge"
)

// benchPort is where the keys of the bench are: their port may be called otherwise each time it is opened.
type benchPort struct{ keys *keys.Server }

// String implements bridge.Port.
func (benchPort) String() string { return "The keys of the bench" }

// Open implements bridge.Port.
func (p benchPort) Open(ctx context.Context) (io.ReadWriteCloser, error) {
	return bridge.SerialPort{Path: p.keys.Addr(), Baud: 115200}.Open(ctx)
}

// carryBenchKeys has the reference bridge carry the keys of the bench, where it runs here.
func (a *App) carryBenchKeys(ctx context.Context) {
	if a.Bench == nil || a.Bench.Keys == nil {
		return
	}
	b := bridge.Bridge{URL: "ws://" + a.Addr + "/api/v1/wire", Name: "Bench", Port: benchPort{a.Bench.Keys}, Say: func(text string) { slog.Debug("bridge", "says", text) }}
	done := make(chan struct{})
	ctx, cancel := context.WithCancel(ctx)
	a.onClose(func() {
		cancel()
		<-done
	})
	go func() {
		defer close(done)
		b.Run(ctx)
	}()
}
