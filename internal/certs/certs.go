// Package certs has the certificates that Synaptor is reached with over TLS: the user's own, or those of an authority that is made here.
// Begin with Open.
package certs

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"io/fs"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/natefinch/atomic"
)

// Mode is which certificates are used.
type Mode string

// The modes.
const (
	Plain Mode = ""     // none: plain HTTP
	Own   Mode = "own"  // those of the authority that is made here
	File  Mode = "file" // the user's
)

// Valid tells whether a mode is one.
func (m Mode) Valid() bool { return m == Plain || m == Own || m == File }

const (
	// leafFor is how long a certificate of the authority is good: browsers take at most 398 days (CA/Browser Forum Baseline Requirements, 6.3.2).
	leafFor = 397 * 24 * time.Hour
	// early is how long before its end one is made anew, and said of the user's own that it ends.
	early = 30 * 24 * time.Hour
	// before is how far back one is good, for clocks that are behind.
	before = 24 * time.Hour
)

// The authority is good whatever a clock said when it was made.
var authorityFrom, authorityUntil = time.Date(2020, 1, 1, 0, 0, 0, 0, time.UTC), time.Date(2049, 12, 31, 0, 0, 0, 0, time.UTC)

// Certs are the certificates of a data folder.
type Certs struct {
	dir string
	now func() time.Time

	mu        sync.Mutex
	authority *tls.Certificate
	leaves    map[string]*tls.Certificate // by the name or address that they are for
	file      *tls.Certificate
}

// Open gives the certificates of a data folder; a folder tls in it has them.
func Open(data string) *Certs {
	return &Certs{dir: filepath.Join(data, "tls"), now: time.Now, leaves: map[string]*tls.Certificate{}}
}

// Files of the folder.
const (
	authorityFile, authorityKey = "authority.pem", "authority.key"
	userFile, userKey           = "certificate.pem", "certificate.key"
)

// load reads a certificate and its key; nil where there is none.
func (c *Certs) load(file, key string) (*tls.Certificate, error) {
	cert, err := tls.LoadX509KeyPair(filepath.Join(c.dir, file), filepath.Join(c.dir, key))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read the certificate %s: %w", filepath.Join(c.dir, file), err)
	}
	return &cert, nil
}

// keep writes a certificate and its key, which nobody else may read.
func (c *Certs) keep(file, key string, certPEM, keyPEM []byte) error {
	if err := os.MkdirAll(c.dir, 0o700); err != nil {
		return fmt.Errorf("keep a certificate: %w", err)
	}
	for name, body := range map[string][]byte{key: keyPEM, file: certPEM} {
		path := filepath.Join(c.dir, name)
		if err := errors.Join(atomic.WriteFile(path, strings.NewReader(string(body))), os.Chmod(path, 0o600)); err != nil {
			return fmt.Errorf("keep a certificate: %w", err)
		}
	}
	return nil
}

func pemOf(kind string, der []byte) []byte {
	return pem.EncodeToMemory(&pem.Block{Type: kind, Bytes: der})
}

// own is the authority, which is made where there is none. The lock is held.
func (c *Certs) own() (*tls.Certificate, error) {
	if c.authority != nil {
		return c.authority, nil
	}
	has, err := c.load(authorityFile, authorityKey)
	if err != nil {
		return nil, err
	}
	if has == nil {
		key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
		if err != nil {
			return nil, fmt.Errorf("make an authority: %w", err)
		}
		host, err := os.Hostname()
		if err != nil {
			host = "this computer"
		}
		t := &x509.Certificate{SerialNumber: serial(), Subject: pkix.Name{CommonName: "Synaptor on " + host}, NotBefore: authorityFrom, NotAfter: authorityUntil,
			KeyUsage: x509.KeyUsageCertSign | x509.KeyUsageCRLSign, BasicConstraintsValid: true, IsCA: true, MaxPathLenZero: true}
		der, err := x509.CreateCertificate(rand.Reader, t, t, &key.PublicKey, key)
		if err != nil {
			return nil, fmt.Errorf("make an authority: %w", err)
		}
		raw, err := x509.MarshalPKCS8PrivateKey(key)
		if err != nil {
			return nil, fmt.Errorf("make an authority: %w", err)
		}
		if err := c.keep(authorityFile, authorityKey, pemOf("CERTIFICATE", der), pemOf("PRIVATE KEY", raw)); err != nil {
			return nil, err
		}
		if has, err = c.load(authorityFile, authorityKey); err != nil {
			return nil, err
		}
	}
	c.authority = has
	return has, nil
}

func serial() *big.Int {
	n, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		panic(err) // it never fails (crypto/rand)
	}
	return n
}

// Get is the certificate for a name, or for the address where a browser said none. It is made anew before its end, and when the clock
// has come to stand elsewhere.
func (c *Certs) Get(mode Mode, name string) (*tls.Certificate, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if mode == File {
		return c.user()
	}
	now := c.now()
	if leaf := c.leaves[name]; leaf != nil && now.After(leaf.Leaf.NotBefore) && now.Before(leaf.Leaf.NotAfter.Add(-early)) {
		return leaf, nil
	}
	by, err := c.own()
	if err != nil {
		return nil, err
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, fmt.Errorf("make a certificate for %s: %w", name, err)
	}
	t := &x509.Certificate{SerialNumber: serial(), Subject: pkix.Name{CommonName: "Synaptor at " + name}, NotBefore: now.Add(-before), NotAfter: now.Add(leafFor - before),
		KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}}
	if ip := net.ParseIP(name); ip != nil {
		t.IPAddresses = []net.IP{ip}
	} else {
		t.DNSNames = []string{name}
	}
	der, err := x509.CreateCertificate(rand.Reader, t, by.Leaf, &key.PublicKey, by.PrivateKey)
	if err != nil {
		return nil, fmt.Errorf("make a certificate for %s: %w", name, err)
	}
	leaf, err := x509.ParseCertificate(der)
	if err != nil {
		return nil, fmt.Errorf("make a certificate for %s: %w", name, err)
	}
	c.leaves[name] = &tls.Certificate{Certificate: [][]byte{der, by.Certificate[0]}, PrivateKey: key, Leaf: leaf}
	return c.leaves[name], nil
}

