package app

import (
	"context"
	"image"
	"log/slog"
	"sync"

	"synaptor/internal/paint"
)

// takeIn has the streaming software of the bench take the overlays in as a source: they are on the picture of what it has on program.
func (a *App) takeIn() {
	if a.Bench == nil {
		return
	}
	painter, err := paint.New(a.onAir)
	if err != nil {
		slog.Warn("the bench shows no overlays", "err", err)
		return
	}
	var one sync.Mutex // paints at a time
	a.Bench.Streaming.Over(func(img *image.RGBA) {
		page := a.Mirror.View().Overlays()
		one.Lock()
		defer one.Unlock()
		painter.Overlays(img, page)
	})
}

// onAir is a picture that an overlay shows: of the library, or of who has said something, as the event of a device names it; nil: there is none.
func (a *App) onAir(named string) image.Image {
	url, ok := a.Mirror.View().PortraitURL(named)
	if !ok {
		return a.picture(named)
	}
	img, err := a.fetched(context.Background(), url, 1) // the fetcher has a limit
	if err != nil {
		return nil // what cannot be shown is not
	}
	return img
}
