// Command dist builds what people download: for each target an archive with the program, the README, how to install it and the licences of what is
// inside, for Linux a Debian package too, and the checksums of all. Two runs on one commit give the same bytes.
//
//	go run ./tools/dist [-only linux/amd64] FOLDER
package main

import (
	"cmp"
	"crypto/sha256"
	"errors"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
)

// target is a system and a processor.
type target struct{ os, arch string }

// targets are all that are built for. The processor is as Go has it, but for armv7.
var targets = []target{{"linux", "amd64"}, {"linux", "arm64"}, {"linux", "armv7"}, {"windows", "amd64"}, {"darwin", "amd64"}, {"darwin", "arm64"}}

func (t target) String() string { return t.os + "/" + t.arch }

// env is the environment of a build for a target.
func (t target) env() []string {
	arch, arm := t.arch, ""
	if arch == "armv7" {
		arch, arm = "arm", "7"
	}
	return append(os.Environ(), "GOOS="+t.os, "GOARCH="+arch, "GOARM="+arm, "CGO_ENABLED=0")
}

// program is what the program is called there.
func (t target) program() string {
	if t.os == "windows" {
		return "synaptor.exe"
	}
	return "synaptor"
}

// release is what is built: a version that grows with each commit, the commit, and its time.
type release struct {
	version, commit string
	at              time.Time
}

func main() {
	only := flag.String("only", "", "`targets` to build for, with commas between them; all where it is empty")
	flag.Parse()
	if flag.NArg() != 1 {
		fmt.Fprintln(os.Stderr, "dist: say the folder to build into")
		os.Exit(2)
	}
	if err := build(flag.Arg(0), *only); err != nil {
		fmt.Fprintln(os.Stderr, "dist:", err)
		os.Exit(1)
	}
}

// build makes all files in a folder.
func build(folder, only string) error {
	r, err := current()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	made, built := []string{}, false
	for _, t := range targets {
		if only != "" && !slices.Contains(strings.Split(only, ","), t.String()) {
			continue
		}
		files, err := t.build(r, folder)
		if err != nil {
			return fmt.Errorf("%v: %w", t, err)
		}
		made, built = append(made, files...), true
	}
	if !built {
		return fmt.Errorf("there is no target %s", only)
	}
	return sums(folder, made)
}

// current is the release that the commit is.
func current() (release, error) {
	out, err := exec.Command("git", "log", "-1", "--format=%ct %h").Output()
	if err != nil {
		return release{}, fmt.Errorf("which commit it is: %w", err)
	}
	when, commit, _ := strings.Cut(strings.TrimSpace(string(out)), " ")
	at, err := strconv.ParseInt(when, 10, 64)
	if err != nil {
		return release{}, err
	}
	count, err := exec.Command("git", "rev-list", "--count", "HEAD").Output()
	if err != nil {
		return release{}, fmt.Errorf("how many commits there are: %w", err)
	}
	version := cmp.Or(os.Getenv("VERSION"), "0.1."+strings.TrimSpace(string(count)))
	return release{version, commit, time.Unix(at, 0).UTC()}, nil
}

// build makes the files of a target, and gives their names.
func (t target) build(r release, folder string) (made []string, err error) {
	room, err := os.MkdirTemp("", "synaptor-dist-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(room)
	program := filepath.Join(room, t.program())
	if err := t.run("go", "build", "-trimpath", "-ldflags", "-s -w -buildid= -X main.release="+r.version+" -X main.commit="+r.commit, "-o", program, "./cmd/synaptor"); err != nil {
		return nil, err
	}
	inside, err := t.licences()
	if err != nil {
		return nil, err
	}
	licences := filepath.Join(room, "LICENCES.txt")
	if err := os.WriteFile(licences, inside, 0o644); err != nil {
		return nil, err
	}
	name := fmt.Sprintf("synaptor-%s-%s-%s", r.version, t.os, t.arch)
	files := []packed{{program, t.program(), 0o755}, {"README.md", "README.md", 0o644}, {"docs/install.md", "install.md", 0o644}, {licences, "LICENCES.txt", 0o644}}
	if t.os == "linux" {
		files = append(files, packed{"packaging/70-synaptor.rules", "70-synaptor.rules", 0o644})
	}
	archive := name + ".tar.gz"
	write := tarball
	if t.os == "windows" {
		archive, write = name+".zip", zipped
	}
	if err := write(filepath.Join(folder, archive), name, files, r.at); err != nil {
		return nil, err
	}
	made = append(made, archive)
	if t.os == "linux" {
		deb, err := t.debian(r, room, folder)
		if err != nil {
			return nil, err
		}
		made = append(made, deb)
	}
	return made, nil
}

// debian makes the Debian package of what lies in a room.
func (t target) debian(r release, room, folder string) (string, error) {
	arch := t.arch
	if arch == "armv7" {
		arch = "armhf"
	}
	name := fmt.Sprintf("synaptor_%s_%s.deb", r.version, arch)
	c := exec.Command("go", "tool", "-modfile=packaging/go.mod", "nfpm", "package", "--config", "packaging/nfpm.yaml", "--packager", "deb", "--target", filepath.Join(folder, name))
	c.Env = append(os.Environ(), "SYNAPTOR_ARCH="+arch, "SYNAPTOR_VERSION="+r.version, "SYNAPTOR_ROOM="+room, "SOURCE_DATE_EPOCH="+strconv.FormatInt(r.at.Unix(), 10))
	if out, err := c.CombinedOutput(); err != nil {
		return "", fmt.Errorf("the Debian package: %w: %s", err, out)
	}
	return name, nil
}

// run runs a command for a target.
func (t target) run(name string, args ...string) error {
	c := exec.Command(name, args...)
	c.Env, c.Stderr = t.env(), os.Stderr
	return c.Run()
}

// sums writes the checksums of files, as sha256sum does.
func sums(folder string, names []string) error {
	slices.Sort(names)
	var out strings.Builder
	for _, name := range names {
		body, err := os.ReadFile(filepath.Join(folder, name))
		if err != nil {
			return errors.Join(err, fmt.Errorf("no checksum of %s", name))
		}
		fmt.Fprintf(&out, "%x  %s\n", sha256.Sum256(body), name)
	}
	return os.WriteFile(filepath.Join(folder, "SHA256SUMS"), []byte(out.String()), 0o644)
}
