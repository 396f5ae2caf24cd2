package app

import (
	"runtime"
	"runtime/debug"
	"time"
)

// slice is how long a thread of Synaptor goes on before another one that is ready has its
// turn. It is far shorter than usual, so that a press does not wait for the end of somebody
// else's turn: of another program's, or of an edit that is compiled.
const slice = 200 * time.Microsecond

// Tune sets the process up for a live show: short turns where the system grants them, and
// three processors for each core, so that a message from outside finds one while documents
// and edits keep the others busy; the system decides who is next, and it prefers who has
// waited. The heap grows further than usual between collections: while one goes on, a step
// of a macro can be late by some milliseconds, and a show is small.
func Tune() {
	shortTurns()
	debug.SetGCPercent(300)
	runtime.GOMAXPROCS(3 * runtime.NumCPU())
}
