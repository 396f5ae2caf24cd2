package find

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// What a word is worth, by where it stands. A name or a phrase that was said as a whole is worth more, a part of one less.
const (
	weightValue  = 6
	weightNumber = 5
	weightTitle  = 5
	weightOther  = 4
	weightWord   = 4
	weightDevice = 2
	weightHelp   = 1
	wholeMore    = 1
	partLess     = 2
)

// rates says, for each word of a query, how well it fits; 0 means not at all.
type rates []int

// with keeps the better fit of each word.
func (r rates) with(o rates) rates {
	out := slices.Clone(r)
	for i, n := range o {
		out[i] = max(out[i], n)
	}
	return out
}

// any reports whether any word fits.
func (r rates) any() bool { return slices.ContainsFunc(r, func(n int) bool { return n > 0 }) }

// total adds up the words; missing is the first that does not fit, or -1.
func (r rates) total() (sum, missing int) {
	missing = -1
	for i, n := range r {
		if sum += n; n == 0 && missing < 0 {
			missing = i
		}
	}
	return sum, missing
}

// without reports whether every word but one fits.
func (r rates) without(word int) bool {
	for i, n := range r {
		if n == 0 && i != word {
			return false
		}
	}
	return true
}

// matcher compares words with those of a query. It remembers what it compared,
// because names and titles repeat.
type matcher struct {
	words   []string
	numbers []string // the words that are numbers, with their sign; else ""
	seen    map[string][]closeness
	tokens  map[string][]string
}

// closeness is how a word fits one of the query.
type closeness uint8

const (
	unlike closeness = iota
	misspelt
	beginning
	plural // of the same word, or another word for it
	same
)

func newMatcher(text string) *matcher {
	m := &matcher{seen: map[string][]closeness{}, tokens: map[string][]string{}}
	for _, field := range strings.Fields(strings.ToLower(text)) {
		if n, is := counted[field]; is {
			field = n
		}
		if f := strings.NewReplacer("−", "-", ",", ".").Replace(strings.TrimSuffix(strings.TrimSuffix(field, "db"), "%")); isNumber(f) {
			m.words, m.numbers = append(m.words, strings.TrimLeft(f, "+-")), append(m.numbers, f)
			continue
		}
		for _, w := range tokens(field) {
			m.words, m.numbers = append(m.words, w), append(m.numbers, "")
		}
	}
	m.words = m.words[:min(len(m.words), maxWords)]
	return m
}

func isNumber(text string) bool {
	_, err := strconv.ParseFloat(text, 64)
	return err == nil && strings.ContainsAny(text, "0123456789")
}

// none fits nothing yet.
func (m *matcher) none() rates { return make(rates, len(m.words)) }

// counted are numbers as they are said.
var counted = map[string]string{"one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6", "seven": "7", "eight": "8", "nine": "9", "ten": "10"}

// alias are words for the same thing, long and short.
var alias = map[string]string{"cam": "camera", "cams": "camera", "camera": "camera", "cameras": "camera", "mic": "microphone", "mics": "microphone", "microphone": "microphone",
	"microphones": "microphone", "pgm": "program", "program": "program", "pvw": "preview", "preview": "preview", "vol": "volume", "volume": "volume"}

// rate takes texts into account whose words have a weight.
func (m *matcher) rate(r rates, weight int, texts ...string) {
	for _, text := range texts {
		m.rateWords(r, weight, m.cut(text))
	}
}

func (m *matcher) rateWords(r rates, weight int, words []string) {
	for _, w := range words {
		for i, c := range m.compare(w) {
			switch c {
			case same:
				r[i] = max(r[i], 2*weight+1)
			case plural:
				r[i] = max(r[i], 2*weight-1)
			case beginning:
				r[i] = max(r[i], 2*weight-4, 1)
			case misspelt:
				r[i] = max(r[i], weight-1)
			}
		}
	}
}

