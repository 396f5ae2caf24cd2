package hands

import (
	"math"
	"slices"

	"synaptor/internal/core/show"
)

// Proposal is what a learner takes what was touched for.
type Proposal struct {
	show.Binding // without a control
	// Sure says that enough was seen. Text is what to do else, and what it was taken for where it is sure.
	Sure bool   `json:"sure"`
	Text string `json:"text"`
	// Down and Share show it move: whether a key is down, and where a slider stands, from 0 to 1.
	Down  bool    `json:"down,omitempty"`
	Share float64 `json:"share,omitempty"`
	Turns float64 `json:"turns,omitempty"` // detents since it was touched first
}

const (
	// enough is how many events a dial or a fader is judged by.
	enough = 4
	// little is the share of its range that an axis or a fader moves at least.
	little = 0.2
)

// Learner finds out what is touched, and of which kind it is, from what hardware says. It is not safe for concurrent use.
type Learner struct {
	kind    string // of the control that is learned; empty: any
	traces  map[string]*trace
	current *trace
	alone   bool   // a modifier is held, and nothing else yet
	touch   string // the key that went down last
}

// trace is what was seen of a source.
type trace struct {
	source    string
	events    []Event // At and By
	key       bool
	down      bool
	low, high float64
	translate *Translator // as it is taken for, to show it move
	turned    float64
	proposed  show.Binding
}

// maxTraced is how much is kept of each source, and of how many.
//
//limit:count events of a key or an axis, and keys and axes, that a lesson judges by | nowhere; the oldest are forgotten
const maxTraced = 400

// NewLearner begins to learn for a kind of control.
func NewLearner(kind string) *Learner { return &Learner{kind: kind, traces: map[string]*trace{}} }

// Take takes an event. ok: p is what was touched, as far as it is known.
func (l *Learner) Take(e Event) (p Proposal, ok bool) {
	if !finite(e.Value) {
		return p, false
	}
	source := e.Source
	if e.Sort == On || e.Sort == Off {
		switch m := Modifier(source); {
		case m != 0 && e.Sort == On: // what is pressed while it is held may make a combination of it
			l.alone = true
			return p, false
		case m != 0 && !l.alone:
			return p, false
		case m != 0:
			l.alone, l.touch = false, ""
		case e.Sort == On:
			l.alone = false
			source = Combination(e.Mods, source)
			l.touch = source
		default:
			if l.current != nil && l.current.key && l.current.down {
				source = l.current.source
			}
		}
	}
	t := l.traces[source]
	if t == nil {
		if len(l.traces) >= maxTraced {
			return p, false
		}
		t = &trace{source: source, low: math.Inf(1), high: math.Inf(-1)}
		l.traces[source] = t
	}
	switch e.Sort {
	case On, Off:
		t.key, t.down = true, e.Sort == On
		if l.current != nil && !l.current.key && l.current.proposed.Touched == source {
			return l.proposal(l.current), true // a hand leaves a fader
		}
	default:
		t.low, t.high = min(t.low, e.Value), max(t.high, e.Value)
		if t.events = append(t.events, e); len(t.events) > maxTraced {
			t.events = slices.Delete(t.events, 1, 2) // the first says where it rested
		}
		if l.current != nil && l.current != t && !t.moves() && l.whole(t) == nil {
			return p, false // something trembles while another is touched
		}
	}
	if whole := l.whole(t); whole != nil {
		t = whole
	}
	l.current = t
	return l.proposal(t), true
}

// moves tells whether something moves, rather than trembles.
func (t *trace) moves() bool {
	e := t.events[0]
	return len(t.events) >= enough && (e.Sort == By || t.high-t.low >= 0.05*(e.High-e.Low))
}

// whole is the trace of the upper half, where a source is the lower half of a fader that moves.
func (l *Learner) whole(t *trace) *trace {
	for _, other := range l.traces {
		if lowerHalf(other.source) == t.source && min(len(other.events), len(t.events)) > max(len(other.events), len(t.events))/2 {
			return other
		}
	}
	return nil
}

// proposal says what a trace is taken for.
func (l *Learner) proposal(t *trace) Proposal {
	p := Proposal{Binding: show.Binding{Source: t.source}}
	switch {
	case t.key:
		p.As, p.Sure, p.Down = show.AsKey, true, t.down
		p.Text = "A key."
	case t.events[0].Sort == By:
		p.As, p.Sure, p.Text = show.AsDial, true, "A dial that is turned without end."
	case t.two():
		p.As, p.Sure, p.Text = show.AsKey, true, "A key that says it is down and up as numbers."
		p.Down = t.events[len(t.events)-1].Value == t.high && t.high > t.low
		if t.low == t.high { // only one was said yet
			p.Down = t.high > 0
		}
	default:
		l.dialOrSlider(t, &p)
	}
	l.suit(t, &p)
	t.show(&p)
	return p
}

