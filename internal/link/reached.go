package link

import (
	"context"
	"crypto/tls"
	"errors"
	"io"
	"net"
	"net/http"
	"strings"
)

// Reached sorts an error of a library that connects: what the network says
// stays as it is, and anything else means that what answers speaks another
// protocol.
func Reached(err error) error {
	var op *net.OpError
	var header tls.RecordHeaderError
	var cert *tls.CertificateVerificationError
	switch {
	case err == nil:
		return nil
	case errors.Is(err, http.ErrSchemeMismatch), errors.As(err, &op) && (op.Op == "dial" || op.Timeout() || wasReset(err)),
		errors.As(err, &header), errors.As(err, &cert),
		errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled),
		errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, net.ErrClosed), errors.Is(err, ErrForeign):
		return err
	}
	return errors.Join(ErrForeign, err)
}

// Short gives what a device answered in a few words.
func Short(answer []byte) string {
	text := strings.TrimSpace(strings.ToValidUTF8(string(answer), "·"))
	switch text {
	case "", "null", "{}", "true", `"ok"`, "ok", "OK":
		return ""
	}
	if r := []rune(text); len(r) > 160 {
		text = string(r[:160]) + "…"
	}
	return text
}
