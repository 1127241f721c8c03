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

// CreateMember adds an account, its person and its membership.
func (s *Store) CreateMember(ctx context.Context, org uuid.UUID, name, login, hash, role string, now time.Time) (Member, error) {
	m := Member{
		Account: Account{ID: NewID(), Login: login, PasswordHash: hash, CreatedAt: now},
		Person:  Person{OrganisationID: org, ID: NewID(), Name: name},
	}
	m.Membership = Membership{OrganisationID: org, ID: NewID(), AccountID: m.Account.ID, PersonID: m.Person.ID, Role: role}
	err := s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, row := range []any{&m.Account, &m.Person, &m.Membership} {
			if err := tx.Create(row).Error; err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return m, fmt.Errorf("adding %s: %w", login, err)
	}
	return m, nil
}

// OrganisationIDs lists all organisations.
func (s *Store) OrganisationIDs(ctx context.Context) ([]uuid.UUID, error) {
	var ids []uuid.UUID
	err := s.DB.WithContext(ctx).Model(&Organisation{}).Order("id").Pluck("id", &ids).Error
	return ids, err
}
