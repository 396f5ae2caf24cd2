package sheet

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"synaptor/internal/core/device"
)

// Problem says what is wrong with a sheet, and where.
type Problem struct {
	File string `json:"file"`
	Line int    `json:"line"` // from 1; 0 when the file could not be read
	// Field is the place as a JSON pointer (RFC 6901); empty: the whole sheet.
	Field  string `json:"field"`
	Reason string `json:"reason"`
}

// Error implements error.
func (p Problem) Error() string { return fmt.Sprintf("%s:%d: %s", p.File, p.Line, p.Said()) }

// Said is the reason with its field.
func (p Problem) Said() string {
	if p.Field == "" {
		return p.Reason
	}
	return p.Field + ": " + p.Reason
}

// Problems are all that is wrong with a sheet, by line.
type Problems []Problem

// Error implements error.
func (p Problems) Error() string {
	texts := make([]string, len(p))
	for i, one := range p {
		texts[i] = one.Error()
	}
	return strings.Join(texts, "\n")
}

// maxTold is how many problems of one sheet are told.
//
//limit:count mistakes of one sheet that are told | the last one says how many more there are
const maxTold = 50

// told gives problems their lines, each thing once and in the order of the lines.
func told(file string, body []byte, found ...*device.Problem) (out Problems) {
	for _, p := range found[:min(len(found), maxTold)] {
		one := Problem{file, lineOf(body, p.Where), p.Where, p.Text}
		if !slices.Contains(out, one) {
			out = append(out, one)
		}
	}
	slices.SortStableFunc(out, func(a, b Problem) int { return cmp.Compare(a.Line, b.Line) })
	if more := len(found) - maxTold; more > 0 {
		out = append(out, Problem{file, out[len(out)-1].Line, "", fmt.Sprintf("and %d more", more)})
	}
	return out
}

// below gives what compiling found, without what is at a place that is known to be
// wrong, or in it.
func below(known device.Problems, err error) (out device.Problems) {
	var found device.Problems
	if !errors.As(err, &found) {
		return nil
	}
	for _, p := range found {
		if !slices.ContainsFunc(known, func(k *device.Problem) bool {
			return p.Where == k.Where || strings.HasPrefix(p.Where, k.Where+"/") || strings.HasPrefix(k.Where, p.Where+"/")
		}) {
			out = append(out, p)
		}
	}
	return out
}

// parse reads a sheet and checks it against a schema. It fails with a Problem where no
// sense can be made of it.
func parse(file string, body []byte, schema string, into any) (found device.Problems, unread *Problem) {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(body))
	if err != nil {
		return nil, &Problem{file, lineOfError(body, err), "", "this is not JSON: " + err.Error()}
	}
	err = compiled[schema].Validate(doc)
	var v *jsonschema.ValidationError
	switch {
	case errors.As(err, &v):
		found = violations(v, nil)
	case err != nil:
		return nil, &Problem{file, 1, "", err.Error()}
	}
	err = json.Unmarshal(body, into)
	var typ *json.UnmarshalTypeError
	if err != nil && !(errors.As(err, &typ) && len(found) > 0) { // of a wrong type the schema says so, and the rest was read
		return nil, &Problem{file, lineOfError(body, err), "", err.Error()}
	}
	return found, nil
}

// violations lists what does not fit a schema.
func violations(v *jsonschema.ValidationError, found device.Problems) device.Problems {
	where := device.Pointer(v.InstanceLocation...)
	switch k := v.ErrorKind.(type) {
	case *kind.AdditionalProperties:
		for _, name := range k.Properties {
			found = append(found, &device.Problem{Where: where + device.Pointer(name), Text: "there is no such field"})
		}
		return found
	case *kind.Required:
		for _, name := range k.Missing {
			found = append(found, &device.Problem{Where: where + device.Pointer(name), Text: fmt.Sprintf("%s is missing", name)})
		}
		return found
	case *kind.OneOf, *kind.AnyOf:
		if best := likeliest(v); best != nil {
			return violations(best, found)
		}
		return append(found, &device.Problem{Where: where, Text: "there is too much in it, or too little: it fits none of its forms"})
	}
	if len(v.Causes) == 0 {
		return append(found, &device.Problem{Where: where, Text: v.ErrorKind.LocalizedString(message.NewPrinter(language.English))})
	}
	for _, cause := range v.Causes {
		found = violations(cause, found)
	}
	return found
}

// likeliest is the form of several that something was meant to have: the one whose
// mistake lies deepest; nil where none is better than the others.
func likeliest(v *jsonschema.ValidationError) (best *jsonschema.ValidationError) {
	deepest := len(v.InstanceLocation)
	for _, cause := range v.Causes {
		for _, p := range violations(cause, nil) {
			if depth := strings.Count(p.Where, "/"); depth > deepest {
				best, deepest = cause, depth
			}
		}
	}
	return best
}
