package organisation

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/trustelem/zxcvbn"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// nobody is compared against when there is no such login, so that the answer takes as long.
const nobody = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// What guards the sign-in: tries that failed in the last while, counted by login and address together, and by address. A
// login is never shut from everywhere, so nobody keeps another person out; on a device where somebody signed in before, only
// the tries on that device count.
const (
	attemptWindow      = 15 * time.Minute
	attemptsTogether   = 6
	attemptsPerAddress = 40
	hashingAtOnce      = 4
	hashingWait        = 5 * time.Second
	sessionSeenEvery   = time.Minute
	longestSession     = 12 * time.Hour
	defaultSessionIdle = 8 * time.Hour
	deviceBytes        = 24
	leastStrength      = 3
	longestAgent       = 200
)

// Errors of the sign-in.
var (
	// ErrTooManyAttempts means that sign-ins failed too often lately.
	ErrTooManyAttempts = fmt.Errorf("too many sign-ins failed; try again in %d minutes", int(attemptWindow.Minutes()))
	// ErrBusy means that too many people sign in at this moment.
	ErrBusy = errors.New("many people are signing in at this moment; try again in a few seconds")
	// ErrFactorFirst means that a second factor must be set up before anything else.
	ErrFactorFirst = errors.New("your organisation asks for a second factor: set it up under Your settings first")
)

// check compares a password, at most four at once: each takes a processor and 19 MiB.
func (s *Service) check(ctx context.Context, password, hash string) (bool, error) {
	wait := time.NewTimer(hashingWait)
	defer wait.Stop()
	select {
	case s.hashing <- struct{}{}:
		defer func() { <-s.hashing }()
		return checkPassword(password, hash), nil
	case <-wait.C:
		return false, ErrBusy
	case <-ctx.Done():
		return false, ctx.Err()
	}
}

// attempt counts a try to show a password; ErrTooManyAttempts where there were too many. What it gives forgets them.
func (s *Service) attempt(ctx context.Context, login string, account *uuid.UUID, from Visitor) (forget func() error, err error) {
	address, most := from.Address, int64(attemptsPerAddress)
	if account != nil && from.Device != "" {
		hash := HashToken(from.Device)
		known, err := s.Store.KnownDevice(ctx, *account, hash)
		if err != nil {
			return nil, err
		}
		if known {
			address, most = "device "+hash[:16], attemptsTogether
		}
	}
	now := s.RealNow()
	row := store.SignInAttempt{ID: store.NewID(), Login: login, Address: address, At: now}
	kept, err := s.Store.KeepSignIn(ctx, row, now.Add(-attemptWindow), attemptsTogether, most)
	if err != nil {
		return nil, err
	}
	if !kept {
		return nil, ErrTooManyAttempts
	}
	return func() error { return s.Store.ForgetSignIns(ctx, login, address) }, nil
}

// SignIn checks a login and password, and a second factor where there is one.
func (s *Service) SignIn(ctx context.Context, in contract.SignIn, from Visitor) (Actor, error) {
	a, err := s.signIn(ctx, in, from)
	result := "signed in"
	switch {
	case errors.Is(err, ErrTooManyAttempts):
		result = "refused: too many tries"
	case errors.Is(err, ErrSignIn):
		result = "failed"
	case err != nil:
		return a, err
	}
	slog.InfoContext(ctx, "sign-in", "login", in.Login, "address", from.Address, "result", result)
	return a, err
}

