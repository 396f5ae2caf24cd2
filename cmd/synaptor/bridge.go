package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strings"
	"syscall"

	"golang.org/x/term"

	"synaptor/internal/bridge"
	"synaptor/internal/bridge/check"
	"synaptor/internal/sheet"
	"synaptor/internal/terminal"
)

// runBridge carries controllers to a Synaptor, or checks how one speaks the wire.
func runBridge(args []string, out, errOut io.Writer) error {
	f := flag.NewFlagSet("bridge", flag.ContinueOnError)
	to := f.String("to", "http://127.0.0.1:7420", "`address` of the Synaptor")
	token := f.String("token", "", "`token` that lets it in, where one is asked for")
	port := f.String("port", "", "`path` of a serial port with a board, or a pattern such as /dev/ttyACM*")
	baud := f.Int("baud", 115200, "its speed in `baud`")
	tcp := f.String("tcp", "", "`address` of a board on the network")
	layout := f.String("terminal", "", "draw a controller of this `layout` in the terminal")
	serial := f.String("serial", "terminal", "its `serial number`")
	checked := f.String("check", "", "talk every message of the protocol with the Synaptor at this `address`, and report")
	if err := parse(f, args, errOut); err != nil {
		return err
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	b := bridge.Bridge{Token: *token, URL: wireAt(*to), Say: func(text string) { fmt.Fprintln(out, text) }}
	switch {
	case *checked != "":
		return check.Report(ctx, wireAt(*checked), *token, out)
	case *port != "":
		b.Port = bridge.SerialPort{Path: *port, Baud: *baud}
	case *tcp != "":
		b.Port = bridge.TCPPort(*tcp)
	case *layout != "":
		return inTerminal(ctx, b, *layout, *serial)
	default:
		fmt.Fprintln(errOut, "synaptor bridge: say --port, --tcp, --terminal or --check")
		return errUsage
	}
	b.Run(ctx)
	return nil
}

// wireAt is the address of the wire of a Synaptor.
func wireAt(base string) string {
	for _, scheme := range [][2]string{{"http://", "ws://"}, {"https://", "wss://"}} {
		if rest, has := strings.CutPrefix(base, scheme[0]); has {
			base = scheme[1] + rest
		}
	}
	return strings.TrimSuffix(base, "/") + "/api/v1/wire"
}

// inTerminal draws a controller in the terminal, and carries it.
func inTerminal(ctx context.Context, b bridge.Bridge, layout, serial string) error {
	lib, err := sheet.Load(nil)
	if err != nil {
		return err
	}
	l := lib.Controller(layout)
	if l == nil {
		var all []string
		for _, o := range lib.Controllers() {
			all = append(all, o.Type)
		}
		return fmt.Errorf("there is no layout %q; there are %s", layout, strings.Join(all, ", "))
	}
	columns, rows, err := term.GetSize(int(os.Stdout.Fd()))
	if err != nil {
		return errors.New("this is no terminal")
	}
	t := terminal.New(l, serial, os.Stdout, columns, rows)
	b.Say, b.Port = t.Say, bridge.MemoryPort{Name: "The terminal", Board: t.Board}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	go b.Run(ctx)
	return t.Run(ctx, os.Stdin)
}
