// Package background is for what takes processor time and may wait: documents, rehearsals,
// findings, the compiling of an edit. It runs on threads that the system prefers less than those of
// the live show.
package background

import (
	"fmt"
	"runtime"
	"runtime/debug"
)

// Do runs a function to its end on a thread of its own that gives way to all others, where the system
// knows how. A panic of the function is one of the caller's, with the stack that it came from.
func Do(f func()) {
	var panicked any
	done := make(chan struct{})
	go func() {
		defer close(done)
		// Never unlocked: what was taken from the thread cannot be given back, so it ends with the function.
		runtime.LockOSThread()
		defer func() {
			if p := recover(); p != nil {
				panicked = fmt.Sprintf("%v\n%s", p, debug.Stack())
			}
		}()
		giveWay()
		f()
	}()
	<-done
	if panicked != nil {
		panic(panicked)
	}
}
