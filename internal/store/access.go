package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// AccountSession is where somebody is signed in.
type AccountSession struct {
	ID        uuid.UUID
	AccountID uuid.UUID
	BeganAt   time.Time
	SeenAt    time.Time
	Address   string
	Agent     string
}

// TableName names the table.
func (AccountSession) TableName() string { return "account_session" }

// AccountDevice is a device on which somebody has signed in before.
type AccountDevice struct {
	ID        uuid.UUID
	AccountID uuid.UUID
	TokenHash string
	At        time.Time
}

// TableName names the table.
func (AccountDevice) TableName() string { return "account_device" }

// AccountRecovery is a code that stands in once for the second factor.
type AccountRecovery struct {
	ID        uuid.UUID
	AccountID uuid.UUID
	CodeHash  string
	UsedAt    *time.Time
}

// TableName names the table.
func (AccountRecovery) TableName() string { return "account_recovery" }

// BeginSession keeps a session's line.
func (s *Store) BeginSession(ctx context.Context, row AccountSession) error {
	return s.DB.WithContext(ctx).Create(&row).Error
}

// SessionOf finds a session's line; ErrNotFound when it was ended.
func (s *Store) SessionOf(ctx context.Context, id, account uuid.UUID) (AccountSession, error) {
	var row AccountSession
	err := s.DB.WithContext(ctx).Where("id = ? AND account_id = ?", id, account).Take(&row).Error
	return row, notFound(err)
}

// SawSession notes that a session was used.
func (s *Store) SawSession(ctx context.Context, id uuid.UUID, at time.Time) error {
	return s.DB.WithContext(ctx).Model(&AccountSession{}).Where("id = ?", id).Update("seen_at", at).Error
}

// SessionsOf lists an account's sessions, the last used first.
func (s *Store) SessionsOf(ctx context.Context, account uuid.UUID) ([]AccountSession, error) {
	var rows []AccountSession
	return rows, s.DB.WithContext(ctx).Where("account_id = ?", account).Order("seen_at DESC, id").Find(&rows).Error
}

// EndSession ends one of an account's sessions; ErrNotFound when there is no such one.
func (s *Store) EndSession(ctx context.Context, account, id uuid.UUID) error {
	res := s.DB.WithContext(ctx).Where("id = ? AND account_id = ?", id, account).Delete(&AccountSession{})
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrNotFound
	}
	return res.Error
}

// EndSessions ends all sessions of an account but one, which may be none.
func (s *Store) EndSessions(ctx context.Context, account, but uuid.UUID) error {
	return s.DB.WithContext(ctx).Where("account_id = ? AND id <> ?", account, but).Delete(&AccountSession{}).Error
}

// EndIdleSessions removes the lines of sessions that were last used before a moment, and tries to sign in from before it.
func (s *Store) EndIdleSessions(ctx context.Context, before time.Time) error {
	db := s.DB.WithContext(ctx)
	if err := db.Exec("DELETE FROM account_session WHERE id IN (SELECT id FROM account_session WHERE seen_at < ? FOR UPDATE SKIP LOCKED)", before).Error; err != nil {
		return err
	}
	return db.Exec("DELETE FROM sign_in_attempt WHERE id IN (SELECT id FROM sign_in_attempt WHERE at < ? FOR UPDATE SKIP LOCKED)", before).Error
}

// KnownDevice reports whether an account has signed in on a device before.
func (s *Store) KnownDevice(ctx context.Context, account uuid.UUID, hash string) (bool, error) {
	var n int64
	err := s.DB.WithContext(ctx).Model(&AccountDevice{}).Where("account_id = ? AND token_hash = ?", account, hash).Count(&n).Error
	return n > 0, err
}

// AddDevice remembers a device.
func (s *Store) AddDevice(ctx context.Context, row AccountDevice) error {
	return s.DB.WithContext(ctx).Create(&row).Error
}

// KeepSignIn keeps a try to sign in unless there were too many since a moment, by login and address together or by address;
// false where there were. Tries from one address are counted one after another, however many come at once.
func (s *Store) KeepSignIn(ctx context.Context, row SignInAttempt, since time.Time, mostTogether, mostByAddress int64) (kept bool, err error) {
	err = s.DB.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		if err := db.Exec("SELECT pg_advisory_xact_lock(hashtextextended('sign-in ' || ?, 0))", row.Address).Error; err != nil {
			return err
		}
		if err := db.Where("address = ? AND at < ?", row.Address, since).Delete(&SignInAttempt{}).Error; err != nil {
			return err
		}
		var together, byAddress int64
		if err := db.Model(&SignInAttempt{}).Where("login = ? AND address = ?", row.Login, row.Address).Count(&together).Error; err != nil {
			return err
		}
		if err := db.Model(&SignInAttempt{}).Where("address = ?", row.Address).Count(&byAddress).Error; err != nil {
			return err
		}
		if together >= mostTogether || byAddress >= mostByAddress {
			return nil
		}
		kept = true
		return db.Create(&row).Error
	})
	return kept, err
}

// ForgetSignIns clears the tries of a login from an address, or from everywhere when the address is empty.
func (s *Store) ForgetSignIns(ctx context.Context, login, address string) error {
	db := s.DB.WithContext(ctx).Where("login = ?", login)
	if address != "" {
		db = db.Where("address = ?", address)
	}
	return db.Delete(&SignInAttempt{}).Error
}

// SetFactor keeps an account's second factor and its recovery codes.
func (t Tenant) SetFactor(account uuid.UUID, secret string, since *time.Time, codes []AccountRecovery) error {
	if err := t.SetAccount(account, map[string]any{"factor_secret": secret, "factor_since": since}); err != nil {
		return err
	}
	if err := t.db.Where("account_id = ?", account).Delete(&AccountRecovery{}).Error; err != nil {
		return err
	}
	if len(codes) == 0 {
		return nil
	}
	return t.db.Create(&codes).Error
}

// UseFactorStep marks a step of the second factor as used; false when it or a later one was used before.
func (s *Store) UseFactorStep(ctx context.Context, account uuid.UUID, step int64) (bool, error) {
	res := s.DB.WithContext(ctx).Model(&Account{}).Where("id = ? AND factor_step < ?", account, step).Update("factor_step", step)
	return res.RowsAffected == 1, res.Error
}

// UseRecovery marks a recovery code as used; false when there is none that works.
func (s *Store) UseRecovery(ctx context.Context, account uuid.UUID, hash string, at time.Time) (bool, error) {
	res := s.DB.WithContext(ctx).Model(&AccountRecovery{}).Where("account_id = ? AND code_hash = ? AND used_at IS NULL", account, hash).Update("used_at", at)
	return res.RowsAffected == 1, res.Error
}
