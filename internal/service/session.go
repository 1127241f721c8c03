package service

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/store"
)

// nobody is compared against when there is no such login, so that the answer takes as long.
const nobody = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// SignIn checks a login and password.
func (s *Service) SignIn(ctx context.Context, in contract.SignIn) (Actor, error) {
	m, err := s.store.MemberByLogin(ctx, strings.ToLower(strings.TrimSpace(in.Login)))
	if errors.Is(err, store.ErrNotFound) {
		checkPassword(in.Password, nobody)
		return Actor{}, ErrSignIn
	}
	if err != nil {
		return Actor{}, err
	}
	if !checkPassword(in.Password, m.Account.PasswordHash) || m.Account.Disabled {
		return Actor{}, ErrSignIn
	}
	return actorOf(m), nil
}

// Actor finds the account of a session; ErrSignIn when it may no longer sign in.
func (s *Service) Actor(ctx context.Context, account uuid.UUID) (Actor, error) {
	m, err := s.store.MemberByAccount(ctx, account)
	if errors.Is(err, store.ErrNotFound) || (err == nil && m.Account.Disabled) {
		return Actor{}, ErrSignIn
	}
	return actorOf(m), err
}

func actorOf(m store.Member) Actor {
	return Actor{
		AccountID: m.Account.ID, Org: m.Organisation, Person: m.Person, Login: m.Account.Login,
		Role: contract.Role(m.Membership.Role),
	}
}

// Session describes who is signed in.
func (s *Service) Session(a Actor) contract.Session {
	return contract.Session{
		PersonID: a.Person.ID, Person: a.Person.Name, Login: a.Login, Role: a.Role,
		Organisation: a.Org.Name, Currency: a.Org.Currency, Units: a.Org.Units,
		Today: s.today(a.Org.Zone), ClockPinned: s.ClockPinned,
	}
}
