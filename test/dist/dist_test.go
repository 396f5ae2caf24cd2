// Package dist looks through what people download, as make dist has built it: the variable DIST is its folder.
package dist

import (
	"archive/tar"
	"archive/zip"
	"bufio"
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"debug/elf"
	"debug/macho"
	"debug/pe"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"
)

// folder is that with the files; without one there is nothing to look at.
func folder(t *testing.T) string {
	t.Helper()
	dir := os.Getenv("DIST")
	if dir == "" {
		t.Skip("nothing was built: make dist builds, and then looks at it")
	}
	return dir
}

// one gives the only file of a kind.
func one(t *testing.T, pattern string) string {
	t.Helper()
	found, err := filepath.Glob(filepath.Join(folder(t), pattern))
	if err != nil || len(found) != 1 {
		t.Fatalf("%s is %q (%v)", pattern, found, err)
	}
	return found[0]
}

// unpack gives the files of an archive, by their names without the folder that all are in.
func unpack(t *testing.T, path string) map[string][]byte {
	t.Helper()
	files := map[string][]byte{}
	keep := func(name string, r io.Reader) {
		body, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		below, file, _ := strings.Cut(name, "/")
		if below != strings.TrimSuffix(strings.TrimSuffix(filepath.Base(path), ".tar.gz"), ".zip") {
			t.Errorf("%s has %s", path, name)
		}
		files[file] = body
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	if strings.HasSuffix(path, ".zip") {
		z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range z.File {
			r, err := f.Open()
			if err != nil {
				t.Fatal(err)
			}
			keep(f.Name, r)
		}
		return files
	}
	z, err := gzip.NewReader(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	for r := tar.NewReader(z); ; {
		h, err := r.Next()
		if errors.Is(err, io.EOF) {
			return files
		}
		if err != nil {
			t.Fatal(err)
		}
		keep(h.Name, r)
	}
}

// machineOf is the system and the processor that a program is for.
func machineOf(t *testing.T, program []byte) string {
	t.Helper()
	r := bytes.NewReader(program)
	if f, err := elf.NewFile(r); err == nil {
		return "ELF " + f.Machine.String()
	}
	if f, err := macho.NewFile(r); err == nil {
		return "Mach-O " + f.Cpu.String()
	}
	f, err := pe.NewFile(r)
	if err != nil {
		t.Fatalf("it is no program of a kind that is known: %v", err)
	}
	return fmt.Sprintf("PE %#x", f.Machine)
}

func TestTheArchiveOfEachTargetHasItsProgram(t *testing.T) {
	for pattern, want := range map[string]string{
		"synaptor-*-linux-amd64.tar.gz": "ELF EM_X86_64", "synaptor-*-linux-arm64.tar.gz": "ELF EM_AARCH64", "synaptor-*-linux-armv7.tar.gz": "ELF EM_ARM",
		"synaptor-*-windows-amd64.zip": "PE 0x8664", "synaptor-*-darwin-amd64.tar.gz": "Mach-O CpuAmd64", "synaptor-*-darwin-arm64.tar.gz": "Mach-O CpuArm64",
	} {
		files := unpack(t, one(t, pattern))
		program := files["synaptor"]
		if strings.Contains(pattern, "windows") {
			program = files["synaptor.exe"]
		}
		if is := machineOf(t, program); is != want {
			t.Errorf("%s has a program for %s, wanted %s", pattern, is, want)
		}
		for name, part := range map[string]string{"README.md": "# Synaptor", "install.md": "first start", "LICENCES.txt": "labstack/echo"} {
			if !bytes.Contains(files[name], []byte(part)) {
				t.Errorf("%s has no %q in its %s", pattern, part, name)
			}
		}
		if _, has := files["70-synaptor.rules"]; has != strings.Contains(pattern, "linux") {
			t.Errorf("%s and the rule for input devices do not belong together", pattern)
		}
	}
}

func TestTheChecksumsAreThoseOfAllFiles(t *testing.T) {
	raw, err := os.ReadFile(one(t, "SHA256SUMS"))
	if err != nil {
		t.Fatal(err)
	}
	said := map[string]string{}
	for line := range strings.Lines(string(raw)) {
		sum, name, _ := strings.Cut(strings.TrimSpace(line), "  ")
		said[name] = sum
	}
	there, err := os.ReadDir(folder(t))
	if err != nil {
		t.Fatal(err)
	}
	if len(said) != 9 || len(there) != len(said)+1 {
		t.Errorf("%d checksums of %d files", len(said), len(there))
	}
	for name, sum := range said {
		body, err := os.ReadFile(filepath.Join(folder(t), name))
		if err != nil || fmt.Sprintf("%x", sha256.Sum256(body)) != sum {
			t.Errorf("%s is not what its checksum says (%v)", name, err)
		}
	}
}

func TestTwoBuildsOfOneCommitAreEqual(t *testing.T) {
	again := t.TempDir()
	c := exec.Command("go", "run", "./tools/dist", "-only", "linux/amd64,windows/amd64", again)
	c.Dir, c.Env = "../..", append(os.Environ(), "GOCACHE="+t.TempDir()) // nothing of the first build is used again
	folder(t)
	if out, err := c.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	for _, pattern := range []string{"synaptor-*-linux-amd64.tar.gz", "synaptor-*-windows-amd64.zip", "synaptor_*_amd64.deb"} {
		first := one(t, pattern)
		a, err := os.ReadFile(first)
		if err != nil {
			t.Fatal(err)
		}
		b, err := os.ReadFile(filepath.Join(again, filepath.Base(first)))
		if err != nil || !bytes.Equal(a, b) {
			t.Errorf("%s is not what it was (%v)", filepath.Base(first), err)
		}
	}
}

// started runs a command that serves, and waits for the address that it says.
func started(t *testing.T, c *exec.Cmd) (base string) {
	t.Helper()
	out, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	var errOut bytes.Buffer
	c.Stderr = &errOut
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { stop(c) })
	said := bufio.NewScanner(out)
	for said.Scan() {
		if m := regexp.MustCompile(`http://[0-9.:]+`).FindString(said.Text()); m != "" {
			go func() { _, _ = io.Copy(io.Discard, out) }()
			return m
		}
	}
	t.Fatalf("it says no address: %s", errOut.String())
	return ""
}

// stop ends a command as a service is ended; once it has, again is nothing.
func stop(c *exec.Cmd) {
	if c.ProcessState == nil {
		_ = c.Process.Signal(syscall.SIGTERM)
		_ = c.Wait()
	}
}

// TestTheDemoStartsFromAnEmptyFolder on each Linux: this computer's by itself, the others where something here emulates them.
func TestTheDemoStartsFromAnEmptyFolder(t *testing.T) {
	for arch, emulator := range map[string]string{"amd64": "qemu-x86_64-static", "arm64": "qemu-aarch64-static", "armv7": "qemu-arm-static"} {
		t.Run(arch, func(t *testing.T) {
			program := filepath.Join(t.TempDir(), "synaptor")
			if err := os.WriteFile(program, unpack(t, one(t, "synaptor-*-linux-"+arch+".tar.gz"))["synaptor"], 0o700); err != nil {
				t.Fatal(err)
			}
			command := []string{program}
			if native := runtime.GOARCH == arch || runtime.GOARCH == "arm" && arch == "armv7"; !native {
				path, err := exec.LookPath(emulator)
				if err != nil {
					t.Skipf("nothing here runs programs for %s: there is no %s", arch, emulator)
				}
				command = []string{path, program}
			}
			starts(t, command)
		})
	}
}

// starts starts the demo by a command and looks at its first answer.
func starts(t *testing.T, command []string) {
	t.Helper()
	run := func(args ...string) *exec.Cmd {
		all := slices.Concat(command, args)
		return exec.Command(all[0], all[1:]...)
	}
	said, err := run("version").Output()
	if err != nil || !regexp.MustCompile(`^Synaptor 0\.1\.\d+, commit [0-9a-f]{7,}\ngo.*, linux/.*, SQLite 3`).Match(said) {
		t.Errorf("it says it is %q (%v)", said, err)
	}
	began := time.Now()
	base := started(t, run("serve", "--demo", "--data", filepath.Join(t.TempDir(), "new"), "--listen", "127.0.0.1:0", "--osc", "127.0.0.1:0", "--bench-ports", "0"))
	resp, err := http.Get(base + "/")
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	page, err := io.ReadAll(resp.Body)
	if err != nil || resp.StatusCode != http.StatusOK || !bytes.Contains(page, []byte("<title>")) {
		t.Errorf("it answers %d (%v)", resp.StatusCode, err)
	}
	t.Logf("from an empty folder to the first answer in %v; wanted on a quiet machine of its kind: 400 ms", time.Since(began).Round(time.Millisecond))
}
