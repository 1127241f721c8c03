// Package visit holds the rules that a visit's record keeps, the same on the phone, where they run as WebAssembly while the
// work is done, and on the server, where the visit arrives. It judges and names fields and steps; it stores nothing.
package visit

import (
	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/core/workplan"
	"nextround/internal/contract"
)

// Facts are what a visit is held against: the unit as the register knows it, and what the organisation works with.
type Facts struct {
	Tag          string
	Status       string
	Today        calendar.Day
	Commissioned *calendar.Day
	Retired      *calendar.Day
	Coils        []Coil
	People       map[uuid.UUID]bool
	Methods      map[uuid.UUID]Method
	Cleaners     map[uuid.UUID]method.Cleaner
	Soils        map[uuid.UUID]string // their codes
	Sprayers     []contract.SprayerChoice
	Watched      map[uuid.UUID]bool
	Symptoms     map[uuid.UUID]bool
	Template     []procedure.Step
	// Standing are the tags of the unit and its place, whatever is done there.
	Standing map[string]bool
	Rules    method.Rules
	// Reading is what is known of the unit that makes its readings judgeable; Volts and Amps are its nameplate's.
	Reading     heat.Context
	Volts, Amps *float64
	// Past is true for visits taken in from elsewhere and for later versions of one: how the work was led is not judged again.
	Past bool
}

// Coil is a coil of the unit with its sides. Advice gives what its work is judged from; it is asked for only where needed.
type Coil struct {
	ID     uuid.UUID
	Sides  []Side
	Advice func() workplan.Input
}

// Side is a side of a coil under its name.
type Side struct {
	ID   uuid.UUID
	Name string
}

// Method is a way of cleaning of the organisation's.
type Method struct {
	Code, Name string
	Wet        bool
}

func (f *Facts) coil(id uuid.UUID) *Coil {
	for i := range f.Coils {
		if f.Coils[i].ID == id {
			return &f.Coils[i]
		}
	}
	return nil
}

func (f *Facts) isSide(id uuid.UUID) bool {
	for _, c := range f.Coils {
		for _, s := range c.Sides {
			if s.ID == id {
				return true
			}
		}
	}
	return false
}

// Context is what a reading was taken with: what is said of the day, and what the register knows of the unit.
func (f *Facts) Context(in contract.NewReading, ambient *float64) heat.Context {
	var said contract.ReadingContext
	if in.Context != nil {
		said = *in.Context
	}
	out := f.Reading
	out.AmbientC, out.AirOnC, out.HeadControl, out.WaterCooled, out.Nameplate = said.AmbientC, said.AirOnC, said.HeadControl, said.WaterCooled, said.Nameplate
	if out.AmbientC == nil {
		out.AmbientC = ambient
	}
	if out.Nameplate == nil {
		switch heat.Kind(in.Kind) {
		case heat.SupplyVolt:
			out.Nameplate = f.Volts
		case heat.MotorAmps:
			out.Nameplate = f.Amps
		}
	}
	if out.Refrigerant == "" {
		out.Refrigerant = said.Refrigerant
	}
	return out
}
