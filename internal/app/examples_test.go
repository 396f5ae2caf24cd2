package app_test

import (
	"bufio"
	"fmt"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
)

// TestTheExampleOfABridgeWorks: written from the document alone, it shows what keys show and presses them.
func TestTheExampleOfABridgeWorks(t *testing.T) {
	bin := filepath.Join(t.TempDir(), "bridge")
	if out, err := exec.Command("go", "build", "-o", bin, "../../examples/bridge").CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	r := start(t).ready()
	r.attach("example-1")
	cmd := exec.Command(bin, "ws"+strings.TrimPrefix(r.base, "http")+"/api/v1/wire")
	in, err := cmd.StdinPipe()
	if err != nil {
		t.Fatal(err)
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	var mu sync.Mutex
	said := ""
	var reads sync.WaitGroup
	reads.Go(func() {
		for s := bufio.NewScanner(out); s.Scan(); {
			mu.Lock()
			said += s.Text() + "\n"
			mu.Unlock()
		}
	})
	defer func() {
		_ = cmd.Process.Kill()
		reads.Wait()
		_ = cmd.Wait() // it was killed
	}()
	says := func(text string) func() bool {
		return func() bool {
			mu.Lock()
			defer mu.Unlock()
			return strings.Contains(said, text)
		}
	}
	r.eventually("it shows the first key on air", says("a1: Presenter cam, on air\n"))
	fmt.Fprintln(in, "c1")
	r.eventually("it shows the third key on air", says("c1: All-sky cam, on air\n"))
	fmt.Fprintln(in, "z9")
	r.eventually("it says what is wrong", says("has no control"))
}
