package store

import (
	"time"

	"github.com/google/uuid"
)

// Site is a place with units.
type Site struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Name           string
	Zone           string
	Address        string
	Contact        string
	AccessNote     string
	Lat            *float64
	Lon            *float64
	Version        int
}

// SiteWindow is when a site is open, quiet, or may be worked in.
type SiteWindow struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	SiteID         uuid.UUID
	Kind           string
	Weekdays       Array[int]
	Starts         string
	Ends           string
	Valid          DateRange
	Note           string
}

// Placement is where at a site units stand.
type Placement struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	SiteID         uuid.UUID
	Name           string
	Setting        string
}

// Unit is one piece of equipment.
type Unit struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Tag            string
	ClassID        uuid.UUID
	Make           string
	Model          string
	Status         string
	Commissioned   *Date
	Note           string
	Version        int
}

// UnitStay is the time a unit stands at a placement.
type UnitStay struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	UnitID         uuid.UUID
	PlacementID    uuid.UUID
	During         DateRange
}

// Coil is one coil of a unit.
type Coil struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	UnitID         uuid.UUID
	Role           string
	StartQuality   string
	StartDay       *Date
}

// Surface is one side of a coil.
type Surface struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	CoilID         uuid.UUID
	Name           string
	Position       int
	AreaShare      float64
	AccessNote     string
}

// SiteFactor is a factor at work at a site, placement or unit, with its dates.
type SiteFactor struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	FactorID       uuid.UUID
	SiteID         *uuid.UUID
	PlacementID    *uuid.UUID
	UnitID         *uuid.UUID
	Valid          DateRange
	Note           string
}

// Task is a cleaning clock of a coil.
type Task struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	UnitID         uuid.UUID
	CoilID         uuid.UUID
	Kind           string
	EveryDays      int
	Version        int
}

// TaskSurface is a side covered by a task, with the last clean known before the first recorded visit.
type TaskSurface struct {
	OrganisationID uuid.UUID
	TaskID         uuid.UUID
	SurfaceID      uuid.UUID
	LastDay        *Date
	LastQuality    string
}

// ImportRun is one file taken in.
type ImportRun struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	At             time.Time
	AccountID      uuid.UUID
	FileName       string
	FileHash       string
	Rows           int
}

// TableName names the table.
func (Site) TableName() string { return "site" }

// TableName names the table.
func (SiteWindow) TableName() string { return "site_window" }

// TableName names the table.
func (Placement) TableName() string { return "placement" }

// TableName names the table.
func (Unit) TableName() string { return "unit" }

// TableName names the table.
func (UnitStay) TableName() string { return "unit_stay" }

// TableName names the table.
func (Coil) TableName() string { return "coil" }

// TableName names the table.
func (Surface) TableName() string { return "surface" }

// TableName names the table.
func (SiteFactor) TableName() string { return "site_factor" }

// TableName names the table.
func (Task) TableName() string { return "task" }

// TableName names the table.
func (TaskSurface) TableName() string { return "task_surface" }

// TableName names the table.
func (ImportRun) TableName() string { return "import_run" }