func (s *Service) signIn(ctx context.Context, in contract.SignIn, from Visitor) (Actor, error) {
	login := strings.ToLower(strings.TrimSpace(in.Login))
	m, err := s.Store.MemberByLogin(ctx, login)
	known := err == nil
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return Actor{}, err
	}
	var account *uuid.UUID
	if known {
		account = &m.Account.ID
	}
	forget, err := s.attempt(ctx, login, account, from)
	if err != nil {
		return Actor{}, err
	}
	hash := nobody
	if known && m.Account.PasswordHash != "" {
		hash = m.Account.PasswordHash
	}
	right, err := s.check(ctx, in.Password, hash)
	if err != nil {
		return Actor{}, err
	}
	if !right || !known || m.Account.Disabled || (s.access.KnownPassword != "" && in.Password == s.access.KnownPassword) {
		return Actor{}, s.failed(ctx, m, known, from)
	}
	if m.Account.FactorSince != nil {
		code := strings.TrimSpace(optional.Value(in.Code))
		if code == "" {
			return Actor{}, errors.Join(ErrFactor, forget())
		}
		ok, err := s.checkFactor(ctx, m.Account, code)
		if err != nil {
			return Actor{}, err
		}
		if !ok {
			return Actor{}, s.failed(ctx, m, known, from)
		}
	}
	a := actorOf(m)
	if err := forget(); err != nil {
		return Actor{}, err
	}
	return a, s.Store.For(ctx, a.Org.ID).Record(s.Stamp(), a.AccountID, "account", a.AccountID, "signed in", AuditDetail{Note: from.Address})
}

// failed leaves the trace of a sign-in that failed, where the login is somebody's.
func (s *Service) failed(ctx context.Context, m store.Member, known bool, from Visitor) error {
	if !known {
		return ErrSignIn
	}
	return errors.Join(ErrSignIn, s.Store.For(ctx, m.Organisation.ID).Record(s.Stamp(), uuid.Nil, "account", m.Account.ID, "sign-in failed", AuditDetail{Note: from.Address}))
}

// Begin keeps a session's line, and remembers the device it is on; the token of a new device is given this once.
func (s *Service) Begin(ctx context.Context, a Actor, from Visitor) (session uuid.UUID, device string, err error) {
	now := s.RealNow()
	agent := []rune(from.Agent)
	row := store.AccountSession{
		ID: store.NewID(), AccountID: a.AccountID, BeganAt: now, SeenAt: now, Address: from.Address, Agent: string(agent[:min(len(agent), longestAgent)]),
	}
	if err := s.Store.EndIdleSessions(ctx, now.Add(-longestSession)); err != nil {
		return row.ID, "", err
	}
	if err := s.Store.BeginSession(ctx, row); err != nil {
		return row.ID, "", err
	}
	if from.Device != "" {
		known, err := s.Store.KnownDevice(ctx, a.AccountID, HashToken(from.Device))
		if err != nil || known {
			return row.ID, "", err
		}
	}
	raw := make([]byte, deviceBytes)
	if _, err := rand.Read(raw); err != nil {
		return row.ID, "", fmt.Errorf("marking the device: %w", err)
	}
	device = base64.RawURLEncoding.EncodeToString(raw)
	return row.ID, device, s.Store.AddDevice(ctx, store.AccountDevice{ID: store.NewID(), AccountID: a.AccountID, TokenHash: HashToken(device), At: now})
}

// Resume finds who a session belongs to; ErrSignIn when it was ended, or was idle for too long.
func (s *Service) Resume(ctx context.Context, account, session uuid.UUID) (Actor, error) {
	row, err := s.Store.SessionOf(ctx, session, account)
	if errors.Is(err, store.ErrNotFound) {
		return Actor{}, ErrSignIn
	}
	if err != nil {
		return Actor{}, err
	}
	now := s.RealNow()
	if now.Sub(row.SeenAt) > s.access.Idle || now.Sub(row.BeganAt) > longestSession {
		if s.access.ReadOnly {
			return Actor{}, ErrSignIn
		}
		return Actor{}, errors.Join(ErrSignIn, s.Store.EndSession(ctx, account, session))
	}
	if !s.access.ReadOnly && now.Sub(row.SeenAt) > sessionSeenEvery {
		if err := s.Store.SawSession(ctx, session, now); err != nil {
			return Actor{}, err
		}
	}
	a, err := s.Actor(ctx, account)
	a.Session = session
	return a, err
}

