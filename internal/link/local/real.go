package local

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"synaptor/internal/core/device"
	"synaptor/internal/incident"
	"synaptor/internal/link"
)

// Allowed is what the owner lets Synaptor do with the real computer. Nothing
// goes through a shell, and nothing that is not listed is started.
type Allowed struct {
	Enabled bool `json:"enabled"`
	// Applications are command lines by the name they are offered under.
	Applications map[string][]string `json:"applications"`
	// Links are addresses that may be opened, as they are or as a beginning.
	Links []string `json:"links"`
	// Opener opens a link, Player plays a sound file; the link or the file is
	// added as the last argument.
	Opener []string          `json:"opener"`
	Player []string          `json:"player"`
	Sounds map[string]string `json:"sounds"` // files by name
	// Icons are glyphs of applications by name; what is not listed has none of its own.
	Icons map[string]string `json:"icons"`
}

// DamagedError says that the list of what is allowed cannot be read.
type DamagedError struct {
	File string
	Err  error
}

// Error implements error.
func (e *DamagedError) Error() string { return fmt.Sprintf("read %s: %v", e.File, e.Err) }

// Unwrap gives what was found.
func (e *DamagedError) Unwrap() error { return e.Err }

// Load reads the allow-list of a data folder; nil where there is none or it is
// switched off.
func Load(dir string) (*Real, error) {
	path := filepath.Join(dir, "local.json")
	b, err := os.ReadFile(path)
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read the functions of this computer: %w", err)
	}
	var a Allowed
	if err := json.Unmarshal(b, &a); err != nil {
		return nil, &DamagedError{path, err}
	}
	if !a.Enabled {
		return nil, nil
	}
	if len(a.Opener) == 0 {
		a.Opener = []string{"xdg-open"}
	}
	if len(a.Player) == 0 {
		a.Player = []string{"aplay", "-q"}
	}
	return &Real{allowed: a, running: map[string]*exec.Cmd{}, followers: map[int]func(...device.Message){}}, nil
}

// Real is the computer that Synaptor runs on.
type Real struct {
	allowed Allowed

	mu        sync.Mutex
	running   map[string]*exec.Cmd // by address
	followers map[int]func(...device.Message)
	last      int
}

// Ask implements Computer.
func (r *Real) Ask(address string) []device.Message {
	r.mu.Lock()
	defer r.mu.Unlock()
	return slices.DeleteFunc(r.state(), func(m device.Message) bool { return m.Address != address })
}

// Follow implements Computer. This computer does not go away.
func (r *Real) Follow(tell func(...device.Message), _ func(error)) (stop func(), err error) {
	r.mu.Lock()
	r.last++
	id := r.last
	r.followers[id] = tell
	all := r.state()
	r.mu.Unlock()
	tell(all...)
	return func() {
		r.mu.Lock()
		defer r.mu.Unlock()
		delete(r.followers, id)
	}, nil
}

// key makes a name usable in an address.
func key(name string) string { return strings.ReplaceAll(strings.ToLower(name), " ", "-") }

func (r *Real) state() []device.Message {
	var out []device.Message
	add := func(kind string, names []string, what string) {
		for _, n := range names {
			at := "/" + kind + "/" + key(n)
			on := 0
			if r.running[at] != nil {
				on = 1
			}
			out = append(out, device.Message{Address: at + "/name", Args: []any{n}}, device.Message{Address: at + "/" + what, Args: []any{on}})
		}
	}
	add("app", slices.Sorted(maps.Keys(r.allowed.Applications)), "running")
	for name, icon := range r.allowed.Icons {
		if _, has := r.allowed.Applications[name]; has {
			out = append(out, device.Message{Address: "/app/" + key(name) + "/icon", Args: []any{icon}})
		}
	}
	add("sound", slices.Sorted(maps.Keys(r.allowed.Sounds)), "playing")
	return append(out, device.Message{Address: "/model", Args: []any{"This computer, version 1.0"}})
}

// Do implements Computer.
func (r *Real) Do(m device.Message) (heard bool, err error) { return true, r.do(m) }

func (r *Real) do(m device.Message) error {
	parts := strings.Split(strings.TrimPrefix(m.Address, "/"), "/")
	arg := func(i int) string {
		if i < len(m.Args) {
			return fmt.Sprint(m.Args[i])
		}
		return ""
	}
	switch {
	case m.Address == "/link/open":
		return r.open(arg(0))
	case len(parts) == 3 && parts[0] == "app" && parts[2] == "running":
		for name, argv := range r.allowed.Applications {
			if key(name) == parts[1] && len(argv) > 0 {
				return r.toggle("/app/"+parts[1], "running", arg(0) == "1", argv)
			}
		}
	case len(parts) == 3 && parts[0] == "sound" && parts[2] == "playing":
		for name, file := range r.allowed.Sounds {
			if key(name) == parts[1] {
				return r.toggle("/sound/"+parts[1], "playing", arg(0) == "1", append(slices.Clone(r.allowed.Player), file))
			}
		}
	}
	return fmt.Errorf("%s is not on the allow-list of this computer", m.Address)
}

func (r *Real) open(url string) error {
	if !strings.HasPrefix(url, "https://") && !strings.HasPrefix(url, "http://") ||
		!slices.ContainsFunc(r.allowed.Links, func(l string) bool { return url == l || strings.HasPrefix(url, strings.TrimSuffix(l, "/")+"/") }) {
		return fmt.Errorf("%s is not on the allow-list of this computer", url)
	}
	cmd := exec.Command(r.allowed.Opener[0], append(slices.Clone(r.allowed.Opener[1:]), url)...)
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("open %s: %w", url, err)
	}
	go func() { _ = cmd.Wait() }() // it may fail later; that is the browser's
	return nil
}

// toggle starts or ends what runs under an address.
func (r *Real) toggle(at, what string, on bool, argv []string) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if cmd := r.running[at]; cmd != nil {
		if !on {
			return cmd.Process.Kill()
		}
		return nil
	}
	if !on {
		return nil
	}
	cmd := exec.Command(argv[0], argv[1:]...)
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("start %s: %w", argv[0], err)
	}
	r.running[at] = cmd
	go incident.Contain("computer", what, func() {
		_ = cmd.Wait()
		r.mu.Lock()
		delete(r.running, at)
		r.mu.Unlock()
		r.tell(device.Message{Address: at + "/" + what, Args: []any{0}})
	})
	go incident.Contain("computer", what, func() { r.tell(device.Message{Address: at + "/" + what, Args: []any{1}}) })
	return nil
}

func (r *Real) tell(msgs ...device.Message) {
	r.mu.Lock()
	to := slices.Collect(maps.Values(r.followers))
	r.mu.Unlock()
	for _, t := range to {
		t(msgs...)
	}
}

var _ Computer = (*Real)(nil)
var _ link.Driver = Driver{}
