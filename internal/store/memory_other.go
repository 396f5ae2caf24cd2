//go:build !unix

package store

import (
	"io"
	"os"
)

// openMemory reads a file; what is written to the memory is written to the file by keepMemory.
func openMemory(f *os.File, size int) ([]byte, error) {
	mem := make([]byte, size)
	_, err := io.ReadFull(io.NewSectionReader(f, 0, int64(size)), mem)
	return mem, err
}

// keepMemory writes a part of the memory to its file, which has it from then on, whatever becomes of the process.
func keepMemory(f *os.File, mem []byte, at, length int) error {
	_, err := f.WriteAt(mem[at:at+length], int64(at))
	return err
}

func closeMemory([]byte) error { return nil }
