package main

import (
	"flag"
	"fmt"
	"io"

	"synaptor/internal/app"
	"synaptor/internal/store"
)

// runBackup has a running Synaptor keep a copy of its data folder.
func runBackup(args []string, out, errOut io.Writer) error {
	f := flag.NewFlagSet("backup", flag.ContinueOnError)
	var of remote
	of.flags(f, "of", "`address` of the Synaptor whose data is copied")
	if err := parse(f, args, errOut); err != nil {
		return err
	}
	var b store.Backup
	if err := of.ask("/api/v1/backups", "application/json", nil, &b); err != nil {
		return err
	}
	fmt.Fprintf(out, "The copy %s has %d shows, %d bytes. %s\n", b.Name, b.Shows, b.Bytes, b.Problem)
	return nil
}

// runRestore makes a data folder of a copy, while no Synaptor uses it.
func runRestore(args []string, out, errOut io.Writer) error {
	f := flag.NewFlagSet("restore", flag.ContinueOnError)
	data := f.String("data", usualFolder(), "`folder` that becomes as the copy is; what it has now is kept in it, below kept")
	if err := parse(f, args, errOut, "COPY"); err != nil {
		return err
	}
	if err := store.Restore(f.Arg(0), *data); err != nil {
		return app.Outside(err, nil) // it listens nowhere
	}
	fmt.Fprintf(out, "%s is as it was when the copy was made. What was there before is below %s/kept.\n", *data, *data)
	return nil
}
