package people

import (
	"context"
	"crypto/rand"
	"errors"
	"strings"
	"time"

	"synaptor/internal/access"
	"synaptor/internal/store"
)

// invitedFor is how long an invitation is good.
const invitedFor = 7 * 24 * time.Hour

// Expect has somebody listed, with what they may do, before they have a passphrase: an invitation of theirs gives them one.
func (s *Service) Expect(name string, role access.Role, r *access.Rights) (Who, error) {
	if !role.Valid() {
		return Who{}, &Refused{"role", "A role is owner, editor, operator or viewer."}
	}
	rights, err := narrowed(role, r)
	if err != nil {
		return Who{}, err
	}
	return s.add(store.Person{Name: strings.TrimSpace(name), Role: string(role), Rights: rights})
}

// Invite makes an invitation for a role, by somebody. The link is told once.
func (s *Service) Invite(by string, role access.Role) (link string, until time.Time, err error) {
	if !role.Valid() {
		return "", until, &Refused{"role", "A role is owner, editor, operator or viewer."}
	}
	return s.invite(store.Invitation{Role: string(role), MadeBy: by})
}

// InviteExpected makes an invitation for somebody who is expected. It fails with store.ErrNobody where nobody is.
func (s *Service) InviteExpected(by, id string) (link string, until time.Time, err error) {
	who, known := s.Person(id)
	if !known || !who.Expected {
		return "", until, store.ErrNobody
	}
	return s.invite(store.Invitation{Role: string(who.Role), MadeBy: by, Person: id})
}

func (s *Service) invite(i store.Invitation) (link string, until time.Time, err error) {
	link, until = rand.Text(), time.Now().Add(invitedFor)
	i.Hash, i.Until = hashed(link), until.Unix()
	return link, until, s.db.Invite(i)
}

// Invited tells which role an invitation gives, and to whom, where somebody is expected by it. It fails with ErrInvited where it is not
// good any more.
func (s *Service) Invited(link string) (Who, error) {
	i, err := s.db.Invitation(hashed(link), time.Now().Unix())
	if errors.Is(err, store.ErrNobody) {
		err = ErrInvited
	}
	if err != nil || i.Person == "" {
		return Who{Role: access.Role(i.Role)}, err
	}
	who, known := s.Person(i.Person)
	if !known || !who.Expected {
		return Who{}, ErrInvited
	}
	return who, nil
}

// Accept makes somebody of an invitation, which is good once; whoever is expected by it keeps the name.
func (s *Service) Accept(ctx context.Context, link, name, passphrase string) (Who, error) {
	who, err := s.Invited(link)
	if err != nil {
		return Who{}, err
	}
	if who.ID != "" {
		name = who.Name
	}
	name = strings.TrimSpace(name)
	if err := errors.Join(checkName(name), checkPassphrase(name, passphrase)); err != nil {
		return Who{}, err
	}
	hash, err := s.hash(ctx, passphrase)
	if err != nil {
		return Who{}, err
	}
	expected := who.ID != ""
	if !expected {
		if who, err = s.add(store.Person{Name: name, Role: string(who.Role), Hash: hash}); err != nil {
			return Who{}, err
		}
	}
	if err := s.db.UseInvitation(hashed(link)); err != nil { // somebody was quicker
		if !expected {
			err = errors.Join(s.db.RemovePerson(who.ID), s.reload())
		}
		return Who{}, errors.Join(ErrInvited, err)
	}
	if expected {
		if err := s.db.Welcome(who.ID, hash); err != nil {
			return Who{}, errors.Join(ErrInvited, err)
		}
	}
	err = s.reload()
	who, _ = s.Person(who.ID)
	return who, err
}
