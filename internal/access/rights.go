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

// mayChange tells whether a reading may be changed.
func (r *Rights) mayChange(k reading.Key) bool {
	return slices.ContainsFunc(r.Changes, func(pattern string) bool {
		device, path, _ := strings.Cut(pattern, ":")
		return device == k.Device && covers(path, k.Path)
	})
}

// mayAll tells whether everything of a device may be changed: what an action without declared effects takes.
func (r *Rights) mayAll(device string) bool { return slices.Contains(r.Changes, device+":*") }

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

// Allow returns "" when the command may leave, else the sentence that says why not: it asks for the rights of whoever caused it, however
// deep in macros that is.
func Allow(c Command) string {
	r := c.Actor.Rights
	if r == nil || r.Changes == nil || c.Closes {
		return ""
	}
	if len(c.Changes) == 0 && !r.mayAll(c.Device) {
		return fmt.Sprintf("%s may not do this: it takes the right to all of the device.", c.Actor.Name)
	}
	for _, k := range c.Changes {
		if !r.mayChange(k) {
			return fmt.Sprintf("%s may not change %s of this device.", c.Actor.Name, k.Path)
		}
	}
	return ""
}
