package wire

import "slices"

const (
	// UsualKeeps is how many pictures a bridge keeps that does not say how many.
	UsualKeeps = 256
	//limit:count pictures that Synaptor counts on a bridge to keep | in the answer to its hello
	MaxKeeps = 10_000
)

// Last has the hashes of the last so many pictures, in the order in which they came. It is for one goroutine.
type Last struct {
	most  int
	order []string
	has   map[string]bool
}

// NewLast makes an empty one.
func NewLast(most int) *Last { return &Last{most: max(1, most), has: map[string]bool{}} }

// Has tells whether a picture is among the last.
func (l *Last) Has(hash string) bool { return l.has[hash] }

// Add adds one, and tells which goes for it; empty: none does. One that is there already stays where it is.
func (l *Last) Add(hash string) (gone string) {
	if l.has[hash] {
		return ""
	}
	l.has[hash] = true
	l.order = append(l.order, hash)
	if len(l.order) <= l.most {
		return ""
	}
	gone, l.order = l.order[0], l.order[1:]
	delete(l.has, gone)
	return gone
}

// Copy makes another one with the same, for so many.
func (l *Last) Copy(most int) *Last {
	out := NewLast(most)
	for _, hash := range l.order {
		out.Add(hash)
	}
	return out
}

// All lists them, the oldest first.
func (l *Last) All() []string { return slices.Clone(l.order) }
