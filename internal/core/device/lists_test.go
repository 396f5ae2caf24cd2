package device

import (
	"encoding/json"
	"maps"
	"strings"
	"testing"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

const scenes = `{"driver":"mqtt","transport":"tcp","port":1}`

const listed = `"index":{"set":{"title":"set","from":"set/{set}/name"},"scene":{"title":"scene","from":"set/{set}/scene/{scene}/name","gone":"set/{set}/scene/{scene}/gone"}},
	"readings":[{"path":"set/{set}/name","title":"n","type":"text"},{"path":"set/{set}/scene/{scene}/gone","title":"g","type":"bool"},
	{"path":"set/{set}/scene/{scene}/name","title":"n","type":"text","from":{"address":"sets/{set}","value":"/scenes/{scene:id}/name","full":true}}],"actions":[]`

// knownWorld is what is known of a device.
type knownWorld map[string]reading.Value

func (w knownWorld) Reading(k reading.Key) reading.Reading {
	return reading.Reading{Value: w[k.Path], Quality: reading.Confirmed}
}

func (w knownWorld) Paths(string) []string {
	var out []string
	for p := range w {
		out = append(out, p)
	}
	return out
}

var _ expr.World = knownWorld{}

// told takes in a message as the engine does, and gives what of it says that something is gone.
func (w knownWorld) told(t *testing.T, typ *Type, address, body string) map[string]bool {
	t.Helper()
	var parsed any
	if err := json.Unmarshal([]byte(body), &parsed); err != nil {
		t.Fatal(err)
	}
	m, err := typ.Match(Message{Address: address, Body: parsed})
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range m.Reports {
		w[r.Path] = r.Value
	}
	gone := map[string]bool{}
	for _, l := range m.Lists {
		for _, r := range typ.Missing(l, w.Paths("")) {
			gone[r.Path] = r.Value == true
		}
	}
	return gone
}

func TestWhatAFullListHasNoMoreIsGone(t *testing.T) {
	typ := sheetOf(t, scenes, listed)
	w := knownWorld{}
	w.told(t, typ, "sets/1", `{"scenes":[{"id":"a","name":"Wide"},{"id":"b","name":"Close"}]}`)
	w.told(t, typ, "sets/2", `{"scenes":[{"id":"a","name":"Other"}]}`)
	for what, c := range map[string]struct {
		body string
		want map[string]bool
	}{
		"one is missing":   {`{"scenes":[{"id":"b","name":"Close"}]}`, map[string]bool{"set/1/scene/a/gone": true, "set/1/scene/b/gone": false}},
		"all are there":    {`{"scenes":[{"id":"b","name":"Close"},{"id":"a","name":"Wide"}]}`, map[string]bool{"set/1/scene/a/gone": false, "set/1/scene/b/gone": false}},
		"nothing is there": {`{"scenes":[]}`, map[string]bool{"set/1/scene/a/gone": true, "set/1/scene/b/gone": true}},
	} {
		if got := maps.Clone(w).told(t, typ, "sets/1", c.body); !maps.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", what, got, c.want)
		}
	}
}

func TestAListThatCannotBeFullIsRefusedAtItsLine(t *testing.T) {
	for what, change := range map[string][2]string{
		"the index has no gone":      {`,"gone":"set/{set}/scene/{scene}/gone"}`, `}`},
		"it does not run over it":    {`"/scenes/{scene:id}/name","full"`, `"/name","full"`},
		"it names no index's values": {`"type":"bool"}`, `"type":"bool","from":{"address":"gone/{set}","value":"/{scene}","full":true}}`},
	} {
		var s Sheet
		body := `{"sheet":"synaptor.device/1","type":"t","title":"T","role":"other","link":` + scenes + `,` + strings.Replace(listed, change[0], change[1], 1) + `}`
		if err := json.Unmarshal([]byte(body), &s); err != nil {
			t.Fatal(err)
		}
		if _, err := Compile(&s); err == nil {
			t.Errorf("%s, and it was taken", what)
		}
	}
}

func TestWhatIsGoneIsNotCounted(t *testing.T) {
	typ := sheetOf(t, scenes, listed)
	w := knownWorld{"set/1/name": "Night", "set/1/scene/a/name": "Wide", "set/1/scene/b/name": "Close", "set/1/scene/b/gone": true}
	if got := typ.Summary("d", w); got != "1 scene, 1 set" {
		t.Errorf("it has %q", got)
	}
	if typ.Ends("set/1/scene/b/gone") != "scene" || typ.Ends("set/1/name") != "" {
		t.Error("what ends is not known")
	}
}