// phrases takes texts into account of which one that is said as a whole is worth more, and a part of one less.
func (m *matcher) phrases(r rates, weight int, texts ...string) {
	for _, text := range texts {
		words := m.cut(text)
		switch {
		case len(words) < 2:
			m.rateWords(r, weight, words)
		case m.all(words):
			m.rateWords(r, weight+wholeMore, words)
		default:
			m.rateWords(r, weight-partLess, words)
		}
	}
}

// name takes the name of something into account. A number in it counts only where another word of it was said: of
// "Still 2", the 2 alone means anything that has this number.
func (m *matcher) name(r rates, name string) {
	words := m.cut(name)
	if m.all(words) {
		m.rateWords(r, weightValue+wholeMore, words)
		return
	}
	said := false
	for _, w := range words {
		said = said || !isNumber(w) && slices.ContainsFunc(m.compare(w), func(c closeness) bool { return c != unlike })
	}
	for _, w := range words {
		if said || !isNumber(w) {
			m.rateWords(r, weightValue-partLess, []string{w})
		}
	}
}

// cut gives the words of a text.
func (m *matcher) cut(text string) []string {
	list, ok := m.tokens[text]
	if !ok {
		list = tokens(text)
		m.tokens[text] = list
	}
	return list
}

// says reports whether a query has one of some words.
func (m *matcher) says(words ...string) bool {
	return slices.ContainsFunc(words, func(w string) bool { return slices.Contains(m.words, w) })
}

// all reports whether a query has all of some words.
func (m *matcher) all(words []string) bool {
	for _, w := range words {
		if !slices.ContainsFunc(m.compare(w), func(c closeness) bool { return c >= plural }) {
			return false
		}
	}
	return len(words) > 0
}

func (m *matcher) compare(w string) []closeness {
	if c, ok := m.seen[w]; ok {
		return c
	}
	out := make([]closeness, len(m.words))
	for i, q := range m.words {
		switch {
		case q == w:
			out[i] = same
		case alias[q] != "" && alias[q] == alias[w]:
			out[i] = plural
		case len(q) > 2 && (q == w+"s" || w == q+"s"):
			out[i] = plural
		case len(q) > 1 && strings.HasPrefix(w, q):
			out[i] = beginning
		case typo(q, w):
			out[i] = misspelt
		}
	}
	m.seen[w] = out
	return out
}

// typo tells whether a word is another one with a typing mistake: one for words of
// four to seven letters, two for longer ones. A letter too many, too few, another
// one, or two that changed places count as one mistake. What was typed so far may
// be the beginning of a longer word.
func typo(typed, word string) bool {
	q, w := []rune(typed), []rune(word)
	allowed := 0
	switch {
	case len(q) >= 8:
		allowed = 2
	case len(q) >= 4:
		allowed = 1
	}
	if allowed == 0 || isNumber(typed) || len(w) < len(q)-allowed {
		return false
	}
	for n := len(q) - allowed; n <= min(len(w), len(q)+allowed); n++ {
		if (n == len(w) || len(q) >= 5) && mistakes(q, w[:n], allowed) <= allowed {
			return true
		}
	}
	return false
}

// mistakes is the distance of two words by Damerau and Levenshtein (optimal string
// alignment); it gives up beyond a limit.
func mistakes(a, b []rune, limit int) int {
	before, last, now := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(a); i++ {
		now[0] = i
		best := i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			now[j] = min(last[j]+1, now[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				now[j] = min(now[j], before[j-2]+1)
			}
			best = min(best, now[j])
		}
		if best > limit {
			return best
		}
		before, last, now = last, now, before
	}
	return last[len(b)]
}

func tokens(text string) []string {
	text = strings.NewReplacer("'s", "", "’s", "").Replace(strings.ToLower(text))
	words := strings.FieldsFunc(text, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	})
	return slices.DeleteFunc(words, func(w string) bool { return w == "the" || w == "to" || w == "a" || w == "of" })
}
