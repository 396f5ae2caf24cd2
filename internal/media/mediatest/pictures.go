// Package mediatest makes pictures that are more than they look: small as files, and large once they are unpacked or drawn.
package mediatest

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"strings"
)

// DeepPNG is a PNG of one colour with 16 bits a sample: 8 bytes for each pixel when it is unpacked.
func DeepPNG(w, h int) []byte {
	var b, packed bytes.Buffer
	b.WriteString("\x89PNG\r\n\x1a\n")
	chunk := func(kind string, data []byte) {
		b.Write(binary.BigEndian.AppendUint32(nil, uint32(len(data))))
		b.WriteString(kind)
		b.Write(data)
		b.Write(binary.BigEndian.AppendUint32(nil, crc32.ChecksumIEEE(append([]byte(kind), data...))))
	}
	size := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, uint32(w)), uint32(h))
	chunk("IHDR", append(size, 16, 6, 0, 0, 0))
	z := zlib.NewWriter(&packed) // a buffer takes everything
	row := make([]byte, 1+8*w)
	for range h {
		_, _ = z.Write(row)
	}
	_ = z.Close()
	chunk("IDAT", packed.Bytes())
	chunk("IEND", nil)
	return b.Bytes()
}

// Nested is a drawing whose groups use the one before twice: 2 to the power of so many. use is written with the number of
// that one.
func Nested(levels int, use string) []byte {
	var b strings.Builder
	b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 40 20"><defs><g id="a0"><rect width="9" height="9"/></g>`)
	for i := range levels {
		fmt.Fprintf(&b, `<g id="a%d">`+use+use+`</g>`, i+1, i, i)
	}
	fmt.Fprintf(&b, `</defs><use href="#a%d"/></svg>`, levels)
	return []byte(b.String())
}
