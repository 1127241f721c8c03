package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// ErrNotFound means that no such row exists in this organisation.
var ErrNotFound = errors.New("not found")

// Member is an account with what it may do.
type Member struct {
	Account      Account
	Membership   Membership
	Person       Person
	Organisation Organisation
	// Sites that may be seen when the membership does not see all.
	Sites []uuid.UUID
}

// MemberByLogin finds who signs in; ErrNotFound when nobody does.
func (s *Store) MemberByLogin(ctx context.Context, login string) (Member, error) {
	return s.member(ctx, "login = ?", login)
}

// MemberByAccount finds the signed-in member; ErrNotFound when the account is gone.
func (s *Store) MemberByAccount(ctx context.Context, id uuid.UUID) (Member, error) {
	return s.member(ctx, "id = ?", id)
}

func (s *Store) member(ctx context.Context, where string, arg any) (Member, error) {
	var m Member
	db := s.DB.WithContext(ctx)
	if err := db.Where(where, arg).Take(&m.Account).Error; err != nil {
		return m, notFound(err)
	}
	if err := db.Where("account_id = ?", m.Account.ID).Take(&m.Membership).Error; err != nil {
		return m, notFound(err)
	}
	org := m.Membership.OrganisationID
	if err := db.Where("id = ?", org).Take(&m.Organisation).Error; err != nil {
		return m, notFound(err)
	}
	if !m.Membership.AllSites {
		var err error
		if m.Sites, err = s.For(ctx, org).SitesOf(m.Membership.ID); err != nil {
			return m, err
		}
	}
	return m, notFound(s.For(ctx, org).scoped().Where("id = ?", m.Membership.PersonID).Take(&m.Person).Error)
}

func notFound(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	return err
}

// CreateOrganisation adds an organisation.
func (s *Store) CreateOrganisation(ctx context.Context, o *Organisation) error {
	return s.DB.WithContext(ctx).Create(o).Error
}

// Organisations counts the organisations.
func (s *Store) Organisations(ctx context.Context) (int64, error) {
	var n int64
	err := s.DB.WithContext(ctx).Model(&Organisation{}).Count(&n).Error
	return n, err
}

// Organisation is one organisation by its id.
func (s *Store) Organisation(ctx context.Context, id uuid.UUID) (Organisation, error) {
	var row Organisation
	err := s.DB.WithContext(ctx).Where("id = ?", id).Take(&row).Error
	return row, notFound(err)
}

// SetDigestMail sets where the weekly digest goes.
func (t Tenant) SetDigestMail(to string) error {
	return t.db.Model(&Organisation{}).Where("id = ?", t.Org).Update("digest_mail", to).Error
}

// OrganisationIDs lists all organisations.
func (s *Store) OrganisationIDs(ctx context.Context) ([]uuid.UUID, error) {
	var ids []uuid.UUID
	err := s.DB.WithContext(ctx).Model(&Organisation{}).Order("id").Pluck("id", &ids).Error
	return ids, err
}

// WhileFirst runs do in a transaction that only one caller at a time gets into, so that two of them cannot both
// find the database empty.
func (s *Store) WhileFirst(ctx context.Context, do func(*Store) error) error {
	const lock = 7_401_002 // any number that no other lock uses
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("SELECT pg_advisory_xact_lock(?)", lock).Error; err != nil {
			return err
		}
		return do(&Store{Pool: s.Pool, DB: tx, sql: s.sql})
	})
}

// CreateMember adds an account, its person and its membership, which sees all sites.
func (s *Store) CreateMember(ctx context.Context, org uuid.UUID, name, login, hash, role string, now time.Time) (Member, error) {
	var m Member
	err := s.For(ctx, org).InTransaction(func(t Tenant) (err error) {
		p := Person{OrganisationID: org, ID: NewID(), Name: name}
		if err := Insert(t, p); err != nil {
			return err
		}
		m, err = t.AddMember(p, login, hash, role, true, now)
		return err
	})
	return m, err
}

