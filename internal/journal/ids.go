package journal

import (
	"strconv"
	"sync/atomic"
)

// firstID is the number of the first entry of all: the least that has ten digits to the
// base 36, so that ids sort as texts do.
const firstID = 101_559_956_668_416 // 36 to the power of 9

// apart is how far the ids of a start are from the last one that was stored: ids that were
// given out and not stored any more are not given out again.
const apart = 1_000_000

var lastID atomic.Int64

func init() { lastID.Store(firstID) }

// NextID returns an id for a new entry. Ids go on from the last one in the database, whatever the
// clock says: they sort in the order in which they were given out.
func NextID() string { return strconv.FormatInt(lastID.Add(1), 36) }

// GoOnFrom has ids go on from one that is stored somewhere.
func GoOnFrom(id string) {
	n, err := strconv.ParseInt(id, 36, 64)
	if err != nil {
		return // somebody else's; it has no place in the order
	}
	for {
		last := lastID.Load()
		if next := n + apart; next <= last || lastID.CompareAndSwap(last, next) {
			return
		}
	}
}
