package main

import (
	"cmp"
	"fmt"
	"io"
	"runtime"
	"runtime/debug"

	sqlite3 "modernc.org/sqlite/lib"
)

// release and commit are what make dist builds; empty: it was built by hand.
var release, commit string

// sayVersion writes what this program is, and what it is made with.
func sayVersion(out io.Writer) {
	of := commit
	if info, ok := debug.ReadBuildInfo(); ok && of == "" {
		for _, s := range info.Settings {
			switch {
			case s.Key == "vcs.revision":
				of = s.Value[:min(12, len(s.Value))]
			case s.Key == "vcs.modified" && s.Value == "true":
				of += " with changes"
			}
		}
	}
	fmt.Fprintf(out, "Synaptor %s, commit %s\n%s, %s/%s, SQLite %s\n", cmp.Or(release, "built by hand"), cmp.Or(of, "unknown"), runtime.Version(), runtime.GOOS, runtime.GOARCH, sqlite3.SQLITE_VERSION)
}
