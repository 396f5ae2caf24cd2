package show

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
)

// Refs lists everything that is in a show, by kind and id.
func (s *Show) Refs() (out []Ref) {
	for _, k := range slices.Sorted(maps.Keys(s.entities)) {
		for _, id := range slices.Sorted(maps.Keys(s.entities[k])) {
			out = append(out, Ref{k, id})
		}
	}
	return out
}

// Read reads what Canonical gives, strictly, one thing after the other. mostBytes bounds one of them, and most how many
// there are. It fails with what is wrong.
func Read(r io.Reader, mostBytes, most int) (*Show, error) {
	in := json.NewDecoder(r)
	in.DisallowUnknownFields()
	if t, err := in.Token(); err != nil || t != json.Delim('[') {
		return nil, errors.New("it is no list")
	}
	d, seen := NewDraft(Empty()), map[Ref]bool{}
	for in.More() {
		e, err := readOne(in, seen, mostBytes)
		if err != nil {
			return nil, err
		}
		if seen[e.Ref()] = true; len(seen) > most {
			return nil, fmt.Errorf("it has more than %d things in it", most)
		}
		d.Put(e)
	}
	if _, err := in.Token(); err != nil {
		return nil, fmt.Errorf("it cannot be read: %w", err)
	}
	if in.More() {
		return nil, errors.New("it has something after its list")
	}
	e := d.Edit("read", 1)
	s, err := Empty().Apply(e)
	if err != nil {
		return nil, err
	}
	return s, s.Within(e)
}

// readOne reads the next thing; seen are those before it.
func readOne(in *json.Decoder, seen map[Ref]bool, mostBytes int) (Entity, error) {
	var row struct {
		Kind Kind            `json:"kind"`
		ID   string          `json:"id"`
		Body json.RawMessage `json:"body"`
	}
	if err := in.Decode(&row); err != nil {
		return nil, fmt.Errorf("it cannot be read: %w", err)
	}
	ref := Ref{row.Kind, row.ID}
	switch {
	case seen[ref]:
		return nil, fmt.Errorf("it has %s %s twice", row.Kind, row.ID)
	case len(row.Body) > mostBytes:
		return nil, fmt.Errorf("%s %s has %d bytes; %d is the most", row.Kind, row.ID, len(row.Body), mostBytes)
	}
	e, err := decodeStrictly(row.Kind, row.Body)
	if err != nil {
		return nil, err
	}
	if e.Ref() != ref {
		return nil, fmt.Errorf("%s %s says of itself that it is %s", row.Kind, row.ID, e.Ref().ID)
	}
	return e, nil
}
