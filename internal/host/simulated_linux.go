package host

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"

	"synaptor/internal/core/hands"
)

// Simulated is a folder whose devices are pipes and pseudo-terminals, each beside a file with what it is, as JSON: the bench's, and that of
// tests.
func Simulated(path string) []Folder {
	return []Folder{{Path: path, Pattern: "event*[0-9]", Describe: described, Open: openSimulated}, {Path: path, Pattern: "midiC*D*[0-9]", Describe: described, Open: openSimulated}}
}

// DescriptionOf is the file that says what a simulated device is; TakenOf is there while one program has it alone.
func DescriptionOf(path string) string { return path + ".json" }

// TakenOf is the file that is there while a program has a simulated device alone.
func TakenOf(path string) string { return path + ".taken" }

func described(path string) (f hands.Device, err error) {
	raw, err := os.ReadFile(DescriptionOf(path))
	if err != nil {
		return f, err
	}
	if err := json.Unmarshal(raw, &f); err != nil {
		return f, fmt.Errorf("read what %s is: %w", path, err)
	}
	if info, err := os.Stat(path); err != nil || info.Mode().Perm() == 0 { // who runs as root may open everything
		return f, errors.Join(err, fs.ErrPermission)
	}
	return f, nil
}

// simulated is a simulated device that is open.
type simulated struct {
	Stream
	taken string
}

func openSimulated(path string) (Stream, error) {
	s, err := openFile(path)
	return simulated{s, TakenOf(path)}, err
}

// Grab implements Stream: one program has it alone.
func (s simulated) Grab(on bool) error {
	if !on {
		return os.Remove(s.taken)
	}
	f, err := os.OpenFile(s.taken, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if errors.Is(err, fs.ErrExist) {
		return errors.New("device or resource busy")
	}
	if err != nil {
		return err
	}
	return f.Close()
}

// Close implements Stream: what was taken is free again.
func (s simulated) Close() error {
	_ = os.Remove(s.taken) // unless it was not
	return s.Stream.Close()
}
