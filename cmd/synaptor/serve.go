package main

import (
	"context"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"

	"synaptor/internal/app"
	"synaptor/internal/bench"
	"synaptor/internal/host"
	"synaptor/internal/store"
	"synaptor/web"
)

// The usual addresses.
const (
	usualListen = "127.0.0.1:7420"
	usualOSC    = "127.0.0.1:7421"
)

// serve runs Synaptor until it is told to end. Alone, it opens the browser where it has never run before.
func serve(args []string, out, errOut io.Writer, alone bool) error {
	f := flag.NewFlagSet("serve", flag.ContinueOnError)
	o := app.Options{Files: web.Files(), Hardware: host.Folders()}
	f.StringVar(&o.Listen, "listen", usualListen, "`addresses` of the interface, with commas between them; 0.0.0.0:7420 lets every computer in that knows a passphrase")
	f.StringVar(&o.OSC, "osc", usualOSC, "`address` for OSC inputs; from other computers they take a token")
	f.StringVar(&o.Data, "data", usualFolder(), "`folder` of the shows, the journal and own device sheets")
	f.BoolVar(&o.Bench, "bench", false, "start the simulated devices beside your own show")
	f.BoolVar(&o.Demo, "demo", false, "start the simulated devices, and fill an empty folder with the demo show")
	f.BoolVar(&o.LastGood, "last-good", false, "where the show is damaged, go on with the newest copy of it; the damaged files are kept")
	f.IntVar(&o.BenchBase, "bench-ports", bench.UsualBase, "first `port` of the simulated devices; 0 takes free ones")
	if err := parse(f, args, errOut); err != nil {
		return err
	}
	first := alone && !store.IsFolder(o.Data)
	// From here on, whoever ends it has it close its files.
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	ctx, end := managed(ctx)
	defer end()
	app.Tune()
	a, err := app.Start(o)
	if err != nil {
		return err
	}
	defer a.Close()
	fmt.Fprintf(out, "Synaptor runs at http://%s (OSC inputs at %s, data in %s). Ctrl+C ends it.\n", a.Addr, a.OSCAddr, o.Data)
	for _, url := range a.Opened() {
		fmt.Fprintf(out, "Other computers reach it at %s\n", url)
	}
	if code := a.ClaimCode(); code != "" {
		fmt.Fprintf(out, "Nobody has set a passphrase yet. Whoever does is its owner, and types this code: %s\n", code)
	}
	if first && hasScreen() {
		go func() { // a browser may keep what starts it until it is closed
			if err := openPage("http://" + a.Addr); err != nil {
				fmt.Fprintf(errOut, "No browser opened by itself (%v); open that address in one.\n", err)
			}
		}()
	}
	select {
	case <-ctx.Done():
		if err := a.Shows.BackAtClose(); err != nil {
			fmt.Fprintf(errOut, "synaptor: no copy of the shows was kept: %v\n", err)
		}
		return nil
	case err := <-a.Failed():
		return err
	}
}
