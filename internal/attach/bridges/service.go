// Package bridges serves the wire: it takes what bridges say of the controllers they carry to the engine, and gives those the faces
// they show. Begin with Service.Serve, which serves one bridge; session.go has the conversation, show.go what a controller shows.
package bridges

import (
	"context"
	"crypto/rand"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"synaptor/internal/attach"
	"synaptor/internal/attach/hardware"
	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/hands"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/paint"
	"synaptor/internal/sheet"
	"synaptor/internal/wire"
)

// Config is what the service stands on.
type Config struct {
	Shows  attach.Programs
	Engine *engine.Engine
	Hub    *feed.Hub
	// Pictures gives the pictures of the library; nil: there are none.
	Pictures paint.Pictures
	// Frames gives those of live pictures; nil: there are none.
	Frames Frames
	// Lets tells who a bridge with a token presses as, and gives a context that goes on for as long as it may, or the reason why it may not.
	Lets func(ctx context.Context, token string) (context.Context, attach.Sender, error)
	// Learns tells whether somebody learns what is touched on a board; then nothing is to be done.
	Learns func(board func() hardware.Row, e hands.Event) bool
}

// Service has the bridges that are connected, and the boards, as the controllers of the real world are called here, that they carry.
type Service struct {
	cfg  Config
	book *paint.Book
	font *face.Font
	live frames

	quiet atomic.Bool
	says  atomic.Pointer[string] // on the first control of each board, instead of its face; nil: nothing

	mu       sync.Mutex
	boards   map[string]*board // by serial number; those of which one is here, or was
	sessions map[*session]bool
	resumed  map[string]*memory // by what a welcome said
}

// memory is what a bridge still has after it was lost: the pictures.
type memory struct {
	pictures *wire.Last // that it has acknowledged
	left     time.Time  // zero: it is here
	session  *session
}

// remembered is how long a bridge that was lost can resume.
const remembered = 10 * time.Minute

// New starts the service.
func New(cfg Config) (*Service, error) {
	if cfg.Lets == nil {
		cfg.Lets = func(ctx context.Context, _ string) (context.Context, attach.Sender, error) {
			return ctx, attach.Sender{}, nil
		}
	}
	if cfg.Learns == nil {
		cfg.Learns = func(func() hardware.Row, hands.Event) bool { return false }
	}
	font, err := face.NewFont()
	if err != nil {
		return nil, err
	}
	return &Service{cfg: cfg, book: paint.NewBook(cfg.Pictures), font: font, live: frames{get: cfg.Frames, all: map[show.Live]*frame{}}, boards: map[string]*board{}, sessions: map[*session]bool{}, resumed: map[string]*memory{}}, nil
}

// board is a controller of the real world.
type board struct {
	described wire.Controller
	session   *session // that carries it; nil: none does
	row       hardware.Row
	touches   hardware.Touches
}

// Boards lists the boards that are here, or were and are attached.
func (s *Service) Boards() []hardware.Row {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := []hardware.Row{}
	for _, b := range s.boards {
		out = append(out, b.row)
	}
	slices.SortFunc(out, func(a, b hardware.Row) int { return strings.Compare(a.Match, b.Match) })
	return out
}

// Sheet is the sheet that a bridge has brought for the layout of a board; nil: it has brought none.
func (s *Service) Sheet(serial string) []byte {
	s.mu.Lock()
	defer s.mu.Unlock()
	if b := s.boards[serial]; b != nil {
		return b.described.Sheet
	}
	return nil
}

// SetQuiet has real controllers do nothing, and say so on their faces, or work again. What they hold is let go.
func (s *Service) SetQuiet(on bool) {
	s.quiet.Store(on)
	s.cfg.Hub.Publish("quiet", []string{"hardware"}, on)
	for _, one := range s.all() {
		if on {
			one.release()
		}
		one.look()
	}
}

// all are the bridges that are connected.
func (s *Service) all() []*session {
	s.mu.Lock()
	defer s.mu.Unlock()
	return slices.Collect(maps.Keys(s.sessions))
}

// Say has the first control of each board show a text, which somebody has to read there; empty: it shows its face.
func (s *Service) Say(text string) {
	was := s.says.Swap(&text)
	if was != nil && *was == text || was == nil && text == "" {
		return
	}
	for _, one := range s.all() {
		one.look()
	}
}

// said is what Say has the boards show.
func (s *Service) said() string {
	if text := s.says.Load(); text != nil {
		return *text
	}
	return ""
}

// row is what is told of a board.
func (s *Service) row(serial string) (r hardware.Row) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if b := s.boards[serial]; b != nil {
		return b.row
	}
	return r
}

// rowID is the id of what is told of a board.
func rowID(serial string) string { return hardware.ID(show.LinkWire, serial, "") }

