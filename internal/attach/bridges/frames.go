package bridges

import (
	"context"
	"image"
	"sync"
	"time"

	"synaptor/internal/core/show"
	"synaptor/internal/incident"
)

// Frames gives one frame of a live picture of a device, no older than the frame time of a rate.
type Frames func(ctx context.Context, device, source string, perSecond float64) (image.Image, error)

const (
	// usualRate is how many frames a second a live picture has where its face does not say.
	usualRate = 5
	// frameLimit is how long a frame may take.
	//
	//limit:count time in which a frame of a live picture comes for a controller | nowhere; the one before stays
	frameLimit = 2 * time.Second
	// forgotten is after how long a picture that nobody shows is let go of.
	forgotten = 10 * time.Second
)

// frames have the newest frame of each live picture that is shown on a board. Nobody waits for one: a device that is slow has its picture
// stand still, and nothing else.
type frames struct {
	get Frames
	mu  sync.Mutex
	all map[show.Live]*frame
}

type frame struct {
	img   image.Image
	at    time.Time // when it was asked for
	wants time.Time // when somebody wanted it last
	busy  bool
}

// latest is the newest frame of a picture; nil: none has come yet. It has the next one fetched when it is time.
func (f *frames) latest(l show.Live, now time.Time) image.Image {
	if f.get == nil {
		return nil
	}
	perSecond := l.Rate
	if perSecond == 0 {
		perSecond = usualRate
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	one := f.all[l]
	if one == nil {
		for k, o := range f.all {
			if now.Sub(o.wants) > forgotten && !o.busy {
				delete(f.all, k)
			}
		}
		one = &frame{}
		f.all[l] = one
	}
	one.wants = now
	if !one.busy && now.Sub(one.at) >= time.Duration(float64(time.Second)/perSecond) {
		one.busy, one.at = true, now
		go incident.Contain("live pictures", l.Device, func() { f.fetch(l, one, perSecond) })
	}
	return one.img
}

func (f *frames) fetch(l show.Live, one *frame, perSecond float64) {
	ctx, cancel := context.WithTimeout(context.Background(), frameLimit)
	defer cancel()
	var img image.Image
	defer func() {
		f.mu.Lock()
		defer f.mu.Unlock()
		if one.busy = false; img != nil {
			one.img = img
		}
	}()
	if got, err := f.get(ctx, l.Device, l.Source, perSecond); err == nil { // else the one before stays
		img = got
	}
}