// ErrNoFile says that the user has given no certificate.
var ErrNoFile = errors.New("no certificate was given yet")

// user is the user's certificate. The lock is held.
func (c *Certs) user() (_ *tls.Certificate, err error) {
	if c.file == nil {
		if c.file, err = c.load(userFile, userKey); err != nil {
			return nil, err
		}
	}
	if c.file == nil {
		return nil, ErrNoFile
	}
	return c.file, nil
}

// maxPEM is how large a certificate, or a key, is.
//
//limit:bytes a certificate with its chain, or its key | in the answer
const maxPEM = 64 << 10

// Use keeps the user's certificate, with its chain, and its key, both as PEM (RFC 7468). It says in a sentence what is wrong with them.
func (c *Certs) Use(certPEM, keyPEM string) error {
	if len(certPEM) > maxPEM || len(keyPEM) > maxPEM {
		return errors.New("this is larger than a certificate")
	}
	cert, err := tls.X509KeyPair([]byte(certPEM), []byte(keyPEM))
	if err != nil {
		return fmt.Errorf("the certificate and the key do not do: %s", strings.TrimPrefix(err.Error(), "tls: "))
	}
	if now := c.now(); now.After(cert.Leaf.NotAfter) {
		return fmt.Errorf("this certificate has ended on %s", cert.Leaf.NotAfter.Format(time.DateOnly))
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if err := c.keep(userFile, userKey, []byte(certPEM), []byte(keyPEM)); err != nil {
		return err
	}
	c.file = &cert
	return nil
}

// Authority is the certificate of the authority that is made here, as DER, for browsers to be told of.
func (c *Certs) Authority() ([]byte, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	a, err := c.own()
	if err != nil {
		return nil, err
	}
	return a.Certificate[0], nil
}

// Fingerprint is the SHA-256 of a certificate, as people compare it.
func Fingerprint(der []byte) string {
	sum := sha256.Sum256(der)
	parts := make([]string, len(sum))
	for i, b := range sum {
		parts[i] = fmt.Sprintf("%02X", b)
	}
	return strings.Join(parts, ":")
}

// State is what is said of the certificates of a mode.
type State struct {
	Mode Mode `json:"mode"`
	// Fingerprint is of the authority, or of the user's certificate.
	Fingerprint string `json:"fingerprint,omitempty"`
	// Names are those the user's certificate is for; Until when it ends.
	Names []string   `json:"names"`
	Until *time.Time `json:"until,omitempty"`
	// HasFile says that the user has given one.
	HasFile bool `json:"hasFile"`
	// Problems are sentences.
	Problems []string `json:"problems"`
}

// State says what there is of a mode, and what is wrong with it for the names and addresses that Synaptor is reached at.
func (c *Certs) State(mode Mode, hosts []string) State {
	st := State{Mode: mode, Names: []string{}, Problems: []string{}}
	c.mu.Lock()
	file, fileErr := c.user()
	c.mu.Unlock()
	st.HasFile = fileErr == nil
	switch mode {
	case Own:
		der, err := c.Authority()
		if err != nil {
			st.Problems = append(st.Problems, Sentence(err))
			break
		}
		st.Fingerprint = Fingerprint(der)
	case File:
		if fileErr != nil {
			st.Problems = append(st.Problems, Sentence(fileErr))
			break
		}
		leaf := file.Leaf
		st.Fingerprint, st.Until = Fingerprint(file.Certificate[0]), &leaf.NotAfter
		st.Names = append(st.Names, leaf.DNSNames...)
		for _, ip := range leaf.IPAddresses {
			st.Names = append(st.Names, ip.String())
		}
		switch now := c.now(); {
		case now.After(leaf.NotAfter):
			st.Problems = append(st.Problems, fmt.Sprintf("The certificate has ended on %s: browsers warn of it.", leaf.NotAfter.Format(time.DateOnly)))
		case now.Before(leaf.NotBefore):
			st.Problems = append(st.Problems, fmt.Sprintf("The certificate begins on %s, and this computer's clock says %s.", leaf.NotBefore.Format(time.DateOnly), now.Format(time.DateOnly)))
		case now.After(leaf.NotAfter.Add(-early)):
			st.Problems = append(st.Problems, fmt.Sprintf("The certificate ends on %s.", leaf.NotAfter.Format(time.DateOnly)))
		}
		for _, h := range slices.Compact(slices.Sorted(slices.Values(hosts))) {
			if leaf.VerifyHostname(h) != nil {
				st.Problems = append(st.Problems, fmt.Sprintf("The certificate is not for %s: browsers warn there.", h))
			}
		}
	}
	return st
}

// Sentence is an error as a sentence.
func Sentence(err error) string {
	s := err.Error()
	return strings.ToUpper(s[:1]) + s[1:] + "."
}
