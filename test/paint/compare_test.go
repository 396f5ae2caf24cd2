// Package paint holds the faces that are painted for controllers against those that the interface draws, in Chromium.
package paint

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"synaptor/internal/core/face"
	"synaptor/internal/paint"
	"synaptor/test/browser"
)

// sizes are those at which each state is compared, in pixels.
var sizes = []int{64, 100, 160}

// drawn is a face at its place on the page.
type drawn struct {
	Face   face.Face `json:"face"`
	Kind   string    `json:"kind"`
	X      int       `json:"x"`
	Y      int       `json:"y"`
	Width  int       `json:"width"`
	Height int       `json:"height"`
	name   string
}

// picture is a test picture of the library: four fields.
func picture() image.Image {
	img := image.NewRGBA(image.Rect(0, 0, 80, 60))
	for i, c := range []color.RGBA{{200, 40, 40, 255}, {40, 160, 60, 255}, {50, 70, 200, 255}, {220, 200, 60, 255}} {
		draw.Draw(img, image.Rect(i%2*40, i/2*30, i%2*40+40, i/2*30+30), image.NewUniform(c), image.Point{}, draw.Src)
	}
	return img
}

// states are faces in each state, by what is to be seen.
func states(t *testing.T) map[string]drawn {
	t.Helper()
	font, err := face.NewFont()
	if err != nil {
		t.Fatal(err)
	}
	of := func(label string, change func(f *face.Face)) drawn {
		f := face.Face{Mapping: "m", Label: label, Name: label, Glyph: "camera", Where: "PGM 1", Role: "switcher", Background: face.Tint("switcher"), Text: face.DefaultText,
			Lamps: face.Lamps{On: []string{}, Pending: []string{}}, Marks: []string{}}
		fitted := font.Fit(label, face.Box{Width: 66, Height: 38, Min: 11, Max: 18})
		f.Lines, f.Size = fitted.Lines, fitted.Size
		if change != nil {
			change(&f)
		}
		return drawn{Face: f, Kind: "key"}
	}
	out := map[string]drawn{"at rest": of("Presenter cam", nil), "a long label": of("The telescope on the northern terrace", nil)}
	for _, role := range face.Roles {
		out[role] = of("All-sky cam", func(f *face.Face) { f.On = []string{role} })
		if role != face.Armed {
			out["pending "+role] = of("All-sky cam", func(f *face.Face) { f.Pending = []string{role} })
			out[role+", pending"] = of("All-sky cam", func(f *face.Face) { f.On, f.Pending = []string{role}, []string{role} })
		}
	}
	run := func(state string) *face.Run {
		return &face.Run{State: state, ID: "r", LengthMs: 1 << 40, Started: time.Now()}
	}
	for name, change := range map[string]func(f *face.Face){
		"unknown": func(f *face.Face) { f.Unknown = true }, "assumed": func(f *face.Face) { f.On, f.Assumed = []string{face.Set}, true }, "away": func(f *face.Face) { f.Away = true },
		"gone": func(f *face.Face) { f.Gone = true }, "unsent": func(f *face.Face) { f.Unsent = 3 }, "tried out": func(f *face.Face) { f.Forced = true },
		"refused": func(f *face.Face) { f.Refusal = "Dome switcher is away; nothing was sent." }, "running": func(f *face.Face) { f.Run = run("running") }, "done": func(f *face.Face) { f.Run = run("done") },
		"halted": func(f *face.Face) { f.Run = run("halted") }, "failed": func(f *face.Face) { f.Run = run("failed") }, "light": func(f *face.Face) { f.Light = true },
		"middle and centre": func(f *face.Face) { f.Position, f.Align = "middle", "centre" }, "top and right": func(f *face.Face) { f.Position, f.Align = "top", "right" },
		"colours":          func(f *face.Face) { f.Background, f.Text, f.Role = "#5a1e1e", "#ffe0a0", "sound" },
		"on air and armed": func(f *face.Face) { f.On = []string{face.OnAir, face.Armed} },
	} {
		out[name] = of("Lower third", change)
	}
	out["a glyph of its own"] = of("Cut", func(f *face.Face) { f.Glyph = "cut" })
	out["a picture"] = of("Logo", func(f *face.Face) { f.Picture = "p" })
	out["a picture that fits"] = of("Logo", func(f *face.Face) { f.Picture, f.Fit, f.Lines = "p", "fit", nil })
	for _, share := range []float64{0, 0.35, 1} {
		for _, kind := range []string{"dial", "slider"} {
			d := of("Main", func(f *face.Face) {
				f.Dial, f.Role = &face.Dial{Text: fmt.Sprintf("%.0f dB", -60+70*share), Share: share}, "sound"
			})
			d.Kind = kind
			out[fmt.Sprintf("a %s at %v", kind, share)] = d
		}
	}
	for name, change := range map[string]func(f *face.Face){"a dial on air": func(f *face.Face) { f.On = []string{face.OnAir} }, "a dial that is away": func(f *face.Face) { f.Away = true },
		"a dial that is unknown": func(f *face.Face) { f.Dial.Text = "?" }} {
		d := of("Main", func(f *face.Face) { f.Dial, f.Role = &face.Dial{Text: "-10 dB", Share: 0.6}, "sound"; change(f) })
		d.Kind = "dial"
		out[name] = d
	}
	return out
}

