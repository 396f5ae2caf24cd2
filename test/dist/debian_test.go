package dist

import (
	"bytes"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
)

// inRoot runs a command in a root of its own.
func inRoot(t *testing.T, root string, args ...string) string {
	t.Helper()
	out, err := exec.Command("chroot", append([]string{root}, args...)...).CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %v: %s", args, err, out)
	}
	return string(out)
}

// asService runs what the unit of the package starts, as the user that it has.
func asService(t *testing.T, root string) (c *exec.Cmd, base string) {
	t.Helper()
	unit, err := os.ReadFile(filepath.Join(root, "usr/lib/systemd/system/synaptor.service"))
	if err != nil {
		t.Fatal(err)
	}
	said := map[string]string{}
	for line := range strings.Lines(string(unit)) {
		if key, value, is := strings.Cut(strings.TrimSpace(line), "="); is {
			said[key] = value
		}
	}
	command := strings.NewReplacer("${SYNAPTOR_LISTEN}", "127.0.0.1:0", "${SYNAPTOR_OSC}", "127.0.0.1:0").Replace(said["ExecStart"])
	c = exec.Command("chroot", append([]string{"--userspec=" + said["User"] + ":" + said["Group"], root}, strings.Fields(command)...)...)
	return c, started(t, c)
}

// TestTheDebianPackage is installed into a Debian of its own, verified, run, upgraded with its data, removed and purged.
func TestTheDebianPackage(t *testing.T) {
	folder(t)
	debootstrap, err := exec.LookPath("debootstrap")
	if err != nil || os.Geteuid() != 0 || runtime.GOOS != "linux" {
		t.Skip("a Debian to install into takes debootstrap, as root")
	}
	root := filepath.Join(t.TempDir(), "root")
	if out, err := exec.Command(debootstrap, "--variant=minbase", "--include=adduser,systemd,udev", "stable", root).CombinedOutput(); err != nil {
		t.Skipf("no Debian can be had here: %v: %.300s", err, out)
	}
	install := func(deb string) {
		t.Helper()
		body, err := os.ReadFile(deb)
		if err == nil {
			err = os.WriteFile(filepath.Join(root, "synaptor.deb"), body, 0o644)
		}
		if err != nil {
			t.Fatal(err)
		}
		inRoot(t, root, "dpkg", "-i", "/synaptor.deb")
	}
	install(one(t, "synaptor_*_"+runtime.GOARCH+".deb"))
	if out := inRoot(t, root, "systemd-analyze", "verify", "/usr/lib/systemd/system/synaptor.service"); strings.Contains(out, "synaptor") {
		t.Errorf("the unit: %s", out)
	}
	if owner := inRoot(t, root, "stat", "-c", "%U:%G %a", "/var/lib/synaptor"); owner != "synaptor:synaptor 700\n" {
		t.Errorf("the data folder is of %s", owner)
	}
	c, base := asService(t, root)
	resp, err := http.Post(base+"/api/v1/shows", "application/json", strings.NewReader(`{"name":"Kept over the upgrade"}`))
	if err != nil {
		t.Fatal(err)
	}
	resp.Body.Close()
	if resp.StatusCode != http.StatusCreated {
		t.Errorf("a new show: %d", resp.StatusCode)
	}
	stop(c)

	// What was set by hand stays, as the data does.
	settings := filepath.Join(root, "etc/default/synaptor")
	if err := os.WriteFile(settings, []byte("SYNAPTOR_LISTEN=0.0.0.0:7420\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	newer := t.TempDir()
	build := exec.Command("go", "run", "./tools/dist", "-only", "linux/"+runtime.GOARCH, newer)
	build.Dir, build.Env = "../..", append(os.Environ(), "VERSION=99.0.0")
	if out, err := build.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	install(filepath.Join(newer, "synaptor_99.0.0_"+runtime.GOARCH+".deb"))
	if kept, err := os.ReadFile(settings); err != nil || !bytes.Contains(kept, []byte("0.0.0.0:7420")) {
		t.Errorf("the settings became %q (%v)", kept, err)
	}
	if said := inRoot(t, root, "synaptor", "version"); !strings.HasPrefix(said, "Synaptor 99.0.0,") {
		t.Errorf("it says it is %s", said)
	}
	c, base = asService(t, root)
	resp, err = http.Get(base + "/api/v1/shows")
	if err != nil {
		t.Fatal(err)
	}
	shows, err := io.ReadAll(resp.Body)
	resp.Body.Close()
	if err != nil || !bytes.Contains(shows, []byte("Kept over the upgrade")) {
		t.Errorf("the shows are %s (%v)", shows, err)
	}
	stop(c)

	data := filepath.Join(root, "var/lib/synaptor/shows")
	inRoot(t, root, "dpkg", "--remove", "synaptor")
	if _, err := os.Stat(data); err != nil {
		t.Errorf("removed, its data is gone: %v", err)
	}
	if _, err := os.Stat(filepath.Join(root, "usr/bin/synaptor")); err == nil {
		t.Error("removed, the program is there")
	}
	inRoot(t, root, "dpkg", "--purge", "synaptor")
	if _, err := os.Stat(filepath.Dir(data)); err == nil {
		t.Error("purged, its data is there")
	}
	if users, err := os.ReadFile(filepath.Join(root, "etc/passwd")); err != nil || bytes.Contains(users, []byte("synaptor")) {
		t.Errorf("purged, its user is there (%v)", err)
	}
}
