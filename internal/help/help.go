// Package help finds what the documents say of a part of the application. A topic is a document, or a section of one: desk, or desk/close-the-night.
package help

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"slices"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"

	"synaptor/internal/core/show"
)

// Topic is what the documents say of something.
type Topic struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	// HTML is the text. Links to other topics are addresses such as #help/macros.
	HTML string `json:"html"`
}

// Row names a topic.
type Row struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	In    string `json:"in,omitempty"` // the title of its document; empty: it is one
}

// Library has the topics of some documents.
type Library struct {
	topics map[string]Topic
	rows   []Row
}

var (
	heading = regexp.MustCompile(`(?m)^(#{1,3}) (.+)$`)
	link    = regexp.MustCompile(`href="([a-z-]+)\.md(?:#([a-z0-9-]+))?"`)
)

var markdown = goldmark.New(goldmark.WithExtensions(extension.Table))

// ErrNone says that there is no such topic.
var ErrNone = errors.New("the documents say nothing of this")

// Read reads the documents of a folder.
func Read(files fs.FS) (*Library, error) {
	names, err := fs.Glob(files, "*.md")
	if err != nil {
		return nil, err
	}
	l := &Library{topics: map[string]Topic{}}
	for _, name := range names {
		text, err := fs.ReadFile(files, name)
		if err != nil {
			return nil, err
		}
		if err := l.add(strings.TrimSuffix(name, ".md"), string(text)); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
	}
	slices.SortFunc(l.rows, func(a, b Row) int {
		return cmp.Or(strings.Compare(cmp.Or(a.In, a.Title), cmp.Or(b.In, b.Title)), strings.Compare(a.In, b.In))
	})
	return l, nil
}

// add takes a document in, with a topic for what stands before its first section, and one for each section.
func (l *Library) add(name, text string) error {
	heads := heading.FindAllStringSubmatchIndex(text, -1)
	of := ""
	for i, h := range heads {
		if inFence(text[:h[0]]) {
			continue
		}
		level, title := h[3]-h[2], text[h[4]:h[5]]
		end := len(text)
		for _, next := range heads[i+1:] {
			if !inFence(text[:next[0]]) && (next[3]-next[2] <= level || level == 1) {
				end = next[0]
				break
			}
		}
		t := Topic{ID: name, Title: title}
		if level > 1 {
			t.ID = name + "/" + Slug(title)
		} else {
			of = title
		}
		var b bytes.Buffer
		if err := markdown.Convert([]byte(text[h[1]:end]), &b); err != nil {
			return err
		}
		t.HTML = link.ReplaceAllStringFunc(b.String(), func(s string) string {
			m := link.FindStringSubmatch(s)
			if m[2] != "" {
				return fmt.Sprintf(`href="#help/%s/%s"`, m[1], m[2])
			}
			return fmt.Sprintf(`href="#help/%s"`, m[1])
		})
		l.topics[t.ID] = t
		row := Row{t.ID, t.Title, of}
		if level == 1 {
			row.In = ""
		}
		l.rows = append(l.rows, row)
	}
	return nil
}

// inFence tells whether what follows a text stands in a block of code.
func inFence(before string) bool { return strings.Count(before, "\n```")%2 == 1 }

// Slug is how a title is called in an address.
func Slug(title string) string { return show.Slug(title, func(string) bool { return false }) }

// Topic gives what the documents say of something.
func (l *Library) Topic(id string) (Topic, error) {
	t, has := l.topics[id]
	if !has {
		return t, ErrNone
	}
	return t, nil
}

// Topics lists all topics, by document.
func (l *Library) Topics() []Row { return l.rows }
