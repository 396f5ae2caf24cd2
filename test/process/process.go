// Package process runs Synaptor as a process of its own, for tests that end it or watch it from
// outside.
package process

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"sync"
)

// Build builds Synaptor into a folder and gives the program.
func Build(dir string) (string, error) {
	bin := filepath.Join(dir, "synaptor")
	build := exec.Command("go", "build", "-o", bin, "synaptor/cmd/synaptor")
	build.Env = append(os.Environ(), "CGO_ENABLED=0") // as make build does
	if out, err := build.CombinedOutput(); err != nil {
		return "", fmt.Errorf("build: %w\n%s", err, out)
	}
	return bin, nil
}

// Process is one life of Synaptor.
type Process struct {
	cmd  *exec.Cmd
	Base string // such as http://127.0.0.1:7420
	said *output
}

// output is what a process says while it runs.
type output struct {
	mu   sync.Mutex
	text bytes.Buffer
}

// Write implements io.Writer.
func (o *output) Write(p []byte) (int, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	return o.text.Write(p)
}

func (o *output) String() string {
	o.mu.Lock()
	defer o.mu.Unlock()
	return o.text.String()
}

// Said is what it has said of errors so far.
func (p *Process) Said() string { return p.said.String() }

var address = regexp.MustCompile(`http://[0-9.:]+`)

// Start starts a program that Build has made on free ports, and waits until it serves.
func Start(bin, data string, options ...string) (*Process, error) {
	args := append([]string{"serve", "--listen", "127.0.0.1:0", "--osc", "127.0.0.1:0", "--data", data}, options...)
	cmd := exec.Command(bin, args...)
	cmd.Env = append(os.Environ(), "GOGC=100") // as people have it
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, fmt.Errorf("start Synaptor: %w", err)
	}
	said := &output{}
	cmd.Stderr = said
	if err := cmd.Start(); err != nil {
		return nil, fmt.Errorf("start Synaptor: %w", err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		_ = cmd.Wait()
		return nil, fmt.Errorf("start Synaptor: %w\n%s", err, said.String())
	}
	go func() { _, _ = io.Copy(io.Discard, out) }()
	return &Process{cmd, address.FindString(line), said}, nil
}

// Pid is its number.
func (p *Process) Pid() int { return p.cmd.Process.Pid }

// Kill ends it as a power cut does.
func (p *Process) Kill() {
	_ = p.cmd.Process.Kill()
	_ = p.cmd.Wait()
}
