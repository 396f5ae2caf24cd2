package device

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Message is one message of a device in typed form. What its parts are depends
// on the protocol:
//
//	osc      Address, and Args (int, float64 or string)
//	jsonrpc  Address is the method, Body the params or the result
//	http     Verb, Address (a path) and Body; an event of a stream has its name as Address
//	mqtt     Address is the topic, Body the payload
//	lines    Address is the line
//	local    Address is the function, and Args
type Message struct {
	Verb    string `json:"verb,omitempty"`
	Address string `json:"address"`
	Args    []any  `json:"args,omitempty"`
	Body    any    `json:"body,omitempty"`
}

// String gives the message as a person writes it by hand.
func (m Message) String() string {
	parts := []string{m.Address}
	if m.Verb != "" {
		parts = []string{m.Verb, m.Address}
	}
	for _, a := range m.Args {
		if s, ok := a.(string); ok && !bare(s) {
			a = strconv.Quote(s)
		}
		parts = append(parts, fmt.Sprint(a))
	}
	if s, ok := m.Body.(string); ok {
		parts = append(parts, s)
	} else if m.Body != nil {
		b, err := json.Marshal(m.Body)
		if err != nil {
			b = []byte(fmt.Sprint(m.Body))
		}
		parts = append(parts, string(b))
	}
	return strings.Join(parts, " ")
}

// Size is about how many bytes the message has.
func (m Message) Size() int {
	n := len(m.Verb) + len(m.Address) + sizeOf(m.Body)
	for _, a := range m.Args {
		n += sizeOf(a)
	}
	return n
}

func sizeOf(v any) int {
	n := 8
	switch v := v.(type) {
	case string:
		n = len(v)
	case []any:
		for _, o := range v {
			n += sizeOf(o)
		}
	case map[string]any:
		for k, o := range v {
			n += len(k) + sizeOf(o)
		}
	}
	return n
}

// bare reports whether a text can stand without quotes and be read as itself.
func bare(s string) bool {
	return s != "" && s[0] != '"' && !strings.ContainsFunc(s, func(r rune) bool { return !unicode.IsGraphic(r) || unicode.IsSpace(r) }) &&
		word{text: s}.value() == any(s)
}

// Parse reads a message that was written by hand, in the words of a driver:
//
//	osc, local  /lamp/1/on 1 0.5 "a text"
//	jsonrpc     scene.show {"scene": 3}
//	http        PUT /lamps/1 {"on": true}
//	mqtt        lamps/1/on/set true
//	lines       the line itself
//
// Arguments and bodies that are JSON keep their types; anything else is text.
func Parse(driver, text string) (Message, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return Message{}, errors.New("the message is empty")
	}
	if strings.ContainsAny(text, "\r\n\x00") {
		return Message{}, errors.New("a message is one line")
	}
	d := DriverNamed(driver)
	switch {
	case d == nil:
		return Message{}, fmt.Errorf("there is no driver %q", driver)
	case d.Carries == Line:
		return Message{Address: text}, nil
	case d.Carries == Arguments:
		return d.parseArguments(text)
	}
	return d.parseBody(text)
}

// parseArguments reads an address with arguments behind it.
func (d *Driver) parseArguments(text string) (Message, error) {
	words, err := split(text)
	if err != nil {
		return Message{}, err
	}
	address := words[0].text
	if d.Strict && !strings.HasPrefix(address, "/") {
		return Message{}, fmt.Errorf("an OSC address begins with a slash, %q does not", address)
	}
	if strings.ContainsFunc(address, func(r rune) bool { return r <= ' ' || r > '~' || r == '#' || r == ',' }) {
		return Message{}, fmt.Errorf("%q is no address: spaces, # and , have no place in one, nor has anything but ASCII", address)
	}
	m := Message{Address: address}
	for _, w := range words[1:] {
		m.Args = append(m.Args, w.value())
	}
	return m, nil
}

// parseBody reads an address, with a verb before it where the protocol has one, and a
// body behind it.
func (d *Driver) parseBody(text string) (Message, error) {
	head, body, _ := strings.Cut(text, " ")
	m := Message{Address: head}
	if len(d.Verbs) > 0 {
		if m.Verb = strings.ToUpper(head); !slices.Contains(d.Verbs, m.Verb) {
			return Message{}, fmt.Errorf("a request begins with GET, PUT, POST, PATCH or DELETE, not with %q", head)
		}
		m.Address, body, _ = strings.Cut(strings.TrimSpace(body), " ")
		if !strings.HasPrefix(m.Address, "/") {
			return Message{}, fmt.Errorf("the path of a request begins with a slash, %q does not", m.Address)
		}
	}
	if body = strings.TrimSpace(body); body == "" {
		return m, nil
	}
	if err := json.Unmarshal([]byte(body), &m.Body); err != nil {
		if d.JSONBody {
			return Message{}, fmt.Errorf("the parameters are no JSON: %w", err)
		}
		m.Body = body
	}
	return m, nil
}

// word is a part of a message by hand; quoted ones are texts.
type word struct {
	text   string
	quoted bool
}

func (w word) value() any {
	if w.quoted {
		return w.text
	}
	if n, err := strconv.Atoi(w.text); err == nil && n >= math.MinInt32 && n <= math.MaxInt32 {
		return n
	}
	if f, err := strconv.ParseFloat(w.text, 64); err == nil && !math.IsNaN(f) {
		return f
	}
	return w.text
}

// split cuts a text at its spaces, but not inside of quotes.
func split(text string) ([]word, error) {
	var out []word
	for text = strings.TrimSpace(text); text != ""; text = strings.TrimSpace(text) {
		if text[0] != '"' {
			head, rest, _ := strings.Cut(text, " ")
			out = append(out, word{text: head})
			text = rest
			continue
		}
		quoted, err := strconv.QuotedPrefix(text)
		if err != nil {
			return nil, errors.New("a quote is not closed")
		}
		plain, err := strconv.Unquote(quoted)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", quoted, err)
		}
		out = append(out, word{plain, true})
		text = text[len(quoted):]
	}
	return out, nil
}
