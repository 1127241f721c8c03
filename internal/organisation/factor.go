package organisation

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/base32"
	"encoding/base64"
	"fmt"
	"image/png"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// ErrFactor means that the password is right and a second factor is asked for.
var ErrFactor = invalid.At("/code", "is needed: six figures from your authenticator app, or a recovery code")

// How the codes of a second factor are made: RFC 6238 with its usual figures; one step before and after is taken too, for clocks
// that differ.
const (
	factorPeriod = 30
	factorSkew   = 1
)

var factorCodes = totp.ValidateOpts{Period: factorPeriod, Skew: factorSkew, Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1}

const (
	recoveryCodes = 10
	recoveryBytes = 10
)

// mustSetUpFactor reports whether the organisation asks for a second factor that somebody does not have yet.
func mustSetUpFactor(m store.Member) bool {
	return m.Account.FactorSince == nil && slices.Contains(m.Organisation.FactorRoles, m.Membership.Role)
}

// checkFactor holds a code against an account's second factor. A code works once.
func (s *Service) checkFactor(ctx context.Context, a store.Account, code string) (bool, error) {
	code = strings.ToUpper(strings.NewReplacer(" ", "", "-", "").Replace(code))
	if len(code) != int(factorCodes.Digits) {
		return s.Store.UseRecovery(ctx, a.ID, HashToken(code), s.RealNow())
	}
	now := s.RealNow()
	for skew := int64(-factorSkew); skew <= factorSkew; skew++ {
		step := now.Unix()/factorPeriod + skew
		want, err := totp.GenerateCodeCustom(a.FactorSecret, time.Unix(step*factorPeriod, 0), factorCodes)
		if err != nil {
			return false, fmt.Errorf("reading the second factor: %w", err)
		}
		if want == code {
			return s.Store.UseFactorStep(ctx, a.ID, step)
		}
	}
	return false, nil
}

// BeginFactor makes the secret of a second factor; it counts once a code of it was shown.
func (s *Service) BeginFactor(ctx context.Context, a Actor) (contract.NewFactor, error) {
	var out contract.NewFactor
	m, err := s.Store.MemberByAccount(ctx, a.AccountID)
	if err != nil {
		return out, err
	}
	if m.Account.FactorSince != nil {
		return out, Conflict{Reason: "you have a second factor already; take it off first"}
	}
	key, err := totp.Generate(totp.GenerateOpts{Issuer: "Next Round " + a.Org.Name, AccountName: a.Login})
	if err != nil {
		return out, fmt.Errorf("making a second factor: %w", err)
	}
	picture, err := key.Image(220, 220)
	if err != nil {
		return out, fmt.Errorf("drawing a second factor: %w", err)
	}
	var drawn bytes.Buffer
	if err := png.Encode(&drawn, picture); err != nil {
		return out, fmt.Errorf("drawing a second factor: %w", err)
	}
	out = contract.NewFactor{Secret: key.Secret(), Picture: "data:image/png;base64," + base64.StdEncoding.EncodeToString(drawn.Bytes())}
	return out, s.Tenant(ctx, a).SetAccount(a.AccountID, map[string]any{"factor_secret": key.Secret(), "factor_step": 0})
}

// ConfirmFactor puts the second factor on once a code shows that the app has it, and gives the recovery codes, this once.
func (s *Service) ConfirmFactor(ctx context.Context, a Actor, code string) (contract.FactorOn, error) {
	out := contract.FactorOn{RecoveryCodes: []string{}}
	m, err := s.Store.MemberByAccount(ctx, a.AccountID)
	if err != nil {
		return out, err
	}
	if m.Account.FactorSince != nil || m.Account.FactorSecret == "" {
		return out, Conflict{Reason: "begin with a new second factor first"}
	}
	ok, err := s.checkFactor(ctx, m.Account, code)
	if err != nil {
		return out, err
	}
	if !ok {
		return out, invalid.At("/code", "is not the code the app shows now")
	}
	rows := []store.AccountRecovery{}
	for range recoveryCodes {
		raw := make([]byte, recoveryBytes)
		if _, err := rand.Read(raw); err != nil {
			return out, fmt.Errorf("making recovery codes: %w", err)
		}
		text := base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(raw)
		rows = append(rows, store.AccountRecovery{ID: store.NewID(), AccountID: a.AccountID, CodeHash: HashToken(text)})
		out.RecoveryCodes = append(out.RecoveryCodes, text[:4]+"-"+text[4:8]+"-"+text[8:12]+"-"+text[12:])
	}
	now := s.RealNow()
	return out, s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if err := t.SetFactor(a.AccountID, m.Account.FactorSecret, &now, rows); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, "account", a.AccountID, "second factor on", nil)
	})
}

// EndFactor takes the second factor off; the password is asked for once more.
func (s *Service) EndFactor(ctx context.Context, a Actor, password string, from Visitor) error {
	m, err := s.Store.MemberByAccount(ctx, a.AccountID)
	if err != nil {
		return err
	}
	if err := s.knowsPassword(ctx, m.Account, password, from, "/password"); err != nil {
		return err
	}
	return s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error { return s.endFactor(t, a, a.AccountID) })
}

// RemoveFactorOf takes somebody's second factor away who has lost it.
func (s *Service) RemoveFactorOf(ctx context.Context, a Actor, person uuid.UUID) (out contract.PersonLine, err error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	err = s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		m, err := memberOf(t, person)
		if err != nil {
			return err
		}
		if err := s.endFactor(t, a, m.AccountID); err != nil {
			return err
		}
		out, err = personLine(t, person)
		return err
	})
	return out, err
}

func (s *Service) endFactor(t store.Tenant, by Actor, account uuid.UUID) error {
	if err := t.SetFactor(account, "", nil, nil); err != nil {
		return err
	}
	return t.Record(s.Stamp(), by.AccountID, "account", account, "second factor off", nil)
}

// FactorRoles says of which roles the organisation asks a second factor.
func (s *Service) FactorRoles(ctx context.Context, a Actor) (contract.FactorRoles, error) {
	m, err := s.Store.MemberByAccount(ctx, a.AccountID)
	out := contract.FactorRoles{Roles: []contract.Role{}}
	for _, r := range m.Organisation.FactorRoles {
		out.Roles = append(out.Roles, contract.Role(r))
	}
	return out, err
}

// SetFactorRoles sets them; who has none yet sets one up at the next thing they do.
func (s *Service) SetFactorRoles(ctx context.Context, a Actor, in contract.FactorRoles) error {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return err
	}
	roles := store.Array[string]{}
	for _, r := range in.Roles {
		roles = append(roles, string(r))
	}
	return s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if err := t.SetFactorRoles(roles); err != nil {
			return err
		}
		return RecordChange(t, s.Stamp(), a, "organisation", a.Org.ID, "second factor asked of roles", a.Org.FactorRoles, roles)
	})
}
