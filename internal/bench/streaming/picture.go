package streaming

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// places are where a source can be put by name: across, down and size, in percent of the picture.
var places = []struct {
	name          string
	x, y, percent float64
}{{"Full picture", 50, 50, 100}, {"Top left", 25, 25, 50}, {"Top right", 75, 25, 50}, {"Bottom left", 25, 75, 50}, {"Bottom right", 75, 75, 50},
	{"Left half", 25, 50, 50}, {"Right half", 75, 50, 50}}

var (
	texts = [][2]string{{"Headline", "Meteor Night at Larkfell"}, {"Ticker", "Clear until three"}}
	media = []struct {
		name    string
		seconds int
	}{{"Opening film", 12}, {"Star trails", 30}, {"Meteor of 2024", 8}}
	// geometry is what places a source, with what it may be.
	geometry = []measure{{"x", 50, -50, 150}, {"y", 50, -50, 150}, {"size", 100, 1, 400}, {"turn", 0, -180, 180}, {"left", 0, 0, 100}, {"right", 0, 0, 100}, {"top", 0, 0, 100}, {"bottom", 0, 0, 100}}
)

// measure is one number of a source's place, with what it is at first and may be.
type measure struct {
	name          string
	usual, lo, hi float64
}

// rested is for how long a source must have stood for its place to be one to come back to.
const rested = 2 * time.Second

// comment is what a viewer said, on the picture.
type comment struct{ who, words string }

// picture is what moves on the picture besides the scenes.
type picture struct {
	glides   panel.Glides
	before   map[string]map[string]float64 // where a source was, by its address
	moved    map[string]time.Time
	comments []comment
	films    map[string]time.Time // of media, by address
	away     time.Time            // when the look-back that is on air ends; zero: none is
}

func newPicture() picture {
	return picture{glides: panel.Glides{}, before: map[string]map[string]float64{}, moved: map[string]time.Time{}, films: map[string]time.Time{}}
}

func (m *machine) addPlace(at string) {
	for _, g := range geometry {
		m.v.Add(at+"/"+g.name, g.usual)
	}
}

func (m *machine) addRest() {
	for i, p := range places {
		at := fmt.Sprintf("/place/%d", i+1)
		m.v.Add(at+"/name", p.name)
		m.v.Add(at+"/x", p.x)
		m.v.Add(at+"/y", p.y)
		m.v.Add(at+"/size", p.percent)
	}
	for i, t := range texts {
		m.v.Add(fmt.Sprintf("/text/%d/name", i+1), t[0])
		m.v.Add(fmt.Sprintf("/text/%d/words", i+1), t[1])
	}
	for i, f := range media {
		at := fmt.Sprintf("/media/%d", i+1)
		m.v.Add(at+"/name", f.name)
		m.v.Add(at+"/playing", false)
		m.v.Add(at+"/remaining", 0)
	}
	m.v.Add("/comment/count", 0)
	m.v.Add("/comment/who", "")
	m.v.Add("/comment/words", "")
	m.v.Add("/lookback/airing", false)
	m.v.Add("/lookback/left", 0)
	m.v.Add("/virtual/on", false)
	m.v.Add("/virtual/scene", "0")
}

// more carries out what belongs to the picture; mine is false for the rest.
func (m *machine) more(msg device.Message, now time.Time) (changed []device.Message, mine bool, err error) {
	at := msg.Address[:strings.LastIndexByte(msg.Address, '/')]
	last := msg.Address[len(at)+1:]
	is := slices.IndexFunc(geometry, func(g measure) bool { return g.name == last })
	switch {
	case strings.Contains(at, "/source/") && is >= 0:
		changed, err = m.place(at, last, geometry[is].lo, geometry[is].hi, msg, now)
	case msg.Address == "/source/place", msg.Address == "/source/back", msg.Address == "/place/keep":
		changed, err = m.named(last, msg, now)
	case strings.HasPrefix(at, "/media/") && last == "playing":
		changed, err = m.media(at, panel.Arg(msg, 0), now)
	case strings.HasPrefix(at, "/text/") && last == "words":
		v, fault := panel.Accept("the text", "", panel.Arg(msg, 0), panel.Limits{Longest: 8000})
		if _, known := m.v.Get(msg.Address); !known || fault != nil {
			return nil, true, fmt.Errorf("a text takes at most 8000 bytes, and there are %d", len(texts))
		}
		changed = []device.Message{m.v.Put(msg.Address, v)}
	case at == "/comment" || at == "/comments":
		changed, err = m.comment(msg)
	case msg.Address == "/lookback/air":
		changed, err = m.air(now)
	case msg.Address == "/lookback/away":
		m.away = time.Time{}
		changed = []device.Message{m.v.Put("/lookback/airing", false), m.v.Put("/lookback/left", 0)}
	case msg.Address == "/virtual/scene":
		scene := fmt.Sprint(panel.Arg(msg, 0))
		if _, ok := m.setOf(scene); !ok && scene != "0" {
			return nil, true, fmt.Errorf("there is no scene %v", panel.Arg(msg, 0))
		}
		changed = []device.Message{m.v.Put(msg.Address, scene)}
	default:
		return nil, false, nil
	}
	return changed, true, err
}

// remember keeps where a source is, unless it has just been moved.
func (m *machine) remember(at string, now time.Time) {
	if now.Sub(m.moved[at]) > rested {
		was := map[string]float64{}
		for _, g := range geometry {
			was[g.name] = m.v.Float(at + "/" + g.name)
		}
		m.before[at] = was
	}
	m.moved[at] = now
}

