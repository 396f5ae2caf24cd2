package link

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
)

// Sentence says why a link failed, in words that name the cause.
func Sentence(err error, cfg Config) string {
	at := fmt.Sprintf("%s:%d", cfg.Target.Host, cfg.Target.Port)
	var dns *net.DNSError
	var timeout net.Error
	var auth *AuthError
	var whole Problem
	var old tooOld
	var unknownCA x509.UnknownAuthorityError
	var invalidCert x509.CertificateInvalidError
	var wrongName x509.HostnameError
	var badCert *tls.CertificateVerificationError
	var noTLS tls.RecordHeaderError
	switch {
	case err == nil:
		return ""
	case errors.As(err, &whole):
		return string(whole)
	case errors.As(err, &dns):
		return fmt.Sprintf("There is no computer with the name %s in this network.", cfg.Target.Host)
	case refused(err):
		return fmt.Sprintf("%s refuses the connection at %s. The device is off, or the port is another one.", cfg.Name, at)
	case noWay(err):
		return fmt.Sprintf("This computer has no way to %s. Check its network cable and address.", cfg.Target.Host)
	case errors.As(err, &auth):
		return fmt.Sprintf("%s answers at %s but does not let Synaptor in: %s. Enter it again. Synaptor also tries it now and then.", cfg.Name, at, auth.Text)
	case errors.As(err, &old):
		return fmt.Sprintf("%s has version %s; at least %s is needed.", cfg.Name, old.has, old.needs)
	case errors.As(err, &unknownCA), errors.As(err, &invalidCert), errors.As(err, &wrongName), errors.As(err, &badCert):
		return fmt.Sprintf("The certificate of %s at %s is not trusted: %v.", cfg.Name, at, cause(err))
	case errors.As(err, &noTLS), errors.Is(err, http.ErrSchemeMismatch):
		return fmt.Sprintf("%s at %s does not speak TLS. Switch encryption off for it, or use its other port.", cfg.Name, at)
	case errors.Is(err, errWrongDevice), errors.Is(err, ErrForeign):
		return fmt.Sprintf("Something else answers at %s; it is no %s.", at, cfg.Type.Sheet.Title)
	case errors.Is(err, errSilent):
		return fmt.Sprintf("%s is connected at %s but does not answer.", cfg.Name, at)
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return fmt.Sprintf("%s closed the connection.", cfg.Name)
	case cut(err):
		return fmt.Sprintf("The connection to %s at %s was cut.", cfg.Name, at)
	case errors.Is(err, context.DeadlineExceeded), errors.As(err, &timeout) && timeout.Timeout():
		return fmt.Sprintf("%s does not answer at %s.", cfg.Name, at)
	}
	return fmt.Sprintf("%s at %s: %v.", cfg.Name, at, err)
}

// cause is the innermost error.
func cause(err error) error {
	for {
		inner := errors.Unwrap(err)
		if inner == nil {
			return err
		}
		err = inner
	}
}
