package app

import (
	"runtime"
	"runtime/debug"
	"runtime/metrics"
	"time"

	"synaptor/internal/incident"
)

// slice is how long a thread of Synaptor goes on before another one that is ready has its
// turn. It is far shorter than usual, so that a press does not wait for the end of somebody
// else's turn: of another program's, or of an edit that is compiled.
const slice = 200 * time.Microsecond

// The memory of the process, in bytes: it is bounded while what lives is as little as that of most
// shows. From a large heap on the bound is far away until it is small again, for a large show must
// not spend its time collecting; but what was large for a moment, such as a picture, must not
// make the heap three times as large.
const (
	memoryBound = 84 << 20
	largeBound  = 224 << 20
	largeHeap   = 28 << 20
	smallHeap   = 20 << 20
	memoryEvery = time.Second
	// settled is after how many of these looks what the start has left behind is given back: nothing is collected by itself where nothing goes on.
	settled = 8
)

// How far the heap grows between two collections, in percent of what lives. A collection takes a fifth of a second
// of both cores where much lives, and a face can be late by some of it, so there it comes half as often.
const (
	usualGrowth = 200
	largeGrowth = 400
)

// Tune sets the process up for a live show: short turns where the system grants them, and
// three processors for each core, so that a message from outside finds one while documents
// and edits keep the others busy; the system decides who is next, and it prefers who has
// waited. The heap grows further than usual between collections: while one goes on, a step
// of a macro, or a face, can be late by some milliseconds. It is for a process that only serves a show.
func Tune() {
	shortTurns()
	runtime.GOMAXPROCS(3 * runtime.NumCPU())
	debug.SetGCPercent(usualGrowth)
	bound := int64(memoryBound)
	debug.SetMemoryLimit(bound)
	go func() {
		looks := 0
		for range time.Tick(memoryEvery) {
			incident.Contain("memory", "", func() {
				if looks++; looks == settled {
					debug.FreeOSMemory()
				}
				bound = memoryFor(liveHeap(), bound)
				debug.SetMemoryLimit(bound)
				debug.SetGCPercent(growthFor(bound))
			})
		}
	}()
}

// memoryFor is the bound of the memory for a heap of so many bytes that live, after another bound.
func memoryFor(live, before int64) int64 {
	switch {
	case live > largeHeap:
		return max(largeBound, live+live/2)
	case live < smallHeap:
		return memoryBound
	}
	return before
}

// growthFor is how far the heap grows, in percent, within a bound of the memory.
func growthFor(bound int64) int {
	if bound > memoryBound {
		return largeGrowth
	}
	return usualGrowth
}

// liveHeap is how many bytes lived at the last collection.
func liveHeap() int64 {
	s := []metrics.Sample{{Name: "/gc/heap/live:bytes"}}
	metrics.Read(s)
	if s[0].Value.Kind() != metrics.KindUint64 {
		return 0
	}
	return int64(s[0].Value.Uint64())
}
