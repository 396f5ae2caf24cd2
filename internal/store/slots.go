package store

import (
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"maps"
	"os"
	"path/filepath"
	"slices"
)

// Sizes of the file of records.
const (
	slotSize   = 2048
	slotCount  = 2048
	slotHeader = 8 // length and checksum
)

// Slots are records that outlive a kill of the process. Their file is mapped into memory: a record is safe as
// soon as it is written, and nobody waits for a disk. They are not safe for concurrent use.
type Slots struct {
	file *os.File
	mem  []byte
	free []int
	at   map[string]int // by name
}

// ErrNoSlot says that a record does not fit.
var ErrNoSlot = errors.New("there is no room for this record")

// OpenSlots opens the records of a data folder. What was there is given by their names; what was being written
// when the process ended is left out.
func OpenSlots(folder string) (s *Slots, had map[string][]byte, err error) {
	f, err := os.OpenFile(filepath.Join(folder, "intents.bin"), os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, nil, fmt.Errorf("open the records: %w", err)
	}
	// Room is made before: a write into a hole of a full disk would end the process.
	if err := makeRoom(f, slotSize*slotCount); err != nil {
		return nil, nil, errors.Join(fmt.Errorf("make room for the records: %w", err), f.Close())
	}
	mem, err := openMemory(f, slotSize*slotCount)
	if err != nil {
		return nil, nil, errors.Join(fmt.Errorf("map the records: %w", err), f.Close())
	}
	s, had = &Slots{file: f, mem: mem, at: map[string]int{}}, map[string][]byte{}
	for i := range slotCount {
		name, body, ok := s.read(i)
		if !ok {
			s.free = append(s.free, i)
			continue
		}
		s.at[name], had[name] = i, body
	}
	return s, had, nil
}

func (s *Slots) slot(i int) []byte { return s.mem[i*slotSize : (i+1)*slotSize] }

// read gives the record of a slot: its name, a zero, and its body.
func (s *Slots) read(i int) (name string, body []byte, ok bool) {
	b := s.slot(i)
	n := int(binary.LittleEndian.Uint32(b))
	if n == 0 || n > slotSize-slotHeader {
		return "", nil, false
	}
	record := b[slotHeader : slotHeader+n]
	end := slices.Index(record, 0)
	if end < 0 || crc32.ChecksumIEEE(record) != binary.LittleEndian.Uint32(b[4:]) {
		return "", nil, false
	}
	return string(record[:end]), slices.Clone(record[end+1:]), true
}

// Put writes a record, in place of one of the same name. It fails with ErrNoSlot.
func (s *Slots) Put(name string, body []byte) error {
	if len(name)+1+len(body) > slotSize-slotHeader {
		return ErrNoSlot
	}
	i, had := s.at[name]
	if !had {
		if len(s.free) == 0 {
			return ErrNoSlot
		}
		i = s.free[len(s.free)-1]
		s.free = s.free[:len(s.free)-1]
		s.at[name] = i
	}
	b := s.slot(i)
	binary.LittleEndian.PutUint32(b, 0) // while it is written, it is none
	n := copy(b[slotHeader:], name)
	b[slotHeader+n] = 0
	n += 1 + copy(b[slotHeader+n+1:], body)
	binary.LittleEndian.PutUint32(b[4:], crc32.ChecksumIEEE(b[slotHeader:slotHeader+n]))
	binary.LittleEndian.PutUint32(b, uint32(n))
	return keepMemory(s.file, s.mem, i*slotSize, slotSize)
}

// Drop takes a record away.
func (s *Slots) Drop(name string) {
	if i, had := s.at[name]; had {
		binary.LittleEndian.PutUint32(s.slot(i), 0)
		_ = keepMemory(s.file, s.mem, i*slotSize, slotHeader) // one that comes back is done again, as after any kill
		s.free = append(s.free, i)
		delete(s.at, name)
	}
}

// Names lists the records.
func (s *Slots) Names() []string { return slices.Sorted(maps.Keys(s.at)) }

// Close closes the file.
func (s *Slots) Close() error { return errors.Join(closeMemory(s.mem), s.file.Close()) }
