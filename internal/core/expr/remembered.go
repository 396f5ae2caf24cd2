package expr

import (
	"maps"
	"slices"
	"strings"
	"sync"
)

// compiled remembers programs by their source and scope: one takes about 50
// microseconds to compile, and the same few are needed for every key of a show.
var compiled = programs{most: 25_000}

// passing remembers those whose values come and go.
var passing = programs{most: 1000}

type programs struct {
	most int // of now; as much again may be old

	mu sync.RWMutex
	// by has those of now, old those that were used before there were too many; what is asked for
	// again moves over, the rest goes with the next change.
	by, old map[string]*Program
}

func (c *programs) get(key string) (*Program, bool) {
	c.mu.RLock()
	p, ok := c.by[key]
	if ok {
		c.mu.RUnlock()
		return p, true
	}
	p, ok = c.old[key]
	c.mu.RUnlock()
	if ok {
		c.put(key, p)
	}
	return p, ok
}

func (c *programs) put(key string, p *Program) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.by == nil || len(c.by) >= c.most {
		c.by, c.old = map[string]*Program{}, c.by
	}
	c.by[key] = p
}

// key names what an expression means in the scope. An expression whose scope has
// texts is not remembered: they are different every time.
func (s Scope) key(source string) (key string, ok bool) {
	if len(s.Texts) > 0 {
		return "", false
	}
	var b strings.Builder
	b.WriteString(source)
	b.WriteByte(0)
	b.WriteString(s.Device)
	for _, name := range slices.Sorted(maps.Keys(s.Bind)) {
		b.WriteByte(0)
		b.WriteString(name)
		b.WriteByte(0)
		b.WriteString(s.Bind[name])
	}
	return b.String(), true
}
