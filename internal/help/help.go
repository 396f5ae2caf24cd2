// Package help finds what the documents say of a part of the application. A topic is a document, or a section of one: desk, or desk/close-the-night.
package help

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"
)

// Topic is what the documents say of something.
type Topic struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	// HTML is the text. Links to other topics are addresses such as #help/macros.
	HTML string `json:"html"`
}

// Library has the topics of some documents, by their ids.
type Library map[string]Topic

var markdown = goldmark.New(goldmark.WithExtensions(extension.Table), goldmark.WithParserOptions(parser.WithAutoHeadingID()))

// link is one that leads to a document or to a section of it.
var link = regexp.MustCompile(`^([a-z-]+)\.md(?:#([a-z0-9-]+))?$`)

// ErrNone says that there is no such topic.
var ErrNone = errors.New("the documents say nothing of this")

// Read reads the documents of a folder.
func Read(files fs.FS) (Library, error) {
	names, err := fs.Glob(files, "*.md")
	if err != nil {
		return nil, err
	}
	l := Library{}
	for _, name := range names {
		source, err := fs.ReadFile(files, name)
		if err != nil {
			return nil, err
		}
		if err := l.add(strings.TrimSuffix(name, ".md"), source); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
	}
	return l, nil
}

// open is a section that goes on.
type open struct {
	level int
	topic Topic
	html  bytes.Buffer
}

// add takes a document in, with a topic for what stands before its first section, and one for each section with those within it.
func (l Library) add(name string, source []byte) error {
	doc := markdown.Parser().Parse(text.NewReader(source))
	if err := ast.Walk(doc, relink); err != nil {
		return err
	}
	var going []*open
	end := func(level int) {
		for len(going) > 0 && going[len(going)-1].level >= level {
			o := going[len(going)-1]
			o.topic.HTML, going = o.html.String(), going[:len(going)-1]
			l[o.topic.ID] = o.topic
		}
	}
	for n := doc.FirstChild(); n != nil; n = n.NextSibling() {
		if h, is := n.(*ast.Heading); is {
			end(h.Level)
			if len(going) == 1 && going[0].level == 1 {
				end(1) // sections are topics of their own
			}
			o := &open{level: h.Level, topic: Topic{ID: name, Title: string(h.Lines().Value(source))}}
			if id, has := h.AttributeString("id"); has && h.Level > 1 {
				o.topic.ID += "/" + string(id.([]byte))
			}
			going = append(going, o)
		}
		for _, o := range going {
			if n.Kind() == ast.KindHeading && o == going[len(going)-1] {
				continue // its title is the topic's
			}
			if err := markdown.Renderer().Render(&o.html, source, n); err != nil {
				return err
			}
		}
	}
	end(0)
	return nil
}

// relink has links between documents lead to topics.
func relink(n ast.Node, entering bool) (ast.WalkStatus, error) {
	if a, is := n.(*ast.Link); is && entering {
		if m := link.FindSubmatch(a.Destination); m != nil {
			a.Destination = []byte(strings.TrimSuffix(fmt.Sprintf("#help/%s/%s", m[1], m[2]), "/"))
		}
	}
	return ast.WalkContinue, nil
}

// Topic gives what the documents say of something.
func (l Library) Topic(id string) (Topic, error) {
	t, has := l[id]
	if !has {
		return t, ErrNone
	}
	return t, nil
}
