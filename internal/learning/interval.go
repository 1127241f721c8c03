package learning

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/wording"
)

func (s *Service) proposalRow(org uuid.UUID, d dossier.Unit, task dossier.Task) store.Proposal {
	row := store.Proposal{
		OrganisationID: org, ID: store.NewID(), TaskID: task.ID, School: string(task.Result.School), Days: task.Result.Days,
		FromDays: task.EveryDays, HabitDays: task.Result.Habit.Days, StaircaseDays: task.Result.Staircase.Days,
		Binding: task.Result.Binding, Status: "open", Result: store.ToJSON(task.Result), Reasons: store.ToJSON(task.Result.Reasons),
		ModelVersion: organisation.ModelVersion, InputsHash: task.Evidence, ComputedAt: s.Stamp(),
	}
	if task.Ahead.Known {
		row.LimitDays, row.CostDays = &task.Result.Limit.Days, &task.Result.Cost.Days
		row.SavesYear = savesYear(task.Result)
	}
	row.Rests = store.ToJSON(task.Rests)
	if task.Program.Leads {
		row.Program = store.ToJSON(keptOf(task, d.Today))
	}
	return row
}

// savesYear is the money a year that a proposal saves, the price of days over the limit counted; nil where it is not known.
func savesYear(r interval.Result) *float64 {
	if r.InForce == nil || r.Proposed == nil {
		return nil
	}
	return new(yearDays * (r.InForce.TotalDay - r.Proposed.TotalDay))
}

const yearDays = 365

// DecideProposal accepts an open proposal or sets the manager's own interval in its place, with a reason.
func (s *Service) DecideProposal(ctx context.Context, a organisation.Actor, id uuid.UUID, req contract.Decision) (contract.IntervalChange, error) {
	if err := a.Only(contract.RoleManager); err != nil {
		return contract.IntervalChange{}, err
	}
	var change store.IntervalChange
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		p, err := store.GetForUpdate[store.Proposal](t, id)
		if err != nil {
			return err
		}
		task, err := store.Get[store.Task](t, p.TaskID)
		if err != nil {
			return err
		}
		if err := organisation.SeesUnit(t, task.UnitID); err != nil {
			return err
		}
		if p.Status != "open" {
			return organisation.Conflict{Reason: map[string]string{
				"superseded": "this proposal was superseded by newer evidence; look at the unit again",
				"accepted":   "this proposal was accepted already",
				"overridden": "this proposal was answered already",
			}[p.Status]}
		}
		change = store.IntervalChange{ToDays: p.Days, School: p.School, ProposalID: &p.ID, Reason: strings.TrimSpace(optional.Value(req.Reason))}
		status := "accepted"
		if req.Accept {
			if err := s.acceptProgram(t, task, p); err != nil {
				return err
			}
		}
		if !req.Accept {
			if err := checkOwn(optional.Value(req.Days), change.Reason); err != nil {
				return err
			}
			status, change.ToDays, change.School = "overridden", optional.Value(req.Days), string(contract.SchoolOwn)
		}
		if err := t.CloseProposals([]uuid.UUID{p.TaskID}, status, s.Stamp()); err != nil {
			return err
		}
		return s.changeInterval(t, a, p.TaskID, &change)
	})
	return s.changeView(a, change), err
}

// SetInterval sets an interval of the manager's own, with a reason.
func (s *Service) SetInterval(ctx context.Context, a organisation.Actor, task uuid.UUID, req contract.OwnInterval) (contract.IntervalChange, error) {
	if err := a.Only(contract.RoleManager); err != nil {
		return contract.IntervalChange{}, err
	}
	change := store.IntervalChange{ToDays: req.Days, School: string(contract.SchoolOwn), Reason: strings.TrimSpace(req.Reason)}
	if err := checkOwn(req.Days, change.Reason); err != nil {
		return contract.IntervalChange{}, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if err := t.CloseProposals([]uuid.UUID{task}, "overridden", s.Stamp()); err != nil {
			return err
		}
		return s.changeInterval(t, a, task, &change)
	})
	return s.changeView(a, change), err
}

// SetAnchor sets the month that a clean should fall into, or leaves it to site, class and house again.
func (s *Service) SetAnchor(ctx context.Context, a organisation.Actor, id uuid.UUID, month *int) error {
	if err := a.Only(contract.RoleManager); err != nil {
		return err
	}
	return s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		task, err := store.GetForUpdate[store.Task](t, id)
		if err != nil {
			return err
		}
		if err := organisation.SeesUnit(t, task.UnitID); err != nil {
			return err
		}
		if task.CoilID == nil || task.Kind != string(contract.TaskKindDeep) {
			return organisation.Conflict{Reason: "only a deep clean has a month of its own"}
		}
		if err := t.SetAnchor(id, month); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "unit", task.UnitID, "month set", organisation.AuditDetail{Changes: []contract.AuditChange{{
			Path: "deep clean in", Before: wording.Month(task.AnchorMonth), After: wording.Month(month),
		}}}); err != nil {
			return err
		}
		return s.Refresh(t, []uuid.UUID{task.UnitID})
	})
}

func checkOwn(days int, why string) error {
	var bad invalid.Error
	if days < 1 || days > dossier.MostDays {
		bad.Addf("/days", "must be between 1 and %d days", dossier.MostDays)
	}
	if why == "" {
		bad.Addf("/reason", "say why, so that others can follow it later")
	}
	return bad.Err()
}

func (s *Service) changeInterval(t store.Tenant, a organisation.Actor, id uuid.UUID, c *store.IntervalChange) error {
	task, err := store.GetForUpdate[store.Task](t, id)
	if err != nil {
		return err
	}
	if err := organisation.SeesUnit(t, task.UnitID); err != nil {
		return err
	}
	if task.CoilID == nil {
		return organisation.Conflict{Reason: "the interval of a companion task is set on the unit's card"}
	}
	c.OrganisationID, c.ID, c.TaskID, c.FromDays = t.Org, store.NewID(), task.ID, task.EveryDays
	c.AccountID, c.At = &a.AccountID, s.Stamp()
	if c.School == string(contract.SchoolOwn) && len(task.YearDays) > 0 {
		// An interval of the manager's own counts by itself.
		if err := t.ClearYearDays(task.ID); err != nil {
			return err
		}
	}
	if err := t.SetTaskInterval(task, c.ToDays); err != nil {
		return err
	}
	if err := store.Insert(t, *c); err != nil {
		return err
	}
	if err := t.Record(c.At, a.AccountID, "unit", task.UnitID, "interval set", organisation.AuditDetail{Note: c.Reason, Changes: []contract.AuditChange{{
		Path: task.Kind + " clean every", Before: wording.Days(float64(c.FromDays)), After: wording.Days(float64(c.ToDays)),
	}}}); err != nil {
		return err
	}
	return s.Refresh(t, []uuid.UUID{task.UnitID})
}

func (s *Service) changeView(a organisation.Actor, c store.IntervalChange) contract.IntervalChange {
	return organisation.Names{a.AccountID: a.Person.Name}.Change(c)
}
