package show

// SettingsID is the id of the one settings entity of a show.
const SettingsID = "show"

// Settings are the properties of the show as a whole.
type Settings struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// FrameRate in frames per second; used where a device does not set its own.
	FrameRate float64 `json:"frameRate"`
	// ProgressFromMs is how long a macro has to take for a key to show its progress.
	ProgressFromMs int `json:"progressFromMs,omitempty"`
	// TimeZone is an IANA name such as Europe/Berlin; empty means the computer's.
	TimeZone string `json:"timeZone,omitempty"`
}

// Device is one thing that is driven.
type Device struct {
	ID       string   `json:"id"`
	Slug     string   `json:"slug"`
	Aliases  []string `json:"aliases,omitempty"`
	Name     string   `json:"name"`
	Type     string   `json:"type"` // the device sheet's type
	Host     string   `json:"host"` // a name or an IP address
	Port     int      `json:"port"`
	Position int      `json:"position"`
	// FrameRate of the device in frames per second; 0 means the show's.
	FrameRate float64 `json:"frameRate,omitempty"`
	// Secure asks for TLS where the protocol can.
	Secure bool   `json:"secure,omitempty"`
	User   string `json:"user,omitempty"`
	// Secret is the id of its password or token in the store of secrets.
	Secret string `json:"secret,omitempty"`
	// Model is one of the sheet's models, chosen by hand.
	Model string `json:"model,omitempty"`
	// LatencyMs is how long it takes until a command shows, as the rigger has measured
	// it; for devices that report nothing. 0: not known.
	LatencyMs int `json:"latencyMs,omitempty"`
	// Parked devices have no link and raise no alarm; their mappings stay.
	Parked bool `json:"parked,omitempty"`
}

// Controller is a set of controls that an operator touches.
type Controller struct {
	ID       string   `json:"id"`
	Slug     string   `json:"slug"`
	Aliases  []string `json:"aliases,omitempty"`
	Name     string   `json:"name"`
	Layout   string   `json:"layout"`  // the controller sheet's type
	Profile  string   `json:"profile"` // the profile in force
	Position int      `json:"position"`
	// X and Y place the plate on the desk drawing, in CSS pixels.
	X int `json:"x"`
	Y int `json:"y"`
	// Start lists the pages it shows when nothing else is known; a zone or
	// profile with none of them begins with its first page.
	Start []string `json:"start,omitempty"`
	// Brightness of the real controllers that are attached, in percent; 0: 100.
	Brightness int `json:"brightness,omitempty"`
	// DimAfterS is after how many seconds without a touch they are dimmed; 0: never.
	DimAfterS int `json:"dimAfterS,omitempty"`
	// WakeActs says that the touch which ends that acts too; else it only wakes.
	WakeActs bool `json:"wakeActs,omitempty"`
}

// Profile is a set of pages for one job.
type Profile struct {
	ID       string `json:"id"`
	Slug     string `json:"slug"`
	Name     string `json:"name"`
	Position int    `json:"position"`
}

// Page is one layer of mappings for one layout and zone, within a profile.
type Page struct {
	ID       string `json:"id"`
	Slug     string `json:"slug"`
	Name     string `json:"name"`
	Profile  string `json:"profile"`
	Layout   string `json:"layout"`
	Zone     string `json:"zone"`
	Position int    `json:"position"`
	// Scratch pages are for trying things out: preflight and archives leave them out.
	Scratch bool `json:"scratch,omitempty"`
	// Notes say what is planned for controls that have nothing to do yet.
	Notes map[string]string `json:"notes,omitempty"`
}

// Mapping is what a control does. It stands in one or more places.
type Mapping struct {
	ID         string      `json:"id"`
	Name       string      `json:"name,omitempty"` // empty: named after its action
	Placements []Placement `json:"placements"`
	Responses  []Response  `json:"responses"`
	Face       Face        `json:"face"`
	// Lamps replace the action's own lamps when not nil.
	Lamps []Lamp `json:"lamps,omitempty"`
	Guard *Guard `json:"guard,omitempty"`
	// HoldMs and DoubleMs are the times of its gestures; 0 means the usual ones.
	HoldMs   int `json:"holdMs,omitempty"`
	DoubleMs int `json:"doubleMs,omitempty"`
	// Fires says when a press fires: touch or lift; empty: on touch, but for risky
	// actions on touch keys.
	Fires string `json:"fires,omitempty"`
	// Branches are the looks for the branches of its macro's turns, by branch; what one
	// does not set is as the face has it. Next has it show the branch that a press takes,
	// and not the one in force.
	Branches map[string]Look `json:"branches,omitempty"`
	Next     bool            `json:"next,omitempty"`
	// Quiet leaves out how its macro goes on.
	Quiet bool `json:"quiet,omitempty"`
}

// Guard protects a risky mapping: hold to fire, press twice, or a cover.
type Guard struct {
	Kind string `json:"kind"` // hold, twice or cover
	Ms   int    `json:"ms"`   // how long to hold, or how long it stays armed
	// When is a condition of the show: it guards only while that holds. Branch is one of
	// the turns of the macro that is run: it guards only the press that takes it.
	When   string `json:"when,omitempty"`
	Branch string `json:"branch,omitempty"`
}

// Dial says how a turn or a slide changes a parameter of the action.
type Dial struct {
	Param string `json:"param"`
	// Step for one detent; 0 means what suits the range.
	Step         float64  `json:"step,omitempty"`
	Min          *float64 `json:"min,omitempty"`
	Max          *float64 `json:"max,omitempty"`
	Wrap         bool     `json:"wrap,omitempty"`
	Acceleration float64  `json:"acceleration,omitempty"`
	Jump         bool     `json:"jump,omitempty"` // of a slider: take the value at once
	Inverted     bool     `json:"inverted,omitempty"`
}

