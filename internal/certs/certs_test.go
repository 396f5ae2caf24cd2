package certs

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"crypto/x509/pkix"
	"net"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

func TestTheAuthorityOfADataFolderStaysTheSame(t *testing.T) {
	dir := t.TempDir()
	c := Open(dir)
	first, err := c.Authority()
	if err != nil {
		t.Fatal(err)
	}
	again, err := Open(dir).Authority()
	if err != nil || string(again) != string(first) {
		t.Errorf("opened again it is another one: %v", err)
	}
	for _, name := range []string{authorityKey, authorityFile} {
		if st, err := os.Stat(filepath.Join(dir, "tls", name)); err != nil || st.Mode().Perm() != 0o600 {
			t.Errorf("%s: %v, %v", name, st.Mode(), err)
		}
	}
	ca, err := x509.ParseCertificate(first)
	if err != nil {
		t.Fatal(err)
	}
	roots := x509.NewCertPool()
	roots.AddCert(ca)
	for _, name := range []string{"10.213.7.1", "fd00::7", "desk.local"} {
		leaf, err := c.Get(Own, name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := leaf.Leaf.Verify(x509.VerifyOptions{DNSName: name, Roots: roots}); err != nil {
			t.Errorf("a browser that knows the authority does not take %s: %v", name, err)
		}
		if leaf.Leaf.VerifyHostname("elsewhere.local") == nil {
			t.Errorf("that of %s is good elsewhere", name)
		}
		if second, err := c.Get(Own, name); err != nil || second != leaf {
			t.Errorf("that of %s is made at every visit", name)
		}
	}
	if f := Fingerprint(first); len(f) != 95 || strings.Count(f, ":") != 31 {
		t.Errorf("its fingerprint is %q", f)
	}
}

// TestACertificateIsMadeAnewWhenTheClockStandsElsewhere: before its end, and after a clock has jumped in either direction.
func TestACertificateIsMadeAnewWhenTheClockStandsElsewhere(t *testing.T) {
	c := Open(t.TempDir())
	for _, at := range []time.Time{time.Date(2026, 11, 27, 20, 0, 0, 0, time.UTC), time.Date(1970, 1, 1, 0, 0, 5, 0, time.UTC), time.Date(2027, 12, 1, 0, 0, 0, 0, time.UTC), time.Date(2026, 11, 27, 20, 0, 0, 0, time.UTC)} {
		c.now = func() time.Time { return at }
		leaf, err := c.Get(Own, "10.0.0.1")
		if err != nil {
			t.Fatal(err)
		}
		if at.Before(leaf.Leaf.NotBefore) || at.After(leaf.Leaf.NotAfter.Add(-early)) || leaf.Leaf.NotAfter.Sub(leaf.Leaf.NotBefore) > 398*24*time.Hour {
			t.Errorf("at %s it is good from %s to %s", at, leaf.Leaf.NotBefore, leaf.Leaf.NotAfter)
		}
	}
}

// pair makes a certificate with its key.
func pair(t *testing.T, from, until time.Time, names []string, ips ...net.IP) (cert, key string) {
	t.Helper()
	k, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	of := &x509.Certificate{SerialNumber: serial(), Subject: pkix.Name{CommonName: "test"}, NotBefore: from, NotAfter: until, DNSNames: names, IPAddresses: ips}
	der, err := x509.CreateCertificate(rand.Reader, of, of, &k.PublicKey, k)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := x509.MarshalPKCS8PrivateKey(k)
	if err != nil {
		t.Fatal(err)
	}
	return string(pemOf("CERTIFICATE", der)), string(pemOf("PRIVATE KEY", raw))
}

func TestTheUsersCertificateIsJudged(t *testing.T) {
	dir := t.TempDir()
	c := Open(dir)
	now := time.Now()
	if _, err := c.Get(File, "10.0.0.1"); err != ErrNoFile {
		t.Errorf("without one: %v", err)
	}
	good, key := pair(t, now.Add(-time.Hour), now.Add(200*24*time.Hour), []string{"desk.example"}, net.ParseIP("10.0.0.1"))
	_, otherKey := pair(t, now, now.Add(time.Hour), nil)
	ended, endedKey := pair(t, now.Add(-2*time.Hour), now.Add(-time.Hour), []string{"desk.example"})
	for name, p := range map[string][2]string{"nothing": {"", ""}, "another key": {good, otherKey}, "no key": {good, good}, "an ended one": {ended, endedKey}, "a large one": {good + strings.Repeat(" ", maxPEM), key}} {
		if err := c.Use(p[0], p[1]); err == nil {
			t.Errorf("%s is taken", name)
		}
	}
	if err := c.Use(good, key); err != nil {
		t.Fatal(err)
	}
	if got, err := Open(dir).Get(File, ""); err != nil || got.Leaf.DNSNames[0] != "desk.example" {
		t.Errorf("opened again: %v", err)
	}
	hosts := []string{"10.0.0.1", "10.0.0.2", "desk.example"}
	if st := c.State(File, hosts); len(st.Problems) != 1 || !strings.Contains(st.Problems[0], "not for 10.0.0.2") {
		t.Errorf("for another address: %q", st.Problems)
	}
	for at, want := range map[time.Time]string{now.Add(180 * 24 * time.Hour): "ends on", now.Add(300 * 24 * time.Hour): "has ended on", now.Add(-48 * time.Hour): "begins on"} {
		c.now = func() time.Time { return at }
		if st := c.State(File, hosts[:1]); len(st.Problems) != 1 || !strings.Contains(st.Problems[0], want) {
			t.Errorf("at %s: %q", at, st.Problems)
		}
	}
}
