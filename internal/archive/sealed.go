package archive

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/pbkdf2"
	"crypto/rand"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
)

// sealedFile has the passwords of the devices, where they were asked for.
const sealedFile = "passwords.sealed"

const (
	sealedFormat = "synaptor.sealed/1"
	// rounds of PBKDF2 (RFC 8018) with HMAC-SHA-256, so that guessing a passphrase takes long.
	rounds = 600_000
	// minPassphrase is how many characters a passphrase has at least.
	minPassphrase = 8
)

// ErrPassphrase says that a passphrase does not open what was sealed.
var ErrPassphrase = errors.New("this passphrase does not open the passwords of the archive")

// sealed is what is in the file: AES-256-GCM, with the format as what is authenticated besides.
type sealed struct {
	Format string `json:"format"`
	Salt   []byte `json:"salt"`
	Nonce  []byte `json:"nonce"`
	Box    []byte `json:"box"`
}

// Seal seals passwords, by the ids of their devices, with a passphrase.
func Seal(passwords map[string]string, passphrase string) ([]byte, error) {
	if len([]rune(passphrase)) < minPassphrase {
		return nil, fmt.Errorf("a passphrase has at least %d characters", minPassphrase)
	}
	text, err := json.Marshal(passwords)
	if err != nil {
		return nil, err
	}
	s := sealed{Format: sealedFormat, Salt: make([]byte, 16)}
	_, _ = rand.Read(s.Salt) // it never fails
	box, err := lock(passphrase, s.Salt)
	if err != nil {
		return nil, err
	}
	s.Nonce = make([]byte, box.NonceSize())
	_, _ = rand.Read(s.Nonce)
	s.Box = box.Seal(nil, s.Nonce, text, []byte(sealedFormat))
	return json.Marshal(s)
}

// lock is what a passphrase opens.
func lock(passphrase string, salt []byte) (cipher.AEAD, error) {
	key, err := pbkdf2.Key(sha256.New, passphrase, salt, rounds, 32)
	if err != nil {
		return nil, err
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, err
	}
	return cipher.NewGCM(block)
}

// Passwords opens what was sealed. It fails with ErrPassphrase.
func (a Archive) Passwords(passphrase string) (map[string]string, error) {
	var s sealed
	if err := json.Unmarshal(a.Sealed, &s); err != nil || s.Format != sealedFormat || len(s.Nonce) != 12 {
		return nil, errors.New("the passwords of this archive are damaged")
	}
	box, err := lock(passphrase, s.Salt)
	if err != nil {
		return nil, err
	}
	text, err := box.Open(nil, s.Nonce, s.Box, []byte(sealedFormat))
	if err != nil {
		return nil, ErrPassphrase
	}
	var out map[string]string
	if err := json.Unmarshal(text, &out); err != nil {
		return nil, errors.New("the passwords of this archive are damaged")
	}
	return out, nil
}
