package find

import "strings"

// everyday are words that people say for what devices call something else: the names that a show gives to its scenes and
// pictures are not in any sheet. Each is looked for under the other words too.
var everyday = []struct{ said, called string }{
	{"holding slide", "back soon"}, {"holding", "back soon"}, {"standby slide", "back soon"}, {"be right back", "back soon"},
	{"closing", "good night"}, {"ending", "good night"},
	{"starting soon", "countdown"},
}

// otherwise gives a query in the words that devices use, or "".
func otherwise(words string) string {
	padded := " " + strings.Join(strings.Fields(strings.ToLower(words)), " ") + " "
	for _, e := range everyday {
		if before, after, found := strings.Cut(padded, " "+e.said+" "); found && !strings.Contains(padded, " "+e.called+" ") {
			return strings.TrimSpace(before + " " + e.called + " " + after)
		}
	}
	return ""
}
