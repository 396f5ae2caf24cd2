package edges

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/gif"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/media/mediatest"
	"synaptor/test/process"
)

// memory is what Synaptor has, in bytes.
const memory = 512 << 20

// confined makes a program that runs another one with so much memory and no more: MEMORY allows the test to make a
// control group of the system, for which it has to be root. Without, what it took at most is looked at afterwards.
func confined(t *testing.T, bin string) string {
	t.Helper()
	if os.Getenv("MEMORY") == "" {
		return bin
	}
	group := filepath.Join("/sys/fs/cgroup/memory", fmt.Sprintf("synaptor-%d", os.Getpid()))
	limit := "memory.limit_in_bytes"
	if _, err := os.Stat("/sys/fs/cgroup/cgroup.controllers"); err == nil { // version 2
		group, limit = filepath.Join("/sys/fs/cgroup", filepath.Base(group)), "memory.max"
	}
	if err := errors.Join(os.MkdirAll(group, 0o700), os.WriteFile(filepath.Join(group, limit), fmt.Append(nil, memory), 0o600)); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.Remove(group) })
	path := filepath.Join(t.TempDir(), "confined")
	if err := os.WriteFile(path, fmt.Appendf(nil, "#!/bin/sh\necho $$ > %s/cgroup.procs || exit 9\nexec %q \"$@\"\n", group, bin), 0o700); err != nil {
		t.Fatal(err)
	}
	return path
}

// size is one for every day, or a large one where MEMORY is set.
func size(usual, large int) int {
	if os.Getenv("MEMORY") == "" {
		return usual
	}
	return large
}

// TestWhatComesFromOutsideNeedsNoMoreThanThereIs does all at once what may cost memory, and looks whether Synaptor is
// there afterwards and works.
func TestWhatComesFromOutsideNeedsNoMoreThanThereIs(t *testing.T) {
	bin := program(t)
	dir := t.TempDir()
	p, err := process.Start(confined(t, bin), dir, "--demo", "--bench-ports", "0")
	if err != nil {
		t.Fatal(err)
	}
	defer p.Kill()
	stop := flooded(t, p.Base)
	var group sync.WaitGroup
	for name, attack := range map[string]func(t *testing.T, base string){"pictures": pictures, "bodies": bodies, "sheets": sheets, "expressions": expressions, "clients": clients, "macros": macros} {
		group.Go(func() {
			began := time.Now()
			attack(t, p.Base)
			t.Logf("%s: %v", name, time.Since(began).Round(time.Millisecond))
		})
	}
	group.Wait()
	stop()
	if status, answer := call(p.Base, "GET", "/healthz", nil); status != 200 {
		t.Fatalf("it is not there any more: %s\n%s", answer, p.Said())
	}
	if got := pressed(t, p.Base); got == "nothing" {
		t.Error("nothing becomes of a press")
	}
	works(t, "afterwards", p.Base)
	took := peak(t, p.Pid())
	if t.Logf("it took up to %d MB", took>>20); took > memory {
		t.Errorf("it took up to %d MB, more than there is", took>>20)
	}
	if strings.Contains(p.Said(), "a failure was contained") {
		t.Errorf("something failed inside: %s", p.Said())
	}
}

// peak is the most memory that a process had, in bytes.
func peak(t *testing.T, pid int) (bytes int) {
	t.Helper()
	body, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		t.Fatal(err)
	}
	_, rest, _ := strings.Cut(string(body), "VmHWM:")
	if _, err := fmt.Sscanf(rest, "%d kB", &bytes); err != nil {
		t.Fatal(err)
	}
	return bytes << 10
}

// expect wants one of some answers.
func expect(t *testing.T, what string, status int, answer []byte, want ...int) {
	t.Helper()
	for _, w := range want {
		if status == w {
			return
		}
	}
	t.Errorf("%s answered %d %.200s, want %v", what, status, answer, want)
}

func pictures(t *testing.T, base string) {
	deep := mediatest.DeepPNG(size(2000, 3600), size(2000, 3600))
	var group sync.WaitGroup
	for name, body := range map[string][]byte{
		"deep": deep, "deep again": deep, "large": bytes.Repeat([]byte("x"), 20<<20), "moving": moving(),
		"scans":  append([]byte{0xff, 0xd8, 0xff, 0xc2, 0, 11, 8, 0, 64, 0, 64, 1, 1, 0x11, 0}, bytes.Repeat([]byte{0xff, 0xda, 0, 8, 1, 1, 0, 0, 0, 0}, 700_000)...),
		"nested": mediatest.Nested(30, `<use href="#a%d"/>`),
	} {
		group.Go(func() {
			status, answer := call(base, "POST", "/api/v1/media?name=x", body)
			expect(t, "the picture "+name, status, answer, 201, 413, 422)
		})
	}
	group.Wait()
}

// moving is a GIF of as many pictures as may be.
func moving() []byte {
	g := &gif.GIF{}
	for range size(40, 250) {
		g.Image = append(g.Image, image.NewPaletted(image.Rect(0, 0, 500, 500), color.Palette{color.Black, color.White}))
		g.Delay = append(g.Delay, 4)
	}
	var b bytes.Buffer
	_ = gif.EncodeAll(&b, g)
	return b.Bytes()
}

