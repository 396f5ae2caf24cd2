package edit

import (
	"context"
	"fmt"
	"slices"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/mirror"
)

// Fix is a finding of a macro that is to be put right.
type Fix struct {
	Finding string `json:"finding"`
	Step    string `json:"step"`
	Other   string `json:"other,omitempty"`
	// Value is which of the two states a toggle is to bring; missing: the one that it
	// would bring now.
	Value *bool `json:"value,omitempty"`
}

// FixMacro puts a finding right with one edit. It fails where the finding is not there
// any more.
func (s *Service) FixMacro(who Who, id string, f Fix) error {
	v := s.mirror.Current()
	var found []macro.Finding
	if mac := v.Program.Macros[id]; mac != nil {
		ctx, cancel := context.WithTimeout(context.Background(), mirror.FindLimit)
		defer cancel()
		var err error
		if found, err = v.Findings(ctx, mac); err != nil {
			return FieldErrors{{Field: "finding", Text: "It takes too long to look this macro through."}}
		}
	}
	i := slices.IndexFunc(found, func(o macro.Finding) bool {
		return o.ID == f.Finding && o.Step == f.Step && (f.Other == "" || o.Other == f.Other) && o.Fix != ""
	})
	if i < 0 {
		return errNotSo
	}
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil {
			return "", notFound("macro")
		}
		fix := preflight.MacroFix(m, found[i], func(step string) string { return v.Toggled(id, step, f.Value) })
		if fix == nil {
			return "", FieldErrors{{Field: "value", Text: "Nobody knows which state this would bring; say which is meant."}}
		}
		return fix.Title, s.put(fix, d)
	})
}

// ShiftStep has a step come later, or earlier where by, in milliseconds, is negative.
func (s *Service) ShiftStep(who Who, id, step string, by int) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil || len(sh.StepsOf(id)) == 0 {
			return "", notFound("macro")
		}
		ok, err := preflight.Later(d, newID, step, by)
		if err == nil && !ok {
			err = FieldErrors{{Field: "byMs", Text: "It cannot come any earlier: there is no wait before it."}}
		}
		return fmt.Sprintf("Shift a step of %s by %.1f s", m.Name, float64(by)/1000), err
	})
}
