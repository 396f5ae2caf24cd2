package main

import (
	"bytes"
	"errors"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/kardianos/service"

	"synaptor/internal/store"
)

// keeperOf is a system's services in memory.
type keeperOf struct {
	config  *service.Config
	is      service.Status
	there   bool
	refuses error
}

func (k *keeperOf) Install() error {
	if k.refuses != nil {
		return k.refuses
	}
	k.there, k.is = true, service.StatusStopped
	return nil
}

func (k *keeperOf) Uninstall() error { k.there = false; return k.refuses }
func (k *keeperOf) Start() error     { k.is = service.StatusRunning; return nil }
func (k *keeperOf) Stop() error      { k.is = service.StatusStopped; return nil }

func (k *keeperOf) Status() (service.Status, error) {
	if !k.there {
		return service.StatusUnknown, service.ErrNotInstalled
	}
	return k.is, nil
}

func TestAServiceIsInstalledAskedForAndRemoved(t *testing.T) {
	k := &keeperOf{}
	by := func(c *service.Config) (keeper, error) { k.config = c; return k, nil }
	say := func(wants string, args ...string) {
		t.Helper()
		var out bytes.Buffer
		err := runService(args, &out, &out, by)
		text := out.String()
		if err != nil {
			text += err.Error()
		}
		if !strings.Contains(text, wants) {
			t.Errorf("%v says %q, wanted %q", args, text, wants)
		}
	}
	folder := t.TempDir()
	say("no service here", "status")
	say("it is no service here", "remove")
	say("runs: http://127.0.0.1:7999, with its data in "+folder, "install", "--listen", "127.0.0.1:7999", "--data", folder)
	if want := []string{"serve", "--listen", "127.0.0.1:7999", "--osc", usualOSC, "--data", folder}; !slices.Equal(k.config.Arguments, want) {
		t.Errorf("it starts with %q, wanted %q", k.config.Arguments, want)
	}
	say("and runs", "status")
	say("a service already", "install")
	k.is = service.StatusStopped
	say("does not run", "status")
	say("Its data stays", "remove")
	k.refuses = os.ErrPermission
	say("takes an administrator", "install")
	say("takes an administrator", "install", "--data", folder)
	var out bytes.Buffer
	if err := runService([]string{"status"}, &out, &out, by); !errors.Is(err, errNotRunning) {
		t.Errorf("a status of none is %v", err)
	}
}

func TestWhatKeepsItFromStartingIsASentence(t *testing.T) {
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer taken.Close()
	udp, err := net.ListenPacket("udp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer udp.Close()
	used := t.TempDir()
	release, err := store.UseFolder(used)
	if err != nil {
		t.Fatal(err)
	}
	defer release()
	file := filepath.Join(t.TempDir(), "file")
	if err := os.WriteFile(file, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		listen, osc, data string
		says              []string
	}{
		"the port of the interface": {taken.Addr().String(), "127.0.0.1:0", t.TempDir(), []string{"is taken by another program", "--listen"}},
		"the port of OSC":           {"127.0.0.1:0", udp.LocalAddr().String(), t.TempDir(), []string{"is taken by another program", "--osc"}},
		"a port by a name":          {strings.Replace(taken.Addr().String(), "127.0.0.1", "localhost", 1), "127.0.0.1:0", t.TempDir(), []string{"is taken by another program", "--listen"}},
		"an address of others":      {"192.0.2.1:7420", "127.0.0.1:0", t.TempDir(), []string{"has no address 192.0.2.1", "--listen"}},
		"a folder in use":           {"127.0.0.1:0", "127.0.0.1:0", used, []string{"in use by another Synaptor", "--data"}},
		"a file for a folder":       {"127.0.0.1:0", "127.0.0.1:0", file, []string{"open the data folder"}},
		"no address":                {"7420", "127.0.0.1:0", t.TempDir(), []string{"is not an address to listen on"}},
	} {
		var out, errOut bytes.Buffer
		if code := run([]string{"serve", "--listen", c.listen, "--osc", c.osc, "--data", c.data}, &out, &errOut); code != 2 {
			t.Errorf("%s: exit code %d", name, code)
		}
		said := strings.TrimSpace(errOut.String())
		for _, want := range c.says {
			if !strings.Contains(said, want) {
				t.Errorf("%s: it says %q, wanted %q", name, said, want)
			}
		}
		if last := said[strings.LastIndex(said, "synaptor:"):]; strings.Count(last, "\n") > 0 {
			t.Errorf("%s: more than a sentence: %q", name, last)
		}
	}
}

func TestThePortsOfTheBenchAreOnesThatAreFree(t *testing.T) {
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer taken.Close()
	_, port, err := net.SplitHostPort(taken.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	var out, errOut bytes.Buffer
	if code := run([]string{"bench", "--ports", port}, &out, &errOut); code != 2 || !strings.Contains(errOut.String(), "choose another port with --ports") {
		t.Errorf("exit code %d, it says %q", code, errOut.String())
	}
}

func TestTheDataFolderIsTheSystemsOrAnOldOneBesideIt(t *testing.T) {
	home := t.TempDir()
	t.Chdir(home)
	if got := usualFolder(); !filepath.IsAbs(got) || !strings.EqualFold(filepath.Base(got), "synaptor") {
		t.Errorf("it is %s", got)
	}
	if err := os.Mkdir(oldFolder, 0o700); err != nil {
		t.Fatal(err)
	}
	if got := usualFolder(); got == oldFolder {
		t.Error("a folder that is called data by chance is taken")
	}
	release, err := store.UseFolder(oldFolder)
	if err != nil {
		t.Fatal(err)
	}
	release()
	if got := usualFolder(); got != oldFolder {
		t.Errorf("with an old one it is %s", got)
	}
}
