package store

import (
	"time"

	"github.com/google/uuid"
)

// Organisation owns every row of the domain.
type Organisation struct {
	ID        uuid.UUID
	Name      string
	Zone      string
	Currency  string
	Units     string
	CreatedAt time.Time
	// DigestMail is where the weekly digest goes; empty: nowhere.
	DigestMail string
	// FactorRoles are the roles of which a second factor is asked.
	FactorRoles Array[string] `gorm:"default:'{}'"`
}

// Account can sign in.
type Account struct {
	ID           uuid.UUID
	Login        string
	PasswordHash string
	Disabled     bool
	CreatedAt    time.Time
	// Units and Theme are how this person likes to see figures and pages; nil units are the organisation's.
	Units *string
	Theme string
	// FactorSecret is that of the second factor, which counts from FactorSince; FactorStep is the last of its steps used.
	FactorSecret string
	FactorSince  *time.Time
	FactorStep   int64
}

// Person does work or answers for it; may have no account.
type Person struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Name           string
}

// Membership says what an account may do in an organisation.
type Membership struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	AccountID      uuid.UUID
	PersonID       uuid.UUID
	Role           string
	AllSites       bool
	Version        int
}

// MembershipSite is a site that a member who does not see all may see.
type MembershipSite struct {
	OrganisationID uuid.UUID
	MembershipID   uuid.UUID
	SiteID         uuid.UUID
}

// AccountToken lets somebody choose a first or a new password.
type AccountToken struct {
	ID             uuid.UUID
	OrganisationID uuid.UUID
	AccountID      uuid.UUID
	Kind           string
	TokenHash      string
	ExpiresAt      time.Time
	UsedAt         *time.Time
	CreatedBy      *uuid.UUID
	CreatedAt      time.Time
}

// SignInAttempt is a sign-in that failed.
type SignInAttempt struct {
	ID      uuid.UUID
	Login   string
	Address string
	At      time.Time
}

// Audit is one change made by hand.
type Audit struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	At             time.Time
	AccountID      *uuid.UUID
	Entity         string
	EntityID       uuid.UUID
	Action         string
	Detail         JSON
}

// Idempotency is the stored answer to a request that may be sent again.
type Idempotency struct {
	OrganisationID uuid.UUID
	AccountID      uuid.UUID
	Key            uuid.UUID
	RequestHash    string
	Answer         JSON
	CreatedAt      time.Time
}

// TableName names the table.
func (Organisation) TableName() string { return "organisation" }

// TableName names the table.
func (Account) TableName() string { return "account" }

// TableName names the table.
func (Person) TableName() string { return "person" }

// TableName names the table.
func (Membership) TableName() string { return "membership" }

// TableName names the table.
func (MembershipSite) TableName() string { return "membership_site" }

// TableName names the table.
func (AccountToken) TableName() string { return "account_token" }

// TableName names the table.
func (SignInAttempt) TableName() string { return "sign_in_attempt" }

// TableName names the table.
func (Audit) TableName() string { return "audit" }

// TableName names the table.
func (Idempotency) TableName() string { return "idempotency" }
