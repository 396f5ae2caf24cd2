package main

import (
	"bytes"
	"strings"
	"testing"
)

func TestTheCommandLineSaysWhatIsWrong(t *testing.T) {
	for name, c := range map[string]struct {
		args []string
		code int
		says string
	}{
		"nothing":              {nil, 2, "synaptor serve"},
		"help":                 {[]string{"--help"}, 0, "synaptor bench"},
		"help of serve":        {[]string{"serve", "--help"}, 0, "-demo"},
		"help of bench":        {[]string{"bench", "--help"}, 0, "-ports"},
		"no such command":      {[]string{"dance"}, 2, `no command "dance"`},
		"no such flag":         {[]string{"serve", "--loud"}, 2, "not defined"},
		"something left over":  {[]string{"bench", "now"}, 2, `"now" was not expected`},
		"everybody's network":  {[]string{"serve", "--listen", "0.0.0.0:7420", "--data", "/nonexistent/x"}, 1, "no sign-in yet"},
		"a folder that is not": {[]string{"serve", "--listen", "127.0.0.1:0", "--osc", "127.0.0.1:0", "--data", "/dev/null/x"}, 1, "data folder"},
	} {
		var out, errOut bytes.Buffer
		if code := run(c.args, &out, &errOut); code != c.code {
			t.Errorf("%s: exit code %d, want %d", name, code, c.code)
		}
		if all := out.String() + errOut.String(); !strings.Contains(all, c.says) {
			t.Errorf("%s: says %q, want %q", name, all, c.says)
		}
	}
}
