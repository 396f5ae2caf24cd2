//go:build unix

package panel

import (
	"os"
	"testing"
	"time"
)

// TestWhatWaitsAtACableEndsWhenItIsPulled: also while somebody else has its far end open, who would keep it for ever.
func TestWhatWaitsAtACableEndsWhenItIsPulled(t *testing.T) {
	near, far, err := Pair()
	if err != nil {
		t.Fatal(err)
	}
	other, err := os.OpenFile(far.Name(), os.O_RDWR, 0)
	if err != nil {
		t.Fatal(err)
	}
	defer other.Close()
	ended := make(chan error, 2)
	go func() {
		_, err := near.Read(make([]byte, 10))
		ended <- err
	}()
	go func() {
		for {
			if _, err := near.Write(make([]byte, 4096)); err != nil { // nobody reads
				ended <- err
				return
			}
		}
	}()
	if err := near.SetWriteDeadline(time.Now().Add(20 * time.Millisecond)); err != nil {
		t.Fatal(err)
	}
	if err := <-ended; err == nil {
		t.Error("a write that nobody takes in has no end")
	}
	if err := far.Close(); err != nil {
		t.Error(err)
	}
	if err := near.Close(); err != nil {
		t.Error(err)
	}
	select {
	case err := <-ended:
		if err == nil {
			t.Error("it read something")
		}
	case <-time.After(30 * time.Second):
		t.Error("a read goes on at a cable that was pulled")
	}
}
