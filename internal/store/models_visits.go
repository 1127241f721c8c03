package store

import (
	"time"

	"github.com/google/uuid"
)

// Visit is one visit to a unit.
type Visit struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	UnitID         uuid.UUID
	Day            Date
	Outcome        string
	Status         string
	StatusReason   string
	Supersedes     *uuid.UUID
	CautionsRead   bool
	Note           string
	AccountID      *uuid.UUID
	SubmittedAt    time.Time
	// ProcedureVersion is the template the steps were of; nil when recorded without steps.
	ProcedureVersion *int
	Source           string `gorm:"default:desk"`
	ArrivedAt        *time.Time
	StartedAt        *time.Time
	FinishedAt       *time.Time
	ToldWhom         string
	// Choices are what was freely chosen, by question of practice.
	Choices JSON `gorm:"default:'{}'"`
	// PartsNoted are the parts it noted, as it said so.
	PartsNoted JSON `gorm:"default:'[]'"`
	// Jobs are the kinds of job the visit was for.
	Jobs Array[string] `gorm:"default:'{}'"`
}

// PartLook is a surface of the unit beside its coils as a visit found and left it; LeftGrade is nil where nothing was done to it.
type PartLook struct {
	OrganisationID uuid.UUID
	VisitID        uuid.UUID
	Part           string
	Seen           string
	Grade          int
	LeftGrade      *int
}

// VisitPerson is who worked, and how long.
type VisitPerson struct {
	OrganisationID uuid.UUID
	VisitID        uuid.UUID
	PersonID       uuid.UUID
	Minutes        int
}

// VisitSurface is whether a side was reached, or why not.
type VisitSurface struct {
	OrganisationID uuid.UUID
	VisitID        uuid.UUID
	SurfaceID      uuid.UUID
	Reached        bool
	WhyNot         string
}

// Finding is a grade seen on a side.
type Finding struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	VisitID        uuid.UUID
	SurfaceID      uuid.UUID
	Phase          string
	Seen           string
	Grade          int
	BlockedShare   *float64
}

// FindingSoil is a kind of soil found.
type FindingSoil struct {
	OrganisationID uuid.UUID
	FindingID      uuid.UUID
	SoilID         uuid.UUID
}

// Treatment is one treatment of a coil.
type Treatment struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	VisitID        uuid.UUID
	CoilID         uuid.UUID
	Seq            int
	Work           string
	MethodID       uuid.UUID
	Direction      string
	CleanerID      *uuid.UUID
	WaterParts     *float64
	AmountL        *float64
	AmountTyped    string
	EndPoints      Array[string]
	SettingID      *uuid.UUID
	PlannedL       *float64
	LoadedL        *float64
	ToppedUpL      *float64
	ReturnedL      *float64
	MixL           *float64
	RinseL         *float64
	DwellS         *int
	OverDwell      string
	Tip            string
	TakenOut       bool
	// AfterGrade and AfterSeen are a look between this pass and the next, where there was one.
	AfterGrade *int
	AfterSeen  *string
}

// TreatmentSurface is a side the treatment reached.
type TreatmentSurface struct {
	OrganisationID uuid.UUID
	TreatmentID    uuid.UUID
	SurfaceID      uuid.UUID
}

// TaskReset is a clock set back by a visit.
type TaskReset struct {
	OrganisationID uuid.UUID
	TaskID         uuid.UUID
	SurfaceID      uuid.UUID
	VisitID        uuid.UUID
}

// TableName names the table.
func (Visit) TableName() string { return "visit" }

// TableName names the table.
func (VisitPerson) TableName() string { return "visit_person" }

// TableName names the table.
func (VisitSurface) TableName() string { return "visit_surface" }

// TableName names the table.
func (Finding) TableName() string { return "finding" }

// TableName names the table.
func (FindingSoil) TableName() string { return "finding_soil" }

// TableName names the table.
func (Treatment) TableName() string { return "treatment" }

// TableName names the table.
func (TreatmentSurface) TableName() string { return "treatment_surface" }

// TableName names the table.
func (TaskReset) TableName() string { return "task_reset" }

// TableName of PartLook.
func (PartLook) TableName() string { return "part_look" }
