package store

import (
	"time"

	"github.com/google/uuid"
)

// ProcedureVersion is a template of steps for a class, as the organisation changed it.
type ProcedureVersion struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	ClassID        uuid.UUID
	Version        int
	Steps          JSON
	Reason         string
	AccountID      *uuid.UUID
	At             time.Time
}

// StepResult is what became of a step.
type StepResult struct {
	OrganisationID uuid.UUID
	VisitID        uuid.UUID
	Step           string
	Position       int
	Phase          string
	Text           string
	Gate           bool
	State          string
	Reason         string
	At             *time.Time
}

// IsolationProof is how a unit was made dead and proved so.
type IsolationProof struct {
	OrganisationID uuid.UUID
	VisitID        uuid.UUID
	Point          string
	Means          string
	Secured        string
	Discharged     bool
	MeterTried     bool
	L1L2V          *float64 `gorm:"column:l1_l2_v"`
	L1GroundV      *float64 `gorm:"column:l1_ground_v"`
	L2GroundV      *float64 `gorm:"column:l2_ground_v"`
	PersonID       *uuid.UUID
	At             *time.Time
}

// FindingCell is a cell of a face map.
type FindingCell struct {
	OrganisationID uuid.UUID
	FindingID      uuid.UUID
	RowNo          int
	ColumnNo       int
	Grade          *int
	WhyNot         string
}

// Reading is a value read before or after the work, with its verdict.
type Reading struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	VisitID        uuid.UUID
	CoilID         *uuid.UUID
	Phase          string
	Kind           string
	Value          float64
	Typed          string
	Source         string
	Context        JSON
	Verdict        string
	Judgement      JSON
	Cause          string
}

// RuleException is a house rule set aside at a visit.
type RuleException struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	VisitID        uuid.UUID
	Ban            string
	Question       string
	Reason         string
}

// WatchItem is something to look at again at each visit.
type WatchItem struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	UnitID         uuid.UUID
	SurfaceID      *uuid.UUID
	VisitID        *uuid.UUID
	What           string
	Opened         Date
	Closed         *Date
	ClosedWhy      string
	AccountID      *uuid.UUID
}

// WatchLook is how a watch item was found at a visit.
type WatchLook struct {
	OrganisationID uuid.UUID
	WatchItemID    uuid.UUID
	VisitID        uuid.UUID
	State          string
	Note           string
}

// AdviceGiven is what the site was advised, and its answer.
type AdviceGiven struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	VisitID        uuid.UUID
	Text           string
	Answer         string
}

// CountBack is what was taken out and came back.
type CountBack struct {
	OrganisationID uuid.UUID
	VisitID        uuid.UUID
	What           string
	Taken          int
	Back           int
	Why            string
}

// RefrigerantTable is an imported saturation table.
type RefrigerantTable struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Code           string
	Points         JSON
	AccountID      *uuid.UUID
	At             time.Time
}

// StockItem is when a cleaner is bought again.
type StockItem struct {
	OrganisationID uuid.UUID
	CleanerID      uuid.UUID
	ReorderAtL     float64
	LeadDays       int
	Version        int
}

// StockMove is a movement in the stock book.
type StockMove struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	CleanerID      uuid.UUID
	Kind           string
	Litres         float64
	Day            Date
	VisitID        *uuid.UUID
	Note           string
	AccountID      *uuid.UUID
	At             time.Time
}

// Grader is how somebody grades.
type Grader struct {
	OrganisationID uuid.UUID
	PersonID       uuid.UUID
	Scores         JSON
	Estimate       JSON
	At             time.Time
}

// GuestLink lets somebody without an account do one thing.
type GuestLink struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Kind           string
	SiteID         uuid.UUID
	UnitID         *uuid.UUID
	Name           string
	TokenHash      string
	ExpiresAt      time.Time
	RevokedAt      *time.Time
	UsedAt         *time.Time
	AccountID      uuid.UUID
	At             time.Time
}

// SymptomReport is a complaint, and what came of it.
type SymptomReport struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	SiteID         uuid.UUID
	UnitID         *uuid.UUID
	Kind           string
	Note           string
	Reporter       string
	Day            Date
	At             time.Time
	LinkID         *uuid.UUID
	AccountID      *uuid.UUID
	Status         string
	ForecastShare  *float64
	TriageNote     string
	CoilWasCause   *bool
	VisitID        *uuid.UUID
}

// MailOut is a mail on its way.
type MailOut struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Recipient      string
	Subject        string
	Body           string
	FileName       string
	File           []byte
	VisitID        *uuid.UUID
	Status         string
	Tries          int
	// ClaimedAt is when a server took it in hand to send it.
	ClaimedAt *time.Time
	Error     string
	AccountID *uuid.UUID
	At        time.Time
	SentAt    *time.Time
}

// TableName names the table.
func (ProcedureVersion) TableName() string { return "procedure_version" }

// TableName names the table.
func (StepResult) TableName() string { return "step_result" }

// TableName names the table.
func (IsolationProof) TableName() string { return "isolation_proof" }

// TableName names the table.
func (FindingCell) TableName() string { return "finding_cell" }

// TableName names the table.
func (Reading) TableName() string { return "reading" }

// TableName names the table.
func (RuleException) TableName() string { return "rule_exception" }

// TableName names the table.
func (WatchItem) TableName() string { return "watch_item" }

// TableName names the table.
func (WatchLook) TableName() string { return "watch_look" }

// TableName names the table.
func (AdviceGiven) TableName() string { return "advice_given" }

// TableName names the table.
func (CountBack) TableName() string { return "count_back" }

// TableName names the table.
func (RefrigerantTable) TableName() string { return "refrigerant_table" }

// TableName names the table.
func (StockItem) TableName() string { return "stock_item" }

// TableName names the table.
func (StockMove) TableName() string { return "stock_move" }

// TableName names the table.
func (Grader) TableName() string { return "grader" }

// TableName names the table.
func (GuestLink) TableName() string { return "guest_link" }

// TableName names the table.
func (SymptomReport) TableName() string { return "symptom_report" }

// TableName names the table.
func (MailOut) TableName() string { return "mail_out" }

// FoundUnit is a unit met on site that is not in the register.
type FoundUnit struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	SiteID         uuid.UUID
	Place          string
	Tag            string
	ClassID        *uuid.UUID
	Note           string
	Day            Date
	AccountID      *uuid.UUID
	At             time.Time
	// UnitID is as which it was added, Dismissed why it was not; both empty while nobody has decided.
	UnitID    *uuid.UUID
	Dismissed string
	DecidedBy *uuid.UUID
	DecidedAt *time.Time
}

// TableName names the table.
func (FoundUnit) TableName() string { return "found_unit" }

// GuestLinkUnit is a unit that a contractor's link reaches, and when its visit was returned.
type GuestLinkUnit struct {
	OrganisationID uuid.UUID
	LinkID         uuid.UUID
	UnitID         uuid.UUID
	UsedAt         *time.Time
}

// TableName names the table.
func (GuestLinkUnit) TableName() string { return "guest_link_unit" }
