package show

import (
	"cmp"
	"fmt"
	"hash/crc32"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reflex"
)

// Reflex starts a response with no hand on a control: on an event, provided that something is so, no more often than a time, never while something is
// so.
type Reflex struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Group    string `json:"group,omitempty"`
	Position int    `json:"position"`
	Off      bool   `json:"off,omitempty"`
	On       On     `json:"on"`
	// When has to hold, and Unless must not; both may say event.who and so on.
	When   string `json:"when,omitempty"`
	Unless string `json:"unless,omitempty"`
	Then   Call   `json:"then"`
	// EveryMs is the time it fires at most once in, for each value of the event's field Per; 0: as often as it comes.
	EveryMs int    `json:"everyMs,omitempty"`
	Per     string `json:"per,omitempty"`
	Beyond  string `json:"beyond,omitempty"` // what becomes of what comes too often: see reflex.Beyonds
	Length  int    `json:"length,omitempty"` // of the queue
	// Table fills the response by a field of the event; nil: there is none.
	Table *reflex.Table `json:"table,omitempty"`
	// Hold is how it holds what its response sets, where it follows its condition.
	Hold *Hold `json:"hold,omitempty"`
	// Owner is the id of who has made it and whose rights it has; empty: those of this computer.
	Owner string `json:"owner,omitempty"`
}

// Hold is how a reflex that follows its condition holds something.
type Hold struct {
	By      float64 `json:"by,omitempty"`      // by how much a number is taken down, in its unit; 0: it is set to what the response says
	OverMs  int     `json:"overMs,omitempty"`  // the time that takes
	AfterMs int     `json:"afterMs,omitempty"` // how long the condition has to be over until it returns
	BackMs  int     `json:"backMs,omitempty"`  // the time the return takes
}

// On is what starts a reflex.
type On struct {
	Kind   string `json:"kind"`             // see reflex.Kinds
	Device string `json:"device,omitempty"` // of a reading, a link, a device's own event
	Path   string `json:"path,omitempty"`   // of the reading
	// Edge is what a reading does (see reflex.Edges); a link comes or goes.
	Edge  string  `json:"edge,omitempty"`
	Value string  `json:"value,omitempty"` // that a reading becomes or leaves
	Level float64 `json:"level,omitempty"` // that it crosses
	Back  float64 `json:"back,omitempty"`  // hysteresis
	ForMs int     `json:"forMs,omitempty"` // how long it has to have been so
	Event string  `json:"event,omitempty"` // the device's own, by its id
	// Controller and Control say whose gesture; no control is any of the controller.
	Controller string `json:"controller,omitempty"`
	Control    string `json:"control,omitempty"`
	Gesture    string `json:"gesture,omitempty"`
	Signal     string `json:"signal,omitempty"`   // by its name
	Macro      string `json:"macro,omitempty"`    // by id; none is any
	Timecode   string `json:"timecode,omitempty"` // the point that is passed
	reflex.Schedule
}

// What links and panels do.
const (
	Comes = "comes"
	Goes  = "goes"
)

// What macros do, and how Synaptor can have ended before it started.
const (
	Begins  = "begins"
	Ends    = "ends"
	Fails   = "fails"
	Halts   = "halts"
	Clean   = "clean"
	Unclean = "unclean"
)

// MacroEdges lists what macros do.
var MacroEdges = []string{Begins, Ends, Fails, Halts}

// Bounds of reflexes.
const (
	//limit:count queue of what comes too often for a reflex | at the edit
	maxReflexQueue = 100
	//limit:count time, in ms, that a reflex waits or fires once in: a day | at the edit
	maxReflexMs = 24 * 3600 * 1000
	//limit:count characters of a condition of a reflex | at the edit
	maxReflexCondition = 1000
	//limit:count characters in the name of a signal | at the edit
	maxSignal = 60
)

// CheckSignal says what is wrong with the name of a signal, or "".
func CheckSignal(name string) string {
	if !strings.ContainsFunc(name, isLetterOrDigit) || utf8.RuneCountInString(name) > maxSignal {
		return fmt.Sprintf("Name the signal, with 1 to %d characters.", maxSignal)
	}
	return ""
}

