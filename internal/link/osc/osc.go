// Package osc carries device messages as Open Sound Control 1.0, over TCP with
// SLIP framing (RFC 1055, as OSC 1.1 asks) or as datagrams.
package osc

import (
	"errors"
	"fmt"
	"math"
	"strings"

	goosc "github.com/hypebeast/go-osc/osc"

	"synaptor/internal/core/device"
)

// MaxPacket is the largest packet, in bytes, that is read or written.
//
//limit:bytes an OSC packet | in the wire view
const MaxPacket = 4096

// ErrOversized says that a packet was larger than MaxPacket.
var ErrOversized = fmt.Errorf("a packet is larger than %d bytes", MaxPacket)

// Encode gives the bytes of a message. Whole numbers become int32, other
// numbers float32.
func Encode(m device.Message) ([]byte, error) {
	msg, err := toMessage(m)
	if err != nil {
		return nil, err
	}
	b, err := msg.MarshalBinary()
	if err != nil {
		return nil, fmt.Errorf("encode OSC: %w", err)
	}
	if len(b) > MaxPacket {
		return nil, ErrOversized
	}
	return b, nil
}

func toMessage(m device.Message) (*goosc.Message, error) {
	if !strings.HasPrefix(m.Address, "/") || strings.ContainsRune(m.Address, 0) {
		return nil, fmt.Errorf("encode OSC: %q is not an address", m.Address)
	}
	msg := goosc.NewMessage(m.Address)
	for _, a := range m.Args {
		switch v := a.(type) {
		case int:
			if v < math.MinInt32 || v > math.MaxInt32 {
				return nil, fmt.Errorf("encode OSC: %d does not fit into an int32", v)
			}
			msg.Append(int32(v))
		case float64:
			msg.Append(float32(v))
		case string:
			if strings.ContainsRune(v, 0) {
				return nil, errors.New("encode OSC: a text contains a null byte")
			}
			msg.Append(v)
		default:
			return nil, fmt.Errorf("encode OSC: cannot send a %T", a)
		}
	}
	return msg, nil
}

// Decode reads a packet: a message, or a bundle of them in order. Time tags are
// ignored: what arrives counts at once.
func Decode(b []byte) (out []device.Message, err error) {
	if len(b) > MaxPacket {
		return nil, ErrOversized
	}
	if len(b) == 0 || len(b)%4 != 0 {
		return nil, fmt.Errorf("an OSC packet has a multiple of four bytes, this one has %d", len(b))
	}
	defer func() {
		// The parser trusts lengths inside the packet; a lie must not end Synaptor.
		if r := recover(); r != nil {
			out, err = nil, fmt.Errorf("malformed OSC: %v", r)
		}
	}()
	p, err := goosc.ParsePacket(string(b))
	if err != nil {
		return nil, fmt.Errorf("malformed OSC: %w", err)
	}
	return flatten(p, nil)
}

func flatten(p goosc.Packet, out []device.Message) ([]device.Message, error) {
	switch v := p.(type) {
	case *goosc.Message:
		m := device.Message{Address: v.Address}
		for _, a := range v.Arguments {
			arg, err := plain(a)
			if err != nil {
				return nil, err
			}
			m.Args = append(m.Args, arg)
		}
		return append(out, m), nil
	case *goosc.Bundle:
		var err error
		for _, b := range v.Bundles {
			if out, err = flatten(b, out); err != nil {
				return nil, err
			}
		}
		for _, m := range v.Messages {
			if out, err = flatten(m, out); err != nil {
				return nil, err
			}
		}
		return out, nil
	}
	return nil, errors.New("malformed OSC: neither a message nor a bundle")
}

func plain(a any) (any, error) {
	switch v := a.(type) {
	case int32:
		return int(v), nil
	case int64:
		return int(v), nil
	case float32:
		return float64(v), nil
	case float64, string:
		return v, nil
	case bool:
		if v {
			return 1, nil
		}
		return 0, nil
	}
	return nil, fmt.Errorf("an OSC argument of type %T is of no use here", a)
}