// bodies sends many large bodies at once.
func bodies(t *testing.T, base string) {
	deep := []byte(strings.Repeat(`{"a":[`, 100_000))
	wide := []byte(`{"name":"` + strings.Repeat("x", 1<<20-100) + `"}`)
	many := []byte(`{"ids":[` + strings.Repeat(`"",`, 300_000) + `""]}`)
	var group sync.WaitGroup
	for range 20 {
		for what, body := range map[string][]byte{"deep": deep, "wide": wide, "many": many, "too large": bytes.Repeat([]byte(" "), 2<<20)} {
			group.Go(func() {
				status, answer := call(base, "POST", "/api/v1/profiles", body)
				expect(t, "a body that is "+what, status, answer, 400, 413, 422)
			})
		}
	}
	group.Wait()
}

// sheets brings in sheets that say a lot with little.
func sheets(t *testing.T, base string) {
	lamp := func(index, readings string) []byte {
		return []byte(`{"sheet":"synaptor.device/1","type":"own.many","title":"Many","role":"lights","link":{"driver":"osc","transport":"udp","port":9},` + index +
			`"readings":[` + readings + `],"actions":[]}`)
	}
	var indexes, path strings.Builder
	for _, c := range "abcdefgh" {
		fmt.Fprintf(&indexes, `"%c":{"title":"%c","range":"1..1000"},`, c, c)
		fmt.Fprintf(&path, "/{%c}", c)
	}
	all := strings.TrimSuffix(indexes.String(), ",")
	for what, c := range map[string]struct {
		body []byte
		want int
	}{
		"a range without end": {lamp(`"index":{"a":{"title":"a","range":"0..999999999999"}},`, `{"path":"x","title":"x","type":"int"}`), 422},
		"eight indexes":       {lamp(`"index":{`+all+`},`, `{"path":"x`+path.String()+`","title":"x","type":"int"}`), 201},
		"many readings":       {lamp("", strings.Repeat(`{"path":"x","title":"x","type":"int"},`, 25_000)+`{"path":"y","title":"x","type":"int"}`), 422},
		"nested deep":         {[]byte(strings.Repeat("[", 500_000)), 422},
		"a large layout":      {[]byte(`{"sheet":"synaptor.controller/1","type":"own.large","title":"L","zone":"z","grid":{"columns":1000000,"rows":1000000}}`), 422},
	} {
		status, answer := call(base, "POST", "/api/v1/sheets", c.body)
		expect(t, what, status, answer, c.want)
	}
}

func expressions(t *testing.T, base string) {
	for _, label := range []string{`{len(reduce(1..40, #acc + #acc, 'x'))}`, `{count(1..999000, count(1..999000, true) > 0)}`, strings.Repeat("{'x' + ", 100) + "'y'" + strings.Repeat("}", 100)} {
		var m struct{ Rev int64 }
		if status, body := call(base, "GET", "/api/v1/mappings/cut-a1", nil); status == 200 {
			_ = json.Unmarshal(body, &m)
		}
		status, answer := call(base, "PUT", "/api/v1/mappings/cut-a1", map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{"label": label, "position": "middle", "align": "centre", "size": 12}})
		expect(t, "the label "+label[:20], status, answer, 409, 422)
	}
}

// clients follow everything and read nothing.
func clients(t *testing.T, base string) {
	var open []*websocket.Conn
	for range 100 {
		ws, _, err := websocket.Dial(t.Context(), strings.Replace(base, "http", "ws", 1)+"/api/v1/live", nil)
		if err != nil {
			t.Errorf("a live client: %v", err)
			return
		}
		open = append(open, ws)
		_ = ws.Write(t.Context(), websocket.MessageText, []byte(`{"topics":["show","devices","status","readings","page:cut","bench","runs","journal","findings"]}`))
		_ = ws.Write(t.Context(), websocket.MessageText, bytes.Repeat([]byte("x"), 60<<10))
	}
	for range 200 {
		call(base, "POST", "/api/v1/input/producer-grid/b1/press", nil)
	}
	for _, ws := range open {
		_ = ws.CloseNow()
	}
}

// macros copies the steps of a macro onto themselves until there is no more room.
func macros(t *testing.T, base string) {
	var made struct{ ID string }
	status, answer := call(base, "POST", "/api/v1/macros", map[string]string{"name": "Growing"})
	if _ = json.Unmarshal(answer, &made); status != 201 {
		t.Errorf("a macro answered %d %.200s", status, answer)
		return
	}
	status, answer = call(base, "POST", "/api/v1/macros/"+made.ID+"/steps", map[string]any{"kind": "wait", "ms": 10, "at": 0})
	expect(t, "a step", status, answer, 201)
	for range 30 {
		var doc struct{ Lines []struct{ ID string } }
		_, answer := call(base, "GET", "/api/v1/macros/"+made.ID, nil)
		_ = json.Unmarshal(answer, &doc)
		ids := []string{}
		for _, l := range doc.Lines {
			ids = append(ids, l.ID)
		}
		status, answer := call(base, "POST", "/api/v1/macros/"+made.ID+"/steps/paste", map[string]any{"steps": ids, "parent": "", "at": 0})
		if status == 422 && bytes.Contains(answer, []byte("2000 steps")) {
			return
		}
		if expect(t, "a paste", status, answer, 201); status != 201 {
			return
		}
	}
	t.Error("a macro grows without end")
}

