package find

import "strings"

// everyday are words that people say for the same thing. The names that a show gives to its scenes and pictures are in
// no sheet, so each is looked for under the other words too.
var everyday = [][]string{
	{"holding slide", "standby slide", "be right back", "back soon", "holding", "brb"},
	{"good night", "closing", "ending", "goodbye"},
	{"starting soon", "countdown", "opening"},
}

// otherwise gives a query in the other words for what it says.
func otherwise(words string) (out []string) {
	padded := " " + strings.Join(strings.Fields(strings.ToLower(words)), " ") + " "
	for _, same := range everyday {
		for _, said := range same {
			before, after, found := strings.Cut(padded, " "+said+" ")
			if !found {
				continue
			}
			for _, other := range same {
				if other != said {
					out = append(out, strings.TrimSpace(before+" "+other+" "+after))
				}
			}
			break
		}
	}
	return out
}
