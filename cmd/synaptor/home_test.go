package main

import (
	"bufio"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"syscall"
	"testing"
	"time"
)

// TestMain is Synaptor itself where a test runs this program as that.
func TestMain(m *testing.M) {
	if os.Getenv("AS_SYNAPTOR") != "" {
		main()
		return
	}
	os.Exit(m.Run())
}

// TestAloneItOpensTheBrowserAtTheFirstStart and at no other, with its data where the system keeps such things.
func TestAloneItOpensTheBrowserAtTheFirstStart(t *testing.T) {
	if runtime.GOOS != "linux" {
		t.Skip("what opens a browser is found by its name on Linux")
	}
	home, bin := t.TempDir(), t.TempDir()
	opened := filepath.Join(home, "opened")
	if err := os.WriteFile(filepath.Join(bin, "xdg-open"), []byte("#!/bin/sh\necho \"$1\" >> "+opened+"\n"), 0o755); err != nil {
		t.Fatal(err)
	}
	start := func() (address string, end func()) {
		t.Helper()
		c := exec.Command(os.Args[0], "--listen", "127.0.0.1:0", "--osc", "127.0.0.1:0")
		c.Dir, c.Env = home, []string{"AS_SYNAPTOR=yes", "HOME=" + home, "DISPLAY=:99", "PATH=" + bin}
		out, err := c.StdoutPipe()
		if err == nil {
			err = c.Start()
		}
		if err != nil {
			t.Fatal(err)
		}
		line, err := bufio.NewReader(out).ReadString('\n')
		if err != nil || !strings.Contains(line, "data in "+filepath.Join(home, ".local/share/synaptor")) {
			t.Errorf("it says %q (%v)", line, err)
		}
		return strings.Fields(strings.TrimPrefix(line, "Synaptor runs at "))[0], func() {
			_ = c.Process.Signal(syscall.SIGTERM)
			if err := c.Wait(); err != nil {
				t.Errorf("it ended with %v", err)
			}
		}
	}
	address, end := start()
	for limit := time.Now().Add(30 * time.Second); ; time.Sleep(5 * time.Millisecond) {
		if url, err := os.ReadFile(opened); err == nil && string(url) == address+"\n" {
			break
		} else if time.Now().After(limit) {
			t.Fatalf("the browser was opened at %q (%v), it runs at %s", url, err, address)
		}
	}
	end()
	_, end = start()
	end()
	if all, err := os.ReadFile(opened); err != nil || string(all) != address+"\n" {
		t.Errorf("at the second start it opened %q (%v)", all, err)
	}
}
