package device

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/expr"
)

// ReplySpec says where a device answers a command or explains what it refuses, and how that
// is tied to the command.
type ReplySpec struct {
	FromSpec
	// Of is where it repeats what it answers: a number is an argument, a text a JSON pointer into
	// the body; a line has {of} in it.
	Of any `json:"of,omitempty"`
	// Tie is in-order where every command gets one answer, in the order of the commands.
	Tie string `json:"tie,omitempty"`
}

// Tie says how a reply finds its command.
type Tie int

// The ties.
const (
	Guessed  Tie = iota // nothing ties it
	Repeated            // it repeats the address or the line
	InOrder             // it belongs to the oldest command without an answer
)

// Reply is a device's word on a command that names no number of the protocol.
type Reply struct {
	OK   bool
	Text string
	Tie  Tie
	Of   string // what it repeats
}

// Fits reports whether a message, as a person reads it, is what the reply repeats.
func (r Reply) Fits(message string) bool {
	message, of := strings.TrimPrefix(message, "/"), strings.TrimPrefix(strings.TrimSpace(r.Of), "/")
	return of != "" && (message == of || strings.HasPrefix(message, of+" "))
}

// replySource says what a source's message is a reply to.
type replySource struct {
	ok   bool
	tie  Tie
	arg  int
	body pointer // nil: an argument
}

const inOrder = "in-order"

// compileReply makes a source of a ReplySpec.
func (t *Type) compileReply(spec ReplySpec, ok bool, derived string) (*source, error) {
	s, err := t.compileSource(spec.FromSpec, derived)
	if err != nil {
		return nil, err
	}
	s.reply = &replySource{ok: ok}
	switch {
	case spec.Tie == inOrder && spec.Of != nil:
		return nil, errors.New("a reply is tied by of or in-order, not by both")
	case spec.Tie == inOrder && !t.AnswersInOrder():
		return nil, errors.New("a refusal is in order only where the answers are: say so of answer too")
	case spec.Tie == inOrder:
		s.reply.tie = InOrder
	case spec.Tie != "":
		return nil, fmt.Errorf("there is no tie %q, only %q", spec.Tie, inOrder)
	case spec.Of == nil && slices.Contains(s.names, "of"):
		s.reply.tie = Repeated
	case spec.Of == nil && ok:
		return nil, errors.New("an answer needs a tie to its command: of, {of} in the line, or in-order")
	case spec.Of == nil: // a refusal may be a guess
	default:
		s.reply.tie = Repeated
		err = s.reply.compileOf(spec.Of, t.Driver.Carries)
	}
	return s, err
}

// compileOf takes in where a reply repeats what it answers.
func (r *replySource) compileOf(of any, in Carries) (err error) {
	switch of := of.(type) {
	case float64:
		if in != Arguments || of != float64(int(of)) || of < 0 {
			return errors.New("of is the number of an argument, where messages have arguments")
		}
		r.arg = int(of)
	case string:
		if in != Body {
			return errors.New("of is a JSON pointer only where messages have a body")
		}
		r.body, err = parsePointer(of)
	default:
		err = errors.New("of is a number or a text")
	}
	return err
}

// reply takes in a message that answers a command.
func (t *Type) reply(s *source, m Message, of string, out *Matched) error {
	r := Reply{OK: s.reply.ok, Tie: s.reply.tie, Of: of}
	value := any("")
	switch {
	case s.body != nil:
		s.body.walk(m.Body, nil, func(v any, _ []string) { value = v })
	case s.arg < len(m.Args):
		value = m.Args[s.arg]
	}
	switch {
	case s.reply.body != nil:
		s.reply.body.walk(m.Body, nil, func(v any, _ []string) { r.Of = expr.Text(v) })
	case s.line == nil && r.Tie == Repeated && s.reply.arg < len(m.Args):
		r.Of = expr.Text(m.Args[s.reply.arg])
	}
	if s.as != nil {
		var err error
		if value, err = s.as.EvalWith(expr.Nothing{}, value); err != nil {
			return err
		}
	}
	r.Text = textOf(value)
	if r.Tie == Repeated && r.Of == "" {
		r.Tie = Guessed // it does not say so this time
	}
	out.Replies = append(out.Replies, r)
	return nil
}

// textOf is what a device says in a reply.
func textOf(v any) string {
	switch v.(type) {
	case map[string]any, []any:
		text, _ := json.Marshal(v) // it was JSON
		return string(text)
	}
	return expr.Text(v)
}
