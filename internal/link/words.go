package link

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"syscall"
)

// Sentence says why a link failed, in words that name the cause.
func Sentence(err error, cfg Config) string {
	at := fmt.Sprintf("%s:%d", cfg.Host, cfg.Port)
	var dns *net.DNSError
	var timeout net.Error
	switch {
	case err == nil:
		return ""
	case errors.As(err, &dns):
		return fmt.Sprintf("There is no computer with the name %s in this network.", cfg.Host)
	case errors.Is(err, syscall.ECONNREFUSED):
		return fmt.Sprintf("%s refuses the connection at %s. The device is off, or the port is another one.", cfg.Name, at)
	case errors.Is(err, syscall.ENETUNREACH), errors.Is(err, syscall.EHOSTUNREACH):
		return fmt.Sprintf("This computer has no way to %s. Check its network cable and address.", cfg.Host)
	case errors.Is(err, errWrongDevice):
		return fmt.Sprintf("Something else answers at %s; it is no %s.", at, cfg.Type.Sheet.Title)
	case errors.Is(err, errSilent):
		return fmt.Sprintf("%s is connected at %s but does not answer.", cfg.Name, at)
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return fmt.Sprintf("%s closed the connection.", cfg.Name)
	case errors.Is(err, syscall.ECONNRESET), errors.Is(err, syscall.EPIPE):
		return fmt.Sprintf("The connection to %s at %s was cut.", cfg.Name, at)
	case errors.Is(err, context.DeadlineExceeded), errors.As(err, &timeout) && timeout.Timeout():
		return fmt.Sprintf("%s does not answer at %s.", cfg.Name, at)
	}
	return fmt.Sprintf("%s at %s: %v.", cfg.Name, at, err)
}
