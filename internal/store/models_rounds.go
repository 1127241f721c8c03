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
	ClosedAt *time.Time
	Result   JSON
	// Program is what was proposed beside the interval (dossier.Program); empty where the interval alone was.
	Program JSON
	// Rests is what it rests on (dossier.Rests).
	Rests        JSON
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
	OrganisationID  uuid.UUID
	ID              uuid.UUID
	Name            string
	Kind            string
	BaseSiteID      *uuid.UUID
	People          int
	Skills          Array[string]
	Kit             Array[string]
	TankL           float64
	OvertimeMinutes int
	DayFee          float64
	Mail            string
	Version         int
}

// CrewAbsence is a time in which some or all of a crew are away.
type CrewAbsence struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	CrewID         uuid.UUID
	During         DateRange
	People         int
	Reason         string
	AccountID      *uuid.UUID
	At             time.Time
}

// CrewHours is what a crew works on a weekday.
type CrewHours struct {
	OrganisationID uuid.UUID
	CrewID         uuid.UUID
	Weekday        int
	Starts         string
	Minutes        int
}

// Plan is one run of the planner; the current one is what rounds are published from. It carries what it was made from and
// what came out, so that a page is read without planning again.
type Plan struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	MadeBy         string
	MadeAt         time.Time
	Status         string
	IsCurrent      bool
	Version        int
	AccountID      *uuid.UUID
	Start          *Date
	Days           int
	Seed           int64
	Iterations     int
	Share          float64
	Cost           float64
	Placed         int
	CancelWanted   bool
	AliveAt        time.Time
	Note           string
	// Asked is what the run was asked for, kept for the server that takes it up; Attempt is how often that was.
	Asked   JSON
	Step    string
	Attempt int
	Problem JSON
	Jobs    JSON
	Result  JSON
	Greedy  JSON
	Changes JSON
}

// Round is a crew-day that went out. A change makes a new one with the same UID and the next sequence number; the one
// before is superseded.
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
	UID            uuid.UUID
	Starts         string
	Back           string
	DrivingMinutes float64
	// ChangedAt is when it was published, withdrawn or superseded.
	ChangedAt time.Time
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
	Arrive         string
	Leave          string
	Latest         string
	DriveMinutes   float64
}

// StopJob is a job at a stop, as it went out.
type StopJob struct {
	OrganisationID uuid.UUID
	StopID         uuid.UUID
	Seq            int
	// TaskID is nil where it serves no clock: a look, a watch item, a symptom.
	TaskID  *uuid.UUID
	Due     Date
	Minutes float64
	State   JSON
	Reasons JSON
	Key     string
	// Tasks are all clocks it serves, with those that ride along.
	Tasks IDs
	Job   JSON
}

// CrewMember is somebody's time in a crew.
type CrewMember struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	CrewID         uuid.UUID
	PersonID       uuid.UUID
	During         DateRange
}

// TableName names the table.
func (CrewMember) TableName() string { return "crew_member" }

// JobReturn is a job of a published round that its crew gave back.
type JobReturn struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	StopID         uuid.UUID
	Key            string
	UnitID         uuid.UUID
	Kind           string
	Note           string
	AccountID      *uuid.UUID
	At             time.Time
}

// TableName names the table.
func (JobReturn) TableName() string { return "job_return" }

// FeedToken opens a crew's calendar; only its hash is kept.
type FeedToken struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	CrewID         uuid.UUID
	TokenHash      string
	AccountID      *uuid.UUID
	At             time.Time
	RevokedAt      *time.Time
}

// NoticeSent is what went out once.
type NoticeSent struct {
	OrganisationID uuid.UUID
	Kind           string
	Key            string
	At             time.Time
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

// TableName names the table.
func (CrewAbsence) TableName() string { return "crew_absence" }

// TableName names the table.
func (FeedToken) TableName() string { return "feed_token" }

// TableName names the table.
func (NoticeSent) TableName() string { return "notice_sent" }
