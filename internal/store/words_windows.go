package store

import (
	"errors"

	"golang.org/x/sys/windows"
)

// isFull tells whether a system says that a disk, or somebody's share of it, has no room left.
func isFull(err error) bool {
	return errors.Is(err, windows.ERROR_DISK_FULL) || errors.Is(err, windows.ERROR_HANDLE_DISK_FULL) || errors.Is(err, windows.ERROR_DISK_QUOTA_EXCEEDED)
}

// isReadOnly tells whether a system says that a disk can only be read.
func isReadOnly(err error) bool { return errors.Is(err, windows.ERROR_WRITE_PROTECT) }
