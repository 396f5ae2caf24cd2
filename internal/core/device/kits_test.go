package device

import (
	"maps"
	"testing"
)

const position = `"index":{"p":{"title":"preset","from":"preset/{p}/name"}},
	"readings":[{"path":"position","title":"Position","type":"int","min":3,"max":90},{"path":"preset/{p}/name","title":"n","type":"text"}],
	"actions":[{"id":"store","title":"Store {p}","help":"h","suits":["press"],"params":[{"id":"p","title":"preset","of":"p"},
	{"id":"at","title":"position","type":"int","min":3,"max":90,"default":"{reading('position')}"}],"send":[{"address":"/store","args":["{int(p)}","{int(at)}"]}],"face":{"label":"x","glyph":"x"}}],
	"kits":[{"id":"row","title":"Presets","over":"p","action":"store","shape":"row"},{"id":"two","title":"Two","keys":[{"action":"store","params":{"p":"1"}},{"action":"store","params":{"p":"2","at":"7"}}],"shape":"row"}]`

// TestADefaultThatIsReadFromTheDeviceServesKits, whether the device has said it or not.
func TestADefaultThatIsReadFromTheDeviceServesKits(t *testing.T) {
	typ := sheetOf(t, `{"driver":"osc","transport":"udp","port":1}`, position)
	known := knownWorld{"preset/1/name": "Wide"}
	for what, c := range map[string]struct {
		position any
		want     string
	}{"it has said it": {42, "42"}, "it has not": {nil, "3"}, "it says what cannot be": {500, "3"}} {
		w := maps.Clone(known)
		if c.position != nil {
			w["position"] = c.position
		}
		row := typ.KitKeys(typ.Kit("row"), "", "d", w)
		two := typ.KitKeys(typ.Kit("two"), "", "d", w)
		if len(row) != 1 || row[0].Params["at"] != c.want || row[0].Params["p"] != "1" || len(two) != 2 || two[0].Params["at"] != c.want || two[1].Params["at"] != "7" {
			t.Errorf("%s: %+v, %+v", what, row, two)
		}
		for _, key := range append(row, two...) {
			if _, err := typ.Bind("d", key.Action, key.Params, 25); err != nil {
				t.Errorf("%s: %v", what, err)
			}
		}
	}
	if _, err := typ.Bind("d", "store", map[string]string{"p": "1"}, 25); err == nil || err.Error() != "Choose a position." {
		t.Errorf("without a value: %v", err)
	}
}
