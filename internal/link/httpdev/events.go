package httpdev

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// MaxEvent is the largest event, in bytes, that is read.
//
//limit:bytes an event of an HTTP device | as the device's problem
const MaxEvent = 1 << 20

// events reads Server-Sent Events (as the HTML standard defines them) until the
// stream ends, and returns why it did.
func events(r io.Reader, emit func(device.Message)) error {
	s := bufio.NewScanner(r)
	s.Buffer(make([]byte, 0, 4096), MaxEvent)
	name, size := "", 0
	var data []string
	for s.Scan() {
		line := strings.TrimSuffix(s.Text(), "\r")
		if line == "" {
			if len(data) > 0 {
				if name == "" {
					name = "message"
				}
				emit(device.Message{Address: name, Body: link.Body([]byte(strings.Join(data, "\n")))})
			}
			name, data, size = "", nil, 0
			continue
		}
		if size += len(line); size > MaxEvent {
			return tooLarge
		}
		field, value, _ := strings.Cut(line, ":")
		value = strings.TrimPrefix(value, " ")
		switch field {
		case "event":
			name = value
		case "data":
			data = append(data, value)
		}
	}
	if errors.Is(s.Err(), bufio.ErrTooLong) {
		return tooLarge
	}
	if err := s.Err(); err != nil {
		return link.Reached(err)
	}
	return io.EOF
}

var tooLarge = link.Problem(fmt.Sprintf("It sends an event that has more than %d bytes or never ends.", MaxEvent))
