package service

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// companion is a clock beside light and deep, with when it is next due.
func (r *register) companion(d dossier, t store.Task) contract.Companion {
	clock := interval.Clock{Side: t.Kind, Last: store.DayOf(t.LastDay), Quality: interval.LastClean(t.LastQuality)}
	for _, tick := range r.ticks[t.ID] {
		if day := tick.Day.Day(); clock.Last == nil || day >= *clock.Last {
			clock.Last, clock.Quality = &day, interval.Exact
		}
	}
	due, _ := interval.NextDue([]interval.Clock{clock}, t.EveryDays, d.today)
	if !due.FirstLook {
		due.Day = due.Day.Add(d.pausedDays(*clock.Last, d.today))
	}
	return contract.Companion{
		ID: t.ID, Kind: contract.CompanionKind(t.Kind), EveryDays: t.EveryDays, Doer: contract.Doer(t.Doer), Paused: t.Paused,
		LastDay: clock.Last, FirstLook: due.FirstLook, Due: due.Day, DaysLate: d.today.Sub(due.Day),
	}
}

// Tick notes that a companion task was done on a day.
func (s *Service) Tick(ctx context.Context, a Actor, task uuid.UUID, in contract.NewTick) (contract.Companion, error) {
	var out contract.Companion
	if err := a.only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.Get[store.Task](t, task)
		if err != nil {
			return err
		}
		r, err := loadRegister(t, []uuid.UUID{row.UnitID})
		if err != nil {
			return err
		}
		if len(r.facts.Units) == 0 {
			return ErrNotFound
		}
		if row.CoilID != nil {
			return Conflict{"a coil's clean is recorded as a visit"}
		}
		d, err := s.dossier(r, r.facts.Units[0])
		if err != nil {
			return err
		}
		if in.Day > d.today {
			return field("/day", "is in the future")
		}
		if d.unit.Status == retired {
			return Conflict{d.unit.Tag + " is retired"}
		}
		tick := store.TaskTick{
			OrganisationID: t.Org, ID: store.NewID(), TaskID: task, Day: store.Date(in.Day), Note: trim(in.Note), AccountID: &a.AccountID, At: s.stamp(),
		}
		r.ticks[task] = append(r.ticks[task], tick)
		out = r.companion(d, row)
		return errors.Join(store.Insert(t, tick), t.Record(s.stamp(), a.AccountID, "unit", row.UnitID, row.Kind+" done", auditDetail{Note: in.Day.String()}))
	})
	return out, err
}

// companionRows are the companion clocks a new unit of a class gets. What is known of the coils' last clean says
// nothing of them.
func (c catalogue) companionRows(org, unit uuid.UUID, class uuid.UUID, commissioned *calendar.Day) []store.Task {
	var rows []store.Task
	for _, x := range c.classTasks[class] {
		row := store.Task{
			OrganisationID: org, ID: store.NewID(), UnitID: unit, Kind: x.Kind, EveryDays: x.EveryDays, Doer: x.Doer, Version: 1,
			LastQuality: string(interval.Unknown),
		}
		if commissioned != nil {
			row.LastDay, row.LastQuality = store.DateOf(commissioned), string(interval.About)
		}
		rows = append(rows, row)
	}
	return rows
}
