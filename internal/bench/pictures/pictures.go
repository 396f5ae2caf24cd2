// Package pictures draws what the bench's cameras and scenes show: small moving
// pictures with their name in them.
package pictures

import (
	"bytes"
	"hash/fnv"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"math"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"synaptor/internal/core/face"
)

// The size of a picture in pixels.
const (
	Width  = 320
	Height = 180
)

var kinds = []struct{ word, kind string }{
	{"telescope", "scope"}, {"sky", "sky"}, {"star", "sky"}, {"presenter", "lectern"}, {"guest", "lectern"}, {"slides", "slides"},
	{"bars", "bars"}, {"black", "black"}, {"matte", "matte"}, {"replay", "sky"}, {"dome", "dome"}, {"countdown", "clock"}, {"soon", "clock"}, {"night", "dome"},
	{"still", "slides"},
}

// Kind finds what a thing of this name probably shows.
func Kind(name string) string {
	name = strings.ToLower(name)
	for _, k := range kinds {
		if strings.Contains(name, k.word) {
			return k.kind
		}
	}
	return "dome"
}

var typeface = sync.OnceValues(func() (font.Face, error) {
	f, err := opentype.Parse(face.FontFile())
	if err != nil {
		return nil, err
	}
	return opentype.NewFace(f, &opentype.FaceOptions{Size: 20, DPI: 72})
})

// lock guards the typeface, which one may use at a time.
var lock sync.Mutex

// Serve answers with the picture as it is now.
func Serve(w http.ResponseWriter, kind, name string) { ServeWith(w, kind, name, nil) }

// ServeWith is Serve with something drawn over the picture; over may be nil.
func ServeWith(w http.ResponseWriter, kind, name string, over func(*image.RGBA)) {
	send(w, with(kind, name, time.Now(), over))
}

func send(w http.ResponseWriter, b []byte) {
	w.Header().Set("Content-Type", "image/jpeg")
	w.Header().Set("Content-Length", strconv.Itoa(len(b)))
	w.Header().Set("Cache-Control", "no-store")
	_, _ = w.Write(b)
}

// JPEG draws a picture at a time.
func JPEG(kind, name string, at time.Time) []byte { return with(kind, name, at, nil) }

// Portrait answers with the picture of somebody: head and shoulders in colours that belong to the name, which nobody else is to be recognised by.
func Portrait(w http.ResponseWriter, name string) {
	h := fnv.New32a()
	_, _ = h.Write([]byte(name)) // a hash takes anything
	n := h.Sum32()
	part := func(shift int) uint8 { return uint8(n >> shift) }
	img := image.NewRGBA(image.Rect(0, 0, Height, Height))
	fill(img, img.Bounds(), color.RGBA{30 + part(0)/3, 30 + part(8)/3, 60 + part(16)/3, 255})
	for i := range 9 { // stars behind
		x, y := float64((n>>i)%Height), float64((n>>(i+7))%Height)
		disc(img, x, y, 2, color.RGBA{240, 240, 250, 255})
	}
	clothes := color.RGBA{255 - part(16)/2, 255 - part(0)/2, 255 - part(8)/2, 255}
	disc(img, Height/2, Height*1.02, Height*0.36, clothes)
	skin := color.RGBA{150 + part(4)%90, 110 + part(4)%80, 90 + part(4)%60, 255}
	disc(img, Height/2, Height*0.42, Height*0.22, color.RGBA{part(20) / 2, part(12) / 3, part(24) / 3, 255})
	disc(img, Height/2, Height*0.46, Height*0.19, skin)
	send(w, encoded(img))
}

func with(kind, name string, at time.Time, over func(*image.RGBA)) []byte {
	img := image.NewRGBA(image.Rect(0, 0, Width, Height))
	t := float64(at.UnixMilli()%600_000) / 1000
	switch kind {
	case "sky":
		sky(img, name, t)
	case "scope":
		scope(img, t)
	case "lectern":
		lectern(img, name, t)
	case "slides":
		slides(img, t)
	case "bars":
		bars(img)
	case "clock":
		clock(img, t)
	case "matte":
		fill(img, img.Bounds(), color.RGBA{70, 60, 110, 255})
	case "black":
		fill(img, img.Bounds(), color.RGBA{0, 0, 0, 255})
	default:
		dome(img, t)
	}
	caption(img, name)
	if over != nil {
		over(img)
	}
	return encoded(img)
}

func encoded(img image.Image) []byte {
	var b bytes.Buffer
	_ = jpeg.Encode(&b, img, &jpeg.Options{Quality: 75}) // into memory; it cannot fail
	return b.Bytes()
}

func fill(img *image.RGBA, r image.Rectangle, c color.Color) {
	draw.Draw(img, r, image.NewUniform(c), image.Point{}, draw.Src)
}

func gradient(img *image.RGBA, top, bottom color.RGBA) {
	for y := range Height {
		k := float64(y) / Height
		mix := func(a, b uint8) uint8 { return uint8(float64(a)*(1-k) + float64(b)*k) }
		fill(img, image.Rect(0, y, Width, y+1), color.RGBA{mix(top.R, bottom.R), mix(top.G, bottom.G), mix(top.B, bottom.B), 255})
	}
}

func disc(img *image.RGBA, cx, cy, r float64, c color.Color) {
	for y := int(cy - r); y <= int(cy+r); y++ {
		half := math.Sqrt(max(0, r*r-(float64(y)-cy)*(float64(y)-cy)))
		fill(img, image.Rect(int(cx-half), y, int(cx+half)+1, y+1), c)
	}
}

