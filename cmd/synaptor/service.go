package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"

	"github.com/kardianos/service"
)

// boxFolder is the data folder of a service that starts with the computer, where the system has a place for such.
const boxFolder = "/var/lib/synaptor"

// unit is the service as systemd has it. It comes back soon after a fault, and stays away where something outside it has to be put right (exit code 2).
const unit = `[Unit]
Description={{Description}}
After=network.target

[Service]
ExecStart={{Path | cmdEscape}}{{range Arguments}} {{. | cmd}}{{end}}
Restart=on-failure
RestartSec=2
RestartPreventExitStatus=2

[Install]
WantedBy=%s
`

// keeper is what starts and stops programs on this system.
type keeper interface {
	Install() error
	Uninstall() error
	Start() error
	Stop() error
	Status() (service.Status, error)
}

// newKeeper gives the one of this system for a service; it fails where the system has none.
type newKeeper func(*service.Config) (keeper, error)

func systemKeeper(c *service.Config) (keeper, error) {
	s, err := service.New(nothing{}, c)
	if errors.Is(err, service.ErrNoServiceSystemDetected) {
		return nil, errors.New("nothing on this system starts programs by themselves, as far as Synaptor knows; start synaptor serve by hand, or by what the system has")
	}
	return s, err
}

// nothing is the program of a service that is only installed, asked for or removed.
type nothing struct{}

// Start implements service.Interface.
func (nothing) Start(service.Service) error { return nil }

// Stop implements service.Interface.
func (nothing) Stop(service.Service) error { return nil }

// errNotRunning is the exit code of a status where nothing runs.
const errNotRunning errFound = 1

// runService has Synaptor start by itself from now on, or no more, or says whether it does.
func runService(args []string, out, errOut io.Writer, by newKeeper) error {
	var what string
	if len(args) > 0 {
		what, args = args[0], args[1:]
	}
	f := flag.NewFlagSet("service "+what, flag.ContinueOnError)
	listen := f.String("listen", usualListen, "`addresses` of the interface, as serve has them")
	osc := f.String("osc", usualOSC, "`address` for OSC inputs")
	data := f.String("data", serviceFolder(), "`folder` of the shows")
	switch what {
	case "install":
	case "remove", "status":
		f = flag.NewFlagSet("service "+what, flag.ContinueOnError)
	default:
		fmt.Fprintf(errOut, "synaptor service: say install, remove or status, not %q\n", what)
		return errUsage
	}
	if err := parse(f, args, errOut); err != nil {
		return err
	}
	folder, err := filepath.Abs(*data)
	if err != nil {
		return err
	}
	wanted := "default.target"
	if atBoot() {
		wanted = "multi-user.target"
	}
	s, err := by(&service.Config{Name: "synaptor", DisplayName: "Synaptor", Description: "Synaptor runs a live show's controls",
		Arguments: []string{"serve", "--listen", *listen, "--osc", *osc, "--data", folder},
		Option:    service.KeyValue{"UserService": !atBoot(), "SystemdScript": fmt.Sprintf(unit, wanted), "RunAtLoad": true, "KeepAlive": true}})
	if err != nil {
		return err
	}
	switch what {
	case "install":
		return install(s, out, *listen, folder)
	case "remove":
		return remove(s, out)
	}
	return status(s, out)
}

// serviceFolder is the data folder of a service where none is said.
func serviceFolder() string {
	if atBoot() && runtime.GOOS == "linux" {
		return boxFolder
	}
	return usualFolder()
}

// atBoot tells whether a service starts with the computer; else it does when its user logs in.
func atBoot() bool { return runtime.GOOS == "windows" || os.Geteuid() == 0 }

func install(s keeper, out io.Writer, listen, folder string) error {
	if _, err := s.Status(); err == nil {
		return errors.New("it is a service already; synaptor service remove ends that")
	}
	if err := s.Install(); err != nil {
		return fmt.Errorf("the service is not installed: %w", mayNot(err))
	}
	if err := s.Start(); err != nil {
		return fmt.Errorf("the service is installed, but does not start: %w", mayNot(err))
	}
	when := "when you log in"
	if atBoot() {
		when = "with this computer"
	}
	fmt.Fprintf(out, "Synaptor starts %s from now on, and runs: http://%s, with its data in %s.\n", when, listen, folder)
	return nil
}

func remove(s keeper, out io.Writer) error {
	if _, err := s.Status(); errors.Is(err, service.ErrNotInstalled) {
		return errors.New("it is no service here")
	}
	_ = s.Stop() // it may not run
	if err := s.Uninstall(); err != nil {
		return fmt.Errorf("the service is not removed: %w", mayNot(err))
	}
	fmt.Fprintln(out, "Synaptor does not start by itself any more. Its data stays where it is.")
	return nil
}

func status(s keeper, out io.Writer) error {
	is, err := s.Status()
	switch {
	case errors.Is(err, service.ErrNotInstalled):
		fmt.Fprintln(out, "Synaptor is no service here.")
		return errNotRunning
	case err != nil:
		return fmt.Errorf("the system does not say: %w", mayNot(err))
	case is != service.StatusRunning:
		fmt.Fprintln(out, "Synaptor is a service, and does not run.")
		return errNotRunning
	}
	fmt.Fprintln(out, "Synaptor is a service, and runs.")
	return nil
}

// mayNot adds to what a system refuses who may do it.
func mayNot(err error) error {
	if errors.Is(err, os.ErrPermission) {
		return fmt.Errorf("%w; it takes an administrator", err)
	}
	return err
}

// managed ends a context when the system's services end this program. Windows has a way of its own for that; other systems send a signal.
func managed(ctx context.Context) (context.Context, context.CancelFunc) {
	ctx, cancel := context.WithCancel(ctx)
	if runtime.GOOS != "windows" || service.Interactive() {
		return ctx, cancel
	}
	s, err := service.New(told{cancel}, &service.Config{Name: "synaptor"})
	if err != nil {
		return ctx, cancel
	}
	go func() {
		_ = s.Run()
		cancel()
	}()
	return ctx, cancel
}

// told is a program that ends when its service is stopped.
type told struct{ end func() }

// Start implements service.Interface.
func (told) Start(service.Service) error { return nil }

// Stop implements service.Interface.
func (t told) Stop(service.Service) error {
	t.end()
	return nil
}
