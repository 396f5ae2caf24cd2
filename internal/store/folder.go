package store

import (
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/gofrs/flock"
)

// lockFile is held by whoever uses a data folder; it has the number of the process.
const lockFile = "in-use"

// InUseError says that a data folder is used by somebody else.
type InUseError struct{ Folder, Process string }

// Error implements error.
func (e *InUseError) Error() string {
	return fmt.Sprintf("the data folder %s is in use by another Synaptor (process %s); end that one, or choose another folder with --data", e.Folder, e.Process)
}

// UseFolder makes a data folder if there is none, and keeps it from being used twice until release is called or
// the process ends. It fails with an *InUseError where somebody uses it. Whoever else may look into it is said in the log.
func UseFolder(dir string) (release func(), err error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("open the data folder: %w", err)
	}
	if info, err := os.Stat(dir); err == nil && info.Mode().Perm()&0o077 != 0 {
		slog.Warn("others on this computer can look into the data folder; chmod 700 keeps them out", "folder", dir, "mode", info.Mode().Perm())
	}
	path := filepath.Join(dir, lockFile)
	lock := flock.New(path, flock.SetPermissions(0o600))
	ours, err := lock.TryLock()
	if err == nil && !ours {
		who, _ := os.ReadFile(path)
		return nil, &InUseError{dir, strings.TrimSpace(string(who))}
	}
	if err == nil {
		err = os.WriteFile(path, []byte(strconv.Itoa(os.Getpid())+"\n"), 0o600)
	}
	if err != nil {
		_ = lock.Close()
		return nil, fmt.Errorf("open the data folder: %w", err)
	}
	return func() { _ = lock.Close() }, nil // which lets go of it
}

// ownOnly makes a file that nobody else may read, and keeps others from reading one that is there.
func ownOnly(path string) error {
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return err
	}
	defer f.Close()
	return f.Chmod(0o600)
}

// IsFolder tells whether a folder is one that a Synaptor has used.
func IsFolder(dir string) bool {
	info, err := os.Stat(filepath.Join(dir, lockFile))
	return err == nil && info.Mode().IsRegular()
}
