package chat

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// said is something of the evening: a message, or a follow where the text is empty.
type said struct {
	at        time.Duration
	who, text string
}

// The evening has forty minutes: people come, a quiet while, and the meteor.
const (
	eveningFor = 40 * time.Minute
	quietFrom  = 13 * time.Minute
	quietTo    = 23 * time.Minute
	meteorAt   = 27 * time.Minute
)

// speeds are how many times faster the evening may go.
var speeds = []int{1, 10, 60}

// viewers are those who write, with names that nobody has.
var viewers = []string{"Nachteule", "Sternfahrer", "Meteorin", "Kometa", "Lunette_7", "Dämmerung", "Perseid Pia", "Tau Ceti Tom", "🌠 Liva", "Okular", "Die Frau mit dem sehr langen Fernrohr", "Wolkenlos"}

// chatter is what they say when nothing happens.
var chatter = []string{"good evening all", "clear skies here!", "which telescope is that?", "is that the Milky Way?", "clouds in the west", "hello from the balcony", "how long does the shower last?", "so quiet tonight",
	"!where", "can you show the guest again", "what a picture", "is there tea at the observatory?"}

// evening makes the script, which is always the same.
func evening() (out []said) {
	r := rand.New(rand.NewPCG(2026, 8))
	add := func(at time.Duration, who, text string) { out = append(out, said{at, who, text}) }
	pick := func(list []string) string { return list[r.IntN(len(list))] }
	for i, who := range viewers { // they come
		at := time.Duration(i) * 25 * time.Second
		add(at, who, "")
		add(at+4*time.Second, who, "hello!")
	}
	for at := 20 * time.Second; at < eveningFor-time.Minute; at += time.Duration(8+r.IntN(14)) * time.Second {
		if at < quietFrom || at > quietTo {
			add(at, pick(viewers), pick(chatter))
		}
	}
	for at := 90 * time.Second; at < quietFrom; at += 100 * time.Second { // the map is asked for, mostly too often
		add(at, "Sternfahrer", "!map")
		add(at+7*time.Second, "Okular", "!map")
	}
	for i := range 12 { // one repeats himself
		add(6*time.Minute+time.Duration(i)*3*time.Second, "Tau Ceti Tom", "first light when?")
	}
	for i := range 6 { // one writes in capitals
		add(9*time.Minute+time.Duration(i)*11*time.Second, "Kometa", []string{"WHERE IS IT", "TURN THE TELESCOPE", "HELLO???"}[i%3])
	}
	add(18*time.Minute, "Nachteule", "is anybody awake?")
	for i := range 140 { // the crowd
		text := []string{"WOW", "did you see that", "🌠🌠🌠", "what a meteor!", "again please", "!map", "!where"}[r.IntN(7)]
		add(meteorAt+time.Duration(i*400+r.IntN(300))*time.Millisecond, pick(viewers), text)
	}
	for i := range 20 {
		add(meteorAt+time.Duration(i*2500)*time.Millisecond, fmt.Sprintf("Newcomer %d", i+1), "")
	}
	for i, who := range viewers {
		add(eveningFor-time.Minute+time.Duration(i)*4*time.Second, who, "good night!")
	}
	slices.SortStableFunc(out, func(a, b said) int { return cmp.Compare(a.at, b.at) })
	return out
}

// night is where the evening is.
type night struct {
	script []said
	next   int
	at     time.Duration
	moved  time.Time // when it moved last
}

// evening addresses of the front panel: whether it runs, how fast, and where it is.
const (
	eveningOn    = "/evening/on"
	eveningSpeed = "/evening/speed"
	eveningAt    = "/evening/at"
)

// doEvening starts, stops or hurries the evening; one that has ended begins anew.
func (m *machine) doEvening(msg device.Message, now time.Time) ([]device.Message, error) {
	n, _ := panel.Arg(msg, 0).(int)
	if f, is := panel.Arg(msg, 0).(float64); is {
		n = int(f)
	}
	if msg.Address == eveningSpeed {
		if !slices.Contains(speeds, n) {
			return nil, fmt.Errorf("the evening goes 1, 10 or 60 times as fast")
		}
		changed := m.moveEvening(now)
		return append(changed, m.v.Put(eveningSpeed, n)), nil
	}
	if n == 0 {
		m.night = nil
		return []device.Message{m.v.Put(eveningOn, 0)}, nil
	}
	if m.night == nil {
		m.night = &night{script: evening(), moved: now}
	}
	return []device.Message{m.v.Put(eveningOn, 1), m.v.Put(eveningAt, 0)}, nil
}

// moveEvening has the audience say what is due.
func (m *machine) moveEvening(now time.Time) (changed []device.Message) {
	n := m.night
	if n == nil {
		return nil
	}
	before := int(n.at / time.Second)
	n.at += now.Sub(n.moved) * time.Duration(m.v.Int(eveningSpeed))
	n.moved = now
	for ; n.next < len(n.script) && n.script[n.next].at <= n.at; n.next++ {
		s := n.script[n.next]
		if s.text == "" {
			m.events = append(m.events, panel.Happening{Name: "follow", Fields: about(s.who)})
			changed = append(changed, m.v.Put("/followers", m.v.Int("/followers")+1), m.v.Put("/viewers", m.v.Int("/viewers")+1))
			continue
		}
		more, _ := m.message(s.who, s.text) // the script has no message that is refused
		changed = append(changed, more...)
	}
	if at := int(n.at / time.Second); at != before {
		changed = append(changed, m.v.Put(eveningAt, at))
	}
	if n.at >= eveningFor {
		m.night = nil
		changed = append(changed, m.v.Put(eveningOn, 0))
	}
	return changed
}
