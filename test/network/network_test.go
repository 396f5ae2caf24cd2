// Package network plays with Synaptor from other computers: the tests, Synaptor and the browsers run in a network namespace of their own, so
// that what is opened and announced reaches no real network.
package network

import (
	"bytes"
	"crypto/tls"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"testing"
	"time"

	"synaptor/internal/app"
	"synaptor/test/browser"
	"synaptor/web"
)

// inside says that the tests run in the namespace.
const inside = "SYNAPTOR_TEST_NETNS"

// desk is the address that others reach Synaptor by, on one end of a cable.
const desk = "10.213.8.1"

const words = "seven bright meteors"

var chromium *browser.Browser

// TestMain runs the tests once more, in a namespace. Where none can be made they are left out.
func TestMain(m *testing.M) {
	if os.Getenv(inside) == "" {
		os.Exit(again())
	}
	for _, args := range [][]string{{"link", "set", "lo", "up"}, {"link", "add", "syn-c", "type", "veth", "peer", "name", "syn-d"}, {"addr", "add", desk + "/24", "dev", "syn-c"},
		{"link", "set", "syn-c", "up"}, {"link", "set", "syn-d", "up"}, {"route", "add", "default", "dev", "syn-c"}} {
		if out, err := exec.Command("ip", args...).CombinedOutput(); err != nil {
			fmt.Fprintf(os.Stderr, "ip %v: %v %s\n", args, err, out)
			os.Exit(1)
		}
	}
	b, err := browser.StartWith("ignore-certificate-errors")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	chromium = b
	code := m.Run()
	b.Close()
	os.Exit(code)
}

func again() int {
	if _, err := exec.LookPath("ip"); err != nil || os.Geteuid() != 0 {
		fmt.Println("left out: only root makes network namespaces, with iproute2")
		return 0
	}
	ns := fmt.Sprintf("synaptor-net-%d", os.Getpid())
	if out, err := exec.Command("ip", "netns", "add", ns).CombinedOutput(); err != nil {
		fmt.Printf("left out: this machine makes no network namespaces: %s\n", out)
		return 0
	}
	defer func() { _ = exec.Command("ip", "netns", "del", ns).Run() }()
	cmd := exec.Command("ip", append([]string{"netns", "exec", ns, os.Args[0]}, os.Args[1:]...)...)
	cmd.Env = append(os.Environ(), inside+"=1")
	cmd.Stdout, cmd.Stderr = os.Stdout, os.Stderr
	if cmd.Run() != nil {
		return 1
	}
	return 0
}

// synaptor is a running Synaptor, and the client of somebody at a base.
type synaptor struct {
	*testing.T
	*app.App
	base   string
	client *http.Client
}

func start(t *testing.T, listen string) *synaptor {
	t.Helper()
	a, err := app.Start(app.Options{Listen: listen, OSC: "127.0.0.1:0", Data: t.TempDir(), Demo: true, Files: web.Files()})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	return (&synaptor{T: t, App: a, base: "http://" + a.Addr}).at("http://" + a.Addr)
}

// at is somebody else, at another base.
func (s *synaptor) at(base string) *synaptor {
	jar, err := cookiejar.New(nil)
	if err != nil {
		s.Fatal(err)
	}
	return &synaptor{s.T, s.App, base, &http.Client{Jar: jar, Timeout: browser.Patience, Transport: &http.Transport{DisableKeepAlives: true, TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}}}
}

// call makes a request and decodes the answer into out, where that is not nil. It gives the status; 0: nobody answers.
func (s *synaptor) call(method, path string, body, out any) int {
	s.Helper()
	raw, err := json.Marshal(body)
	if err != nil {
		s.Fatal(err)
	}
	req, err := http.NewRequest(method, s.base+path, bytes.NewReader(raw))
	if err != nil {
		s.Fatal(err)
	}
	if body == nil {
		req.Body = http.NoBody
		req.ContentLength = 0
	}
	req.Header.Set("Sec-Fetch-Site", "same-origin")
	resp, err := s.client.Do(req)
	if err != nil {
		return 0
	}
	defer resp.Body.Close()
	raw, err = io.ReadAll(resp.Body)
	if err != nil {
		s.Fatal(err)
	}
	if out != nil && json.Unmarshal(raw, out) != nil {
		s.Fatalf("%s %s answered %d: %s", method, path, resp.StatusCode, raw)
	}
	return resp.StatusCode
}

func (s *synaptor) must(status int, method, path string, body, out any) {
	s.Helper()
	if got := s.call(method, path, body, out); got != status {
		s.Fatalf("%s %s answered %d, want %d", method, path, got, status)
	}
}

func (s *synaptor) eventually(what string, ok func() bool) {
	s.Helper()
	for limit := time.Now().Add(browser.Patience); !ok(); time.Sleep(5 * time.Millisecond) {
		if time.Now().After(limit) {
			s.Fatalf("waited in vain until %s", what)
		}
	}
}

// look opens a browser of a size.
func (s *synaptor) look(base string, width, height int64) *browser.Page {
	s.Helper()
	p, err := chromium.Open(base, width, height, true)
	if err != nil {
		s.Fatal(err)
	}
	s.Cleanup(p.Close)
	return p
}

// do fails the test, with a picture, when a step did not work.
func do(t *testing.T, p *browser.Page, errs ...error) {
	t.Helper()
	for _, err := range errs {
		if err != nil {
			file := os.TempDir() + "/synaptor-" + t.Name() + ".png"
			if p.Shot(file) == nil {
				t.Logf("what the screen showed: %s", file)
			}
			t.Fatal(err)
		}
	}
}
