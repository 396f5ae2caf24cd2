package link

import (
	"errors"
	"testing"

	"synaptor/internal/core/device"
)

// saying is a connection that says one thing.
type saying struct {
	Conn
	batch Batch
	err   error
}

func (s *saying) Read() (Batch, error) { return s.batch, s.err }

func TestSecretsEndInTheLink(t *testing.T) {
	for _, c := range []struct{ password, said, want string }{
		{"eyepiece", "you said eyepiece", "you said •••"},
		{"eyepiece", "eyepiece", "•••"},
		{"eyepiece", "Basic ZGVzazpleWVwaWVjZQ==", "Basic •••"},
		{"4711", "4711", "•••"},
		{"4711", "room 4711", "room 4711"},
		{"on", "on", "on"},
		{"", "anything", "anything"},
		{"dome lights", "dome lights", "dome lights"}, // the factory's
	} {
		to := Target{User: "desk", Password: c.password, Link: &device.LinkSpec{Login: &device.LoginSpec{Factory: "dome lights"}}}
		s := &saying{batch: Batch{Answers: []Answer{{Text: c.said}}, Messages: []device.Message{{Address: "/x", Args: []any{1, c.said},
			Body: map[string]any{"a": []any{c.said, 2.5, nil}, "b": map[string]any{"c": c.said}}}}}}
		b, err := withMask(s, to).Read()
		if err != nil {
			t.Fatal(err)
		}
		body := b.Messages[0].Body.(map[string]any)
		for what, got := range map[string]any{"an answer": b.Answers[0].Text, "an argument": b.Messages[0].Args[1], "in a list": body["a"].([]any)[0], "in an object": body["b"].(map[string]any)["c"]} {
			if got != c.want {
				t.Errorf("%s with the password %q: %q is passed on as %q", what, c.password, c.said, got)
			}
		}
	}
	_, err := withMask(&saying{err: &BadInput{errors.New("no such key as eyepiece")}}, Target{Password: "eyepiece"}).Read()
	var bad *BadInput
	if !errors.As(err, &bad) || bad.Error() != "no such key as •••" {
		t.Errorf("an error says %v", err)
	}
}
