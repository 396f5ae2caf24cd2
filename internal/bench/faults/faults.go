// Package faults describes what can be wrong with a stand-in of the bench.
package faults

import (
	"fmt"
	"math/rand/v2"
	"time"
)

// Faults are set while a stand-in runs. The zero value is a healthy device.
type Faults struct {
	Cut         bool `json:"cut"`         // the cable is out
	Silent      bool `json:"silent"`      // connected, but says nothing
	RefuseLogin bool `json:"refuseLogin"` // whatever the password
	LatencyMs   int  `json:"latencyMs"`   // added to every answer
	JitterMs    int  `json:"jitterMs"`    // at most so much more, at random
	LossPercent int  `json:"lossPercent"` // of the messages, both ways
	ActMs       int  `json:"actMs"`       // it does what it is told so much later
}

// Check refuses values that make no sense.
func (f Faults) Check() error {
	switch {
	case f.LatencyMs < 0 || f.LatencyMs > 10_000:
		return fmt.Errorf("the added latency is between 0 and 10000 ms, not %d", f.LatencyMs)
	case f.JitterMs < 0 || f.JitterMs > 10_000:
		return fmt.Errorf("the jitter is between 0 and 10000 ms, not %d", f.JitterMs)
	case f.ActMs < 0 || f.ActMs > 10_000:
		return fmt.Errorf("a device acts between 0 and 10000 ms later, not %d", f.ActMs)
	case f.LossPercent < 0 || f.LossPercent > 100:
		return fmt.Errorf("between 0 and 100 percent can be lost, not %d", f.LossPercent)
	}
	return nil
}

// Delay is how long the next answer is held back.
func (f Faults) Delay() time.Duration {
	d := time.Duration(f.LatencyMs) * time.Millisecond
	if f.JitterMs > 0 {
		d += rand.N(time.Duration(f.JitterMs) * time.Millisecond)
	}
	return d
}

// ActDelay is how long the next command waits until it is carried out.
func (f Faults) ActDelay() time.Duration {
	if f.ActMs == 0 {
		return 0
	}
	return time.Duration(f.ActMs)*time.Millisecond + rand.N(time.Duration(f.JitterMs)*time.Millisecond+1)
}

// Lost decides whether the next message is lost.
func (f Faults) Lost() bool { return f.LossPercent > 0 && rand.N(100) < f.LossPercent }
