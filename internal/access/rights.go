package access

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/reading"
)

// Rights narrow what somebody may do down to some controllers and some readings. Nil rights narrow nothing. They never change.
type Rights struct {
	// Controllers are the ids of those that may be pressed; nil: all.
	Controllers []string `json:"controllers"`
	// Changes are the readings that may be changed, as device:path, where * stands for a part of a path, and at its end for all that
	// follow; nil: all.
	Changes []string `json:"changes"`
}

// Bounds of the rights of somebody.
const (
	//limit:count controllers, and patterns of readings, of somebody's rights | at the form
	maxRights = 100
	//limit:count characters of a pattern of readings | at the form
	maxPattern = 200
)

// Check says what is wrong with rights, in a sentence; empty: nothing.
func (r *Rights) Check() string {
	if r == nil {
		return ""
	}
	if len(r.Controllers) > maxRights || len(r.Changes) > maxRights {
		return fmt.Sprintf("At most %d controllers and %d patterns can be named.", maxRights, maxRights)
	}
	for _, p := range r.Changes {
		device, path, ok := strings.Cut(p, ":")
		if !ok || device == "" || path == "" || len(p) > maxPattern || strings.ContainsAny(p, " \t\n") {
			return fmt.Sprintf("%q is not device:path, such as dome-switcher:mix/1/* or sound-desk:*.", p)
		}
	}
	return ""
}

// Narrow tells whether anything is narrowed.
func (r *Rights) Narrow() bool { return r != nil && (r.Controllers != nil || r.Changes != nil) }

// MayPress tells whether a controller may be pressed.
func (r *Rights) MayPress(controller string) bool {
	return r == nil || r.Controllers == nil || slices.Contains(r.Controllers, controller)
}

// covers tells whether a pattern covers a path.
func covers(pattern, path string) bool {
	for {
		p, restP, moreP := strings.Cut(pattern, "/")
		q, rest, more := strings.Cut(path, "/")
		switch {
		case p == "*" && !moreP:
			return true
		case p != "*" && p != q, moreP != more:
			return false
		case !moreP:
			return true
		}
		pattern, path = restP, rest
	}
}

// pattern is a pattern of readings, taken apart once: most are a path, or all below one.
type pattern struct {
	device, path string
	all          bool // everything of the device
	below        bool // path is a prefix; else it is a whole path
	parts        bool // there is a * within: it is compared part by part
}

func compile(text string) (p pattern) {
	p.device, p.path, _ = strings.Cut(text, ":")
	rest, below := strings.CutSuffix(p.path, "*")
	switch {
	case p.path == "*":
		p.all = true
	case below && !strings.Contains(rest, "*") && strings.HasSuffix(rest, "/"):
		p.below, p.path = true, rest
	case strings.Contains(p.path, "*"):
		p.parts = true
	}
	return p
}

func (p *pattern) covers(k reading.Key) bool {
	switch {
	case p.device != k.Device:
		return false
	case p.all:
		return true
	case p.below:
		return len(k.Path) > len(p.path) && k.Path[:len(p.path)] == p.path
	case p.parts:
		return covers(p.path, k.Path)
	default:
		return p.path == k.Path
	}
}

// compiled are the rights of somebody as decisions are made with them.
type compiled struct {
	*Rights
	changes []pattern
}

func compileRights(r *Rights) compiled {
	c := compiled{Rights: r}
	if r != nil {
		for _, text := range r.Changes {
			c.changes = append(c.changes, compile(text))
		}
	}
	return c
}

// allow returns "" where the rights cover a command, else the sentence that says why not.
func (r compiled) allow(c Command) string {
	if r.Rights == nil || r.Changes == nil {
		return ""
	}
	if len(c.Changes) == 0 {
		if slices.ContainsFunc(r.changes, func(p pattern) bool { return p.all && p.device == c.Device }) {
			return ""
		}
		return fmt.Sprintf("%s may not do this: it takes the right to all of the device.", c.Actor.Name)
	}
	for _, k := range c.Changes {
		if !r.mayChange(k) {
			return fmt.Sprintf("%s may not change %s of this device.", c.Actor.Name, k.Path)
		}
	}
	return ""
}

// mayChange tells whether a reading may be changed.
func (r compiled) mayChange(k reading.Key) bool {
	for i := range r.changes {
		if r.changes[i].covers(k) {
			return true
		}
	}
	return false
}
