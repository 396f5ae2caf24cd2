// Command soak has the demo show live through a night in half an hour: inputs at random at 50 a
// second, edits, pictures, passwords, macros, faults of the devices. It prints the memory and the
// goroutines of Synaptor, which is a process of its own, and fails where they grow.
package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"time"

	"synaptor/test/process"
)

// What is wanted.
const (
	inputsPerSecond = 50
	mostAtRest      = 80  // MB, before anything is done
	mostAfter       = 110 // MB, at the end
	mostGoroutines  = 40  // more at the end than at the beginning
)

func main() {
	minutes := 30.0
	if len(os.Args) > 1 {
		var err error
		if minutes, err = strconv.ParseFloat(os.Args[1], 64); err != nil {
			fmt.Fprintln(os.Stderr, "soak takes the minutes that it lasts:", err)
			os.Exit(2)
		}
	}
	if err := soak(time.Duration(minutes * float64(time.Minute))); err != nil {
		fmt.Fprintln(os.Stderr, "soak:", err)
		os.Exit(1)
	}
}

// night is a Synaptor that runs, and somebody who plays with it.
type night struct {
	*process.Process
	client *http.Client
	random *rand.Rand
	did    map[string]int // by what it was: how often it worked
}

// begin starts Synaptor with the demo show in a folder.
func begin(dir string) (*night, error) {
	bin, err := process.Build(dir)
	if err != nil {
		return nil, err
	}
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, fmt.Errorf("a jar for cookies: %w", err)
	}
	p, err := process.Start(bin, filepath.Join(dir, "data"), "--demo")
	if err != nil {
		return nil, err
	}
	return &night{p, &http.Client{Jar: jar, Timeout: 20 * time.Second}, rand.New(rand.NewPCG(7, 7)), map[string]int{}}, nil
}

// sample is how Synaptor stands.
type sample struct {
	at         time.Duration
	megabytes  float64
	goroutines int
	incidents  int
}

func (n *night) sample(since time.Time) (s sample, err error) {
	s.at = time.Since(since).Round(time.Second)
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", n.Pid()))
	if err != nil {
		return s, fmt.Errorf("look at the process: %w", err)
	}
	s.megabytes = number(string(status), `VmRSS:\s+(\d+)`) / 1024
	resp, err := n.client.Get(n.Base + "/metrics")
	if err != nil {
		return s, fmt.Errorf("look at the metrics: %w", err)
	}
	defer resp.Body.Close()
	text, err := io.ReadAll(resp.Body)
	s.goroutines = int(number(string(text), `synaptor_goroutines (\d+)`))
	s.incidents = int(number(string(text), `synaptor_incidents_total\{[^}]*\} (\d+)`))
	return s, err
}

func number(text, pattern string) float64 {
	m := regexp.MustCompile(pattern).FindStringSubmatch(text)
	if m == nil {
		return 0
	}
	f, _ := strconv.ParseFloat(m[1], 64) // digits
	return f
}

func soak(length time.Duration) error {
	dir, err := os.MkdirTemp("", "soak")
	if err != nil {
		return fmt.Errorf("a folder for the show: %w", err)
	}
	defer os.RemoveAll(dir)
	n, err := begin(dir)
	if err != nil {
		return err
	}
	defer n.Kill()
	time.Sleep(5 * time.Second)
	began := time.Now()
	rest, err := n.sample(began)
	if err != nil {
		return err
	}
	fmt.Printf("%8s %10s %12s\n%8s %10.1f %12d   at rest\n", "time", "MB", "goroutines", rest.at, rest.megabytes, rest.goroutines)
	next := began
	for i := 0; time.Since(began) < length; i++ {
		time.Sleep(time.Until(began.Add(time.Duration(i) * time.Second / inputsPerSecond)))
		if err := n.act(i); err != nil {
			return err
		}
		if every := max(length/30, 10*time.Second); time.Since(next) > every {
			next = time.Now()
			s, err := n.sample(began)
			if err != nil {
				return err
			}
			fmt.Printf("%8s %10.1f %12d\n", s.at, s.megabytes, s.goroutines)
		}
	}
	if err := n.mend(); err != nil {
		return err
	}
	time.Sleep(15 * time.Second) // what goes on comes to its end
	last, err := n.sample(began)
	if err != nil {
		return err
	}
	fmt.Printf("%8s %10.1f %12d   at rest again; done: %v\n", last.at, last.megabytes, last.goroutines, n.did)
	return errors.Join(
		within("memory at rest, MB", rest.megabytes, mostAtRest),
		within("memory after it, MB", last.megabytes, mostAfter),
		within("more goroutines than before", float64(last.goroutines-rest.goroutines), mostGoroutines),
		within("incidents", float64(last.incidents), 0))
}

func within(what string, is, most float64) error {
	if is <= most {
		return nil
	}
	return fmt.Errorf("%s: %.1f, wanted %.0f at most", what, is, most)
}

