package incident

import "testing"

func TestAPanicIsContainedCountedAndTold(t *testing.T) {
	var told []Incident
	stop := Notify(func(i Incident) { told = append(told, i) })
	defer stop()
	before := Counts()["test"]
	if Contain("test", "nothing", func() {}) != true || len(told) != 0 {
		t.Error("what did not panic is an incident")
	}
	if Contain("test", "a device", func() { panic("broken") }) {
		t.Error("a panic counts as none")
	}
	if len(told) != 1 || told[0].Where != "test" || told[0].Cause != "a device" || told[0].Text != "broken" || told[0].Stack == "" {
		t.Errorf("told %+v", told)
	}
	if got := Counts()["test"] - before; got != 1 {
		t.Errorf("counted %d", got)
	}
	stop()
	Contain("test", "", func() { panic("again") })
	if len(told) != 1 {
		t.Error("who has stopped listening is told")
	}
}