// sheetOf gives the sheet of a board: that which its bridge brings, or one that is here; nil: there is none, and problem says why, in
// a sentence.
func (s *Service) sheetOf(c wire.Controller) (l *device.ControllerSheet, problem string) {
	if len(c.Sheet) > 0 {
		l, problems := sheet.ParseController("the sheet of "+c.Serial, c.Sheet)
		if len(problems) > 0 {
			return nil, "Its sheet is wrong: " + problems[0].Error() + "."
		}
		return l, ""
	}
	if l := s.cfg.Shows.Program().Sheets.Controller(c.Layout); l != nil {
		return l, ""
	}
	return nil, fmt.Sprintf("There is no layout %q here, and it brings no sheet.", c.Layout)
}

// claim gives boards to a session. taken are those that another one carries, by serial number: what that is called.
func (s *Service) claim(one *session, all []wire.Controller) (taken map[string]string) {
	taken = map[string]string{}
	now := time.Now()
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, c := range all {
		b := s.boards[c.Serial]
		if b == nil {
			b = &board{}
			s.boards[c.Serial] = b
		}
		if b.session != nil && b.session != one {
			taken[c.Serial] = b.session.name
			continue
		}
		if b.session == one {
			continue
		}
		layout := c.Layout
		l, problem := s.sheetOf(c)
		if l != nil {
			layout = l.Type
		}
		b.described, b.session, b.touches = c, one, hardware.Touches{}
		b.row = hardware.Row{ID: rowID(c.Serial), Kind: show.LinkWire, Match: c.Serial, Name: c.Name, Via: one.name, Layout: layout, Own: len(c.Sheet) > 0, Here: true, Since: now, Problem: problem}
	}
	return taken
}

// leave takes the boards of a session away; what it knew is remembered for a while. Others that wait for one of them look again.
func (s *Service) leave(one *session) {
	now := time.Now()
	s.mu.Lock()
	delete(s.sessions, one)
	if m := s.resumed[one.token]; m != nil && m.session == one {
		m.left, m.session = now, nil
	}
	maps.DeleteFunc(s.resumed, func(_ string, m *memory) bool { return m.session == nil && now.Sub(m.left) > remembered })
	for serial, b := range s.boards {
		if b.session != one {
			continue
		}
		b.session, b.row.Here, b.row.Since, b.row.Problem, b.row.Dimmed = nil, false, now, "", false
		if b.row.Link == "" {
			delete(s.boards, serial)
			hardware.Forget(s.cfg.Hub, rowID(serial))
			continue
		}
		hardware.Publish(s.cfg.Hub, b.row)
	}
	others := slices.Collect(maps.Keys(s.sessions))
	s.mu.Unlock()
	for _, o := range others {
		o.look()
	}
}

// enter takes a session up. One that resumes takes over what it was; the older of the two ends.
//
// Half of the pictures that the bridge keeps are counted on: it may have got some last that nobody here knows of.
func (s *Service) enter(one *session, resume string, keeps int) {
	keeps /= 2
	s.mu.Lock()
	m := s.resumed[resume]
	if m == nil || resume == "" {
		m = &memory{pictures: wire.NewLast(keeps)}
	} else {
		delete(s.resumed, resume)
	}
	old := m.session
	m.session, m.left = one, time.Time{}
	one.token, one.memory = rand.Text(), m
	s.resumed[one.token] = m
	s.sessions[one] = true
	s.mu.Unlock()
	if old != nil {
		old.end()
		<-old.done
	}
	m.pictures = m.pictures.Copy(keeps)
	one.sent = m.pictures.Copy(keeps)
}

// change changes the row of a board that a session carries, and tells whoever follows.
func (s *Service) change(one *session, serial string, f func(b *board)) {
	s.mu.Lock()
	defer s.mu.Unlock()
	b := s.boards[serial]
	if b == nil || b.session != one {
		return
	}
	f(b)
	hardware.Publish(s.cfg.Hub, b.row)
}

// touched notes what came in.
func (s *Service) touched(one *session, serial string, t hardware.Touch) {
	s.change(one, serial, func(b *board) {
		b.touches.Add(s.cfg.Hub, b.row.ID, t)
		b.row.Last = &t
	})
}

// attachment is what a board is attached to, in the show that is in force.
type attachment struct {
	link       *show.Link
	controller string // its id
	slug, name string
	acts       bool   // the touch that wakes it acts too
	reason     string // why there is none
}

// attached finds what a board is attached to.
func (s *Service) attached(serial string) attachment {
	sh := s.cfg.Shows.Program().Show
	l := sh.LinkTo(show.LinkWire, serial, "", true)
	switch {
	case l == nil:
		return attachment{reason: "No controller of this show is attached to it; attach one in Rig, Controllers."}
	case l.Off:
		return attachment{link: l, reason: "Its link is switched off."}
	}
	c := sh.Controller(l.Controller)
	if c == nil {
		return attachment{reason: "The controller that it was attached to is not there any more."}
	}
	return attachment{link: l, controller: c.ID, slug: c.Slug, name: c.Name, acts: c.WakeActs}
}
