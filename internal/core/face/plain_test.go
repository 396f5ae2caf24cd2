package face

import (
	"slices"
	"testing"
)

func TestWhatAPlainControlShowsOfAFace(t *testing.T) {
	f := Face{Label: "The telescope on the terrace", Background: "#242c3a", Lamps: Lamps{On: []string{Preview, Armed}, Pending: []string{Set}, Unknown: true}, Away: true}
	if got := f.Shapes(); !slices.Equal(got, []string{"preview", "armed", "pending-set", "unknown", "away"}) {
		t.Errorf("its shapes are %v", got)
	}
	for _, c := range []struct {
		columns, rows int
		want          []string
	}{{9, 4, []string{"The", "telescope", "on the", "terrace"}}, {6, 2, []string{"The", "telesc"}}, {40, 0, []string{"The telescope on the terrace"}}} {
		if got := f.Cells(c.columns, c.rows); !slices.Equal(got, c.want) {
			t.Errorf("in %d by %d cells it is %q", c.columns, c.rows, got)
		}
	}
	if got := (Face{}).Cells(5, 5); len(got) != 0 {
		t.Errorf("no label is %q", got)
	}
	for _, c := range []struct {
		on   []string
		can  []string
		want string
	}{{[]string{Preview, Armed}, nil, "#ffb000"}, {[]string{OnAir}, []string{"#00ff00", "#ff0000"}, "#ff0000"}, {nil, nil, "#242c3a"}, {nil, []string{"#ffffff", "#000000"}, "#000000"}, {nil, []string{"none"}, "none"}} {
		f.On = c.on
		if got := f.LampColour(c.can); got != c.want {
			t.Errorf("lit %v of %v is %s, want %s", c.on, c.can, got, c.want)
		}
	}
}
