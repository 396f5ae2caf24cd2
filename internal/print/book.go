package print

import (
	_ "embed"
	"html/template"
	"io"
)

// Book is a whole show on paper.
type Book struct {
	Show, When  string
	Devices     []Device
	Controllers []Controller
	Macros      []Macro
	Profiles    []Profile
}

// Device is a device with its address; passwords are on no paper.
type Device struct{ Name, Type, Address, User, Note string }

// Controller is a controller with what it shows first.
type Controller struct{ Name, Layout, Profile string }

// Macro is a macro as a list of steps.
type Macro struct {
	Name, Length, Uses string
	Steps              []Step
}

// Step is a step at its depth, from 0.
type Step struct {
	Depth           int
	Title, On, When string
	Takes           string // how long it waits, fades or holds
	Off             bool
}

// Indent is how far it stands in, in pixels.
func (s Step) Indent() int { return 24 * s.Depth }

// Profile has the pages of a profile, drawn, and what their gestures do.
type Profile struct {
	Name     string
	Keys     template.HTML // SVG
	Gestures template.HTML
}

// Drawn gives pages as a profile of a book. What comes from people in it is escaped as it is drawn.
func Drawn(name string, pages []Page) Profile {
	return Profile{name, template.HTML(Keys(pages)), template.HTML(Gestures(pages))}
}

//go:embed book.html
var bookText string

var book = template.Must(template.New("book").Parse(bookText))

// Write writes the book as one HTML page that needs nothing else.
func (b Book) Write(w io.Writer) error { return book.Execute(w, b) }
