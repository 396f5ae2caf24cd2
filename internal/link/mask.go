package link

import (
	"encoding/base64"
	"errors"
	"strings"
)

// mask stands for a secret.
const mask = "•••"

// maskWithin is how long a secret is, in bytes, to be masked within a longer text. A
// shorter one is masked where it is all that a text says: a part of it would be found
// where it was not meant.
const maskWithin = 6

// masked is a connection to a device that says the secrets back which it was told: in
// an answer, an error, a reading. What goes on from here is kept, in the journal, the
// readings and the archive, so they end here.
type masked struct {
	Conn
	secrets []string
}

// withMask masks the secrets of a target in what a connection reads. The password that
// every new device of a type has is no secret.
func withMask(c Conn, to Target) Conn {
	factory := to.Link != nil && to.Link.Login != nil && to.Link.Login.Factory == to.Password
	if len(to.Password) < 3 || factory {
		return c
	}
	// Basic authentication (RFC 7617) is the password in other letters.
	basic := base64.StdEncoding.EncodeToString([]byte(to.User + ":" + to.Password))
	return &masked{c, []string{basic, to.Password}}
}

// Read implements Conn.
func (m *masked) Read() (Batch, error) {
	b, err := m.Conn.Read()
	for i := range b.Messages {
		msg := &b.Messages[i]
		for j, a := range msg.Args {
			msg.Args[j] = m.value(a)
		}
		msg.Body = m.value(msg.Body)
	}
	for i := range b.Answers {
		b.Answers[i].Text = m.text(b.Answers[i].Text)
	}
	return b, m.err(err)
}

// value masks a value of a message in place.
func (m *masked) value(v any) any {
	switch v := v.(type) {
	case string:
		return m.text(v)
	case []any:
		for i := range v {
			v[i] = m.value(v[i])
		}
	case map[string]any:
		for k := range v {
			v[k] = m.value(v[k])
		}
	}
	return v
}

func (m *masked) text(s string) string {
	for _, secret := range m.secrets {
		switch {
		case s == secret:
			return mask
		case len(secret) >= maskWithin:
			s = strings.ReplaceAll(s, secret, mask)
		}
	}
	return s
}

// err masks what an error quotes.
func (m *masked) err(err error) error {
	var bad *BadInput
	if errors.As(err, &bad) && m.text(bad.Error()) != bad.Error() {
		return &BadInput{errors.New(m.text(bad.Error()))}
	}
	return err
}
