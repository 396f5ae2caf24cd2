package store

import (
	"errors"
	"os"

	"golang.org/x/sys/unix"
)

// makeRoom gives a file a size, with room for all of it on the disk where that can be asked for.
func makeRoom(f *os.File, size int64) error {
	if err := f.Truncate(size); err != nil {
		return err
	}
	if err := unix.Fallocate(int(f.Fd()), 0, 0, size); !errors.Is(err, unix.EOPNOTSUPP) {
		return err
	}
	return nil
}
