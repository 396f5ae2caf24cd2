// Package incident is the last net under goroutines that outlive a request. Contain
// runs one piece of work; where that panics, the goroutine goes on with the next one,
// and whoever asked with Notify is told. A panic that was contained is a defect all the
// same: it stands in the journal and in the metrics, and fails any test.
package incident

import (
	"fmt"
	"log/slog"
	"maps"
	"runtime/debug"
	"sync"
	"time"
)

// Incident is a panic that was contained.
type Incident struct {
	At    time.Time
	Where string // the goroutine, such as engine or link
	Cause string // what it was busy with: a device, a macro; may be empty
	Text  string // of the panic
	Stack string
}

var (
	mu        sync.Mutex
	listeners = map[*func(Incident)]bool{}
	counts    = map[string]int64{} // by Where
)

// Notify has a function called with every incident from now on, in the goroutine that
// had it; the function must not block. stop ends that.
func Notify(f func(Incident)) (stop func()) {
	key := &f
	mu.Lock()
	defer mu.Unlock()
	listeners[key] = true
	return func() {
		mu.Lock()
		defer mu.Unlock()
		delete(listeners, key)
	}
}

// Counts gives how many incidents there were since the start, by where.
func Counts() map[string]int64 {
	mu.Lock()
	defer mu.Unlock()
	return maps.Clone(counts)
}

// Contain runs a function; ok is false when it panicked.
func Contain(where, cause string, f func()) (ok bool) {
	defer func() {
		if p := recover(); p != nil {
			Report(where, cause, p)
			ok = false
		}
	}()
	f()
	return true
}

// Report takes in a panic that its caller has recovered from.
func Report(where, cause string, recovered any) {
	i := Incident{At: time.Now(), Where: where, Cause: cause, Text: fmt.Sprint(recovered), Stack: string(debug.Stack())}
	slog.Error("a failure was contained", "where", where, "cause", cause, "panic", i.Text, "stack", i.Stack)
	mu.Lock()
	counts[where]++
	told := make([]func(Incident), 0, len(listeners))
	for f := range listeners {
		told = append(told, *f)
	}
	mu.Unlock()
	for _, f := range told {
		f(i)
	}
}
