package media

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"image"
	"image/jpeg"
	"runtime"
	"strings"
	"sync"
	"testing"

	"synaptor/internal/media/mediatest"
)

// interlaced makes a PNG say that it is (its data is not).
func interlaced(b []byte) []byte {
	b[28] = 1
	binary.BigEndian.PutUint32(b[29:], crc32.ChecksumIEEE(b[12:29]))
	return b
}

// progressive is a progressive JPEG of one component and so many scans, which all
// say that nothing changes.
func progressive(w, h, scans int) []byte {
	b := []byte{0xff, 0xd8, 0xff, 0xdb, 0, 67, 0}
	b = append(b, bytes.Repeat([]byte{1}, 64)...)
	b = append(b, 0xff, 0xc2, 0, 11, 8, byte(h>>8), byte(h), byte(w>>8), byte(w), 1, 1, 0x11, 0)
	b = append(b, 0xff, 0xc4, 0, 20, 0, 1)
	b = append(b, make([]byte, 15)...)
	b = append(b, 0)
	blocks := ((w + 7) / 8) * ((h + 7) / 8)
	for range scans {
		b = append(b, 0xff, 0xda, 0, 8, 1, 1, 0, 0, 0, 0)
		b = append(b, make([]byte, blocks/8+1)...) // one bit 0 a block
	}
	return append(b, 0xff, 0xd9)
}

func TestWhatAPictureTakesIsKnownBeforeItIsUnpacked(t *testing.T) {
	for name, c := range map[string]struct {
		body []byte
		says string
	}{
		"a JPEG of many scans":            {progressive(64, 64, 147_168), "goes over its pixels 147168 times; 64 is the most"},
		"a PNG of 16 bits, interlaced":    {interlaced(mediatest.DeepPNG(5000, 5000)), "takes 286 MB of memory to unpack; 128 MB is the most"},
		"copies of copies":                {mediatest.Nested(20, `<use href="#a%d"/>`), "draws more than 200000"},
		"copies in the old way":           {mediatest.Nested(20, `<use xlink:href="#a%d"/>`), "draws more than 200000"},
		"masks in masks":                  {mediatest.Nested(20, `<g mask="url(#a%d)"/>`), "draws more than 200000"},
		"clips by a style":                {mediatest.Nested(20, `<g style="clip-path:URL( '#a%d' )"/>`), "draws more than 200000"},
		"patterns on what is in a group":  {svg(`<pattern id="p">` + strings.Repeat(`<path d="M0 0"/>`, 500) + `</pattern><g fill="url(#p)">` + strings.Repeat(`<path d="M0 0"/>`, 500) + `</g>`), "draws more than 200000"},
		"markers at each corner":          {svg(`<marker id="m"><path d="` + strings.Repeat("1 ", 3000) + `"/></marker><path marker-mid="url(#m)" d="` + strings.Repeat("L1 2", 500) + `"/>`), "draws more than 200000"},
		"a part that uses itself":         {svg(`<g id="a"><use href="#a"/></g>`), "has no end"},
		"two that use each other":         {svg(`<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>`), "has no end"},
		"a chain without end":             {svg(chain(3000)), "has no end"},
		"a drawing that is a large file":  {svg(`<path d="` + strings.Repeat("L1 2 ", 500_000) + `"/>`), "2 MB is the most for a drawing"},
		"two drawings":                    {append(svg(``), svg(`<script/>`)...), "two drawings"},
		"a page behind a drawing":         {append(svg(``), "<html></html>"...), "two drawings"},
		"a path of more corners than fit": {svg(`<path d="` + strings.Repeat("1 ", 210_000) + `"/>`), "draws more than 200000"},
	} {
		_, err := take(c.body)
		var r *RefusedError
		if !errors.As(err, &r) || !strings.Contains(r.Text, c.says) {
			t.Errorf("%s: %v, want a refusal with %q", name, err, c.says)
		}
	}
}

func chain(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, `<g id="a%d"><use href="#a%d"/></g>`, i, i+1)
	}
	return b.String()
}

