// Command synaptor runs a show: synaptor, or synaptor serve with flags; or the simulated devices alone: synaptor bench.
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

	"synaptor/internal/app"
	"synaptor/internal/bench"
)

const usage = `Synaptor runs a live show's controls.

  synaptor                 serves from your own data folder, and opens the browser at the first start
  synaptor serve [--listen 127.0.0.1:7420] [--osc 127.0.0.1:7421] [--data DIR] [--demo | --bench] [--last-good]
  synaptor bench [--ports 7430]
  synaptor export [--from http://127.0.0.1:7420 | --demo] FILE
  synaptor import [--to http://127.0.0.1:7420] [--name NAME] [--open] [--into SHOW [--parts page:NAME,macro:NAME,reflex:NAME]] [--dry-run] FILE
  synaptor bridge [--to http://127.0.0.1:7420] --port PATH | --tcp ADDRESS | --terminal LAYOUT | --check URL
  synaptor backup [--of http://127.0.0.1:7420]
  synaptor restore [--data DIR] COPY
  synaptor rehearse [--seed N] [--json] ARCHIVE MACRO
  synaptor preflight [--json] ARCHIVE
  synaptor service install [--listen 127.0.0.1:7420] [--data DIR] | remove | status
  synaptor version

Each command has --help.
`

func main() { os.Exit(run(os.Args[1:], os.Stdout, os.Stderr)) }

// run carries out a command line and returns the exit code: 0 done, 1 failed, 2 not understood, or something outside Synaptor, such as a port that is
// taken, keeps it from starting; a preflight also 3 and 4.
func run(args []string, out, errOut io.Writer) int {
	out, errOut = plain{out}, plain{errOut}
	command := ""
	if len(args) > 0 && args[0] != "" {
		command = args[0]
	}
	var err error
	switch command {
	case "":
		err = serve(nil, out, errOut, true)
	case "serve":
		err = serve(args[1:], out, errOut, false)
	case "bench":
		err = runBench(args[1:], out, errOut)
	case "export":
		err = runExport(args[1:], out, errOut)
	case "import":
		err = runImport(args[1:], out, errOut)
	case "bridge":
		err = runBridge(args[1:], out, errOut)
	case "backup":
		err = runBackup(args[1:], out, errOut)
	case "restore":
		err = runRestore(args[1:], out, errOut)
	case "rehearse":
		err = rehearse(args[1:], out, errOut)
	case "preflight":
		err = runPreflight(args[1:], out, errOut)
	case "service":
		err = runService(args[1:], out, errOut, systemKeeper)
	case "version", "--version":
		sayVersion(out)
	case "help", "-h", "--help":
		fmt.Fprint(out, usage)
	default:
		if strings.HasPrefix(command, "-") {
			err = serve(args, out, errOut, true)
			break
		}
		fmt.Fprintf(errOut, "synaptor: there is no command %q\n\n%s", args[0], usage)
		return 2
	}
	var found errFound
	var outside *app.OutsideError
	switch {
	case err == nil || errors.Is(err, flag.ErrHelp):
		return 0
	case errors.As(err, &found):
		return int(found)
	case errors.Is(err, errUsage):
		return 2
	}
	fmt.Fprintln(errOut, "synaptor:", err)
	if errors.As(err, &outside) {
		return 2
	}
	return 1
}

// errUsage says that the command line was not understood; the flag package has
// said why.
var errUsage = errors.New("usage")

// parse reads flags; takes names what has to be said besides.
func parse(f *flag.FlagSet, args []string, errOut io.Writer, takes ...string) error {
	f.SetOutput(errOut)
	f.Usage = func() {
		fmt.Fprintf(errOut, "synaptor %s [flags] %s\n", f.Name(), strings.Join(takes, " "))
		f.PrintDefaults()
	}
	err := f.Parse(flagsFirst(f, args))
	switch {
	case errors.Is(err, flag.ErrHelp):
		return err
	case err != nil:
		return errUsage
	case f.NArg() > len(takes):
		fmt.Fprintf(errOut, "synaptor %s: %q was not expected\n", f.Name(), f.Arg(len(takes)))
		return errUsage
	case f.NArg() < len(takes):
		fmt.Fprintf(errOut, "synaptor %s: %s is missing\n", f.Name(), takes[f.NArg()])
		return errUsage
	}
	return nil
}

func runBench(args []string, out, errOut io.Writer) error {
	f := flag.NewFlagSet("bench", flag.ContinueOnError)
	base := f.Int("ports", bench.UsualBase, "first `port`, of the streaming software; the others follow. 0 takes free ones")
	if err := parse(f, args, errOut); err != nil {
		return err
	}
	b, err := bench.Start(*base, nil)
	if err != nil {
		return app.Outside(err, func(string, string) string { return "--ports" })
	}
	defer b.Close()
	fmt.Fprintln(out, "The bench runs. Ctrl+C ends it.")
	for _, s := range b.StandIns() {
		fmt.Fprintf(out, "  %-16s %s\n", s.Title(), s.Addr())
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	<-ctx.Done()
	return nil
}
