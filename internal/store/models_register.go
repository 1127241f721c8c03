package store

import (
	"time"

	"github.com/google/uuid"

	"nextround/core/method"
)

// Site is a place with units.
type Site struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Code           string
	Name           string
	Status         string
	Zone           string
	Address        string
	Contact        string
	Phone          string
	Keys           string
	Water          string // yes, no or unknown
	WaterNote      string
	Power          string
	AccessNote     string
	Lat            *float64
	Lon            *float64
	AltitudeM      *float64
	Mail           string
	Version        int
	// OverPrice is the price of a day over the limit at this site; nil where that of the class or the organisation stands.
	OverPrice *float64
	// Climate is a kind of year (heat.Climates), nil where none is said; LoadMonths are twelve figures of the site's own, which come first.
	Climate    *string
	LoadMonths Array[float64]
	// AnchorMonth is the month deep cleans here should fall into, 0 none; nil where the class or the rule of the house decides.
	AnchorMonth *int
}

// Holiday is a day on which a site is closed, or its staff away.
type Holiday struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	SiteID         uuid.UUID
	Day            Date
	Name           string
	Access         string
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
	// PlacementID is the one placement it is for; nil: all of the site.
	PlacementID *uuid.UUID
}

// Placement is where at a site units stand.
type Placement struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	SiteID         uuid.UUID
	Name           string
	Setting        string
	NearFood       bool
	Occupied       bool
	WallBacked     bool
	HeightM        *float64
	Drain          string // yes, no or unknown, as Water
	DrainNote      string
	Water          string
}

// Unit is one piece of equipment.
type Unit struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Tag            string
	ClassID        uuid.UUID
	// PlacementID is where the unit stands now: the placement of its last stay.
	PlacementID     uuid.UUID
	Make            string
	Model           string
	Serial          string
	Year            *int
	Refrigerant     string
	Flammable       string // yes, no or unknown, which counts as yes
	ChargeKg        *float64
	CapacityKw      *float64
	Volts           *float64
	Amps            *float64
	EnergyKwhDay    *float64
	ConsequenceCost *float64
	ReplaceCost     *float64
	// HoursShare is the share of hours above the head-pressure control's ambient, RunningShare that of the day the compressor runs.
	HoursShare   *float64
	RunningShare *float64
	// FanDrive is fixed or held_flow, with what the clean fan uses; Compressor fixed or variable, with its share of full load; Medium is
	// what runs through the coil in the room's air, refrigerant or water.
	FanDrive      string
	FanKwhDay     *float64
	Compressor    string
	FullLoadShare *float64
	Medium        string
	// Load says in which months it works (heat.Load); nil as its class.
	Load *string
	// FilterShare is what its filter holds back, BypassShare what goes past; nil as usual in its class.
	FilterShare  *float64
	BypassShare  *float64
	Status       string
	Commissioned *Date
	Retired      *Date
	ReplacedBy   *uuid.UUID
	LabelCode    string
	Note         string
	Version      int
}

// UnitPause is a time out of service: exposure stands still.
type UnitPause struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	UnitID         uuid.UUID
	During         DateRange
	Reason         string
}

// UnitAccess is how a unit is got at, with the days for which that holds.
type UnitAccess struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	UnitID         uuid.UUID
	IsolationPoint string
	IsolationKind  string
	Panels         string
	Fixings        int
	FixingsNote    string
	Guards         int
	People         int
	LadderM        *float64
	Hazards        string
	Valid          DateRange
	Skill          string
}

// Part is something of a unit that gets replaced or bought.
type Part struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	UnitID         uuid.UUID
	Kind           string
	Specification  string
	Quantity       int
	Note           string
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
	Construction   string
	Slabs          int
	TubeRows       *int
	FaceWidthM     *float64
	FaceHeightM    *float64
	FinMetal       string
	TubeMetal      string
	Coating        string
	Installed      *Date
	Removed        *Date
}

// UnstatedCoil is a coil of which nothing was said yet.
func UnstatedCoil() Coil {
	unstated := string(method.Unstated)
	return Coil{Construction: unstated, Slabs: 1, FinMetal: unstated, TubeMetal: unstated}
}

// Surface is one side of a coil or slab gap, or a wheel, grille, tray, base, trough or filter of a unit.
type Surface struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	CoilID         *uuid.UUID
	UnitID         *uuid.UUID
	Kind           string
	Name           string
	Position       int
	AreaShare      float64
	AreaM2         *float64 `gorm:"column:area_m2"`
	MapRows        *int
	MapColumns     *int
	Reachable      bool
	WhyNot         string
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

// FactorEvent is something that happened at a site and asks for a look.
type FactorEvent struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	SiteID         uuid.UUID
	Kind           string
	Day            Date
	Note           string
	AccountID      *uuid.UUID
}

// Task is a cleaning clock of a coil, or a companion task of a unit (no coil).
type Task struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	UnitID         uuid.UUID
	CoilID         *uuid.UUID
	Kind           string
	EveryDays      int
	Doer           string
	AnchorMonth    *int
	Paused         bool
	// LastDay and LastQuality are the last time known of a companion before the first tick.
	LastDay     *Date
	LastQuality string
	// ForwardTo is a day the clean was brought forward to; it holds until the clean is done.
	ForwardTo *Date
	// Plan is how it is to be done (dossier.WorkPlan); empty where it is done as it was last.
	Plan JSON
	// YearDays are the days of the year it is done on, 0 is 1 January; nil where the interval alone counts.
	YearDays Array[int]
	Version  int
}

// TaskTick is a companion task that was done.
type TaskTick struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	TaskID         uuid.UUID
	Day            Date
	Note           string
	AccountID      *uuid.UUID
	LinkID         *uuid.UUID
	// VisitID is the visit whose step ticked it.
	VisitID *uuid.UUID
	At      time.Time
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
	Kind           string
	Status         string
	Step           string
	Done           int
	Total          int
	CancelWanted   bool
	AliveAt        *time.Time
	Report         JSON
	// Attempt is how often the run was begun: a server that dies leaves it to another.
	Attempt int
}

// ImportFile is the file of a run that waits in the queue or is at work.
type ImportFile struct {
	OrganisationID uuid.UUID
	RunID          uuid.UUID
	File           []byte
}

// ImportMapping remembers which of our columns a foreign column name stands for.
type ImportMapping struct {
	OrganisationID uuid.UUID
	Kind           string
	ForeignName    string
	ColumnName     string
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

// TableName names the table.
func (Holiday) TableName() string { return "holiday" }

// TableName names the table.
func (UnitPause) TableName() string { return "unit_pause" }

// TableName names the table.
func (UnitAccess) TableName() string { return "unit_access" }

// TableName names the table.
func (Part) TableName() string { return "part" }

// TableName names the table.
func (FactorEvent) TableName() string { return "factor_event" }

// TableName names the table.
func (TaskTick) TableName() string { return "task_tick" }

// TableName for GORM.
func (ImportFile) TableName() string { return "import_file" }

// TableName names the table.
func (ImportMapping) TableName() string { return "import_mapping" }
