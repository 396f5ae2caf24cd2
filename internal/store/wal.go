package store

import (
	"encoding/binary"
	"errors"
	"fmt"
	"os"
)

// The write-ahead log of SQLite (https://www.sqlite.org/fileformat2.html#walformat).
const (
	walHeader      = 32
	walFrameHeader = 24
	walMagic       = 0x377f0682 // with 1 added, checksums are big-endian
)

// errWAL says what is wrong with a write-ahead log.
var errWAL = errors.New("what was edited last is in it, and it is damaged; without this file the show is as it was before")

// checkWAL looks at a write-ahead log before SQLite does, which would pass over what is
// damaged without a word. A last part that was not written to its end is no damage:
// power went, and nothing in it was acknowledged. It fails with errWAL.
func checkWAL(path string) error {
	b, err := os.ReadFile(path)
	if errors.Is(err, os.ErrNotExist) || err == nil && len(b) < walHeader {
		return nil
	}
	if err != nil {
		return fmt.Errorf("open the show: %w", err)
	}
	magic := binary.BigEndian.Uint32(b)
	if magic&^1 != walMagic {
		return errWAL
	}
	sum := walSum{order: binary.LittleEndian}
	if magic&1 == 1 {
		sum.order = binary.BigEndian
	}
	if sum.add(b[:24]); !sum.is(b[24:]) {
		return errWAL
	}
	size := int(binary.BigEndian.Uint32(b[8:]))
	if size < 512 || size > 65536 {
		return errWAL
	}
	salt := string(b[16:24])
	sound, lost := true, 0 // commits
	for at := walHeader; at+walFrameHeader+size <= len(b); at += walFrameHeader + size {
		frame := b[at : at+walFrameHeader+size]
		if string(frame[8:16]) != salt {
			continue // of an earlier time
		}
		sum.add(frame[:8])
		sum.add(frame[walFrameHeader:])
		sound = sound && sum.is(frame[16:])
		if commit := binary.BigEndian.Uint32(frame[4:]) != 0; commit && !sound {
			lost++
		}
	}
	if lost > 1 {
		return errWAL
	}
	return nil
}

// walSum is the running checksum of a write-ahead log.
type walSum struct {
	order  binary.ByteOrder
	s0, s1 uint32
}

func (s *walSum) add(b []byte) {
	for ; len(b) >= 8; b = b[8:] {
		s.s0 += s.order.Uint32(b) + s.s1
		s.s1 += s.order.Uint32(b[4:]) + s.s0
	}
}

func (s *walSum) is(b []byte) bool {
	return s.s0 == binary.BigEndian.Uint32(b) && s.s1 == binary.BigEndian.Uint32(b[4:])
}
