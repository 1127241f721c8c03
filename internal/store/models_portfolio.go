package store

import (
	"time"

	"github.com/google/uuid"
)

// CoilLine is what the portfolio shows of a coil, derived from the facts.
type CoilLine struct {
	OrganisationID uuid.UUID
	CoilID         uuid.UUID
	UnitID         uuid.UUID
	SiteID         uuid.UUID
	PlacementID    uuid.UUID
	ClassID        uuid.UUID
	SiteName       string
	ClassName      string
	Tag            string
	Status         string
	Role           string
	Due            Date
	// Blocked is the share expected on the worst side; -1 when nothing is known.
	Blocked float64
	// Rate of the worst side, load per 30 exposure-days; WaitWeek what it costs to leave the coil for a week.
	Rate     float64
	WaitWeek float64
	Proposed bool
	Line     JSON
	// Hours is what its deep clean takes of crew-hours, and what other intervals would cost (interval.HoursCoil); empty where nothing is known.
	Hours JSON
	// LookNet is what the most telling look is worth riding along, less its cost, Look which it is (contract.LookWorth); 0 and empty where
	// none would pay.
	LookNet      float64
	Look         JSON
	AsOf         Date
	ModelVersion string
	InputsHash   string
	ComputedAt   time.Time
}

// SavedFilter is a portfolio address kept under a name.
type SavedFilter struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	AccountID      uuid.UUID
	Name           string
	Query          string
}

// BulkChange is one change made to many records, with what stood before.
type BulkChange struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	At             time.Time
	AccountID      uuid.UUID
	What           string
	Changes        JSON
	UndoneAt       *time.Time
}

// Attachment is a file kept with a record.
type Attachment struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Entity         string
	EntityID       uuid.UUID
	Kind           string
	Name           string
	MediaType      string
	Bytes          int
	Sha256         string `gorm:"column:sha256"`
	Content        []byte
	AccountID      *uuid.UUID
	At             time.Time
	// Surface, step and phase say what a photo of a visit shows.
	SurfaceID *uuid.UUID
	Step      string
	Phase     string
}

// TableName names the table.
func (CoilLine) TableName() string { return "coil_line" }

// TableName names the table.
func (SavedFilter) TableName() string { return "saved_filter" }

// TableName names the table.
func (BulkChange) TableName() string { return "bulk_change" }

// TableName names the table.
func (Attachment) TableName() string { return "attachment" }