// Placement puts a mapping on a control: of one page, or standing on every
// page of a profile for a layout and zone.
type Placement struct {
	Page     string    `json:"page,omitempty"`
	Standing *Standing `json:"standing,omitempty"`
	Control  string    `json:"control"`
	// Covers lets a page's placement win over a standing one.
	Covers bool `json:"covers,omitempty"`
}

// Standing names the pages a standing placement stays on.
type Standing struct {
	Profile string `json:"profile"`
	Layout  string `json:"layout"`
	Zone    string `json:"zone"`
}

// Response is what a gesture starts: one action.
type Response struct {
	Gesture string `json:"gesture"`
	Action  Call   `json:"action"`
	Dial    *Dial  `json:"dial,omitempty"` // for turns and slides
}

// IsRun reports whether an action runs a macro.
func (c *Call) IsRun() bool { return c != nil && c.Device == "synaptor" && c.Action == "run" }

// Call is an action of a device with its parameters. The names are what the
// device and the action were last called, for sentences about what is gone.
type Call struct {
	Device     string            `json:"device"`
	DeviceName string            `json:"deviceName,omitempty"`
	Action     string            `json:"action"`
	Params     map[string]string `json:"params,omitempty"`
}

// Face is how a control looks. Empty fields come from the action.
type Face struct {
	Label      string `json:"label,omitempty"` // a template; empty: the action's
	Hidden     bool   `json:"hidden,omitempty"`
	Glyph      string `json:"glyph,omitempty"`
	Background string `json:"background,omitempty"` // #rrggbb
	Text       string `json:"text,omitempty"`       // #rrggbb
	// Position is where the label stands: top, middle or bottom, which is usual.
	Position string `json:"position,omitempty"`
	// Align is how its lines stand: left, which is usual, centre or right.
	Align string `json:"align,omitempty"`
	// Size of the label in hundredths of the face's side; 0: as large as it fits.
	Size float64 `json:"size,omitempty"`
	// Light sets the label in the lighter weight.
	Light bool `json:"light,omitempty"`
	// Picture is the id of one in the media library.
	Picture string `json:"picture,omitempty"`
	// Fit is how it fills the face: fill, which crops it and is usual, or fit.
	Fit  string `json:"fit,omitempty"`
	Live *Live  `json:"live,omitempty"`
}

// Live is a live picture on a face.
type Live struct {
	Device string `json:"device"`
	Source string `json:"source"` // of the device's pictures: one of its scenes or inputs
	// Rate is how many pictures a second are wanted; 0 means the usual number.
	Rate float64 `json:"rate,omitempty"`
}

// Lamp changes a face while a condition holds. For each property the first lamp
// that holds and sets it wins.
type Lamp struct {
	When string `json:"when"`
	Role string `json:"role,omitempty"` // on-air, preview, armed, set; empty: none
	Look
}

// Look is what a lamp changes of a face; empty fields change nothing.
type Look struct {
	Label      string `json:"label,omitempty"` // a template
	Glyph      string `json:"glyph,omitempty"`
	Background string `json:"background,omitempty"`
	Text       string `json:"text,omitempty"`
	Picture    string `json:"picture,omitempty"`
	Blink      bool   `json:"blink,omitempty"`
}

// Ref implements Entity.
func (e *Settings) Ref() Ref { return Ref{KindSettings, e.ID} }

// Title implements Entity.
func (e *Settings) Title() string { return e.Name }

// Ref implements Entity.
func (e *Device) Ref() Ref { return Ref{KindDevice, e.ID} }

// Title implements Entity.
func (e *Device) Title() string { return e.Name }

// Ref implements Entity.
func (e *Controller) Ref() Ref { return Ref{KindController, e.ID} }

// Title implements Entity.
func (e *Controller) Title() string { return e.Name }

// Ref implements Entity.
func (e *Profile) Ref() Ref { return Ref{KindProfile, e.ID} }

// Title implements Entity.
func (e *Profile) Title() string { return e.Name }

// Ref implements Entity.
func (e *Page) Ref() Ref { return Ref{KindPage, e.ID} }

// Title implements Entity.
func (e *Page) Title() string { return e.Name }

// Ref implements Entity.
func (e *Mapping) Ref() Ref { return Ref{KindMapping, e.ID} }

// Title implements Entity.
func (e *Mapping) Title() string {
	if e.Name != "" {
		return e.Name
	}
	if len(e.Placements) > 0 {
		return "key " + e.Placements[0].Control
	}
	return "mapping"
}

// Response finds the response to a gesture, or nil.
func (e *Mapping) Response(gesture string) *Response {
	for i := range e.Responses {
		if e.Responses[i].Gesture == gesture {
			return &e.Responses[i]
		}
	}
	return nil
}

// Gestures lists what is mapped, in order.
func (e *Mapping) Gestures() []string {
	out := make([]string, len(e.Responses))
	for i, r := range e.Responses {
		out[i] = r.Gesture
	}
	return out
}

// PlacementOn returns the index of the placement on a control of a page, or -1.
func (e *Mapping) PlacementOn(page, control string) int {
	for i, p := range e.Placements {
		if p.Page == page && p.Standing == nil && p.Control == control {
			return i
		}
	}
	return -1
}

// Stands reports whether the mapping stands on every page of a profile.
func (e *Mapping) Stands() bool {
	for _, p := range e.Placements {
		if p.Standing != nil {
			return true
		}
	}
	return false
}

// Clone returns a deep copy that may be changed.
func (e *Mapping) Clone() *Mapping {
	c, err := Decode(KindMapping, Encode(e))
	if err != nil {
		panic(err)
	}
	return c.(*Mapping)
}