// place moves, sizes, turns or crops a source.
func (m *machine) place(at, what string, lo, hi float64, msg device.Message, now time.Time) ([]device.Message, error) {
	if _, known := m.v.Get(msg.Address); !known {
		return nil, fmt.Errorf("%s is not known here", msg.Address)
	}
	v, err := panel.Accept(what, 0.0, panel.Arg(msg, 0), panel.Limits{Min: lo, Max: hi})
	if err != nil {
		return nil, err
	}
	m.remember(at, now)
	return m.glides.Set(m.v, msg.Address, v, panel.Arg(msg, 1), now), nil
}

// named puts a source at a place with a name, or back where it was, or keeps where it is.
func (m *machine) named(what string, msg device.Message, now time.Time) (changed []device.Message, err error) {
	path, _ := panel.Arg(msg, 0).(string)
	at := "/" + strings.TrimPrefix(path, "/")
	if _, known := m.v.Get(at + "/x"); !known || !strings.Contains(at, "/source/") {
		return nil, fmt.Errorf("there is no source at %s", path)
	}
	place := fmt.Sprintf("/place/%v", panel.Arg(msg, 1))
	if _, known := m.v.Get(place + "/name"); !known && what != "back" {
		return nil, fmt.Errorf("there is no place %v", panel.Arg(msg, 1))
	}
	switch what {
	case "keep":
		for _, g := range []string{"x", "y", "size"} {
			changed = append(changed, m.v.Put(place+"/"+g, m.v.Float(at+"/"+g)))
		}
	case "back":
		was, has := m.before[at]
		if !has {
			return nil, fmt.Errorf("this source was not moved")
		}
		for _, g := range geometry {
			changed = append(changed, m.glides.Set(m.v, at+"/"+g.name, was[g.name], panel.Arg(msg, 1), now)...)
		}
	default:
		m.remember(at, now)
		for _, g := range []string{"x", "y", "size"} {
			changed = append(changed, m.glides.Set(m.v, at+"/"+g, m.v.Float(place+"/"+g), panel.Arg(msg, 2), now)...)
		}
	}
	return changed, nil
}

func (m *machine) media(at string, v any, now time.Time) ([]device.Message, error) {
	on, err := panel.Accept("playing", false, v, panel.Limits{})
	if _, known := m.v.Get(at + "/name"); !known || err != nil {
		return nil, fmt.Errorf("there is no media source at %s, or this is neither true nor false", at)
	}
	if delete(m.films, at); !on.(bool) {
		return []device.Message{m.v.Put(at+"/playing", false), m.v.Put(at+"/remaining", 0)}, nil
	}
	seconds := 0
	for i, f := range media {
		if at == fmt.Sprintf("/media/%d", i+1) {
			seconds = f.seconds
		}
	}
	m.films[at] = now.Add(time.Duration(seconds) * time.Second)
	return []device.Message{m.v.Put(at+"/playing", true), m.v.Put(at+"/remaining", seconds)}, nil
}

// mostComments is how many comments there is room for on the picture.
const mostComments = 4

func (m *machine) comment(msg device.Message) ([]device.Message, error) {
	switch msg.Address {
	case "/comment/show":
		who, _ := panel.Arg(msg, 0).(string)
		words, _ := panel.Arg(msg, 1).(string)
		if strings.TrimSpace(words) == "" || len(words) > 8000 || len(who) > 400 {
			return nil, fmt.Errorf("a comment has 1 to 8000 bytes, and its viewer at most 400")
		}
		m.comments = append(m.comments, comment{who, words})
		m.comments = m.comments[max(0, len(m.comments)-mostComments):]
	case "/comment/hide":
		m.comments = m.comments[:max(0, len(m.comments)-1)]
	case "/comments/hide":
		m.comments = nil
	default:
		return nil, fmt.Errorf("%s cannot be set", msg.Address)
	}
	last := comment{}
	if n := len(m.comments); n > 0 {
		last = m.comments[n-1]
	}
	return []device.Message{m.v.Put("/comment/count", len(m.comments)), m.v.Put("/comment/who", last.who), m.v.Put("/comment/words", last.words)}, nil
}

// air saves the look-back and puts it on air until it ends.
func (m *machine) air(now time.Time) ([]device.Message, error) {
	changed, err := m.save(now)
	if err != nil {
		return nil, err
	}
	held := max(1, int(math.Round(min(lookback, now.Sub(m.looking)).Seconds())))
	m.away = now.Add(time.Duration(held) * time.Second)
	return append(changed, m.v.Put("/lookback/airing", true), m.v.Put("/lookback/left", held)), nil
}

// moveOn moves what moves by itself on the picture.
func (m *machine) moveOn(now time.Time) (changed []device.Message, running bool) {
	changed, running = m.glides.Move(m.v, now)
	left := func(end time.Time) int { return int((end.Sub(now) + time.Second - 1) / time.Second) }
	for at, end := range m.films {
		n := left(end)
		if n <= 0 {
			delete(m.films, at)
			changed = append(changed, m.v.Put(at+"/playing", false), m.v.Put(at+"/remaining", 0))
		} else if n != m.v.Int(at+"/remaining") {
			changed = append(changed, m.v.Put(at+"/remaining", n))
		}
	}
	if !m.away.IsZero() {
		n := left(m.away)
		if n <= 0 {
			m.away = time.Time{}
			changed = append(changed, m.v.Put("/lookback/airing", false), m.v.Put("/lookback/left", 0))
		} else if n != m.v.Int("/lookback/left") {
			changed = append(changed, m.v.Put("/lookback/left", n))
		}
	}
	return changed, running || len(m.films) > 0 || !m.away.IsZero()
}
