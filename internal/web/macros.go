package web

import (
	"context"
	"net/http"

	"github.com/labstack/echo/v5"

	"synaptor/internal/edit"
)

func (s *server) macros(c *echo.Context) error {
	return s.work(c, func(context.Context) error {
		rows := []MacroRow{}
		v := s.Mirror.Current()
		for _, m := range v.Program.Show.Macros() {
			if mac := v.Program.Macros[m.ID]; mac != nil {
				rows = append(rows, macroRow(v, mac, v.PlanOf(mac)))
			}
		}
		return c.JSON(http.StatusOK, rows)
	})
}

func (s *server) macro(c *echo.Context) error {
	v := s.Mirror.Current()
	mac := v.Program.Macros[c.Param("id")]
	if mac == nil {
		return edit.ErrNotFound
	}
	return s.work(c, func(ctx context.Context) error {
		doc, err := macroDoc(ctx, v, mac)
		if err != nil {
			return tooLong(err)
		}
		return c.JSON(http.StatusOK, doc)
	})
}

func (s *server) addMacro(c *echo.Context) error {
	var f edit.MacroFields
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.AddMacro(who(c), f))
}

// MacroEdit changes the settings of a macro, or its place in the list.
type MacroEdit struct {
	edit.MacroFields
	Rev      int64 `json:"rev"`
	Position *int  `json:"position,omitempty"`
}

func (s *server) editMacro(c *echo.Context) error {
	var f MacroEdit
	if err := read(c, &f, false); err != nil {
		return err
	}
	if f.Position != nil && f.MacroFields != (edit.MacroFields{}) {
		return unfit("position", "A macro is moved, or its settings are changed: not both at once.")
	}
	if f.Position != nil {
		return done(c, s.Edit.MoveMacro(who(c), c.Param("id"), *f.Position))
	}
	return done(c, s.Edit.EditMacro(who(c), c.Param("id"), f.Rev, f.MacroFields))
}

func (s *server) deleteMacro(c *echo.Context) error {
	return done(c, s.Edit.DeleteMacro(who(c), c.Param("id")))
}

func (s *server) duplicateMacro(c *echo.Context) error {
	return created(c)(s.Edit.DuplicateMacro(who(c), c.Param("id")))
}

// NewStep is a step to add, and where.
type NewStep struct {
	edit.StepFields
	edit.Place
}

func (s *server) addStep(c *echo.Context) error {
	var f NewStep
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.AddStep(who(c), c.Param("id"), f.Place, f.StepFields))
}

// StepEdit changes a step that was read at a revision.
type StepEdit struct {
	edit.StepFields
	Rev int64 `json:"rev"`
}

func (s *server) editStep(c *echo.Context) error {
	var f StepEdit
	if err := read(c, &f, false); err != nil {
		return err
	}
	rev, err := s.Edit.EditStep(who(c), c.Param("step"), f.Rev, f.StepFields)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Revision{rev})
}

// StepShift has a step come later, or earlier where ByMs is negative.
type StepShift struct {
	Step string `json:"step"`
	ByMs int    `json:"byMs"`
}

func (s *server) shiftStep(c *echo.Context) error {
	var f StepShift
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.ShiftStep(who(c), c.Param("id"), f.Step, f.ByMs))
}

func (s *server) moveSteps(c *echo.Context) error {
	var f edit.StepMove
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.MoveSteps(who(c), c.Param("id"), f))
}

// StepList names steps.
type StepList struct {
	Steps []string `json:"steps"`
}

func (s *server) deleteSteps(c *echo.Context) error {
	var f StepList
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.DeleteSteps(who(c), c.Param("id"), f.Steps))
}

// StepPaste copies steps to a spot.
type StepPaste struct {
	Steps []string `json:"steps"`
	edit.Place
}

func (s *server) pasteSteps(c *echo.Context) error {
	var f StepPaste
	if err := read(c, &f, false); err != nil {
		return err
	}
	made, err := s.Edit.PasteSteps(who(c), c.Param("id"), f.Steps, f.Place)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, StepList{made})
}

func (s *server) fixMacro(c *echo.Context) error {
	var f edit.Fix
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.FixMacro(who(c), c.Param("id"), f))
}

// FromControls makes a macro of what controls do.
type FromControls struct {
	Controls []string `json:"controls"`
	Name     string   `json:"name"`
}

func (s *server) makeMacro(c *echo.Context) error {
	var f FromControls
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.MakeMacro(who(c), c.Param("page"), f.Controls, f.Name))
}

// Captured names the readings of a device whose present values are to be recalled.
type Captured struct {
	Paths []string `json:"paths"`
	Name  string   `json:"name"`
}

func (s *server) capture(c *echo.Context) error {
	var f Captured
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.Capture(who(c), c.Param("id"), f.Paths, f.Name))
}