func isLetterOrDigit(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// SignalKey is what a signal is known by: names that differ in upper case or signs only are the same one.
func SignalKey(name string) string {
	key := Slug(name, func(string) bool { return false })
	other := strings.Map(func(r rune) rune {
		if r > unicode.MaxASCII && isLetterOrDigit(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, name)
	if other == "" {
		return key
	}
	return fmt.Sprintf("%s-%08x", key, crc32.ChecksumIEEE([]byte(other))) // in paths there are letters of ASCII only
}

// Ref implements Entity.
func (e *Reflex) Ref() Ref { return Ref{KindReflex, e.ID} }

// Title implements Entity.
func (e *Reflex) Title() string { return e.Name }

// Reflex returns a reflex by id, or nil.
func (s *Show) Reflex(id string) *Reflex {
	r, _ := s.entities[KindReflex][id].(*Reflex)
	return r
}

// Reflexes returns all reflexes in order, which is that in which one event is taken up.
func (s *Show) Reflexes() []*Reflex {
	return sorted(s, KindReflex, func(a, b *Reflex) int { return cmp.Or(a.Position-b.Position, strings.Compare(a.ID, b.ID)) })
}

// CheckReflex says what is wrong with a reflex, one error a field.
func (s *Show) CheckReflex(r *Reflex) (errs []*FieldError) {
	add := func(field, text string) { errs = append(errs, &FieldError{field, text}) }
	if text := CheckName(r.Name); text != "" {
		add("name", text)
	}
	r.On.check(add)
	for field, source := range map[string]string{"when": r.When, "unless": r.Unless} {
		if source == "" {
			continue
		}
		if len(source) > maxReflexCondition {
			add(field, fmt.Sprintf("A condition has at most %d characters.", maxReflexCondition))
		} else if _, err := expr.Compile(source, expr.Scope{}); err != nil {
			add(field, "This condition cannot be read: "+err.Error()+".")
		}
	}
	if r.Then.Device == "" || r.Then.Action == "" {
		add("then", "Choose what it does.")
	}
	if r.EveryMs < 0 || r.EveryMs > maxReflexMs {
		add("everyMs", "A time is from 0 to a day.")
	}
	if r.Beyond != "" && !slices.Contains(reflex.Beyonds, r.Beyond) {
		add("beyond", "What comes too often is dropped, waits in a queue, or replaces what waits.")
	}
	if why := r.Table.Check(); why != "" {
		add("table", why)
	}
	r.checkHold(add)
	if r.Length < 0 || r.Length > maxReflexQueue || r.Beyond == reflex.Queue && r.Length == 0 {
		add("length", fmt.Sprintf("A queue has from 1 to %d places.", maxReflexQueue))
	}
	return errs
}

func (r *Reflex) checkHold(add func(field, text string)) {
	follows := r.On.Kind == reflex.OnWhile
	switch {
	case follows && r.When == "":
		add("when", "Say what it follows: it holds something while that is so.")
	case follows && r.Table != nil:
		add("table", "What follows a condition has no event that could find a row.")
	case follows && r.EveryMs > 0:
		add("everyMs", "What follows a condition does so each time.")
	case !follows && r.Hold != nil:
		add("hold", "Only what follows a condition holds something.")
	}
	if h := r.Hold; h != nil && (h.By < 0 || min(h.OverMs, h.AfterMs, h.BackMs) < 0 || max(h.OverMs, h.AfterMs, h.BackMs) > maxReflexMs) {
		add("hold", "Times are from 0 to a day, and what it is taken down by is 0 or more.")
	}
}

// timecodePoint is how a point in time code is written (SMPTE ST 12-1).
var timecodePoint = regexp.MustCompile(`^([01]\d|2[0-3])(:[0-5]\d){2}:[0-5]\d$`)

func (o On) check(add func(field, text string)) {
	needs := func(field, value, text string) {
		if value == "" {
			add(field, text)
		}
	}
	oneOf := func(edges ...string) {
		if !slices.Contains(edges, o.Edge) {
			add("on.edge", "Choose what has to happen: "+strings.Join(edges, ", ")+".")
		}
	}
	if o.ForMs < 0 || o.ForMs > maxReflexMs {
		add("on.forMs", "A time is from 0 to a day.")
	}
	if o.Back < 0 {
		add("on.back", "How far it has to go back is 0 or more.")
	}
	switch o.Kind {
	case reflex.OnReading:
		needs("on.device", o.Device, "Choose the device.")
		needs("on.path", o.Path, "Choose the reading.")
		oneOf(reflex.Edges...)
	case reflex.OnLink:
		needs("on.device", o.Device, "Choose the device.")
		oneOf(Comes, Goes)
	case reflex.OnDevice:
		needs("on.device", o.Device, "Choose the device.")
		needs("on.event", o.Event, "Choose the event.")
	case reflex.OnGesture:
		needs("on.controller", o.Controller, "Choose the controller.")
		needs("on.gesture", o.Gesture, "Choose the gesture.")
	case reflex.OnSignal:
		if why := CheckSignal(o.Signal); why != "" {
			add("on.signal", why)
		}
	case reflex.OnMacro:
		oneOf(MacroEdges...)
	case reflex.OnSchedule:
		if field, why := o.Schedule.Check(); field != "" {
			add(field, why)
		}
	case reflex.OnTimecode:
		if !timecodePoint.MatchString(o.Timecode) {
			add("on.timecode", "A point in time code is written as 10:00:00:00.")
		}
	case reflex.OnPanel:
		oneOf(Comes, Goes)
	case reflex.OnStart:
		if o.Edge != "" {
			oneOf(Clean, Unclean)
		}
	case reflex.OnWhile:
	default:
		add("on.kind", "Choose what starts it.")
	}
}
