package background

import (
	"strings"
	"testing"
)

func TestDoEndsWithTheFunction(t *testing.T) {
	ran := false
	Do(func() { ran = true })
	if !ran {
		t.Fatal("it went on before the function had ended")
	}
}

func TestAPanicIsTheCallers(t *testing.T) {
	defer func() {
		p := recover()
		if text, _ := p.(string); !strings.HasPrefix(text, "broken\n") || !strings.Contains(text, "TestAPanicIsTheCallers") {
			t.Fatalf("the caller got %v", p)
		}
	}()
	Do(func() { panic("broken") })
}
