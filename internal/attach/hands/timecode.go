package hands

import (
	"sync"
	"time"
)

// timecode passes MIDI time code on as readings of Synaptor. That of one port counts at a time: until it is silent.
type timecode struct {
	engine Engine

	mu     sync.Mutex
	from   *Port
	silent *time.Timer
	closed bool
}

// timecodeGone is after how long without a word time code stands.
const timecodeGone = 500 * time.Millisecond

// The readings of Synaptor that it sets.
const (
	timecodePath    = "timecode/now"
	timecodeRunning = "timecode/running"
)

func newTimecode(e Engine) *timecode {
	t := &timecode{engine: e}
	t.silent = time.AfterFunc(time.Hour, t.stands)
	t.silent.Stop()
	return t
}

// heard takes a time from a port.
func (t *timecode) heard(p *Port, at string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.closed || t.from != nil && t.from != p {
		return
	}
	if t.from == nil {
		t.from = p
		t.engine.SayOwn(timecodeRunning, true)
	}
	t.engine.SayOwn(timecodePath, at)
	t.silent.Reset(timecodeGone)
}

// stands says that no time code comes any more.
func (t *timecode) stands() {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.from != nil && !t.closed {
		t.from = nil
		t.engine.SayOwn(timecodeRunning, false)
	}
}

// lost is told of a port that is unplugged.
func (t *timecode) lost(p *Port) {
	t.mu.Lock()
	from := t.from
	t.mu.Unlock()
	if from == p {
		t.stands()
	}
}

func (t *timecode) close() {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.closed = true
	t.silent.Stop()
}