// two tells whether something says only two numbers, both ends of what it can.
func (t *trace) two() bool {
	for _, e := range t.events {
		if e.Value != e.Low && e.Value != e.High {
			return false
		}
	}
	return true
}

// dialOrSlider tells a dial without end, which says how far it was turned, from what has ends.
func (l *Learner) dialOrSlider(t *trace, p *Proposal) {
	first := t.events[0]
	if encoding, both := t.relative(); encoding != "" {
		p.As, p.Encoding, p.Sure = show.AsDial, encoding, both
		if p.Text = "A dial that is turned without end, " + words[encoding] + "."; !both {
			p.Text = "A dial without end. Turn it the other way too."
		}
		return
	}
	p.As = show.AsSlider
	if low := l.traces[lowerHalf(t.source)]; low != nil && l.whole(low) == t {
		p.Encoding = show.Pair
	}
	span := first.High - first.Low
	p.Sure = span > 0 && (t.high-t.low)/span >= little && len(t.events) >= enough
	p.Text = "Move it from one end to the other."
	if p.Sure {
		p.Text = "A fader or an axis, with its ends as it was moved."
		if span != 127 && span != fullScale || first.Low != 0 { // an axis: its ends are where it was moved to
			if p.Low, p.High = t.low, t.high; first.Value-t.low > t.high-first.Value {
				p.Low, p.High = t.high, t.low // it rests at its upper end
			}
		}
	}
	if on := l.traces[l.touch]; on != nil && on.down {
		p.Touched = l.touch
	}
}

// words say how a dial says that it was turned.
var words = map[string]string{show.Twos: "in two's complement", show.Offset: "around 64", show.Sign: "with a sign"}

// relative tells how a dial without end says its turns; empty: it has ends. both: it was turned both ways, so that it is certain.
func (t *trace) relative() (encoding string, both bool) {
	if len(t.events) < enough || t.events[0].Low != 0 || t.events[0].High != 127 {
		return "", false
	}
	again := 0 // what has ends never says twice that it is at the same place
	in := map[string][2]int{}
	count := func(encoding string, up, down bool) {
		n := in[encoding]
		if up {
			n[0]++
		}
		if down {
			n[1]++
		}
		in[encoding] = n
	}
	for i, e := range t.events {
		v := e.Value
		if i > 0 && v == t.events[i-1].Value {
			again++
		}
		up := v >= 1 && v <= 15
		count(show.Twos, up, v >= 113)
		count(show.Sign, up, v >= 65 && v <= 79)
		count(show.Offset, v >= 65 && v <= 79, v >= 49 && v <= 63)
	}
	if again < 2 {
		return "", false
	}
	for _, one := range []string{show.Twos, show.Offset, show.Sign} {
		if n := in[one]; n[0]+n[1] == len(t.events) && (encoding == "" || n[0] > 0 && n[1] > 0) {
			encoding, both = one, n[0] > 0 && n[1] > 0
			if both {
				return encoding, true
			}
		}
	}
	return encoding, both
}

// suit makes what was touched do for the control that is learned, where it can.
func (l *Learner) suit(t *trace, p *Proposal) {
	switch l.kind {
	case "key", "touch", "button", "pedal":
		switch {
		case p.As == show.AsSlider:
			p.As, p.Encoding, p.Text = show.AsKey, "", "It is down beyond the middle of its way."
		case p.As == show.AsDial && p.Encoding != "":
			p.Sure, p.Text = false, "This is a dial; a key cannot be turned. Touch a key."
		}
	case "dial":
		if p.As == show.AsSlider {
			p.As, p.Encoding = show.AsDial, show.Absolute
			if p.Sure {
				p.Text = "A dial with ends."
			}
		}
	case "slider", "ribbon":
		if p.As != show.AsSlider {
			p.Sure, p.Text = false, "A "+p.As+" cannot move a slider. Touch a fader or an axis."
		}
	}
}

// show has a proposal show where its source stands.
func (t *trace) show(p *Proposal) {
	if t.key {
		t.proposed = p.Binding
		return
	}
	b := p.Binding
	b.Control = "x"
	if t.translate == nil || !same(t.proposed, p.Binding) {
		t.translate, t.turned = NewTranslator([]show.Binding{b}), 0
		for _, e := range t.events[:len(t.events)-1] {
			t.play(e)
		}
	}
	t.proposed = p.Binding
	t.play(t.events[len(t.events)-1])
	if x := t.translate.bound[t.source]; x != nil {
		p.Share, p.Turns = x.share, t.turned
		if p.As == show.AsKey {
			p.Down = x.down
		}
	}
}

func (t *trace) play(e Event) {
	moves, _ := t.translate.Take(e)
	for _, m := range moves {
		if m.Edge == "turn" {
			t.turned += m.Amount
		}
	}
}

// same tells whether two proposals are the same but for where their ends are.
func same(a, b show.Binding) bool {
	return a.Source == b.Source && a.As == b.As && a.Encoding == b.Encoding && a.Low == b.Low && a.High == b.High
}
