package edit_test

import (
	"testing"
	"testing/fstest"
	"time"

	"synaptor/internal/engine/enginetest"
	"synaptor/internal/link"
)

const lamp = `{"sheet":"synaptor.device/1","type":"own.lamp","title":"Lamp","role":"lights","link":{"driver":"osc","transport":"udp","port":1,"quiet":"100ms"},
	"readings":[{"path":"on","title":"On","type":"bool"}],"actions":[]}`

// TestASheetThatIsNobodysReconnectsNobody: only devices of a changed sheet are connected anew.
func TestASheetThatIsNobodysReconnectsNobody(t *testing.T) {
	on(t, func(d *desk) {
		time.Sleep(time.Second)
		since := d.mirror.Current().Link("dome-switcher").Since
		lib, err := enginetest.Library().Again(fstest.MapFS{"lamp.json": {Data: []byte(lamp)}})
		d.ok(err)
		d.SetSheets(lib)
		time.Sleep(time.Second)
		if st := d.mirror.Current().Link("dome-switcher"); st.Phase != link.Up || st.Since != since {
			t.Errorf("the switcher was connected anew: %+v", st)
		}
		if d.Program().Sheets.Device("own.lamp") == nil {
			t.Error("the new sheet is not in force")
		}
		program := d.Program()
		again, err := lib.Again(fstest.MapFS{"lamp.json": {Data: []byte(lamp)}})
		d.ok(err)
		d.SetSheets(again)
		if d.Program() != program {
			t.Error("the same sheets were put in force once more")
		}
	})
}