// page builds the page with the interface's own parts.
func page(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	cmd := exec.Command("npx", "--no-install", "vite", "build", "--config", "test/vite.config.ts", "--outDir", dir, "--emptyOutDir", "--logLevel", "error")
	cmd.Dir = "../../web"
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	return dir
}

// shots draws faces in Chromium and cuts each out.
func shots(t *testing.T, all []drawn) []*image.RGBA {
	t.Helper()
	dir := page(t)
	mux := http.NewServeMux()
	mux.Handle("/", http.FileServer(http.Dir(dir)))
	mux.HandleFunc("/faces.json", func(w http.ResponseWriter, _ *http.Request) { _ = json.NewEncoder(w).Encode(all) })
	mux.HandleFunc("/api/v1/glyphs.svg", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "image/svg+xml")
		_, _ = w.Write([]byte(face.Sprite()))
	})
	mux.HandleFunc("/api/v1/media/p", func(w http.ResponseWriter, _ *http.Request) { _ = png.Encode(w, picture()) })
	srv := httptest.NewServer(mux)
	defer srv.Close()
	b, err := browser.StartWith("font-render-hinting=none", "disable-lcd-text", "force-color-profile=srgb")
	if err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	width, height := 0, 0
	for _, d := range all {
		width, height = max(width, d.X+d.Width), max(height, d.Y+d.Height)
	}
	p, err := b.Open(srv.URL, int64(width), int64(height), true)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "faces.png")
	for _, err := range []error{p.Goto("/tiles.html"), p.See(`body[data-ready="yes"]`), p.Wait(`[...document.images].every((i) => i.complete)`), p.Shot(file)} {
		if err != nil {
			t.Fatal(err)
		}
	}
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	out := make([]*image.RGBA, len(all))
	for i, d := range all {
		out[i] = image.NewRGBA(image.Rect(0, 0, d.Width, d.Height))
		draw.Draw(out[i], out[i].Rect, img, image.Pt(d.X, d.Y), draw.Src)
	}
	return out
}

// What two pictures may differ by.
const (
	regions    = 5    // along a side
	meanWithin = 0.02 // of the range of a colour, in each region
	near       = 1    // pixels that an edge may be elsewhere
	farColour  = 72   // of 255: a colour that is another one
	strayed    = 0.004
)

// apart tells how two pictures differ, as a sentence; empty: they are alike.
func apart(a, b *image.RGBA) string {
	w, h := a.Rect.Dx(), a.Rect.Dy()
	for ry := range regions {
		for rx := range regions {
			r := image.Rect(rx*w/regions, ry*h/regions, (rx+1)*w/regions, (ry+1)*h/regions)
			if x := mean(a, r); !meets(x, b, r) {
				return fmt.Sprintf("the region %d,%d has the mean colour %.0f, not %.0f", rx, ry, x, mean(b, r))
			}
		}
	}
	n := strays(a, b) + strays(b, a)
	if share := float64(n) / float64(2*w*h); share > strayed {
		return fmt.Sprintf("%.2f %% of the pixels are nowhere near", 100*share)
	}
	return ""
}

