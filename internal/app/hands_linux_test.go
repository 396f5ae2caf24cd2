package app_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"synaptor/internal/app"
	"synaptor/internal/core/hands"
	"synaptor/internal/core/show"
	"synaptor/internal/host"
)

// TestADeviceThatMayNotBeRead says which file helps; allowed to, it is there without being plugged in again.
func TestADeviceThatMayNotBeRead(t *testing.T) {
	folder := t.TempDir()
	path := filepath.Join(folder, "event5")
	about, err := json.Marshal(hands.Device{Kind: show.LinkKeysHost, Name: "Button box"})
	if err == nil {
		err = os.WriteFile(host.DescriptionOf(path), about, 0o600)
	}
	if err == nil {
		err = syscall.Mkfifo(path, 0)
	}
	if err == nil {
		err = os.Chmod(path, 0)
	}
	if err != nil {
		t.Fatal(err)
	}
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: t.TempDir(), Files: files, Hardware: host.Simulated(folder)})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	r := (&rig{T: t, App: a, base: "http://" + a.Addr}).another()
	r.eventually("it is told which file helps", func() bool { return strings.Contains(r.hardware("Button box").Problem, "packaging/70-synaptor.rules") })
	if err := os.Chmod(path, 0o600); err != nil {
		t.Fatal(err)
	}
	r.eventually("it is here", func() bool { h := r.hardware("Button box"); return h.Here && h.Problem == "" && h.CanTake })
	if err := os.Remove(path); err != nil {
		t.Fatal(err)
	}
	r.eventually("unplugged, it is gone", func() bool { return r.hardware("Button box").ID == "" })
}