// Sessions are where somebody is signed in, the last used first.
func (s *Service) Sessions(ctx context.Context, a Actor) ([]contract.OwnSession, error) {
	rows, err := s.Store.SessionsOf(ctx, a.AccountID)
	out := []contract.OwnSession{}
	for _, r := range rows {
		if s.RealNow().Sub(r.SeenAt) <= s.access.Idle {
			out = append(out, contract.OwnSession{ID: r.ID, Began: r.BeganAt, Seen: r.SeenAt, Address: r.Address, Agent: r.Agent, Here: r.ID == a.Session})
		}
	}
	return out, err
}

// EndSession ends one of somebody's own sessions.
func (s *Service) EndSession(ctx context.Context, a Actor, id uuid.UUID) error {
	if err := s.Store.EndSession(ctx, a.AccountID, id); err != nil {
		return err
	}
	return s.Tenant(ctx, a).Record(s.Stamp(), a.AccountID, "account", a.AccountID, "session ended", nil)
}

// EndSessions signs somebody out everywhere.
func (s *Service) EndSessions(ctx context.Context, a Actor) error {
	if err := s.Store.EndSessions(ctx, a.AccountID, uuid.Nil); err != nil {
		return err
	}
	return s.Tenant(ctx, a).Record(s.Stamp(), a.AccountID, "account", a.AccountID, "signed out everywhere", nil)
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
		PasswordMark: HashToken(m.Account.PasswordHash)[:16], FactorOn: m.Account.FactorSince != nil, FactorFirst: mustSetUpFactor(m),
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
		AllSites: a.Sites == nil, Today: s.Today(a.Org.Zone), ClockPinned: s.ClockPinned, SecondFactor: factorState(a),
	}
}

func factorState(a Actor) contract.SessionSecondFactor {
	switch {
	case a.FactorOn:
		return contract.SecondFactorOn
	case a.FactorFirst:
		return contract.SecondFactorRequired
	}
	return contract.SecondFactorOff
}

// knowsPassword counts and checks the password of somebody who is signed in; wrong ones count like failed sign-ins.
func (s *Service) knowsPassword(ctx context.Context, account store.Account, password string, from Visitor, at string) error {
	forget, err := s.attempt(ctx, account.Login, &account.ID, from)
	if err != nil {
		return err
	}
	right, err := s.check(ctx, password, account.PasswordHash)
	if err != nil {
		return err
	}
	if !right {
		return invalid.At(at, "is not the password you have now")
	}
	return forget()
}

// SetPreferences keeps how somebody likes to see figures and pages.
func (s *Service) SetPreferences(ctx context.Context, a Actor, in contract.Preferences) (contract.Session, error) {
	a.Units, a.Theme = string(in.Units), string(in.Theme)
	err := s.Tenant(ctx, a).SetAccount(a.AccountID, map[string]any{"units": a.Units, "theme": a.Theme})
	return s.Session(a), err
}

// ChangePassword sets a new password for who is signed in and knows the current one; all other sessions end.
func (s *Service) ChangePassword(ctx context.Context, a Actor, in contract.PasswordChange, from Visitor) error {
	m, err := s.Store.MemberByAccount(ctx, a.AccountID)
	if err != nil {
		return err
	}
	if err := s.knowsPassword(ctx, m.Account, in.Current, from, "/current"); err != nil {
		return err
	}
	if err := s.setPassword(s.Tenant(ctx, a), m.Account, in.Password, a.AccountID, "password changed"); err != nil {
		return err
	}
	return s.Store.EndSessions(ctx, a.AccountID, uuid.Nil)
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
	case zxcvbn.PasswordStrength(password, []string{login}).Score < leastStrength:
		return invalid.At("/password", "is easily guessed: a common password, or one with a pattern; several words that do not belong together do well")
	}
	return nil
}

func (s *Service) setPassword(t store.Tenant, account store.Account, password string, by uuid.UUID, action string) error {
	if err := checkNewPassword(password, account.Login); err != nil {
		return err
	}
	hash, err := HashPassword(password, s.access.Hash)
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
