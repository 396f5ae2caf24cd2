package device

import (
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// source is one place where a reading is reported, or an event raised.
type source struct {
	reading *Reading
	event   *eventSource
	reply   *replySource
	full    string         // the index that it lists all values of; empty: none
	address pattern        // not for lines
	line    *regexp.Regexp // for lines
	names   []string       // the placeholders of a line, in order
	arg     int
	body    pointer // nil: an argument
	as      *expr.Program
}

// eventSource is a compiled event.
type eventSource struct {
	spec   *EventSpec
	fields map[string]fieldSource
}

type fieldSource struct {
	arg     int
	body    pointer // nil: an argument
	picture string  // the kind of picture that it names; empty: it is a text
}

// Report is a reading that a message brought.
type Report struct {
	Path  string
	Value reading.Value
}

// Event is something that happened, which is not a state.
type Event struct {
	ID     string
	Title  string
	Fields map[string]string
	// pictures are those of the fields that name a picture of the device.
	pictures []string
}

// Of is the event with the device in the names of its pictures, as in audience:viewer-v3: what is said so stands for that picture wherever it goes.
func (e Event) Of(device string) Event {
	for _, name := range e.pictures {
		if e.Fields[name] != "" {
			e.Fields[name] = device + ":" + e.Fields[name]
		}
	}
	e.pictures = nil
	return e
}

// Matched is what a message means.
type Matched struct {
	Reports []Report
	Events  []Event
	Replies []Reply
	Lists   []List
	Known   bool // the message is one that the sheet describes
}

// compileSource makes a source of a FromSpec. derived is the address made of
// the path, without a slash in front.
func (t *Type) compileSource(spec FromSpec, derived string) (*source, error) {
	s := &source{arg: spec.Arg}
	var err error
	if spec.As != "" {
		if s.as, err = expr.Compile(spec.As, expr.Scope{Device: "x"}); err != nil {
			return nil, err
		}
		if !s.as.Constant() {
			return nil, errors.New("as may use value, but no readings")
		}
	}
	if t.Driver.Carries == Line && !spec.Any {
		if spec.Line == "" {
			return nil, errors.New("say by which line it is reported")
		}
		s.line, s.names, err = compileLine(spec.Line)
		return s, err
	}
	if spec.Any {
		if t.Driver.Carries == Body {
			s.body = pointer{}
		}
		return s, nil
	}
	address := strings.TrimPrefix(spec.Address, "/")
	if address == "" {
		address = derived
	}
	s.address = pattern{source: address, segs: strings.Split(address, "/")}
	for _, seg := range s.address.segs {
		if strings.ContainsAny(seg, "{}") && !segment.MatchString(seg) || seg == "" {
			return nil, fmt.Errorf("%q is not an address: %q is neither a word nor an {index}", address, seg)
		}
	}
	if t.Driver.Carries == Body {
		s.body, err = parsePointer(spec.Value)
	}
	return s, err
}

// compileLine makes a pattern of a line with placeholders. One before a space
// is a word, the last one takes the rest, one before anything else ends there.
func compileLine(line string) (*regexp.Regexp, []string, error) {
	var b strings.Builder
	var names []string
	b.WriteString("^")
	for rest := line; rest != ""; {
		text, after, open := strings.Cut(rest, "{")
		b.WriteString(regexp.QuoteMeta(text))
		if !open {
			break
		}
		name, next, closed := strings.Cut(after, "}")
		if !closed || !segment.MatchString("{"+name+"}") {
			return nil, nil, fmt.Errorf("%q is not a line with {index}es and {value}", line)
		}
		if slices.Contains(names, name) {
			return nil, nil, fmt.Errorf("%q has {%s} twice", line, name)
		}
		names = append(names, name)
		switch {
		case next == "":
			b.WriteString(`(.*)`)
		case next[0] == ' ':
			b.WriteString(`(\S+)`)
		default:
			b.WriteString(`(.*?)`)
		}
		rest = next
	}
	b.WriteString("$")
	re, err := regexp.Compile(b.String())
	return re, names, err
}

// indexes lists the placeholders of a source, without the value.
func (s *source) indexes() []string {
	if s.line != nil {
		return slices.DeleteFunc(slices.Clone(s.names), func(n string) bool { return n == "value" })
	}
	return append(s.address.indexes(), s.body.indexes()...)
}

// Match finds what a message means. The error says what in it makes no sense;
// the rest of it counts.
func (t *Type) Match(m Message) (out Matched, err error) {
	for _, s := range t.byWire.find("/" + strings.TrimPrefix(m.Address, "/")) {
		err = errors.Join(err, t.take(s, m, nil, &out))
	}
	for _, s := range t.lines {
		groups := s.line.FindStringSubmatch(m.Address)
		if groups == nil {
			continue
		}
		line, vars, of := Message{Address: m.Address}, []string{}, ""
		for i, name := range s.names {
			switch {
			case name == "value":
				line.Args = []any{groups[i+1]}
			case name == "of" && s.reply != nil:
				of = groups[i+1]
			default:
				vars = append(vars, name, groups[i+1])
			}
		}
		if s.reply != nil {
			out.Known = true
			err = errors.Join(err, t.reply(s, line, of, &out))
			continue
		}
		err = errors.Join(err, t.take(s, line, vars, &out))
	}
	if !out.Known && t.anything != nil {
		out.Known = true
		out.Reports = append(out.Reports, Report{t.anything.reading.Path, cutText(m.String())})
	}
	return out, err
}

func (t *Type) take(s *source, m Message, vars []string, out *Matched) error {
	out.Known = true
	if s.line == nil {
		vars = slices.Clip(s.address.vars(strings.TrimPrefix(m.Address, "/")))
	}
	switch {
	case s.reply != nil:
		return t.reply(s, m, "", out)
	case s.event != nil && len(s.body) > 0:
		// Only where the message has what the event is about.
		s.body.walk(m.Body, vars, func(v any, vars []string) {
			if v != nil && v != "" {
				out.Events = append(out.Events, s.event.raise(m, vars))
			}
		})
		return nil
	case s.event != nil:
		out.Events = append(out.Events, s.event.raise(m, vars))
		return nil
	case s.body != nil:
		var err error
		var emitted [][]string
		s.body.walk(m.Body, vars, func(v any, vars []string) {
			err = errors.Join(err, t.value(s, v, vars, out))
			if s.full != "" {
				emitted = append(emitted, vars)
			}
		})
		if s.full != "" && m.Body != nil {
			out.Lists = append(out.Lists, s.list(vars, emitted)...)
		}
		return err
	case s.arg >= len(m.Args):
		return fmt.Errorf("%s came without a value", m.Address)
	}
	if err := t.value(s, m.Args[s.arg], vars, out); err != nil {
		return fmt.Errorf("%s: %w", m.Address, err)
	}
	return nil
}

// value takes in a value that was found for a source.
func (t *Type) value(s *source, v any, vars []string, out *Matched) error {
	if s.as != nil {
		var err error
		if v, err = s.as.EvalWith(expr.Nothing{}, v); err != nil {
			return err
		}
	}
	if v == nil {
		return nil // JSON's null: nothing is known
	}
	value, err := s.reading.fromWire(v)
	if err != nil {
		return fmt.Errorf("%s: %w", s.reading.Path, err)
	}
	path, err := s.reading.path.with(vars)
	if err != nil {
		return err
	}
	out.Reports = append(out.Reports, Report{Path: path, Value: value})
	return nil
}

// raise gives the event that a message is.
func (e *eventSource) raise(m Message, vars []string) Event {
	ev := Event{ID: e.spec.ID, Title: e.spec.Title, Fields: map[string]string{}}
	for i := 0; i+1 < len(vars); i += 2 {
		ev.Fields[vars[i]] = cutText(vars[i+1])
	}
	for name, f := range e.fields {
		if f.body == nil {
			if f.arg < len(m.Args) {
				ev.Fields[name] = cutText(expr.Text(m.Args[f.arg]))
			}
			continue
		}
		f.body.walk(m.Body, nil, func(v any, _ []string) { ev.Fields[name] = cutText(expr.Text(v)) })
	}
	for name, f := range e.fields {
		if f.picture != "" {
			ev.pictures = append(ev.pictures, name)
			if named := ev.Fields[name]; namesPicture(named) {
				ev.Fields[name] = f.picture + "-" + named
			} else {
				ev.Fields[name] = ""
			}
		}
	}
	// All at once: what a field says is no place for another one.
	var places []string
	for _, name := range slices.Sorted(maps.Keys(ev.Fields)) {
		places = append(places, "{"+name+"}", ev.Fields[name])
	}
	ev.Title = strings.NewReplacer(places...).Replace(ev.Title)
	return ev
}

func (t *Type) compileEvents(m *mistakes) {
	seen := map[string]bool{}
	for i := range t.Sheet.Events {
		spec := &t.Sheet.Events[i]
		where := fmt.Sprintf("/events/%d", i)
		m.twice(seen, where+"/id", "events", spec.ID)
		t.fromBelongs(m, where+"/from", spec.From)
		s, err := t.compileSource(spec.From, spec.ID)
		if err != nil {
			m.err(where+"/from", err)
			continue
		}
		s.event = &eventSource{spec: spec, fields: map[string]fieldSource{}}
		for _, name := range slices.Sorted(maps.Keys(spec.Fields)) {
			f, err := t.eventField(spec.Fields[name])
			m.err(where+"/fields"+Pointer(name), err)
			if p := slices.IndexFunc(t.Sheet.Pictures, func(p PictureSpec) bool { return p.Named == name }); p >= 0 {
				f.picture = t.Sheet.Pictures[p].ID
			}
			s.event.fields[name] = f
		}
		t.place(s)
	}
}

// eventField reads where a field of an event is.
func (t *Type) eventField(at string) (f fieldSource, err error) {
	if t.Driver.Carries == Body {
		if f.body, err = parsePointer(at); err != nil {
			return f, fmt.Errorf("%q is not a JSON pointer into the body", at)
		}
		return f, nil
	}
	if f.arg, err = strconv.Atoi(at); err != nil || f.arg < 0 {
		return f, fmt.Errorf("%q is not the number of an argument", at)
	}
	return f, nil
}

// place puts a source where Match finds it.
func (t *Type) place(s *source) {
	switch {
	case s.line != nil:
		t.lines = append(t.lines, s)
	default:
		t.byWire.add(s.address.segs, s)
	}
}
