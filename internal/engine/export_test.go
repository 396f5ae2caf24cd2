package engine

import (
	"time"

	"synaptor/internal/core/device"
)

// Hear has the engine take in reports as if the link of a device had brought them.
func (e *Engine) Hear(device string, reports []device.Report) {
	_ = e.call(func() error {
		rt := e.devices[device]
		e.reported(rt, reported{rt.gen, device, time.Now(), reports})
		return nil
	})
}
