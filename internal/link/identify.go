package link

import (
	"context"
	"errors"
	"slices"
	"strings"
	"sync"
	"time"

	"synaptor/internal/core/device"
)

// Candidate is a device type that may answer at an address.
type Candidate struct {
	Type   *device.Type
	Driver Driver
}

// Found is what answers at an address.
type Found struct {
	Type  string `json:"type"`
	Title string `json:"title"`
	Role  string `json:"role"`
	Port  int    `json:"port"`
	// Model is what the device says it is, where it said so.
	Model   string `json:"model"`
	Version string `json:"version"`
	// Locked says that it wants a user name or a password first.
	Locked bool `json:"locked"`
	// Note is a sentence on what stands in the way, or "".
	Note string `json:"note"`
}

// identifyLimit bounds the search at one address.
//
//limit:count time in which an address is looked at | in the answer, as nothing found
const identifyLimit = 1500 * time.Millisecond

// Identify asks at a host what answers there: each candidate on its default
// port, or all of them on the given one. It never looks anywhere else.
func Identify(ctx context.Context, host string, port int, candidates []Candidate) []Found {
	ctx, cancel := context.WithTimeout(ctx, identifyLimit)
	defer cancel()
	var mu sync.Mutex
	var out []Found
	var wg sync.WaitGroup
	for _, c := range candidates {
		at := port
		if at == 0 {
			at = c.Type.Sheet.Link.Port
		}
		if c.Type.Sheet.Link.Identify == nil || c.Driver == nil || c.Type.Sheet.Link.Port == 0 {
			continue // nothing tells it apart, or it is on no network
		}
		wg.Go(func() {
			s := c.Type.Sheet
			f, err := ask(ctx, Target{Host: host, Port: at, Link: &s.Link, Stale: c.Type.Deadline, User: userOf(s)}, c)
			var auth *AuthError
			if errors.As(err, &auth) && (auth.Found == "" || c.Type.Identified(auth.Found)) {
				f.Locked, f.Model, f.Note = true, auth.Found, "It wants a user name or a password."
				f.Version = c.Type.Version(f.Model)
			} else if err != nil {
				return
			}
			mu.Lock()
			out = append(out, f)
			mu.Unlock()
		})
	}
	wg.Wait()
	slices.SortFunc(out, func(a, b Found) int {
		if a.Port != b.Port {
			return a.Port - b.Port
		}
		return strings.Compare(a.Type, b.Type)
	})
	return out
}

// Test connects once as a device of a type would be, signs in and asks what answers. It fails as a link
// would: see Sentence.
func Test(ctx context.Context, to Target, c Candidate) (Found, error) {
	ctx, cancel := context.WithTimeout(ctx, identifyLimit)
	defer cancel()
	return ask(ctx, to, c)
}

// ask connects to an address and asks what answers; without a way to ask, being connected is all.
func ask(ctx context.Context, to Target, c Candidate) (Found, error) {
	s := c.Type.Sheet
	f := Found{Type: s.Type, Title: s.Title, Role: s.Role, Port: to.Port}
	conn, err := c.Driver.Dial(ctx, to)
	if err != nil {
		return f, err
	}
	defer func() { _ = conn.Close() }()
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	defer stop()
	if s.Link.Identify == nil {
		return f, nil
	}
	m, ok := c.Type.Ask(s.Link.Identify.Reading)
	if !ok {
		return f, nil
	}
	payload, err := c.Driver.Encode(m)
	if err != nil {
		return f, err
	}
	if err := conn.Write(payload, 0, time.Now().Add(c.Type.Deadline)); err != nil {
		return f, err
	}
	for {
		b, err := conn.Read()
		var bad *BadInput
		switch {
		case errors.As(err, &bad):
			continue
		case ctx.Err() != nil:
			return f, errSilent
		case err != nil:
			return f, err
		}
		if model, told := c.told(b); told {
			f.Model, f.Version = model, c.Type.Version(model)
			if v, old := c.Type.TooOld(model); old {
				f.Note = "Its version " + v + " is older than " + s.Link.Identify.Minimum + ", which is needed."
			}
			if !c.Type.Identified(model) {
				return f, errWrongDevice
			}
			return f, nil
		}
	}
}

// told is what a device says it is, where a batch tells.
func (c Candidate) told(b Batch) (model string, told bool) {
	for _, m := range b.Messages {
		got, _ := c.Type.Match(m)
		for _, r := range got.Reports {
			if model, isText := r.Value.(string); isText && r.Path == c.Type.Sheet.Link.Identify.Reading {
				return model, true
			}
		}
	}
	return "", false
}

func userOf(s *device.Sheet) string {
	if s.Link.Login != nil {
		return s.Link.Login.User
	}
	return ""
}