// flooded connects devices that say more than anybody wants to hear, until they are stopped.
func flooded(t *testing.T, base string) (stop func()) {
	t.Helper()
	var group sync.WaitGroup
	ctx, cancel := context.WithCancel(t.Context())
	web := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		block := bytes.Repeat([]byte("x"), 1<<20)
		for range 64 {
			if _, err := w.Write(block); err != nil {
				return
			}
		}
	}))
	t.Cleanup(web.Close)
	_, port, _ := net.SplitHostPort(web.Listener.Addr().String())
	device(t, base, "Endless answers", "intercom.http", port)
	for name, c := range map[string]struct {
		typ  string
		says func(i int) []byte
	}{
		"Endless line":   {"plain.lines", func(int) []byte { return bytes.Repeat([]byte("x"), 64<<10) }},
		"Many lines":     {"plain.lines", func(i int) []byte { return fmt.Appendf(nil, "%d %s\r\n", i, strings.Repeat("y", 4000)) }},
		"Huge packets":   {"plain.mqtt", func(int) []byte { return []byte{0x20, 2, 0, 0, 0x30, 0xff, 0xff, 0xff, 0x7f, 1, 2, 3} }},
		"Many readings":  {"player.lines", func(i int) []byte { return fmt.Appendf(nil, "clip %d name %s\r\n", i, strings.Repeat("z", 1000)) }},
		"Broken packets": {"switcher.osc", func(i int) []byte { return bytes.Repeat([]byte{byte(i), 0xc0}, 4096) }},
	} {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			t.Fatal(err)
		}
		context.AfterFunc(ctx, func() { _ = l.Close() })
		group.Go(func() { flood(ctx, l, c.says) })
		_, port, _ := net.SplitHostPort(l.Addr().String())
		device(t, base, name, c.typ, port)
	}
	return func() {
		cancel()
		group.Wait()
	}
}

func device(t *testing.T, base, name, typ, port string) {
	t.Helper()
	status, answer := call(base, "POST", "/api/v1/devices", []byte(fmt.Sprintf(`{"name":%q,"type":%q,"host":"127.0.0.1","port":%s}`, name, typ, port)))
	expect(t, "the device "+name, status, answer, 201)
}

// flood says things to whoever connects.
func flood(ctx context.Context, l net.Listener, says func(i int) []byte) {
	for {
		c, err := l.Accept()
		if err != nil {
			return
		}
		for i := 0; ctx.Err() == nil; i++ {
			_ = c.SetWriteDeadline(time.Now().Add(2 * time.Second))
			if _, err := c.Write(says(i)); err != nil {
				break
			}
		}
		_ = c.Close()
	}
}

// TestAnArchiveThatGrowsIsRefused by the command line, with as little memory.
func TestAnArchiveThatGrowsIsRefused(t *testing.T) {
	bin := program(t)
	limited := confined(t, bin)
	for what, parts := range map[string][2]string{
		"many placements": {`[{"kind":"mapping","id":"m","body":{"id":"m","placements":[` + strings.Repeat("{},", size(2_000_000, 15_000_000)) + `{}]}}]`, `{}`},
		"many things":     {"[" + strings.Repeat(`{"kind":"page","id":"p","body":{"id":"p"}},`, size(100_000, 1_000_000)) + "{}]", `{}`},
		"many values":     {"[]", `{"readings":{"a":{` + strings.Repeat(`"b":1,`, size(2_000_000, 8_000_000)) + `"c":1}}}`},
	} {
		file := filepath.Join(t.TempDir(), "night.zip")
		if err := os.WriteFile(file, archive(t, parts[0], parts[1]), 0o600); err != nil {
			t.Fatal(err)
		}
		c := exec.Command(limited, "rehearse", file, "meteor")
		out, err := c.CombinedOutput()
		if used, ok := c.ProcessState.SysUsage().(*syscall.Rusage); !ok || used.Maxrss<<10 > memory {
			t.Errorf("%s took %d MB", what, used.Maxrss>>10)
		}
		if err == nil || !bytes.Contains(out, []byte("synaptor")) || bytes.Contains(out, []byte("goroutine ")) {
			t.Errorf("%s: %v %.300s", what, err, out)
		}
	}
}

// archive packs a show and what it rests on.
func archive(t *testing.T, shown, assumed string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, body := range map[string]string{"manifest.json": `{"format":"synaptor.archive/1","name":"n"}`, "show.json": shown, "assumptions.json": assumed} {
		w, err := z.Create(name)
		if err == nil {
			_, err = w.Write([]byte(body))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}
