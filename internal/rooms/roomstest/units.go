package roomstest

import (
	"math"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/register"
	"nextround/internal/store"
)

// Visits goes to a unit every so many days with the same find.
func (h *House) Visits(u contract.Unit, from string, every, n, found int, seen contract.Seen) {
	at := On(from)
	for range n {
		h.Submit(h.Visit(u, at.String(), contract.TaskKindDeep, found, 0, seen))
		at = at.Add(every)
	}
}

// PortfolioLine is the one line of a unit with one coil.
func (h *House) PortfolioLine(tag string) contract.PortfolioRow {
	for _, r := range h.Portfolio(h.Viewer) {
		if r.Tag == tag {
			return r
		}
	}
	h.t.Fatalf("no line of %s", tag)
	return contract.PortfolioRow{}
}

// Factor finds a factor by its code.
func (h *House) Factor(code string) uuid.UUID {
	for _, f := range h.Cat.Factors {
		if f.Code == code {
			return f.ID
		}
	}
	h.t.Fatalf("no factor %s", code)
	return uuid.Nil
}

// Card is a unit's card.
func (h *House) Card(id uuid.UUID) contract.UnitRecord {
	h.t.Helper()
	out, err := h.Rooms.Register.UnitCard(h.Ctx, h.Manager, id)
	require.NoError(h.t, err)
	return out
}

// SaveCard changes a unit's card.
func (h *House) SaveCard(id uuid.UUID, change func(*contract.UnitCard)) (contract.UnitRecord, error) {
	h.t.Helper()
	record := h.Card(id)
	change(&record.Card)
	return h.Rooms.Register.SaveUnitCard(h.Ctx, h.Manager, id, contract.UnitChange{Version: record.Version, Card: record.Card})
}

// On reads a date.
func On(day string) calendar.Day { return calendar.MustParse(day) }

func (h *House) member(login string, role contract.Role) organisation.Actor {
	a, err := h.Rooms.Organisation.CreateMember(h.Ctx, h.Org, "The "+login, login, "secret", role)
	require.NoError(h.t, err)
	return a
}

// Unit adds a unit cleaned on a day, or never known to be cleaned when the day is empty.
func (h *House) Unit(tag, class, cleaned string) contract.Unit {
	h.t.Helper()
	in := contract.NewUnit{Site: "Hall", Placement: "Yard", Tag: tag, Class: class, LastClean: contract.LastClean{Quality: "unknown"}, Flammable: new(contract.YesNoNo)}
	for _, c := range h.Cat.Classes {
		if c.Code == class {
			in.CoilRoles = c.CoilRoles
		}
	}
	if cleaned != "" {
		day := calendar.MustParse(cleaned)
		in.LastClean = contract.LastClean{Quality: "exact", Day: &day}
	}
	made, err := h.Rooms.Register.AddUnit(h.Ctx, h.Manager, in)
	require.NoError(h.t, err)
	return h.Look(made.ID)
}

// Portfolio is the first page that somebody sees.
func (h *House) Portfolio(a organisation.Actor) []contract.PortfolioRow {
	h.t.Helper()
	p, err := h.Rooms.Register.Portfolio(h.Ctx, a, register.PortfolioQuery{})
	require.NoError(h.t, err)
	return p.Rows
}

// Look opens a unit's page.
func (h *House) Look(id uuid.UUID) contract.Unit {
	h.t.Helper()
	u, err := h.Rooms.Learning.Unit(h.Ctx, h.Manager, id)
	require.NoError(h.t, err)
	return u
}

// Method finds a method by its code.
func (h *House) Method(code string) uuid.UUID {
	for _, m := range h.Cat.Methods {
		if m.Code == code {
			return m.ID
		}
	}
	h.t.Fatalf("no method %s", code)
	return uuid.Nil
}

// Visit is a visit to a unit's first coil that found and left every side alike.
func (h *House) Visit(u contract.Unit, day string, work contract.TaskKind, found, left int, seen contract.Seen) contract.NewVisit {
	coil := contract.VisitCoil{CoilID: u.Coils[0].ID}
	t := contract.VisitTreatment{Work: work, MethodID: h.Method("brush_vacuum"), Direction: contract.AlongFins}
	for _, s := range u.Coils[0].Sides {
		coil.Sides = append(coil.Sides, contract.VisitSide{
			SurfaceID: s.ID, Reached: true, Found: &contract.Look{Grade: found, Seen: seen}, Left: &contract.Look{Grade: left, Seen: seen},
		})
		t.SurfaceIds = append(t.SurfaceIds, s.ID)
	}
	coil.Treatments = []contract.VisitTreatment{t}
	return contract.NewVisit{
		UnitID: u.ID, Day: calendar.MustParse(day), Outcome: contract.OutcomeDone, CautionsRead: true,
		People: []contract.VisitPerson{{PersonID: h.Technician.Person.ID, Minutes: 30}}, Coils: []contract.VisitCoil{coil},
	}
}

// Submit records a visit.
func (h *House) Submit(v contract.NewVisit) contract.VisitOutcome {
	h.t.Helper()
	out, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, store.NewID(), v)
	require.NoError(h.t, err)
	return out
}

// Task is the task of a kind of a unit's first coil.
func Task(u contract.Unit, kind contract.TaskKind) contract.Task {
	for _, t := range u.Coils[0].Tasks {
		if t.Kind == kind {
			return t
		}
	}
	return contract.Task{}
}

// Load is the load of a blocked share.
func Load(share *float64) float64 { return -math.Log(1 - *share) }

// Soil finds a soil by its code.
func (h *House) Soil(code string) uuid.UUID {
	for _, s := range h.Cat.Soils {
		if s.Code == code {
			return s.ID
		}
	}
	h.t.Fatalf("no soil %s", code)
	return uuid.Nil
}

// Cleaner finds a cleaner by its code.
func (h *House) Cleaner(code string) uuid.UUID {
	for _, k := range h.Cat.Cleaners {
		if k.Code == code {
			return k.ID
		}
	}
	h.t.Fatalf("no cleaner %s", code)
	return uuid.Nil
}

// Sprayers lists the settings of sprayers.
func (h *House) Sprayers() []contract.SprayerChoice {
	h.t.Helper()
	b, err := h.Rooms.Fieldwork.Bench(h.Ctx, h.Manager)
	require.NoError(h.t, err)
	return b.Sprayers
}

// Wet is a deep visit with a cleaner mixed by hand.
func (h *House) Wet(u contract.Unit, day, cleaner string) contract.NewVisit {
	v := h.Visit(u, day, contract.TaskKindDeep, 3, 0, contract.LightThrough)
	t := &v.Coils[0].Treatments[0]
	t.MethodID, t.Direction, t.CleanerID, t.WaterParts = h.Method("foam_rinse"), contract.AgainstAirflow, new(h.Cleaner(cleaner)), new(4.0)
	t.LoadedL, t.ToppedUpL, t.ReturnedL, t.PlannedL = new(1.0), new(.5), new(.3), new(1.0)
	return v
}
