package local

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

func TestWithoutAComputerTheLinkSaysThatItIsOff(t *testing.T) {
	_, err := Driver{}.Dial(context.Background(), link.Target{})
	if s := link.Sentence(err, link.Config{}); !strings.Contains(s, "switched off") {
		t.Errorf("it says %q", s)
	}
	for _, body := range []string{"", `{"enabled": false, "applications": {"x": ["/bin/true"]}}`} {
		dir := t.TempDir()
		if body != "" {
			if err := os.WriteFile(filepath.Join(dir, "local.json"), []byte(body), 0o600); err != nil {
				t.Fatal(err)
			}
		}
		if r, err := Load(dir); r != nil || err != nil {
			t.Errorf("%q gives %v (%v)", body, r, err)
		}
	}
}

// allowed makes a computer whose allow-list has an application that waits, a
// link and a sound.
func allowed(t *testing.T) *Real {
	t.Helper()
	dir := t.TempDir()
	list := `{"enabled": true, "applications": {"Star chart": ["/bin/sleep", "60"], "Gone": ["/nowhere/at/all"]}, "links": ["https://larkfell.example/tonight"],
		"opener": ["/bin/true"], "player": ["/bin/echo"], "sounds": {"Gong": "/tmp/gong.wav"}}`
	if err := os.WriteFile(filepath.Join(dir, "local.json"), []byte(list), 0o600); err != nil {
		t.Fatal(err)
	}
	r, err := Load(dir)
	if err != nil || r == nil {
		t.Fatal(r, err)
	}
	return r
}

func TestOnlyWhatIsListedIsStarted(t *testing.T) {
	r := allowed(t)
	for _, m := range []device.Message{
		{Address: "/app/other/running", Args: []any{1}}, {Address: "/app/gone/running", Args: []any{1}}, {Address: "/link/open", Args: []any{"https://elsewhere.example/"}},
		{Address: "/link/open", Args: []any{"file:///etc/passwd"}}, {Address: "/link/open", Args: []any{"https://larkfell.example/tonightmare"}},
		{Address: "/sound/owl/playing", Args: []any{1}}, {Address: "/type", Args: []any{"x"}},
	} {
		if heard, err := r.Do(m); !heard || err == nil {
			t.Errorf("%v was carried out", m)
		}
	}
	for _, url := range []string{"https://larkfell.example/tonight", "https://larkfell.example/tonight/map"} {
		if _, err := r.Do(device.Message{Address: "/link/open", Args: []any{url}}); err != nil {
			t.Errorf("%s: %v", url, err)
		}
	}
}

func TestAnApplicationIsStartedReportedAndEnded(t *testing.T) {
	r := allowed(t)
	c, err := Driver{r}.Dial(context.Background(), link.Target{})
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	until := func(address string, value any) {
		t.Helper()
		for {
			b, err := c.Read()
			if err != nil {
				t.Fatal(err)
			}
			for _, m := range b.Messages {
				if m.Address == address && m.Args[0] == value {
					return
				}
			}
		}
	}
	until("/app/star-chart/name", "Star chart")
	for _, on := range []int{1, 0} {
		p, err := Driver{}.Encode(device.Message{Address: "/app/star-chart/running", Args: []any{on}})
		if err == nil {
			err = c.Write(p, 1, time.Now().Add(time.Second))
		}
		if err != nil {
			t.Fatal(err)
		}
		until("/app/star-chart/running", on)
	}
}