// AddMember gives a person an account and a membership.
func (t Tenant) AddMember(p Person, login, hash, role string, allSites bool, now time.Time) (Member, error) {
	m := Member{
		Account: Account{ID: NewID(), Login: login, PasswordHash: hash, Theme: "auto", CreatedAt: now},
		Person:  p,
	}
	m.Membership = Membership{
		OrganisationID: t.Org, ID: NewID(), AccountID: m.Account.ID, PersonID: p.ID, Role: role, AllSites: allSites, Version: 1,
	}
	if err := t.db.Create(&m.Account).Error; errors.Is(err, gorm.ErrDuplicatedKey) {
		return m, ErrDuplicate
	} else if err != nil {
		return m, fmt.Errorf("adding %s: %w", login, err)
	}
	return m, Insert(t, m.Membership)
}

// LockManagers counts who manages the whole organisation and may sign in, and keeps them from being changed until the
// transaction ends.
func (t Tenant) LockManagers() (int, error) {
	var ids []uuid.UUID
	err := t.db.Raw(`SELECT m.id FROM membership m JOIN account a ON a.id = m.account_id
		WHERE m.organisation_id = ? AND m.role = 'manager' AND m.all_sites AND NOT a.disabled ORDER BY m.id FOR UPDATE OF m`, t.Org).Scan(&ids).Error
	return len(ids), err
}

// SitesOf lists the sites that a membership may see.
func (t Tenant) SitesOf(membership uuid.UUID) ([]uuid.UUID, error) {
	ids := []uuid.UUID{}
	err := t.scoped().Model(&MembershipSite{}).Where("membership_id = ?", membership).Order("site_id").Pluck("site_id", &ids).Error
	return ids, err
}

// SetSites says which sites a membership may see.
func (t Tenant) SetSites(membership uuid.UUID, sites []uuid.UUID) error {
	if err := t.scoped().Where("membership_id = ?", membership).Delete(&MembershipSite{}).Error; err != nil {
		return err
	}
	rows := make([]MembershipSite, len(sites))
	for i, site := range sites {
		rows[i] = MembershipSite{OrganisationID: t.Org, MembershipID: membership, SiteID: site}
	}
	return Insert(t, rows...)
}

// Accounts lists the accounts of the organisation's members.
func (t Tenant) Accounts() ([]Account, error) {
	var rows []Account
	err := t.db.Where("id IN (SELECT account_id FROM membership WHERE organisation_id = ?)", t.Org).Find(&rows).Error
	return rows, err
}

// SetAccount changes some columns of a member's account.
func (t Tenant) SetAccount(id uuid.UUID, columns map[string]any) error {
	return t.db.Model(&Account{}).
		Where("id = ? AND id IN (SELECT account_id FROM membership WHERE organisation_id = ?)", id, t.Org).Updates(columns).Error
}

// EndTokens makes the unused links of an account worthless.
func (t Tenant) EndTokens(account uuid.UUID, at time.Time) error {
	return t.db.Model(&AccountToken{}).Where("account_id = ? AND used_at IS NULL", account).Update("used_at", at).Error
}

// AddToken keeps a link.
func (t Tenant) AddToken(row AccountToken) error { return t.db.Create(&row).Error }

// TakeToken finds an unused link by its hash and locks it; ErrNotFound when there is none.
func (s *Store) TakeToken(ctx context.Context, hash string, now time.Time) (AccountToken, error) {
	var row AccountToken
	err := s.DB.WithContext(ctx).Where("token_hash = ? AND used_at IS NULL AND expires_at > ?", hash, now).Take(&row).Error
	return row, notFound(err)
}

// UseToken marks a link as used; ErrStale when somebody was faster.
func (t Tenant) UseToken(id uuid.UUID, at time.Time) error {
	res := t.db.Model(&AccountToken{}).Where("id = ? AND used_at IS NULL", id).Update("used_at", at)
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrStale
	}
	return res.Error
}

// SetFactorRoles keeps of which roles a second factor is asked.
func (t Tenant) SetFactorRoles(roles Array[string]) error {
	return t.db.Model(&Organisation{}).Where("id = ?", t.Org).Update("factor_roles", roles).Error
}
