//go:build !linux

package store

import "os"

// makeRoom gives a file a size. What it grows by is written, so that the disk has room for it.
func makeRoom(f *os.File, size int64) error {
	s, err := f.Stat()
	if err != nil {
		return err
	}
	if had := s.Size(); had < size {
		_, err = f.WriteAt(make([]byte, size-had), had)
		return err
	}
	return f.Truncate(size)
}
