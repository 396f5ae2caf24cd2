package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/archive"
	"synaptor/internal/bench"
	"synaptor/internal/core/show"
	"synaptor/internal/link"
	"synaptor/internal/plan"
	"synaptor/internal/sheet"
	"synaptor/web"
)

// flagsFirst puts flags before what else is said, so that they may stand anywhere.
func flagsFirst(f *flag.FlagSet, args []string) []string {
	var flags, rest []string
	for i := 0; i < len(args); i++ {
		name := strings.TrimLeft(args[i], "-")
		if !strings.HasPrefix(args[i], "-") || name == "" {
			rest = append(rest, args[i])
			continue
		}
		flags = append(flags, args[i])
		def := f.Lookup(name)
		if def == nil {
			continue
		}
		if b, isBool := def.Value.(interface{ IsBoolFlag() bool }); (!isBool || !b.IsBoolFlag()) && i+1 < len(args) {
			i++
			flags = append(flags, args[i])
		}
	}
	return append(flags, rest...)
}

// runExport writes the show of a running Synaptor, or the demo show, into an archive.
func runExport(args []string, out, errOut io.Writer) error {
	f := flag.NewFlagSet("export", flag.ContinueOnError)
	var from remote
	from.flags(f, "from", "`address` of the Synaptor whose show is exported")
	demo := f.Bool("demo", false, "export the demo show instead, with its simulated devices as they begin")
	if err := parse(f, args, errOut, "FILE"); err != nil {
		return err
	}
	if *demo {
		a, err := startDemo()
		if err != nil {
			return err
		}
		defer a.close()
		from.base = "http://" + a.Addr
	}
	body, err := from.do(http.MethodGet, "/api/v1/archive", "", nil)
	if err != nil {
		return fmt.Errorf("export, or say --demo: %w", err)
	}
	if *demo {
		if body, err = asItBegins(body); err != nil {
			return err
		}
	}
	if err := os.WriteFile(f.Arg(0), body, 0o600); err != nil {
		return err
	}
	fmt.Fprintf(out, "%s has the show, %d bytes. Passwords are not in it.\n", f.Arg(0), len(body))
	return nil
}

// asItBegins takes out of an archive of the demo what was this run's only, for the same show is to be the same
// bytes: the devices are at the ports that they have in a demo, and their clocks show its hour.
func asItBegins(body []byte) ([]byte, error) {
	a, err := archive.Read(bytes.NewReader(body), int64(len(body)))
	if err != nil {
		return nil, err
	}
	lib, err := sheet.Load(nil)
	if err != nil {
		return nil, err
	}
	d := show.NewDraft(a.Show)
	for _, dev := range a.Show.Devices() {
		if typ := lib.Device(dev.Type); typ != nil {
			c := *dev
			c.Port = typ.Sheet.Link.Port
			d.Put(&c)
		}
	}
	a.Show = d.Now()
	for k := range a.Assumed.Values {
		switch k.Path {
		case "pictures/port":
			a.Assumed.Values[k] = bench.UsualPicturePort
		case "clock":
			a.Assumed.Values[k] = bench.UsualHour
		}
	}
	var out bytes.Buffer
	err = archive.Write(&out, a)
	return out.Bytes(), err
}

// demoApp is a Synaptor with the demo show in a folder of its own.
type demoApp struct {
	*app.App
	folder string
}

func (d demoApp) close() {
	d.Close()
	_ = os.RemoveAll(d.folder)
}

// demoPatience is how long the simulated devices may take to answer.
const demoPatience = 20 * time.Second

func startDemo() (d demoApp, err error) {
	if d.folder, err = os.MkdirTemp("", "synaptor-demo"); err != nil {
		return d, err
	}
	if d.App, err = app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: d.folder, Demo: true, Files: web.Files()}); err != nil {
		return d, errors.Join(err, os.RemoveAll(d.folder))
	}
	for limit := time.Now().Add(demoPatience); ; time.Sleep(5 * time.Millisecond) {
		away := ""
		v := d.Mirror.Current() // with the devices of the demo
		for _, dev := range v.Program.Show.Devices() {
			if v.Link(dev.ID).Phase != link.Up {
				away = dev.Name
			}
		}
		if away == "" {
			return d, nil
		}
		if time.Now().After(limit) {
			d.close()
			return d, fmt.Errorf("%s does not answer", away)
		}
	}
}

// rehearse runs a macro of an archive on a virtual clock, with no device.
func rehearse(args []string, out, errOut io.Writer) error {
	f := flag.NewFlagSet("rehearse", flag.ContinueOnError)
	seed := f.Uint64("seed", 0, "`number` that chance is drawn from: the same gives the same")
	asJSON := f.Bool("json", false, "write all of it as JSON")
	if err := parse(f, args, errOut, "ARCHIVE", "MACRO"); err != nil {
		return err
	}
	a, snap, err := openArchive(f.Arg(0))
	if err != nil {
		return err
	}
	m := macroOf(a.Show, f.Arg(1))
	if m == nil {
		return fmt.Errorf("there is no macro %q in this archive; there are: %s", f.Arg(1), macroNames(a.Show))
	}
	r, err := plan.RehearseAway(snap, m.ID, a.Assumed, *seed)
	if err != nil {
		return fmt.Errorf("%s cannot be rehearsed: %w", m.Name, err)
	}
	if *asJSON {
		e := json.NewEncoder(out)
		e.SetIndent("", " ")
		return e.Encode(r)
	}
	fmt.Fprintf(out, "%s takes %.2f s and has %s.\n", m.Name, r.LengthMs/1000, strings.TrimSpace(r.State+" "+r.Reason))
	for _, o := range r.Outputs {
		fmt.Fprintf(out, "\n%s\n", o.Title)
		for _, s := range o.Seen {
			fmt.Fprintf(out, "  %8.2f s  %s\n", s.FromMs/1000, s.Word)
		}
	}
	fmt.Fprintln(out)
	for _, c := range r.Changes {
		fmt.Fprintf(out, "  %8.2f s  %s: %s → %s\n", c.AtMs/1000, c.Title, c.From, c.To)
	}
	for _, found := range r.Findings {
		fmt.Fprintf(out, "\n%s: %s\n", found.Severity, found.Text)
	}
	return nil
}

// macroOf finds a macro by its name, its slug or its id.
func macroOf(s *show.Show, name string) *show.Macro {
	for _, m := range s.Macros() {
		if strings.EqualFold(m.Name, name) || m.Slug == name || m.ID == name {
			return m
		}
	}
	return nil
}

func macroNames(s *show.Show) string {
	var out []string
	for _, m := range s.Macros() {
		out = append(out, m.Name)
	}
	return strings.Join(out, ", ")
}
