package edit

import (
	"slices"

	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// SetSafe gives an output its safe picture: an action that puts a picture on it.
func (s *Service) SetSafe(who Who, output string, then show.Call) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		v := s.mirror.View()
		outputs := v.Program.Outputs(v)
		i := slices.IndexFunc(outputs, func(o program.Output) bool { return o.ID == output })
		if i < 0 {
			return "", notFound("output")
		}
		dev := s.device(sh, then.Device)
		if dev == nil {
			return "", errNoDevice
		}
		b, call, err := boundCall(sh, &program.Device{Device: dev, Type: s.sheets.Device(dev.Type)}, Action{Device: then.Device, Action: then.Action, Params: then.Params})
		if err != nil {
			return "", err
		}
		name := v.Program.Called(outputs[i].Key, v)
		if !slices.Contains(b.Affects(), outputs[i].Key) {
			return "", FieldErrors{{Field: "action", Text: "This shows nothing on " + name + "."}}
		}
		d.Put(&show.SafePicture{ID: output, Then: call})
		return "Set the safe picture of " + name, nil
	})
}

// RemoveSafe takes the safe picture of an output away.
func (s *Service) RemoveSafe(who Who, output string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.SafePicture(output)
		if p == nil {
			return "", notFound("safe picture")
		}
		d.Delete(p.Ref())
		return "Take a safe picture away", nil
	})
}
