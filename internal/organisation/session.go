package organisation

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// nobody is compared against when there is no such login, so that the answer takes as long.
const nobody = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// What guards the sign-in: failures counted in the last while, by login and by the address they came from.
const (
	attemptWindow      = 15 * time.Minute
	attemptsPerLogin   = 6
	attemptsPerAddress = 40
)

// ErrTooManyAttempts means that sign-ins failed too often lately.
var ErrTooManyAttempts = fmt.Errorf("too many sign-ins failed; try again in %d minutes", int(attemptWindow.Minutes()))

// SignIn checks a login and password. Address is where the request came from.
func (s *Service) SignIn(ctx context.Context, in contract.SignIn, address string) (Actor, error) {
	login := strings.ToLower(strings.TrimSpace(in.Login))
	now := s.RealNow()
	byLogin, byAddress, err := s.Store.FailedSignIns(ctx, login, address, now.Add(-attemptWindow))
	if err != nil {
		return Actor{}, err
	}
	if byLogin >= attemptsPerLogin || byAddress >= attemptsPerAddress {
		return Actor{}, ErrTooManyAttempts
	}
	m, err := s.Store.MemberByLogin(ctx, login)
	known := err == nil
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return Actor{}, err
	}
	hash := nobody
	if known && m.Account.PasswordHash != "" {
		hash = m.Account.PasswordHash
	}
	if !checkPassword(in.Password, hash) || !known || m.Account.Disabled {
		row := store.SignInAttempt{ID: store.NewID(), Login: login, Address: address, At: now}
		if err := s.Store.KeepFailedSignIn(ctx, row, now.Add(-attemptWindow)); err != nil {
			return Actor{}, err
		}
		return Actor{}, ErrSignIn
	}
	if byLogin > 0 {
		if err := s.Store.ForgetFailedSignIns(ctx, login); err != nil {
			return Actor{}, err
		}
	}
	return actorOf(m), nil
}

// Actor finds the account of a session; ErrSignIn when it may no longer sign in.
func (s *Service) Actor(ctx context.Context, account uuid.UUID) (Actor, error) {
	m, err := s.Store.MemberByAccount(ctx, account)
	if errors.Is(err, store.ErrNotFound) || (err == nil && m.Account.Disabled) {
		return Actor{}, ErrSignIn
	}
	return actorOf(m), err
}

func actorOf(m store.Member) Actor {
	a := Actor{
		AccountID: m.Account.ID, Org: m.Organisation, Person: m.Person, Login: m.Account.Login,
		Role: contract.Role(m.Membership.Role), Units: m.Organisation.Units, Theme: m.Account.Theme,
		PasswordMark: HashToken(m.Account.PasswordHash)[:16],
	}
	if m.Account.Units != nil {
		a.Units = *m.Account.Units
	}
	if !m.Membership.AllSites {
		a.Sites = append([]uuid.UUID{}, m.Sites...)
	}
	return a
}

// Session describes who is signed in.
func (s *Service) Session(a Actor) contract.Session {
	return contract.Session{
		PersonID: a.Person.ID, Person: a.Person.Name, Login: a.Login, Role: a.Role, Organisation: a.Org.Name,
		Currency: a.Org.Currency, Zone: a.Org.Zone, Units: contract.SessionUnits(a.Units), Theme: contract.SessionTheme(a.Theme),
		AllSites: a.Sites == nil, Today: s.Today(a.Org.Zone), ClockPinned: s.ClockPinned,
	}
}

// SetPreferences keeps how somebody likes to see figures and pages.
func (s *Service) SetPreferences(ctx context.Context, a Actor, in contract.Preferences) (contract.Session, error) {
	a.Units, a.Theme = string(in.Units), string(in.Theme)
	err := s.Tenant(ctx, a).SetAccount(a.AccountID, map[string]any{"units": a.Units, "theme": a.Theme})
	return s.Session(a), err
}

// ChangePassword sets a new password for who is signed in and knows the current one.
func (s *Service) ChangePassword(ctx context.Context, a Actor, in contract.PasswordChange) error {
	m, err := s.Store.MemberByAccount(ctx, a.AccountID)
	if err != nil {
		return err
	}
	if !checkPassword(in.Current, m.Account.PasswordHash) {
		return invalid.At("/current", "is not the password you have now")
	}
	return s.setPassword(s.Tenant(ctx, a), m.Account, in.Password, a.AccountID, "password changed")
}

// Passwords are bounded as OWASP ASVS 4.0.3, 2.1.1 and 2.1.2, asks (from memory).
const (
	shortestPassword = 12
	longestPassword  = 128
)

func checkNewPassword(password, login string) error {
	switch n := len([]rune(password)); {
	case n < shortestPassword:
		return invalid.At("/password", "must have at least %d characters; several words do well", shortestPassword)
	case n > longestPassword:
		return invalid.At("/password", "must have at most %d characters", longestPassword)
	case strings.Contains(strings.ToLower(password), strings.ToLower(login)) && len(login) > 3:
		return invalid.At("/password", "must not contain the login")
	case strings.Count(password, password[:1]) == len(password):
		return invalid.At("/password", "is one character over and over")
	}
	return nil
}

func (s *Service) setPassword(t store.Tenant, account store.Account, password string, by uuid.UUID, action string) error {
	if err := checkNewPassword(password, account.Login); err != nil {
		return err
	}
	hash, err := HashPassword(password, s.hash)
	if err != nil {
		return err
	}
	return t.InTransaction(func(t store.Tenant) error {
		if err := t.SetAccount(account.ID, map[string]any{"password_hash": hash}); err != nil {
			return err
		}
		return t.Record(s.Stamp(), by, "account", account.ID, action, nil)
	})
}