// call makes a request; what is refused with a sentence is fine, and nothing else.
func (n *night) call(what, method, path string, body any) (int, error) {
	var in io.Reader
	if body != nil {
		raw, err := json.Marshal(body)
		if err != nil {
			return 0, err
		}
		in = bytes.NewReader(raw)
	}
	return n.send(what, method, path, in)
}

func (n *night) send(what, method, path string, in io.Reader) (int, error) {
	req, err := http.NewRequest(method, n.Base+path, in)
	if err != nil {
		return 0, err
	}
	req.Header.Set("Sec-Fetch-Site", "same-origin")
	resp, err := n.client.Do(req)
	if err != nil {
		return 0, fmt.Errorf("%s: %w", what, err)
	}
	defer resp.Body.Close()
	text, err := io.ReadAll(resp.Body)
	if err != nil {
		return 0, fmt.Errorf("%s: %w", what, err)
	}
	if resp.StatusCode >= 500 {
		return 0, fmt.Errorf("%s answered %s: %s", what, resp.Status, text)
	}
	if resp.StatusCode < 300 {
		n.did[what]++
	}
	return resp.StatusCode, nil
}

func (n *night) key() string {
	return string(rune('a'+n.random.IntN(6))) + strconv.Itoa(1+n.random.IntN(4))
}

// act does what is due at a tick: an input at each, other things now and then.
func (n *night) act(tick int) (err error) {
	switch {
	case n.random.IntN(4) == 0:
		_, err = n.call("turn", "POST", fmt.Sprintf("/api/v1/input/scope-console/dial%d/turn", 1+n.random.IntN(3)), map[string]any{"value": n.random.IntN(7) - 3})
	case n.random.IntN(30) == 0:
		_, err = n.call("run", "POST", "/api/v1/macros/"+pick(n, []string{"open-the-night", "guest-joins", "clouds", "thank-the-helpers", "meteor"})+"/run", nil)
	default:
		_, err = n.call("press", "POST", "/api/v1/input/producer-grid/"+n.key()+"/press", nil)
	}
	if err != nil {
		return err
	}
	if tick%(inputsPerSecond*2) == 0 {
		err = n.edit()
	}
	if err == nil && tick%(inputsPerSecond*20) == 0 {
		err = n.mishap()
	}
	if err == nil && tick%(inputsPerSecond*30) == 0 {
		err = n.picture()
	}
	return err
}

func pick[T any](n *night, list []T) T { return list[n.random.IntN(len(list))] }

func (n *night) edit() (err error) {
	page := pick(n, []string{"cut", "stream", "replay", "sound", "lights"})
	switch n.random.IntN(6) {
	case 0, 1:
		_, err = n.call("put an action", "PUT", "/api/v1/pages/"+page+"/controls/"+n.key(),
			map[string]any{"device": "dome-switcher", "action": "put-on-preview", "params": map[string]string{"mix": "1", "input": strconv.Itoa(1 + n.random.IntN(6))}})
	case 2:
		_, err = n.call("clear", "POST", "/api/v1/pages/"+page+"/clear", map[string]any{"controls": []string{n.key()}})
	case 3:
		_, err = n.call("rename", "PUT", "/api/v1/pages/"+page, map[string]any{"name": fmt.Sprint("Page ", n.random.IntN(1000))})
	case 4:
		_, err = n.call("undo", "POST", "/api/v1/undo", map[string]any{})
	case 5:
		_, err = n.call("redo", "POST", "/api/v1/redo", nil)
	}
	return err
}

var standIns = []string{"switcher", "mixer", "streaming", "intercom", "lights", "camera", "player"}

func (n *night) mishap() error {
	f := map[string]any{"cut": n.random.IntN(4) == 0, "silent": n.random.IntN(4) == 0, "refuseLogin": false, "latencyMs": n.random.IntN(80), "jitterMs": n.random.IntN(40),
		"lossPercent": n.random.IntN(10)}
	if n.random.IntN(2) == 0 {
		return n.mend()
	}
	_, err := n.call("mishap", "PUT", "/api/v1/bench/"+pick(n, standIns)+"/faults", f)
	return err
}

func (n *night) mend() error {
	for _, id := range standIns {
		_, err := n.call("mend", "PUT", "/api/v1/bench/"+id+"/faults",
			map[string]any{"cut": false, "silent": false, "refuseLogin": false, "latencyMs": 0, "jitterMs": 0, "lossPercent": 0})
		if err != nil {
			return err
		}
	}
	return nil
}

// picture brings a picture into the library, which nothing will use.
func (n *night) picture() error {
	img := image.NewRGBA(image.Rect(0, 0, 320, 240))
	for x := range 320 {
		for y := range 240 {
			img.Set(x, y, color.RGBA{uint8(n.random.IntN(256)), uint8(x), uint8(y), 255})
		}
	}
	var buf bytes.Buffer
	if err := png.Encode(&buf, img); err != nil {
		return err
	}
	_, err := n.send("picture", "POST", "/api/v1/media?name="+strings.ReplaceAll(fmt.Sprint("Noise ", n.random.IntN(1e6)), " ", "%20"), &buf)
	return err
}
