//go:build unix

package store

import (
	"os"

	"golang.org/x/sys/unix"
)

// openMemory maps a file into memory: what is written there is in the file, whatever becomes of the process.
func openMemory(f *os.File, size int) ([]byte, error) {
	return unix.Mmap(int(f.Fd()), 0, size, unix.PROT_READ|unix.PROT_WRITE, unix.MAP_SHARED)
}

// keepMemory does nothing: the file is the memory.
func keepMemory(*os.File, []byte, int, int) error { return nil }

func closeMemory(mem []byte) error { return unix.Munmap(mem) }
