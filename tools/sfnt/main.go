// Command sfnt unpacks a WOFF 1.0 font (W3C Recommendation, 2012) into the SFNT
// form that golang.org/x/image reads. The server measures labels with the same
// font files that the interface ships: sfnt IN.woff OUT.ttf
package main

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"fmt"
	"io"
	"os"
)

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "usage: sfnt IN.woff OUT.ttf")
		os.Exit(2)
	}
	if err := convert(os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "sfnt:", err)
		os.Exit(1)
	}
}

type table struct {
	Tag                                  uint32
	Offset, Compressed, Length, Checksum uint32
}

func convert(in, out string) error {
	woff, err := os.ReadFile(in)
	if err != nil {
		return err
	}
	if len(woff) < 44 || string(woff[:4]) != "wOFF" {
		return fmt.Errorf("%s is no WOFF 1.0 font", in)
	}
	flavor := binary.BigEndian.Uint32(woff[4:])
	n := int(binary.BigEndian.Uint16(woff[12:]))
	tables := make([]table, n)
	if err := binary.Read(bytes.NewReader(woff[44:]), binary.BigEndian, tables); err != nil {
		return fmt.Errorf("%s: table directory: %w", in, err)
	}
	power, log := 1, 0
	for power*2 <= n {
		power, log = power*2, log+1
	}
	var head, body bytes.Buffer
	put := func(v any) { _ = binary.Write(&head, binary.BigEndian, v) }
	put(flavor)
	put([]uint16{uint16(n), uint16(power * 16), uint16(log), uint16(n*16 - power*16)})
	for _, t := range tables {
		data := woff[t.Offset : t.Offset+t.Compressed]
		if t.Compressed < t.Length {
			z, err := zlib.NewReader(bytes.NewReader(data))
			if err != nil {
				return err
			}
			if data, err = io.ReadAll(z); err != nil {
				return err
			}
		}
		put([]uint32{t.Tag, t.Checksum, uint32(12 + 16*n + body.Len()), t.Length})
		body.Write(data)
		for body.Len()%4 != 0 {
			body.WriteByte(0)
		}
	}
	return os.WriteFile(out, append(head.Bytes(), body.Bytes()...), 0o644)
}
