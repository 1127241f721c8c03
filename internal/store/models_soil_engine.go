package store

import (
	"time"

	"github.com/google/uuid"
)

// RateEstimate is what is learned of a side's rate: its own estimate with the belief beforehand divided out, so that
// peers can be summed up.
type RateEstimate struct {
	OrganisationID uuid.UUID
	SurfaceID      uuid.UUID
	CoilID         uuid.UUID
	UnitID         uuid.UUID
	ClassID        uuid.UUID
	SiteID         uuid.UUID
	Role           string
	OwnMean        *float64
	OwnVariance    *float64
	Telling        int
	Counted        int
	Rate           float64
	Assumed        float64
	// CallsExpected at the start values in LoggedDays with a complete log; RisePairs are the coil's, with its first side.
	CallsExpected float64
	LoggedDays    int
	RisePairs     JSON
	ModelVersion  string
	InputsHash    string
	ComputedAt    time.Time
}

// RemovalEstimate is what a method takes away, the organisation's own found and left pairs blended in.
type RemovalEstimate struct {
	OrganisationID uuid.UUID
	MethodID       uuid.UUID
	Family         string
	FaceShare      float64
	CoreShare      float64
	FacePairs      int
	CorePairs      int
	ModelVersion   string
	ComputedAt     time.Time
}

// PlanEstimate is what a plan of several passes takes away, the organisation's own pairs blended in. Plan is its methods by code, in order.
type PlanEstimate struct {
	OrganisationID uuid.UUID
	Plan           string
	Family         string
	FaceShare      float64
	CoreShare      float64
	FacePairs      int
	CorePairs      int
	ModelVersion   string
	ComputedAt     time.Time
}

// TaskCap is a hard cap on a task's interval.
type TaskCap struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	TaskID         uuid.UUID
	Kind           string
	MostDays       *int
	TimesAYear     *float64
	Note           string
	AccountID      *uuid.UUID
	At             time.Time
}

// EstimationRun is everything recalculated in the background.
type EstimationRun struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	AccountID      *uuid.UUID
	At             time.Time
	Status         string
	Step           string
	// After is the last unit that was done in this step.
	After        uuid.UUID
	Done         int
	Total        int
	CancelWanted bool
	Note         string
	AliveAt      time.Time
}

// TableName names the table.
func (RateEstimate) TableName() string { return "rate_estimate" }

// TableName names the table.
func (RemovalEstimate) TableName() string { return "removal_estimate" }

// TableName names the table.
func (PlanEstimate) TableName() string { return "plan_estimate" }

// TableName names the table.
func (TaskCap) TableName() string { return "task_cap" }

// TableName names the table.
func (EstimationRun) TableName() string { return "estimation_run" }

// CallOut is a call-out with what it was put down to.
type CallOut struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	SiteID         uuid.UUID
	UnitID         uuid.UUID
	Day            Date
	Cause          string
	CoilToBlame    string // yes, no or unknown
	Prevented      string // whether a clean in time would have: yes, no or unknown
	Cost           *float64
	Goods          *float64
	VisitID        *uuid.UUID
	Note           string
	AccountID      *uuid.UUID
	At             time.Time
}

// CallLog is some time in which every call-out of a site was put down.
type CallLog struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	SiteID         uuid.UUID
	During         DateRange
	AccountID      *uuid.UUID
	At             time.Time
}

// ClassEvidence is what the organisation's own records say of the money of a class.
type ClassEvidence struct {
	OrganisationID uuid.UUID
	ClassID        uuid.UUID
	CallsSeen      int
	CallsExpected  float64
	UnitYears      float64
	RisePairs      int
	Rise           JSON
	ModelVersion   string
	ComputedAt     time.Time
}

// TableName names the table.
func (CallOut) TableName() string { return "call_out" }

// TableName names the table.
func (CallLog) TableName() string { return "call_log" }

// TableName names the table.
func (ClassEvidence) TableName() string { return "class_evidence" }
