package engine

import (
	"errors"
	"slices"

	"synaptor/internal/access"
	"synaptor/internal/program"
)

// takeOutput claims an output for whoever pressed, or gives it back where they have it.
func (e *Engine) takeOutput(in Input, id string) (string, error) {
	all := e.program.Outputs(e.table)
	i := slices.IndexFunc(all, func(o program.Output) bool { return o.ID == id })
	if i < 0 {
		return "", errors.New("this output is gone")
	}
	o, title := all[i], e.program.OutputName(all[i], e.table)
	said := title + " is taken"
	if e.cfg.Access.Give(func(c access.Claim) bool { return c.Changes == o.Changes && c.By == in.By && in.By != "" }) {
		said = title + " is given back"
	} else if err := e.cfg.Access.Take(in.By, in.Actor, o.Changes, title); err != nil {
		return "", err
	}
	e.publishSelf()
	return said, nil
}

// claimsChanged publishes who has taken which output.
type claimsChanged struct{}

// ClaimsChanged has the engine say who has taken which output, and whether edits are refused.
func (e *Engine) ClaimsChanged() { e.post(claimsChanged{}) }
