package inspect

import (
	"slices"
	"strings"
	"testing"

	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
)

// altered changes a mapping of the demo.
func altered(id string, change func(*show.Mapping)) func(*show.Draft, *show.Show) {
	return func(d *show.Draft, s *show.Show) {
		m := s.Mapping(id)
		if m == nil || len(m.Responses) == 0 {
			return // something else has removed it
		}
		c := m.Clone()
		change(c)
		d.Put(c)
	}
}

// steps gives a macro of the demo other steps.
func steps(list ...show.Step) func(*show.Draft, *show.Show) {
	return func(d *show.Draft, s *show.Show) {
		d.Put(&show.Macro{ID: "spoiled", Slug: "spoiled", Name: "Spoiled", Position: 99})
		for i := range list {
			st := list[i]
			st.ID, st.Macro, st.Position = "spoiled-"+string(rune('a'+i)), "spoiled", i+1
			d.Put(&st)
		}
	}
}

func do(dev, action string, params map[string]string) show.Step {
	return show.Step{Kind: macro.Do, Action: &show.Call{Device: dev, DeviceName: dev, Action: action, Params: params}}
}

// with changes a device of the demo.
func with(id string, change func(*show.Device)) func(*show.Draft, *show.Show) {
	return func(d *show.Draft, s *show.Show) {
		c := *s.Device(id)
		change(&c)
		d.Put(&c)
	}
}

// another adds a page to the tablet, with a key on it.
func another(id string, led bool) func(*show.Draft, *show.Show) {
	return func(d *show.Draft, s *show.Show) {
		d.Put(&show.Page{ID: id, Slug: id, Name: "Lost", Profile: "meteor-night", Layout: "tablet-4x3", Zone: "keys", Position: 90})
		d.Put(&show.Mapping{ID: id + "-a1", Placements: []show.Placement{{Page: id, Control: "a1"}},
			Responses: []show.Response{{Gesture: input.Press, Action: show.Call{Device: "sound-desk", Action: "mute-toggle", Params: map[string]string{"channel": "2"}}}}})
		if led && s.MappingAt("guests", "d3") == nil {
			d.Put(&show.Mapping{ID: id + "-key", Placements: []show.Placement{{Page: "guests", Control: "d3"}},
				Responses: []show.Response{{Gesture: input.Press, Action: show.Call{Device: "synaptor", Action: "page", Params: map[string]string{"page": id}}}}})
		}
	}
}

func link(id, controller string, bindings ...show.Binding) show.Link {
	return show.Link{ID: id, Controller: controller, Kind: show.LinkKeysHere, Bindings: bindings}
}

func press(source, control string) show.Binding {
	return show.Binding{Source: source, Control: control, As: show.AsKey}
}

func set(dial *show.Dial) func(*show.Mapping) {
	return func(m *show.Mapping) { m.Responses[0].Dial = dial }
}

func reflexes(all ...show.Reflex) func(*show.Draft, *show.Show) {
	return func(d *show.Draft, _ *show.Show) {
		for _, r := range all {
			d.Put(&r)
		}
	}
}

