package store

import (
	"bytes"
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/natefinch/atomic"
)

// keyFile lies beside the database. It protects copies of the database, no
// more: whoever has both can read the secrets.
const keyFile = "secrets.key"

// damagedKey is where one is kept that is none.
const damagedKey = keyFile + ".damaged"

// keyBytes is how long the key is, for AES-256.
const keyBytes = 32

// loadKey reads the key of the secrets, or makes one. needed says that there are secrets which it opens: then note
// says where it was gone or damaged. A damaged one is kept beside it.
func loadKey(dir string, needed bool) (seal cipher.AEAD, note string, err error) {
	path := filepath.Join(dir, keyFile)
	key, err := os.ReadFile(path)
	switch {
	case errors.Is(err, os.ErrNotExist) && needed:
		note = fmt.Sprintf("The key of the passwords, %s, was missing. Enter the passwords of the devices again, or put the file back and start again.", keyFile)
	case err == nil && len(key) != keyBytes:
		note = fmt.Sprintf("The key of the passwords, %s, was damaged and is kept as %s. Enter the passwords of the devices again, or put a copy back and start again.", keyFile, damagedKey)
		if err := os.Rename(path, filepath.Join(dir, damagedKey)); err != nil {
			return nil, "", fmt.Errorf("set the key of the passwords aside: %w", err)
		}
	}
	if errors.Is(err, os.ErrNotExist) || note != "" {
		key = make([]byte, keyBytes)
		_, _ = rand.Read(key) // it never fails
		err = atomic.WriteFile(path, bytes.NewReader(key))
	}
	if err != nil {
		return nil, "", fmt.Errorf("open the key of the passwords: %w", err)
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, "", fmt.Errorf("open the key of the passwords %s: %w", path, err)
	}
	seal, err = cipher.NewGCM(block)
	return seal, note, err
}

// PutSecret stores a password or token, sealed with AES-256-GCM, and returns
// the id by which edits refer to it. Secrets never change: a new password is a
// new secret, so that undo brings the old one back.
func (s *Show) PutSecret(text string) (string, error) {
	id := rand.Text()
	nonce := make([]byte, s.seal.NonceSize())
	_, _ = rand.Read(nonce) // it never fails
	box := s.seal.Seal(nonce, nonce, []byte(text), []byte(id))
	if _, err := s.db.Exec(`INSERT INTO secret (id, box) VALUES (?, ?)`, id, box); err != nil {
		return "", fmt.Errorf("store a password: %w", err)
	}
	return id, nil
}

// Secret opens a secret.
func (s *Show) Secret(id string) (string, error) {
	var box []byte
	err := s.db.Get(&box, `SELECT box FROM secret WHERE id = ?`, id)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return "", errors.New("this password is not stored here")
	case err != nil:
		return "", fmt.Errorf("read a password: %w", err)
	case len(box) < s.seal.NonceSize():
		return "", errors.New("this password is damaged")
	}
	text, err := s.seal.Open(nil, box[:s.seal.NonceSize()], box[s.seal.NonceSize():], []byte(id))
	if err != nil {
		return "", fmt.Errorf("the key file %s does not fit this password", keyFile)
	}
	return string(text), nil
}

// PurgeSecrets removes the secrets that neither the show nor any edit or version refers
// to.
func (s *Show) PurgeSecrets() error {
	_, err := s.db.Exec(`DELETE FROM secret WHERE
		NOT EXISTS (SELECT 1 FROM entity WHERE kind = 'device' AND instr(body, secret.id) > 0) AND
		NOT EXISTS (SELECT 1 FROM edit WHERE instr(changes, secret.id) > 0) AND
		NOT EXISTS (SELECT 1 FROM version WHERE instr(needs, secret.id) > 0)`)
	if err != nil {
		return fmt.Errorf("purge passwords: %w", err)
	}
	return nil
}
