package help_test

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"synaptor/docs"
	"synaptor/internal/help"
)

func library(t *testing.T) help.Library {
	t.Helper()
	l, err := help.Read(docs.Files)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// What the interface explains is in the documents, and what it says has no link that leads nowhere.
func TestWhatTheInterfaceExplainsIsInTheDocuments(t *testing.T) {
	l, n := library(t), 0
	asks := regexp.MustCompile(`data-help="([^"{]+)"`)
	err := filepath.WalkDir("../../web/src", func(path string, d os.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".svelte") {
			return err
		}
		text, err := os.ReadFile(path)
		for _, m := range asks.FindAllStringSubmatch(string(text), -1) {
			n++
			if _, err := l.Topic(m[1]); err != nil {
				t.Errorf("%s has %q explained, of which the documents say nothing", filepath.Base(path), m[1])
			}
		}
		return err
	})
	if err != nil || n < 10 {
		t.Fatalf("%d parts are explained (%v)", n, err)
	}
	for _, part := range []string{"clocks", "what-runs", "last-presses", "markers"} { // of the Desk, which names them as it goes
		if _, err := l.Topic("desk/" + part); err != nil {
			t.Errorf("the documents say nothing of %s", part)
		}
	}
}

func TestLinksBetweenDocumentsLeadSomewhere(t *testing.T) {
	l := library(t)
	to := regexp.MustCompile(`href="#help/([^"]+)"`)
	for id, topic := range l {
		if topic.Title == "" {
			t.Errorf("%s has no title", id)
		}
		for _, m := range to.FindAllStringSubmatch(topic.HTML, -1) {
			if _, err := l.Topic(m[1]); err != nil {
				t.Errorf("%s leads to %s, which is not there", id, m[1])
			}
		}
	}
}

func TestASectionHasWhatStandsInItAndNoMore(t *testing.T) {
	l := library(t)
	topic, err := l.Topic("desk/close-the-night")
	if err != nil || !strings.Contains(topic.HTML, "newest hundred") || strings.Contains(topic.HTML, "another monitor") {
		t.Errorf("it is %q (%v)", topic.HTML, err)
	}
	if topic, err = l.Topic("device-sheets/link"); err != nil || !strings.Contains(topic.HTML, "What a reply belongs to") {
		t.Errorf("a section has not what is within it: %.200q (%v)", topic.HTML, err)
	}
	if topic, err = l.Topic("desk"); err != nil || strings.Contains(topic.HTML, "Put back") || !strings.Contains(topic.HTML, "Arrange") {
		t.Errorf("what stands before the sections is %q (%v)", topic.HTML, err)
	}
	if _, err := l.Topic("../secrets"); err == nil {
		t.Error("a topic was found that is none")
	}
}
