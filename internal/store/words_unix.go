//go:build unix

package store

import (
	"errors"
	"syscall"
)

// isFull tells whether a system says that a disk, or somebody's share of it, has no room left.
func isFull(err error) bool { return errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) }

// isReadOnly tells whether a system says that a disk can only be read.
func isReadOnly(err error) bool { return errors.Is(err, syscall.EROFS) }