func TestOrdinaryPicturesStayWithinTheBounds(t *testing.T) {
	for name, body := range map[string][]byte{
		"a JPEG in scans":              progressive(64, 64, 20),
		"a deep PNG":                   mediatest.DeepPNG(300, 200),
		"eight copies":                 mediatest.Nested(3, `<use href="#a%d"/>`),
		"a gradient on many corners":   svg(`<linearGradient id="g"><stop offset="0"/><stop offset="1"/></linearGradient><path fill="url(#g)" d="` + strings.Repeat("L1 2", 50_000) + `"/>`),
		"a part used before it comes":  svg(`<use href="#later"/><g id="later"/>`),
		"a part that is not there":     svg(`<use href="#nowhere"/>`),
		"a colour, turned":             svg(`<path transform="rotate(30 5,5) translate(1)" fill="RGB(1, 2, 3)" d="M0 0"/>`),
		"a 24 megapixel photo":         photo(t, 6000, 4000),
		"a photo that is tall":         photo(t, 10, 6000),
		"a JPEG with zeros for stuffs": append(photo(t, 8, 8), 0, 0, 0xff),
	} {
		if _, err := take(body); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func photo(t *testing.T, w, h int) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, w, h)), nil); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestNothingInADrawingIsFetched(t *testing.T) {
	for _, value := range []string{
		`URL(http://198.51.100.1/)`, `\75rl(http://198.51.100.1/)`, `u\72 l("//198.51.100.1")`, `image-set("http://198.51.100.1/" 1x)`,
		`url( http://198.51.100.1/ )`, `url("http://198.51.100.1/#a")`, `url(#a) url(http://198.51.100.1)`, `url(/* */http://198.51.100.1)`,
		`-webkit-image-set(url(http://198.51.100.1) 1x)`, `src("http://198.51.100.1")`, `red;@import "http://198.51.100.1"`, `image("http://198.51.100.1")`,
		`cross-fade(url(//198.51.100.1), red)`, `url(&#34;http://198.51.100.1&#34;)`, `var(--x, url(//198.51.100.1))`, `url(//198.51.100.1`,
	} {
		quoted := strings.NewReplacer(`"`, "&quot;").Replace(value)
		p, err := take(svg(`<path fill="` + quoted + `" d="M0 0"/><path style="fill:` + quoted + `"/><style>.a{mask:` + quoted + `}</style><path class="a"/>`))
		if err != nil {
			t.Errorf("%s: %v", value, err)
		} else if strings.Contains(string(p.Body), "198.51") {
			t.Errorf("%s is left: %s", value, p.Body)
		}
	}
	p, err := take(svg(`<path fill="url(#g)" mask="URL( '#m' )" d="M0 0"/>`))
	if err != nil || !strings.Contains(string(p.Body), `url(#g)`) || !strings.Contains(string(p.Body), `#m`) {
		t.Errorf("what is within the drawing is lost: %s (%v)", p.Body, err)
	}
}

func TestAPictureStopsWhenWhoeverSentItGoesAway(t *testing.T) {
	taker := NewTaker()
	taker.turn <- struct{}{}
	ctx, cancel := context.WithCancel(context.Background())
	var waiting sync.WaitGroup
	waiting.Go(func() {
		if _, err := taker.Take(ctx, dot(1)); !errors.Is(err, context.Canceled) {
			t.Errorf("one that waits: %v", err)
		}
	})
	cancel()
	waiting.Wait()
	<-taker.turn
	if _, err := taker.Take(ctx, dot(1)); !errors.Is(err, context.Canceled) {
		t.Errorf("one that begins: %v", err)
	}
	if _, err := taker.Take(context.Background(), dot(1)); err != nil {
		t.Errorf("the next: %v", err)
	}
}

func TestManyLargePicturesTakeTheMemoryOfOne(t *testing.T) {
	body := mediatest.DeepPNG(4000, 3000) // 96 MB each
	taker := NewTaker()
	var group sync.WaitGroup
	var peak uint64
	var mu sync.Mutex
	for range 4 {
		group.Go(func() {
			if _, err := taker.Take(context.Background(), body); err != nil {
				t.Error(err)
			}
			var m runtime.MemStats
			runtime.ReadMemStats(&m)
			mu.Lock()
			defer mu.Unlock()
			peak = max(peak, m.HeapSys-m.HeapReleased)
		})
	}
	group.Wait()
	if peak > 400<<20 {
		t.Errorf("four pictures of 96 MB took %d MB at once", peak>>20)
	}
}

func TestLivePicturesHaveTheSameBounds(t *testing.T) {
	for name, body := range map[string][]byte{"many scans": progressive(64, 64, 65), "a drawing": svg(``), "deep": mediatest.DeepPNG(4097, 10)} {
		url, _ := camera(t, func(int64) []byte { return body })
		if p, err := NewFetcher(10).Get(context.Background(), url, 1); err == nil {
			t.Errorf("%s was passed on as %s", name, p.Type)
		}
	}
}