// sky is the night sky, turning, with a meteor now and then.
func sky(img *image.RGBA, name string, t float64) {
	gradient(img, color.RGBA{6, 9, 26, 255}, color.RGBA{22, 26, 54, 255})
	h := fnv.New32a()
	_, _ = h.Write([]byte(name))
	seed := float64(h.Sum32() % 1000)
	for i := range 90 {
		a := float64(i)*2.399 + t*0.02 + seed
		r := 12 * math.Sqrt(float64(i)) * 1.6
		b := uint8(120 + 100*math.Abs(math.Sin(t*1.3+float64(i))))
		disc(img, Width/2+r*math.Cos(a), Height*0.6+r*math.Sin(a), 0.6+float64(i%3)*0.4, color.RGBA{b, b, b, 255})
	}
	if p := math.Mod(t+seed, 7); p < 0.8 {
		x, y := 40+p*260, 20+p*90
		for k := range 24 {
			disc(img, x-float64(k)*3, y-float64(k)*1.1, 1.6-float64(k)*0.06, color.RGBA{255, 240, uint8(220 - k*6), 255})
		}
	}
}

// scope is what the telescope sees: a planet that drifts.
func scope(img *image.RGBA, t float64) {
	fill(img, img.Bounds(), color.RGBA{3, 4, 8, 255})
	disc(img, Width/2, Height/2, 84, color.RGBA{12, 13, 20, 255})
	x, y := Width/2+8*math.Sin(t*0.7), Height/2+5*math.Cos(t*0.5)
	disc(img, x, y, 30, color.RGBA{214, 178, 132, 255})
	for i := range 4 {
		fill(img, image.Rect(int(x)-27, int(y)-16+i*9, int(x)+27, int(y)-13+i*9), color.RGBA{184, 142, 100, 255})
	}
	for i := range 4 {
		a := t*0.3 + float64(i)*1.9
		disc(img, x+float64(44+i*10)*math.Cos(a), y+6*math.Sin(a), 2, color.RGBA{230, 230, 220, 255})
	}
}

// lectern is somebody who speaks.
func lectern(img *image.RGBA, name string, t float64) {
	gradient(img, color.RGBA{44, 34, 40, 255}, color.RGBA{20, 16, 22, 255})
	x := Width/2 + 4*math.Sin(t*1.7+float64(len(name)))
	disc(img, x, 72, 24, color.RGBA{196, 152, 120, 255})
	disc(img, x, 150, 52, color.RGBA{58, 84, 110, 255})
	fill(img, image.Rect(96, 128, 224, Height), color.RGBA{92, 66, 46, 255})
	fill(img, image.Rect(88, 120, 232, 130), color.RGBA{120, 88, 60, 255})
	mouth := 2 + 3*math.Abs(math.Sin(t*6))
	fill(img, image.Rect(int(x)-6, 82, int(x)+6, 82+int(mouth)), color.RGBA{110, 60, 56, 255})
}

// dome is the building under the stars.
func dome(img *image.RGBA, t float64) {
	sky(img, "dome", t)
	disc(img, Width/2, 150, 62, color.RGBA{120, 124, 136, 255})
	slit := Width/2 + 30*math.Sin(t*0.2)
	fill(img, image.Rect(int(slit)-7, 92, int(slit)+7, 150), color.RGBA{24, 26, 34, 255})
	fill(img, image.Rect(0, 150, Width, Height), color.RGBA{18, 22, 22, 255})
}

func slides(img *image.RGBA, t float64) {
	fill(img, img.Bounds(), color.RGBA{238, 236, 228, 255})
	fill(img, image.Rect(24, 22, 200, 36), color.RGBA{52, 62, 96, 255})
	for i := range 5 {
		w := 90 + 130*math.Abs(math.Sin(float64(i)*1.3+math.Floor(t/4)))
		fill(img, image.Rect(24, 54+i*18, 24+int(w), 62+i*18), color.RGBA{150, 152, 160, 255})
	}
}

func bars(img *image.RGBA) {
	cs := []color.RGBA{{190, 190, 190, 255}, {190, 190, 0, 255}, {0, 190, 190, 255}, {0, 190, 0, 255}, {190, 0, 190, 255}, {190, 0, 0, 255}, {0, 0, 190, 255}}
	for i, c := range cs {
		fill(img, image.Rect(i*Width/7, 0, (i+1)*Width/7, Height), c)
	}
}

func clock(img *image.RGBA, t float64) {
	gradient(img, color.RGBA{28, 22, 52, 255}, color.RGBA{12, 10, 26, 255})
	disc(img, Width/2, 78, 48, color.RGBA{54, 44, 92, 255})
	a := t * 2 * math.Pi / 60
	for i := range 40 {
		disc(img, Width/2+float64(i)*math.Sin(a), 78-float64(i)*math.Cos(a), 2, color.RGBA{232, 226, 250, 255})
	}
}

// caption writes the name at the lower edge.
func caption(img *image.RGBA, name string) {
	fill(img, image.Rect(0, Height-30, Width, Height), color.RGBA{0, 0, 0, 200})
	lock.Lock()
	defer lock.Unlock()
	f, err := typeface()
	if err != nil {
		return // the picture is right without its name
	}
	d := font.Drawer{Dst: img, Src: image.White, Face: f, Dot: fixed.P(10, Height-9)}
	d.DrawString(name)
}
