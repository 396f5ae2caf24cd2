package preflight

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/show"
)

// Device is a device as far as findings rest on it. What is below Live is known only while it is connected, or was.
type Device struct {
	*show.Device
	Sheet    bool // there is one for its type
	Wired    bool // it is reached over a network
	Password bool // it asks for one
	Rated    bool // its pictures have a frame rate: a player, a switcher
	Used     int  // by how many controls, macros, reflexes and safe pictures

	Live    bool
	Down    string // why it is not connected; empty: it is
	Since   time.Duration
	Factory bool // its password is the one that all of its kind are delivered with
	Median  time.Duration
	P95     time.Duration
	Count   int    // of what was measured
	Mute    string // a reading that it should have told and has not; empty: none
}

// Devices finds what is wrong with the devices of a show, as it stands there.
func Devices(all []Device, frameRate float64) (out []Finding) {
	at := map[string]*show.Device{}
	for _, d := range all {
		f := finder{subject: d.Ref()}
		if !d.Sheet {
			f.add("sheet-missing", Stops, "", "There is no device sheet for %s (%s): nothing can be sent to it.", d.Name, d.Type)
		}
		if other := at[d.Address()]; d.Wired && !d.Parked && other != nil && other.Type == d.Type {
			f.add("device-duplicate-address", Caution, "", "%s and %s are the same device: both are at %s.", other.Name, d.Name, d.Address())
		} else if d.Wired && !d.Parked {
			at[d.Address()] = d.Device
		}
		if d.Rated && d.FrameRate > 0 && d.FrameRate != frameRate {
			f.add("rate-mixed", Caution, "", "%s runs at %g frames per second, the show at %g.", d.Name, d.FrameRate, frameRate)
		}
		if d.Parked && d.Used > 0 {
			f.add("device-parked", Note, "", "%s is parked, and %s it.", d.Name, uses(d.Used))
		}
		out = append(out, f.out...)
	}
	return out
}

// uses says how many things use something.
func uses(n int) string {
	if n == 1 {
		return "one key or macro uses"
	}
	return fmt.Sprintf("%d keys and macros use", n)
}

// What of a device's latency will be seen.
const (
	slowLink   = 120 * time.Millisecond
	spreadLink = 80 * time.Millisecond
	fewCounts  = 5
)

// Links finds what is wrong with the devices as they answer now.
func Links(all []Device) (out []Finding) {
	for _, d := range all {
		if !d.Live || d.Parked {
			continue
		}
		f := finder{subject: d.Ref()}
		severity := Caution
		if d.Used > 0 {
			severity = Stops
		}
		if d.Down != "" {
			text := sentence(d.Down)
			if !strings.HasPrefix(text, d.Name) {
				text = d.Name + " is away: " + text
			}
			f.add("device-offline", severity, "", "%s", text)
		}
		if d.Down == "" && d.Mute != "" {
			f.add("device-unanswered", Caution, d.Mute, "%s is connected and has not said %s.", d.Name, d.Mute)
		}
		if d.Password && d.Secret == "" {
			f.add("secret-missing", Caution, "", "%s asks for a password, and none is set.", d.Name)
		}
		if d.Factory {
			f.add("secret-missing", Caution, "factory", "%s still has the password that it was delivered with: everybody knows it.", d.Name)
		}
		if d.Count >= fewCounts && d.Median > slowLink {
			f.add("link-slow", Caution, "", "%s takes %d ms to answer: that will be seen.", d.Name, d.Median.Milliseconds())
		}
		if d.Count >= fewCounts && d.P95-d.Median > spreadLink {
			f.add("link-jittery", Caution, "", "%s answers in %d ms, and one time in twenty not before %d ms: what lands together will not always.", d.Name, d.Median.Milliseconds(), d.P95.Milliseconds())
		}
		for i := range f.out {
			f.out[i].Sure = Measured
		}
		out = append(out, f.out...)
	}
	return out
}

// sentence has a text begin and end as a sentence does.
func sentence(text string) string {
	if text == "" || strings.ContainsAny(text[len(text)-1:], ".!?") {
		return text
	}
	return text + "."
}

// SignIn is one that ends by itself.
type SignIn struct {
	Who  string
	Ends time.Time
}

// aNight is how long a show lasts that nobody has said anything about.
const aNight = 6 * time.Hour

// SignIns finds those that end before the show does.
func SignIns(all []SignIn, now time.Time) []Finding {
	f := finder{subject: show.Ref{Kind: show.KindSettings, ID: show.SettingsID}}
	slices.SortFunc(all, func(a, b SignIn) int { return a.Ends.Compare(b.Ends) })
	for _, s := range all {
		if left := s.Ends.Sub(now); left > 0 && left < aNight {
			f.add("sign-in-ends", Caution, s.Who, "%s is signed out at %s, in the middle of the night.", s.Who, s.Ends.Format("15:04")).Sure = Guessed
		}
	}
	return f.out
}

// Carried says of an archive that passwords travel in it, although sealed.
func Carried() []Finding {
	f := finder{subject: show.Ref{Kind: show.KindSettings, ID: show.SettingsID}}
	f.add("secret-in-archive", Note, "", "The passwords of the devices are in this archive, sealed: whoever has the passphrase has them.")
	return f.out
}
