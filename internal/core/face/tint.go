package face

// DefaultText is the colour of a label without a colour of its own.
const DefaultText = "#f4f4f4"

// tints are the quiet backgrounds of tiles by device role: dark, with at most a
// third of the role hue's chroma, so that only states are saturated.
var tints = map[string]string{
	"streaming": "#2c2836",
	"switcher":  "#242c3a",
	"sound":     "#203231",
	"intercom":  "#372c22",
	"lights":    "#343122",
	"camera":    "#362833",
	"player":    "#332b26",
	"chat":      "#272a3a",
	"titles":    "#2d3122",
	"slides":    "#22303a",
	"prompter":  "#312e28",
	"meeting":   "#33283a",
	"music":     "#25322a",
	"computer":  "#2b2d30",
}

// Tint is the background of a tile that drives a device of a role.
func Tint(role string) string {
	if t, ok := tints[role]; ok {
		return t
	}
	return "#2b2d30"
}
