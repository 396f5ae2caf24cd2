package show

import (
	"fmt"
	"net/netip"
	"regexp"
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
	}
	return ""
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

// CheckFace says what is wrong with a face, one error a field. Templates are
// checked where they are compiled.
func CheckFace(f Face) []*FieldError {
	var errs []*FieldError
	if utf8.RuneCountInString(f.Label) > 200 {
		errs = append(errs, &FieldError{"label", "A label has at most 200 characters."})
	}
	for field, v := range map[string]string{"background": f.Background, "text": f.Text} {
		if v != "" && !colour.MatchString(v) {
			errs = append(errs, &FieldError{field, "A colour is written #rrggbb."})
		}
	}
	return errs
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
