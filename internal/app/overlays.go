package app

import (
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
	painter, err := paint.New(a.picture)
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
