package archive

import (
	"bytes"
	"errors"
	"strings"
	"testing"
)

func TestPasswordsTravelOnlySealed(t *testing.T) {
	a := sample()
	var err error
	if _, err = Seal(map[string]string{"sound-desk": "open sesame"}, "short"); err == nil || !strings.Contains(err.Error(), "8 characters") {
		t.Errorf("a short passphrase: %v", err)
	}
	if a.Sealed, err = Seal(map[string]string{"sound-desk": "open sesame"}, "a long passphrase"); err != nil {
		t.Fatal(err)
	}
	body := written(t, a)
	if bytes.Contains(body, []byte("sesame")) {
		t.Error("the password is in it as it is")
	}
	back, err := Read(bytes.NewReader(body), int64(len(body)))
	if err != nil {
		t.Fatal(err)
	}
	if got, err := back.Passwords("a long passphrase"); err != nil || got["sound-desk"] != "open sesame" {
		t.Errorf("opened they are %v, %v", got, err)
	}
	if _, err := back.Passwords("another passphrase"); !errors.Is(err, ErrPassphrase) {
		t.Errorf("another passphrase: %v", err)
	}
	for _, broken := range []string{"", "{}", `{"format":"synaptor.sealed/1","nonce":"AAAA"}`, strings.Replace(string(back.Sealed), "synaptor.sealed/1", "synaptor.sealed/2", 1)} {
		back.Sealed = []byte(broken)
		if _, err := back.Passwords("a long passphrase"); err == nil {
			t.Errorf("%q is opened", broken)
		}
	}
}
