package inspect

import (
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/show"
	"synaptor/internal/demo"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

// demoShow is the demo show as it stands on the disk.
func demoShow(t testing.TB) *show.Show {
	t.Helper()
	d := show.NewDraft(show.Empty())
	ports := map[string]int{}
	for i, id := range []string{"streaming", "switcher", "mixer", "intercom", "lights", "camera", "player", "chat", "workstation"} {
		ports[id] = 7430 + i
	}
	secrets := map[string]string{}
	for id := range demo.Passwords() {
		secrets[id] = "secret-" + id
	}
	demo.Build(d, ports, secrets)
	return d.Now()
}

func compile(t testing.TB, prev *program.Program, s *show.Show) *program.Program {
	t.Helper()
	return program.Compile(prev, s, library(t), program.Sources{Encode: func(*device.Type, ...device.Message) ([]byte, error) { return nil, nil }})
}

var lib *sheet.Library

func library(t testing.TB) *sheet.Library {
	t.Helper()
	if lib == nil {
		var err error
		if lib, err = sheet.Load(nil); err != nil {
			t.Fatal(err)
		}
	}
	return lib
}

func inspector(t testing.TB) *Inspector {
	t.Helper()
	font, err := face.NewFont()
	if err != nil {
		t.Fatal(err)
	}
	return New(font, nil)
}

func TestDemo(t *testing.T) {
	p := compile(t, nil, demoShow(t))
	start := time.Now()
	j := inspector(t).Judge(nil, p, time.Now())
	t.Log(time.Since(start))
	for _, f := range j.Findings {
		t.Log(f.Severity, f.ID, f.Subject, f.At, f.Text, f.Fix != nil)
	}
}
