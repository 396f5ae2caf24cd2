package app_test

import (
	"testing"

	"synaptor/internal/journal"
)

func TestTheMacrosOfTheNightRunOnTheBench(t *testing.T) {
	r := startIn(t, t.TempDir()).ready()
	h := r.hand("producer-grid")
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	r.entry(r.press("f4"), journal.Confirmed)
	h.word("dome-switcher:mix/1/program", "Presenter cam")
}
