package web

import (
	"fmt"
	"testing"
	"time"
)

func TestTriesComeBackOneByOne(t *testing.T) {
	var tr tries
	at := time.Date(2026, 11, 27, 20, 0, 0, 0, time.UTC)
	try := func(want bool, address, name string) {
		t.Helper()
		if tr.try(address, name, at) != want {
			t.Errorf("a try of %s as %q is %v", address, name, !want)
		}
	}
	for range triesAtOnce {
		try(true, "10.0.0.7", "Tobin")
	}
	try(false, "10.0.0.7", "Tobin")
	try(false, "10.0.0.7", "Saskia") // the address has none left
	try(false, "10.0.0.8", "tobin ") // nor has the name
	try(true, "10.0.0.8", "Saskia")
	try(true, "10.0.0.9", "") // nobody is named: only the address counts
	at = at.Add(tryEvery)
	try(true, "10.0.0.7", "Tobin")
	try(false, "10.0.0.7", "Tobin")
	at = at.Add(-time.Hour) // the clock has jumped: nobody gains by it
	try(false, "10.0.0.7", "Tobin")
	tr.succeeded("10.0.0.8", "Saskia", at)
	for range triesAtOnce {
		try(true, "10.0.0.8", "Saskia")
	}
	try(false, "10.0.0.8", "Saskia")
}

// TestManyNamesAreNoWayRound: whoever tries with ten thousand names, or from all addresses of a network, has no more tries by it.
func TestManyNamesAreNoWayRound(t *testing.T) {
	var tr tries
	at := time.Date(2026, 11, 27, 20, 0, 0, 0, time.UTC)
	let := 0
	for i := range 5 * maxTries {
		if tr.try("10.0.0.7", fmt.Sprint("name ", i), at) {
			let++
		}
		if tr.try(fmt.Sprintf("fd00::%x", i+1), "", at) {
			let++
		}
	}
	if let != 2*triesAtOnce || len(tr.of) > maxTries {
		t.Errorf("%d tries were let through, %d are counted", let, len(tr.of))
	}
	for i := range 2 * maxTries { // from very many addresses: those that wait longest are not forgotten
		tr.try(fmt.Sprintf("10.%d.%d.1", i/250, i%250), "", at)
	}
	if tr.try("10.0.0.7", "", at) || len(tr.of) > maxTries {
		t.Errorf("after very many addresses the first one has tries again; %d are counted", len(tr.of))
	}
	at = at.Add(time.Hour)
	if !tr.try("10.0.0.7", "Tobin", at) {
		t.Error("an hour later it has none")
	}
}
