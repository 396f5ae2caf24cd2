package show

import (
	"fmt"
	"net/netip"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// FieldError says what is wrong with one field, in words for the person who
// filled it in.
type FieldError struct {
	Field string
	Text  string
}

// Error implements error.
func (e *FieldError) Error() string { return e.Field + ": " + e.Text }

// MaxName is the longest name, in characters, that an entity may have.
//
//limit:count characters of a name | at the field
const MaxName = 60

var hostLabel = regexp.MustCompile(`^[A-Za-z0-9]([A-Za-z0-9-]{0,61}[A-Za-z0-9])?$`)

// CheckDevice says what is wrong with a device before it is stored, one error
// a field: an unusable name or one that another device has, a host that is
// neither a name (RFC 1123) nor an IP address, a port out of range. Devices that
// are not reached over a network need neither.
func (s *Show) CheckDevice(d *Device, networked bool) []*FieldError {
	var errs []*FieldError
	add := func(field, text string) { errs = append(errs, &FieldError{field, text}) }
	if text := CheckName(d.Name); text != "" {
		add("name", text)
	} else {
		for _, o := range s.Devices() {
			if o.ID != d.ID && strings.EqualFold(strings.TrimSpace(o.Name), strings.TrimSpace(d.Name)) {
				add("name", fmt.Sprintf("Another device is called %s already (at %s). Choose another name.", o.Name, o.Address()))
			}
		}
	}
	if networked {
		if text := CheckHost(d.Host); text != "" {
			add("host", text)
		}
		if d.Port < 1 || d.Port > 65535 {
			add("port", "A port is a number from 1 to 65535.")
		}
	}
	if d.LatencyMs < 0 || d.LatencyMs > 10_000 {
		add("latencyMs", "A latency is from 0 to 10000 ms.")
	}
	if len(d.User) > 200 || strings.ContainsFunc(d.User, unicode.IsControl) {
		add("user", "A user name has at most 200 characters, on one line.")
	}
	if d.FrameRate < 0 || d.FrameRate > 240 {
		add("frameRate", "A frame rate is between 1 and 240 frames per second, or 0 for the show's.")
	}
	return errs
}

// Address is the device's host and port in the form a person types.
func (e *Device) Address() string {
	if e.Port == 0 {
		return "this computer"
	}
	if strings.Contains(e.Host, ":") {
		return fmt.Sprintf("[%s]:%d", e.Host, e.Port)
	}
	return fmt.Sprintf("%s:%d", e.Host, e.Port)
}

// CheckName says what is wrong with a name, or "".
func CheckName(name string) string {
	switch name = strings.TrimSpace(name); {
	case name == "":
		return "A name is needed; it is how you find it again."
	case utf8.RuneCountInString(name) > MaxName:
		return fmt.Sprintf("This name has %d characters; %d is the most.", utf8.RuneCountInString(name), MaxName)
	case strings.ContainsFunc(name, unicode.IsControl):
		return "A name cannot contain line breaks or control characters."
	case strings.ContainsFunc(name, turns):
		return "A name cannot contain characters that turn the direction of writing."
	case !strings.ContainsFunc(name, visible):
		return "Nothing of this name can be seen; it is how you find it again."
	}
	return ""
}

// turns tells whether a character turns the direction of what follows it (UAX 9: embeddings, overrides and isolates).
func turns(r rune) bool { return r >= '\u202a' && r <= '\u202e' || r >= '\u2066' && r <= '\u2069' }

// visible tells whether a character shows something by itself.
func visible(r rune) bool {
	return unicode.IsGraphic(r) && !unicode.IsSpace(r) && !unicode.IsMark(r) && r != '\u2800' && r != '\u3164'
}

// CheckHost says what is wrong with a host name or IP address, or "".
func CheckHost(host string) string {
	switch {
	case host == "":
		return "An address is needed: a name such as switcher.local, or an IP address such as 192.168.1.20."
	case strings.Contains(host, "://"):
		return "Only the host belongs here, without the part before ://."
	}
	if _, err := netip.ParseAddr(host); err == nil {
		return ""
	}
	if strings.Contains(host, ":") {
		return "This is not an IPv6 address. A port goes into its own field."
	}
	name := strings.TrimSuffix(host, ".")
	if len(name) > 253 {
		return "A host name has at most 253 characters."
	}
	labels := strings.Split(name, ".")
	numeric := true
	for _, l := range labels {
		if !hostLabel.MatchString(l) {
			return fmt.Sprintf("%q is neither a host name nor an IP address.", host)
		}
		numeric = numeric && strings.Trim(l, "0123456789") == ""
	}
	if numeric {
		return fmt.Sprintf("%q looks like an IPv4 address, but is not a valid one.", host)
	}
	return ""
}

var colour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

// MaxLabel is the longest label template, in characters.
//
//limit:count characters of a label with its expressions | at the field
const MaxLabel = 400

// CheckFace says what is wrong with a face, one error a field. Templates are
// checked where they are compiled.
func CheckFace(f Face) []*FieldError {
	var errs []*FieldError
	add := func(field, text string) { errs = append(errs, &FieldError{field, text}) }
	checkLook(add, Look{Label: f.Label, Background: f.Background, Text: f.Text})
	for _, c := range []struct {
		field, value string
		of           []string
	}{{"position", f.Position, []string{"", "top", "middle", "bottom"}}, {"align", f.Align, []string{"", "left", "centre", "right"}},
		{"fit", f.Fit, []string{"", "fill", "fit"}}} {
		if !slices.Contains(c.of, c.value) {
			add(c.field, fmt.Sprintf("%q is not one of: %s.", c.value, strings.Join(c.of[1:], ", ")))
		}
	}
	if f.Size != 0 && (f.Size < 6 || f.Size > 60) {
		add("size", "A label is 6 to 60 hundredths of the key's side high, or 0 for as large as it fits.")
	}
	if f.Live != nil {
		if f.Live.Device == "" || f.Live.Source == "" {
			add("live", "A live picture needs a device and one of its scenes or inputs.")
		}
		if f.Live.Rate < 0 || f.Live.Rate > 25 {
			add("live", "A live picture has at most 25 pictures a second.")
		}
	}
	return errs
}

// MaxLamps is how many lamps a mapping may have.
//
//limit:count lamps of a mapping | at the field
const MaxLamps = 16

// CheckLamps says what is wrong with the lamps of a mapping; fields are called
// lamps.0.label and so on. Conditions and templates are checked where they are
// compiled.
func CheckLamps(lamps []Lamp) []*FieldError {
	var errs []*FieldError
	if len(lamps) > MaxLamps {
		errs = append(errs, &FieldError{"lamps", fmt.Sprintf("A key has at most %d lamps.", MaxLamps)})
	}
	for i, l := range lamps {
		add := func(field, text string) { errs = append(errs, &FieldError{fmt.Sprintf("lamps.%d.%s", i, field), text}) }
		checkLook(add, l.Look)
		if !slices.Contains([]string{"", "on-air", "preview", "armed", "set"}, l.Role) {
			add("role", fmt.Sprintf("%q is no state of a key.", l.Role))
		}
		if l.Role == "" && l.Look == (Look{}) {
			add("role", "This lamp changes nothing. Choose what it shows.")
		}
	}
	return errs
}

func checkLook(add func(field, text string), l Look) {
	if n := utf8.RuneCountInString(l.Label); n > MaxLabel {
		add("label", fmt.Sprintf("This label has %d characters; %d is the most.", n, MaxLabel))
	}
	for field, v := range map[string]string{"background": l.Background, "text": l.Text} {
		if v != "" && !colour.MatchString(v) {
			add(field, "A colour is written #rrggbb.")
		}
	}
}

// Slug makes a unique slug from a name: lower case ASCII letters, digits and
// hyphens. taken says which slugs are in use.
func Slug(name string, taken func(string) bool) string {
	var b strings.Builder
	for _, r := range strings.ToLower(name) {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			b.WriteRune(r)
		case r == '\'' || r == '’':
		default:
			if b.Len() > 0 && !strings.HasSuffix(b.String(), "-") {
				b.WriteByte('-')
			}
		}
	}
	slug := strings.Trim(b.String(), "-")
	if slug == "" {
		slug = "item"
	}
	out := slug
	for n := 2; taken(out); n++ {
		out = fmt.Sprintf("%s-%d", slug, n)
	}
	return out
}

// DeviceSlugTaken reports whether any device has or had this slug.
func (s *Show) DeviceSlugTaken(slug string) bool {
	for _, d := range s.Devices() {
		if d.Slug == slug {
			return true
		}
		for _, a := range d.Aliases {
			if a == slug {
				return true
			}
		}
	}
	return false
}
