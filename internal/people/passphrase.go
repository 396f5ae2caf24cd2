package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/crypto/argon2"
)

// hashed is what is kept of a secret that is long and random itself.
func hashed(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// hash works out that of a passphrase, once others are through.
func (s *Service) hash(ctx context.Context, passphrase string) (string, error) {
	if err := s.turn(ctx); err != nil {
		return "", err
	}
	defer func() { <-s.turns }()
	salt := make([]byte, 16)
	_, _ = rand.Read(salt) // it never fails (crypto/rand)
	return encode(passphrase, salt), nil
}

func encode(passphrase string, salt []byte) string {
	return written(salt, argon2.IDKey([]byte(passphrase), salt, passes, memory, lanes, keyLength))
}

// nobodys is a hash that no passphrase has, and that costs as much to try as that of somebody. It costs nothing to make.
func nobodys() string {
	key := make([]byte, keyLength)
	_, _ = rand.Read(key)
	return written(make([]byte, 16), key)
}

// written is a hash in the form of the reference implementation.
func written(salt, key []byte) string {
	b := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, lanes, b.EncodeToString(salt), b.EncodeToString(key))
}

// fits tells whether a passphrase is that of a hash, in the form of the reference implementation.
func (s *Service) fits(ctx context.Context, passphrase, hash string) (bool, error) {
	var version, m, t, p int
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false, errors.New("what is kept of this passphrase cannot be read")
	}
	_, err := fmt.Sscanf(parts[2]+" "+parts[3], "v=%d m=%d,t=%d,p=%d", &version, &m, &t, &p)
	salt, err2 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err3 := base64.RawStdEncoding.DecodeString(parts[5])
	if err := errors.Join(err, err2, err3); err != nil || version != argon2.Version || m < 1 || m > 1<<20 || t < 1 || p < 1 || p > 16 {
		return false, errors.New("what is kept of this passphrase cannot be read")
	}
	if err := s.turn(ctx); err != nil {
		return false, err
	}
	defer func() { <-s.turns }()
	if utf8.RuneCountInString(passphrase) > maxPassphrase {
		passphrase = "" // it is wrong
	}
	got := argon2.IDKey([]byte(passphrase), salt, uint32(t), uint32(m), uint8(p), uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1, nil
}

// turn waits for a turn to work out a hash.
func (s *Service) turn(ctx context.Context) error {
	select {
	case s.turns <- struct{}{}:
		s.Hashed()
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}
