package main

import (
	"fmt"
	"io"
	"runtime"
	"runtime/debug"

	sqlite3 "modernc.org/sqlite/lib"
)

// release is what make dist calls the build; empty: it was built by hand.
var release string

// sayVersion writes what this program is, and what it is made with.
func sayVersion(out io.Writer) {
	name, commit := release, "of no commit"
	if name == "" {
		name = "built by hand"
	}
	if info, ok := debug.ReadBuildInfo(); ok {
		changed := false
		for _, s := range info.Settings {
			switch s.Key {
			case "vcs.revision":
				commit = "commit " + s.Value[:min(12, len(s.Value))]
			case "vcs.modified":
				changed = s.Value == "true"
			}
		}
		if changed {
			commit += " with changes"
		}
	}
	fmt.Fprintf(out, "Synaptor %s, %s\n%s, %s/%s, SQLite %s\n", name, commit, runtime.Version(), runtime.GOOS, runtime.GOARCH, sqlite3.SQLITE_VERSION)
}