// spoiled has what is done to the demo, and what is found then and was not before. Each finding has one that must raise it; that the demo by itself
// raises none of them is what must not.
var spoiled = map[string]struct {
	change func(*show.Draft, *show.Show)
	want   string // the severity and the id
}{
	"an action that is not there": {altered("cut-a3", func(m *show.Mapping) { m.Responses[0].Action.Action = "fly" }), "stops action-unknown"},
	"an option that is missing":   {altered("cut-a1", func(m *show.Mapping) { delete(m.Responses[0].Action.Params, "input") }), "stops option-gone"},
	"a page that is gone":         {altered("home-a1", func(m *show.Mapping) { m.Responses[0].Action.Params["page"] = "gone" }), "stops option-gone"},
	"a macro that is gone":        {altered("home-c2", func(m *show.Mapping) { m.Responses[0].Action.Params["macro"] = "gone" }), "stops option-gone"},
	"a device that is gone":       {altered("cut-a3", func(m *show.Mapping) { m.Responses[0].Action.Device = "gone" }), "stops device-gone"},
	"a device without a sheet":    {with("dome-camera", func(d *show.Device) { d.Type = "nothing" }), "stops sheet-missing"},
	"a device twice": {func(d *show.Draft, s *show.Show) {
		c := *s.Device("dome-switcher")
		c.ID, c.Slug, c.Name = "twice", "twice", "Twice"
		d.Put(&c)
	}, "caution device-duplicate-address"},
	"a parked device":                 {with("dome-camera", func(d *show.Device) { d.Parked = true }), "note device-parked"},
	"a player of another rate":        {with("replay-player", func(d *show.Device) { d.FrameRate = 50 }), "caution rate-mixed"},
	"no response":                     {altered("cut-a3", func(m *show.Mapping) { m.Responses = nil; m.Face.Label = "Later" }), "caution response-missing"},
	"a lamp that is never lit":        {altered("cut-a1", func(m *show.Mapping) { m.Lamps = []show.Lamp{{When: "1 == 2", Role: "set"}} }), "caution lamp-never"},
	"a lamp of a device that is gone": {altered("cut-a1", func(m *show.Mapping) { m.Lamps = []show.Lamp{{When: "reading('gone:x') == 1", Role: "set"}} }), "caution lamp-never"},
	"a picture without a lamp": {altered("cut-a1", func(m *show.Mapping) {
		m.Lamps = []show.Lamp{{When: "reading('sound-desk:channel/1/mute')", Role: "set"}}
	}), "note lamp-missing"},
	"a gesture that cannot happen": {altered("faders-slider1", func(m *show.Mapping) {
		m.Responses = append(m.Responses, show.Response{Gesture: input.Hold, Action: show.Call{Device: "synaptor", Action: "halt"}})
	}), "caution gesture-missing"},
	"a press that waits": {altered("cut-a1", func(m *show.Mapping) {
		m.Responses = append(m.Responses, show.Response{Gesture: input.Double, Action: show.Call{Device: "synaptor", Action: "halt"}})
	}), "note gesture-slow"},
	"a press that waits for a hold": {altered("cut-a1", func(m *show.Mapping) {
		m.Responses = append(m.Responses, show.Response{Gesture: input.Hold, Action: show.Call{Device: "synaptor", Action: "halt"}})
	}), "note gesture-slow"},
	"a control that is not there": {altered("cut-a1", func(m *show.Mapping) { m.Placements[0].Control = "z9" }), "caution control-missing"},
	"an endless dial":             {altered("jog-dial3", set(&show.Dial{Step: 0.5})), "note dial-endless"},
	"a coarse dial":               {altered("jog-dial3", set(&show.Dial{Step: 20})), "note dial-coarse"},
	"a face that is dark on dark": {altered("cut-a1", func(m *show.Mapping) { m.Face.Background, m.Face.Text = "#202020", "#303030" }), "caution face-contrast"},
	"a label that is too long":    {altered("cut-a1", func(m *show.Mapping) { m.Face.Label, m.Face.Size = "Donaudampfschifffahrtsgesellschaft", 40 }), "note face-cut"},
	"a picture that is gone":      {altered("cut-a1", func(m *show.Mapping) { m.Face.Picture = "gone" }), "caution face-missing"},
	"two alike": {func(d *show.Draft, s *show.Show) {
		for _, id := range []string{"cut-a1", "cut-b1"} {
			altered(id, func(m *show.Mapping) { m.Face.Label, m.Face.Glyph = "Alike", "star" })(d, s)
		}
	}, "caution face-alike"},
	"alike at the same place": {func(d *show.Draft, s *show.Show) {
		for _, id := range []string{"captions-a1", "sounds-a1"} {
			altered(id, func(m *show.Mapping) { m.Face.Label, m.Face.Glyph, m.Face.Background = "Alike", "star", "#101010" })(d, s)
		}
	}, ""}, // where they go is seen too
	"two microphones that read alike": {func(d *show.Draft, s *show.Show) {
		altered("lecture-a4", func(m *show.Mapping) { m.Face.Label = "Mute" })(d, s)
		altered("lecture-d3", func(m *show.Mapping) {
			m.Face.Label = "mute"
			m.Responses = []show.Response{{Gesture: input.Press, Action: show.Call{Device: "sound-desk", Action: "mute-toggle", Params: map[string]string{"channel": "1"}}}}
		})(d, s)
	}, "caution mic-alike"},
	"a page that nothing leads to": {another("lost", false), "caution page-unreachable"},
	"a scratch page": {func(d *show.Draft, s *show.Show) {
		d.Put(&show.Page{ID: "tries", Slug: "tries", Name: "Tries", Profile: "meteor-night", Layout: "tablet-4x3", Zone: "keys", Position: 91, Scratch: true})
		d.Put(&show.Mapping{ID: "tries-a1", Placements: []show.Placement{{Page: "tries", Control: "a1"}}, Responses: []show.Response{{Gesture: input.Press, Action: show.Call{Device: "gone", Action: "fly"}}}})
	}, ""},
	"a page without a way back": {another("oneway", true), "caution page-no-way-back"},
	"a key that covers":         {altered("cut-a3", func(m *show.Mapping) { m.Placements[0].Control, m.Placements[0].Covers = "c3", true }), "note standing-covered"},
	"Safe is far": {func(d *show.Draft, s *show.Show) {
		for _, at := range []string{"thumb-5x2-e2", "grid-6x4-d4"} {
			altered("standing-meteor-night-"+at, func(m *show.Mapping) { m.Responses = m.Responses[1:] })(d, s)
		}
	}, "caution safe-picture-far"},
	"a safe picture of another output": {func(d *show.Draft, s *show.Show) {
		p := *s.SafePicture("dome-switcher.mix.1.program")
		p.Then.Params = map[string]string{"mix": "2", "input": "3"}
		d.Put(&p)
	}, "stops safe-picture-broken"},
	"something risky at a touch": {altered("stream-b3", func(m *show.Mapping) { m.Guard = nil }), "caution risk-unguarded"},
	"something risky on glass":   {altered("guests-a1", func(m *show.Mapping) { m.Responses[0].Action = show.Call{Device: "stream-pc", Action: "record-toggle"} }), "note risk-on-touch"},
	"a key of a browser twice": {func(d *show.Draft, s *show.Show) {
		a, b := link("l1", "producer-grid", press("KeyA", "a1")), link("l2", "treadle", press("KeyA", "pedal1"))
		d.Put(&a)
		d.Put(&b)
	}, "caution input-taken-twice"},
	"a name twice": {func(d *show.Draft, s *show.Show) {
		c := *s.Controller("treadle")
		c.Aliases = []string{"thumb-pad"}
		d.Put(&c)
	}, "caution input-taken-twice"},
	"a binding to nothing":         {func(d *show.Draft, s *show.Show) { l := link("l1", "treadle", press("KeyA", "z9")); d.Put(&l) }, "caution binding-gone"},
	"a toggle in a macro":          {steps(do("sound-desk", "mute-toggle", map[string]string{"channel": "1"})), "caution toggle-in-macro"},
	"a macro in a circle":          {steps(show.Step{Kind: macro.Run, Run: "spoiled"}), "stops macro-cycle"},
	"a macro with nothing in it":   {steps(), "caution macro-empty"},
	"a picture that nobody sees":   {steps(do("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": "2"}), show.Step{Kind: macro.Wait, Ms: 100}, do("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": "3"})), "caution overwritten-before-seen"},
	"a step that cannot be sent":   {steps(do("gone", "fly", nil)), "stops step-unsent"},
	"a branch that is never taken": {steps(show.Step{Kind: macro.If}, show.Step{Kind: macro.Branch, Parent: "spoiled-a"}, show.Step{Kind: macro.Branch, Parent: "spoiled-a"}), "caution branch-never"},
	"neighbours that land apart": {func(d *show.Draft, s *show.Show) {
		with("sound-desk", func(d *show.Device) { d.LatencyMs = 300 })(d, s)
		steps(do("sound-desk", "mute", map[string]string{"channel": "1"}), do("dome-switcher", "keyer-on", map[string]string{"keyer": "1"}))(d, s)
	}, "caution lands-apart"},
	"a transition that is cut short": {steps(do("dome-camera", "goto", map[string]string{"preset": "1"}), show.Step{Kind: macro.Wait, Ms: 200}, do("dome-camera", "goto", map[string]string{"preset": "2"})), "caution wait-shorter-than-transition"},
	"a reflex that never fires":      {reflexes(show.Reflex{ID: "never", Name: "Never", On: show.On{Kind: reflex.OnSignal, Signal: "x"}, When: "1 == 2", Then: show.Call{Device: "synaptor", Action: "halt"}}), "caution never-fires"},
	"two reflexes of one event": {reflexes(
		show.Reflex{ID: "one", Name: "One", On: show.On{Kind: reflex.OnSignal, Signal: "x"}, Then: show.Call{Device: "sound-desk", Action: "mute", Params: map[string]string{"channel": "1"}}},
		show.Reflex{ID: "two", Name: "Two", Position: 1, On: show.On{Kind: reflex.OnSignal, Signal: "x"}, Then: show.Call{Device: "sound-desk", Action: "open", Params: map[string]string{"channel": "1"}}}), "caution collides"},
	"a time that is not every day": {reflexes(show.Reflex{ID: "early", Name: "Early", On: show.On{Kind: reflex.OnSchedule, Schedule: reflex.Schedule{At: "02:30"}}, Then: show.Call{Device: "synaptor", Action: "halt"}}), "note schedule-unclear"},
	"a pedal that is bound to a dial": {func(d *show.Draft, s *show.Show) {
		l := link("l1", "scope-console", show.Binding{Source: "KeyA", Control: "dial1", As: show.AsSlider})
		d.Put(&l)
	}, "caution binding-unfit"},
	"hardware with nothing bound": {func(d *show.Draft, s *show.Show) { l := link("l1", "treadle"); d.Put(&l) }, "caution link-empty"},
	"hardware that is switched off": {func(d *show.Draft, s *show.Show) {
		l := link("l1", "treadle", press("KeyA", "pedal1"))
		l.Off = true
		d.Put(&l)
	}, "note link-off"},
	"two reflexes in a circle": {reflexes(
		show.Reflex{ID: "ping", Name: "Ping", On: show.On{Kind: reflex.OnReading, Device: "dome-switcher", Path: "mix/1/program", Edge: "changes"}, Then: show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "2", "input": "3"}}},
		show.Reflex{ID: "pong", Name: "Pong", On: show.On{Kind: reflex.OnReading, Device: "dome-switcher", Path: "mix/2/program", Edge: "changes"}, Then: show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "1", "input": "4"}}}), "caution reflex-loop"},
	"the audience cuts": {reflexes(show.Reflex{ID: "cut", Name: "Cut", On: show.On{Kind: reflex.OnDevice, Device: "audience", Event: "message"}, Then: show.Call{Device: "dome-switcher", Action: "cut", Params: map[string]string{"mix": "1"}}}), "caution audience-can-cut"},
}

// TestWhatIsWrongIsFound: what is done to the demo is found, and in the demo it is not.
func TestWhatIsWrongIsFound(t *testing.T) {
	clean := judge(t, demoShow())
	for name, c := range spoiled {
		j := judge(t, demoShow())
		j.edit(c.change)
		var come []string
		for _, f := range j.Findings {
			if slices.ContainsFunc(clean.Findings, f.Same) {
				continue
			}
			if !strings.HasSuffix(f.Text, ".") || strings.Contains(f.Text, "%!") || f.Sure == "" {
				t.Errorf("%s: it says %q (%s)", name, f.Text, f.Sure)
			}
			come = append(come, f.Severity+" "+f.ID)
		}
		if c.want == "" && len(come) > 0 || c.want != "" && !slices.Contains(come, c.want) {
			t.Errorf("%s: found is %v, want %q", name, come, c.want)
		}
	}
}
