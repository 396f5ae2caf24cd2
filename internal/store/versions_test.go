package store

import (
	"errors"
	"testing"

	"synaptor/internal/core/show"
)

// TestWhatAVersionNeedsStays: a password comes back with a version, although neither the show nor an edit knows it any more.
func TestWhatAVersionNeedsStays(t *testing.T) {
	s := openShow(t, t.TempDir())
	secret, err := s.PutSecret("of the switcher")
	if err != nil {
		t.Fatal(err)
	}
	picture := "0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef"
	d := show.NewDraft(show.Empty())
	d.Put(&show.Device{ID: "sw", Name: "Dome switcher", Secret: secret})
	d.Put(&show.Mapping{ID: "k", Face: show.Face{Picture: picture}})
	then := d.Now()
	if err := s.PutMedia(Media{ID: picture, Name: "Logo", Kind: "image/png", Frames: 1}, []byte("png")); err != nil {
		t.Fatal(err)
	}
	id, err := s.KeepVersion(Version{Name: "Friday", Why: "kept by hand", Actor: "A", Seq: 1}, then)
	if err := errors.Join(err, s.PurgeSecrets()); err != nil {
		t.Fatal(err)
	}
	if gone, err := s.DeleteMedia(picture); err != nil || gone {
		t.Errorf("the picture of a version can be deleted: %v", err)
	}
	back, err := s.VersionShow(id)
	if err != nil || string(back.Canonical()) != string(then.Canonical()) {
		t.Fatalf("it comes back as %s, %v", back.Canonical(), err)
	}
	if got, err := s.Secret(back.Device("sw").Secret); err != nil || got != "of the switcher" {
		t.Errorf("its password is %q, %v", got, err)
	}
	ok, err := s.DropVersion(id)
	if err := errors.Join(err, s.PurgeSecrets()); err != nil || !ok {
		t.Fatal(err)
	}
	if _, err := s.Secret(secret); err == nil {
		t.Error("the password of a version that is gone stays")
	}
	if gone, err := s.DeleteMedia(picture); err != nil || !gone {
		t.Errorf("the picture of a version that is gone stays: %v", err)
	}
}

func TestADamagedVersionIsSaidToBe(t *testing.T) {
	s := openShow(t, t.TempDir())
	id, err := s.KeepVersion(Version{Why: "kept by itself"}, show.Empty())
	if err != nil {
		t.Fatal(err)
	}
	for _, body := range []string{"", "rubbish", "\x1f\x8b\x08\x00"} {
		if _, err := s.db.Exec(`UPDATE version SET body = ? WHERE id = ?`, []byte(body), id); err != nil {
			t.Fatal(err)
		}
		if sh, err := s.VersionShow(id); err == nil {
			t.Errorf("%q is read as %s", body, sh.Canonical())
		}
	}
	if sh, err := s.VersionShow(id + 1); err != nil || sh != nil {
		t.Errorf("one that never was: %v, %v", sh, err)
	}
}
