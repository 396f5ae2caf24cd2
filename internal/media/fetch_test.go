package media

import (
	"bytes"
	"context"
	"errors"
	"image"
	"image/color"
	"image/png"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"
)

// camera counts how often its picture is asked for.
func camera(t *testing.T, picture func(n int64) []byte) (url string, asked *atomic.Int64) {
	t.Helper()
	asked = &atomic.Int64{}
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		_, _ = w.Write(picture(asked.Add(1)))
	}))
	t.Cleanup(s.Close)
	return s.URL, asked
}

func dot(n int64) []byte {
	img := image.NewGray(image.Rect(0, 0, 8, 8))
	img.SetGray(0, 0, color.Gray{uint8(n)})
	var b bytes.Buffer
	_ = png.Encode(&b, img)
	return b.Bytes()
}

func TestASourceIsAskedOnceHoweverManyLook(t *testing.T) {
	url, asked := camera(t, dot)
	f := NewFetcher(1000)
	var wg sync.WaitGroup
	for range 50 {
		wg.Go(func() {
			if p, err := f.Get(context.Background(), url, 0.2); err != nil || p.Type != "image/png" {
				t.Errorf("got %s (%v)", p.Type, err)
			}
		})
	}
	wg.Wait()
	if n := asked.Load(); n != 1 {
		t.Errorf("the device was asked %d times within a frame time", n)
	}
	p, err := f.Get(context.Background(), url, 0.2)
	if err != nil {
		t.Fatal(err)
	}
	for limit := time.Now().Add(5 * time.Second); ; {
		// Whoever asks for more frames gets a newer one as soon as it is due.
		q, err := f.Get(context.Background(), url, MaxRate)
		if err != nil {
			t.Fatal(err)
		}
		if q.At.After(p.At) {
			break
		}
		if time.Now().After(limit) {
			t.Fatal("no newer picture came")
		}
	}
}

func TestTheBudgetHoldsAndTheLastPictureStands(t *testing.T) {
	url, asked := camera(t, dot)
	other, _ := camera(t, dot)
	f := NewFetcher(1)
	if _, err := f.Get(context.Background(), url, MaxRate); err != nil {
		t.Fatal(err)
	}
	if _, err := f.Get(context.Background(), other, MaxRate); !errors.Is(err, ErrBudget) {
		t.Errorf("a second source within the budget of one: %v", err)
	}
	f.sources[url].last.At = time.Now().Add(-time.Minute)
	if _, err := f.Get(context.Background(), url, MaxRate); err != nil || asked.Load() != 1 {
		t.Errorf("the last picture does not stand (%v); asked %d times", err, asked.Load())
	}
}

func TestAPictureThatDoesNotMoveIsFrozen(t *testing.T) {
	url, _ := camera(t, func(int64) []byte { return dot(7) })
	f := NewFetcher(1000)
	if p, err := f.Get(context.Background(), url, MaxRate); err != nil || p.Frozen {
		t.Fatalf("at first: %v, %v", p.Frozen, err)
	}
	f.sources[url].last.At, f.sources[url].changed = time.Time{}.Add(1), time.Now().Add(-2*frozenAfter)
	if p, err := f.Get(context.Background(), url, MaxRate); err != nil || !p.Frozen {
		t.Errorf("after a while: %v, %v", p.Frozen, err)
	}
}

func TestWhatIsNoPictureIsRefused(t *testing.T) {
	var huge bytes.Buffer
	_ = png.Encode(&huge, image.NewGray(image.Rect(0, 0, maxSide+1, 1)))
	for name, body := range map[string][]byte{"text": []byte("hello"), "nothing": nil, "too large": make([]byte, MaxPicture+1), "too wide": huge.Bytes()} {
		url, _ := camera(t, func(int64) []byte { return body })
		if p, err := NewFetcher(10).Get(context.Background(), url, 1); err == nil {
			t.Errorf("%s was passed on as %s", name, p.Type)
		}
	}
	if _, err := NewFetcher(10).Get(context.Background(), "http://127.0.0.1:1/x", 1); err == nil || !strings.Contains(err.Error(), "fetch a picture") {
		t.Errorf("a device that is away: %v", err)
	}
}

func TestSourcesNobodyLooksAtAreForgotten(t *testing.T) {
	url, _ := camera(t, dot)
	other, _ := camera(t, dot)
	f := NewFetcher(1000)
	for _, u := range []string{url, other} {
		if _, err := f.Get(context.Background(), u, 1); err != nil {
			t.Fatal(err)
		}
	}
	f.sources[other].asked = time.Now().Add(-2 * forgetAfter)
	if _, err := f.Get(context.Background(), url, 1); err != nil || f.sources[other] != nil {
		t.Errorf("it is kept (%v)", err)
	}
}
