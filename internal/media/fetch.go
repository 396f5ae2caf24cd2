// Package media fetches the live pictures of devices. However many faces show a
// source, it is asked once per frame time, at the highest rate that any of them
// asks for, and not at all when nobody looks.
package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"sync"
	"time"

	"golang.org/x/time/rate"
)

const (
	// MaxPicture is the largest picture, in bytes, and maxSide the longest side,
	// in pixels, that is passed on.
	//limit:bytes a live picture of a device | on the face
	MaxPicture = 2 << 20
	//limit:pixels width or height of a live picture | on the face
	maxSide = 4096
	// MaxRate is the most frames a second that a face may ask for.
	//limit:count live pictures a second on one face | at the field
	MaxRate = 25
	// fetchLimit is how long a picture is waited for.
	//limit:count wait for a live picture | on the face
	fetchLimit = 2 * time.Second
	// frozenAfter is how long a picture may stay the same before it counts as
	// frozen.
	frozenAfter = 3 * time.Second
	// forgetAfter is how long a picture is kept that nobody asks for.
	forgetAfter = 30 * time.Second
)

// Picture is one frame.
type Picture struct {
	Type string // its media type
	Data []byte
	At   time.Time
	// Frozen says that it has not changed for some seconds.
	Frozen bool
}

// Fetcher fetches pictures within a budget.
type Fetcher struct {
	client *http.Client
	budget *rate.Limiter

	mu      sync.Mutex
	sources map[string]*source
}

// source is one picture of one device.
type source struct {
	mu      sync.Mutex // held while it is fetched
	last    Picture
	changed time.Time
	asked   time.Time // guarded by the fetcher's lock
}

// ErrBudget says that more pictures were asked for than may be fetched.
var ErrBudget = errors.New("more live pictures are asked for than fit into the budget; ask for fewer frames a second")

// NewFetcher returns a fetcher that asks devices for at most so many pictures a
// second, all together.
func NewFetcher(perSecond int) *Fetcher {
	return &Fetcher{
		client: &http.Client{Timeout: fetchLimit, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }},
		budget: rate.NewLimiter(rate.Limit(perSecond), perSecond), sources: map[string]*source{},
	}
}

// Get returns a picture no older than the frame time of the rate, in frames a
// second. Those who ask at the same time share one request. Where the budget is
// used up the last picture is given again.
func (f *Fetcher) Get(ctx context.Context, url string, perSecond float64) (Picture, error) {
	perSecond = min(max(perSecond, 0.1), MaxRate)
	s := f.source(url)
	s.mu.Lock()
	defer s.mu.Unlock()
	if age := time.Since(s.last.At); len(s.last.Data) > 0 && age < time.Duration(float64(time.Second)/perSecond) {
		return s.last, nil
	}
	if !f.budget.Allow() {
		if len(s.last.Data) > 0 {
			return s.last, nil
		}
		return Picture{}, ErrBudget
	}
	p, err := f.fetch(ctx, url)
	if err != nil {
		return Picture{}, err
	}
	if !bytes.Equal(p.Data, s.last.Data) {
		s.changed = p.At
	}
	p.Frozen = p.At.Sub(s.changed) > frozenAfter
	s.last = p
	return p, nil
}

// source finds or makes a source, and forgets those nobody asks for.
func (f *Fetcher) source(url string) *source {
	f.mu.Lock()
	defer f.mu.Unlock()
	now := time.Now()
	for u, s := range f.sources {
		if now.Sub(s.asked) > forgetAfter {
			delete(f.sources, u)
		}
	}
	s := f.sources[url]
	if s == nil {
		s = &source{}
		f.sources[url] = s
	}
	s.asked = now
	return s
}

// fetch asks the device for one picture, and makes sure that it is one.
func (f *Fetcher) fetch(ctx context.Context, url string) (Picture, error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, url, nil)
	if err != nil {
		return Picture{}, fmt.Errorf("fetch a picture: %w", err)
	}
	resp, err := f.client.Do(r)
	if err != nil {
		return Picture{}, fmt.Errorf("fetch a picture: %w", err)
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK {
		return Picture{}, fmt.Errorf("fetch a picture: the device answers %s", resp.Status)
	}
	data, err := io.ReadAll(io.LimitReader(resp.Body, MaxPicture+1))
	if err != nil {
		return Picture{}, fmt.Errorf("fetch a picture: %w", err)
	}
	if len(data) > MaxPicture {
		return Picture{}, fmt.Errorf("fetch a picture: it has more than %d bytes", MaxPicture)
	}
	kind := sniff(data)
	size, err := surveyed(kind, data)
	if err != nil {
		return Picture{}, fmt.Errorf("fetch a picture: the device delivers what cannot be shown: %w", err)
	}
	if size.width > maxSide || size.height > maxSide {
		return Picture{}, fmt.Errorf("fetch a picture: it is %d by %d pixels; %d is the most for either side", size.width, size.height, maxSide)
	}
	return Picture{Type: kind, Data: data, At: time.Now()}, nil
}
