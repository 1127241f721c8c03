package store

import (
	"time"

	"github.com/google/uuid"
)

// Proposal is an interval proposed for a task.
type Proposal struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	TaskID         uuid.UUID
	School         string
	Days           int
	FromDays       int
	HabitDays      float64
	StaircaseDays  float64
	// LimitDays and CostDays are nil where nothing is learned; SavesYear is the money a year the change would bring.
	LimitDays *float64
	CostDays  *float64
	SavesYear *float64
	Binding   string
	Status    string
	// ClosedAt is when it was answered or superseded.
	ClosedAt     *time.Time
	Result       JSON
	Reasons      JSON
	ModelVersion string
	InputsHash   string
	ComputedAt   time.Time
}

// IntervalChange is a change of a task's interval.
type IntervalChange struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	TaskID         uuid.UUID
	FromDays       int
	ToDays         int
	School         string
	Reason         string
	ProposalID     *uuid.UUID
	AccountID      *uuid.UUID
	At             time.Time
}

// Crew is a crew.
type Crew struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Name           string
}

// CrewHours is what a crew works on a weekday.
type CrewHours struct {
	OrganisationID uuid.UUID
	CrewID         uuid.UUID
	Weekday        int
	Starts         string
	Minutes        int
}

// Plan is one run of the planner that led to rounds.
type Plan struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	MadeBy         string
	MadeAt         time.Time
}

// Round is a crew-day that went out.
type Round struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	PlanID         uuid.UUID
	CrewID         uuid.UUID
	Day            Date
	Status         string
	Sequence       int
	Minutes        float64
	HoursMinutes   float64
	PublishedAt    time.Time
	AccountID      *uuid.UUID
	Version        int
}

// Stop is a site on a round.
type Stop struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	RoundID        uuid.UUID
	SiteID         uuid.UUID
	Seq            int
	Minutes        float64
	Windows        JSON
}

// StopJob is a task at a stop, as it went out.
type StopJob struct {
	OrganisationID uuid.UUID
	StopID         uuid.UUID
	Seq            int
	TaskID         uuid.UUID
	Due            Date
	Minutes        float64
	State          JSON
	Reasons        JSON
}

// TableName names the table.
func (Proposal) TableName() string { return "proposal" }

// TableName names the table.
func (IntervalChange) TableName() string { return "interval_change" }

// TableName names the table.
func (Crew) TableName() string { return "crew" }

// TableName names the table.
func (CrewHours) TableName() string { return "crew_hours" }

// TableName names the table.
func (Plan) TableName() string { return "plan" }

// TableName names the table.
func (Round) TableName() string { return "round" }

// TableName names the table.
func (Stop) TableName() string { return "stop" }

// TableName names the table.
func (StopJob) TableName() string { return "stop_job" }