// meets tells whether a region of a picture has a mean colour, where what is in it may be a pixel elsewhere.
func meets(want [3]float64, img *image.RGBA, r image.Rectangle) bool {
	for dy := -near; dy <= near; dy++ {
		for dx := -near; dx <= near; dx++ {
			got := mean(img, r.Add(image.Pt(dx, dy)).Intersect(img.Rect))
			alike := true
			for c := range 3 {
				alike = alike && got[c]-want[c] <= meanWithin*255 && want[c]-got[c] <= meanWithin*255
			}
			if alike {
				return true
			}
		}
	}
	return false
}

func mean(img *image.RGBA, r image.Rectangle) (out [3]float64) {
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			i := img.PixOffset(x, y)
			for c := range 3 {
				out[c] += float64(img.Pix[i+c])
			}
		}
	}
	for c := range out {
		out[c] /= float64(r.Dx() * r.Dy())
	}
	return out
}

// strays counts the pixels of a picture that another has not, within a pixel.
func strays(a, b *image.RGBA) (n int) {
	for y := range a.Rect.Dy() {
		for x := range a.Rect.Dx() {
			if !found(a.RGBAAt(x, y), b, x, y) {
				n++
			}
		}
	}
	return n
}

func found(c color.RGBA, in *image.RGBA, x, y int) bool {
	for dy := -near; dy <= near; dy++ {
		for dx := -near; dx <= near; dx++ {
			if at := image.Pt(x+dx, y+dy); at.In(in.Rect) {
				o := in.RGBAAt(at.X, at.Y)
				if abs(c.R, o.R) < farColour && abs(c.G, o.G) < farColour && abs(c.B, o.B) < farColour {
					return true
				}
			}
		}
	}
	return false
}

func abs(a, b uint8) int {
	if a > b {
		return int(a - b)
	}
	return int(b - a)
}

func TestPaintedFacesAreThoseOfTheInterface(t *testing.T) {
	var all []drawn
	x, y := 0, 0
	for name, d := range states(t) {
		for _, size := range sizes {
			one := d
			one.name, one.Width, one.Height = fmt.Sprintf("%s, %d", name, size), size, size
			if d.Kind == "slider" {
				one.Height = 2 * size
			}
			if x+one.Width > 1600 {
				x, y = 0, y+330
			}
			one.X, one.Y = x, y
			x += one.Width + 10
			all = append(all, one)
		}
	}
	want := shots(t, all)
	p, err := paint.New(func(string) image.Image { return picture() })
	if err != nil {
		t.Fatal(err)
	}
	got := make([]*image.RGBA, len(all))
	for i, d := range all {
		at := paint.Moment{Now: time.Now()}
		if d.Face.Run != nil {
			at.Now = d.Face.Run.Started
		}
		got[i] = p.Draw(d.Face, d.Kind, d.Width, d.Height, at)
		if text := apart(want[i], got[i]); text != "" {
			t.Errorf("%s: %s", d.name, text)
			keep(t, d.name, want[i], got[i])
		}
	}
	// Two states exchanged are found.
	for i, a := range all {
		for j, b := range all {
			if i != j && a.Width == sizes[0] && a.Width == b.Width && a.Height == b.Height && apart(want[i], got[j]) == "" {
				t.Errorf("%s and %s are taken for each other", a.name, b.name)
			}
		}
	}
}

// keep keeps both pictures side by side where PAINTED names a folder, to be looked at.
func keep(t *testing.T, name string, want, got *image.RGBA) {
	t.Helper()
	dir := os.Getenv("PAINTED")
	if dir == "" {
		return
	}
	img := image.NewRGBA(image.Rect(0, 0, want.Rect.Dx()*2+4, want.Rect.Dy()))
	draw.Draw(img, want.Rect, want, image.Point{}, draw.Src)
	draw.Draw(img, got.Rect.Add(image.Pt(want.Rect.Dx()+4, 0)), got, image.Point{}, draw.Src)
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, name+".png"), b.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
}
