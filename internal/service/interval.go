package service

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// mostDays bounds an interval of the manager's own; ten years is a slip.
const mostDays = 3650

func (s *Service) proposalRow(org uuid.UUID, task taskDossier) store.Proposal {
	row := store.Proposal{
		OrganisationID: org, ID: store.NewID(), TaskID: task.ID, School: string(task.result.School), Days: task.result.Days,
		FromDays: task.EveryDays, HabitDays: task.result.Habit.Days, StaircaseDays: task.result.Staircase.Days,
		Binding: task.result.Binding, Status: "open", Result: store.ToJSON(task.result), Reasons: store.ToJSON(task.result.Reasons),
		ModelVersion: ModelVersion, InputsHash: task.evidence, ComputedAt: s.stamp(),
	}
	if task.ahead.known {
		row.LimitDays, row.CostDays = &task.result.Limit.Days, &task.result.Cost.Days
		row.SavesYear = savesYear(task.result)
	}
	return row
}

// savesYear is the money a year that a proposal saves, the price of days over the limit counted; nil where it is not known.
func savesYear(r interval.Result) *float64 {
	if r.InForce == nil || r.Proposed == nil {
		return nil
	}
	return ptr(yearDays * (r.InForce.TotalDay - r.Proposed.TotalDay))
}

const yearDays = 365

// DecideProposal accepts an open proposal or sets the manager's own interval in its place, with a reason.
func (s *Service) DecideProposal(ctx context.Context, a Actor, id uuid.UUID, req contract.Decision) (contract.IntervalChange, error) {
	if err := a.only(contract.RoleManager); err != nil {
		return contract.IntervalChange{}, err
	}
	var change store.IntervalChange
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		p, err := store.GetForUpdate[store.Proposal](t, id)
		if err != nil {
			return err
		}
		if p.Status != "open" {
			return Conflict{map[string]string{
				"superseded": "this proposal was superseded by newer evidence; look at the unit again",
				"accepted":   "this proposal was accepted already",
				"overridden": "this proposal was answered already",
			}[p.Status]}
		}
		change = store.IntervalChange{ToDays: p.Days, School: p.School, ProposalID: &p.ID, Reason: strings.TrimSpace(value(req.Reason))}
		status := "accepted"
		if !req.Accept {
			if err := checkOwn(value(req.Days), change.Reason); err != nil {
				return err
			}
			status, change.ToDays, change.School = "overridden", value(req.Days), string(contract.SchoolOwn)
		}
		if err := t.CloseProposals([]uuid.UUID{p.TaskID}, status, s.stamp()); err != nil {
			return err
		}
		return s.changeInterval(t, a, p.TaskID, &change)
	})
	return s.changeView(a, change), err
}

// SetInterval sets an interval of the manager's own, with a reason.
func (s *Service) SetInterval(ctx context.Context, a Actor, task uuid.UUID, req contract.OwnInterval) (contract.IntervalChange, error) {
	if err := a.only(contract.RoleManager); err != nil {
		return contract.IntervalChange{}, err
	}
	change := store.IntervalChange{ToDays: req.Days, School: string(contract.SchoolOwn), Reason: strings.TrimSpace(req.Reason)}
	if err := checkOwn(req.Days, change.Reason); err != nil {
		return contract.IntervalChange{}, err
	}
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if err := t.CloseProposals([]uuid.UUID{task}, "overridden", s.stamp()); err != nil {
			return err
		}
		return s.changeInterval(t, a, task, &change)
	})
	return s.changeView(a, change), err
}

func checkOwn(days int, why string) error {
	var bad invalid.Error
	if days < 1 || days > mostDays {
		bad.Addf("/days", "must be between 1 and %d days", mostDays)
	}
	if why == "" {
		bad.Addf("/reason", "say why, so that others can follow it later")
	}
	return bad.Err()
}

func (s *Service) changeInterval(t store.Tenant, a Actor, id uuid.UUID, c *store.IntervalChange) error {
	task, err := store.GetForUpdate[store.Task](t, id)
	if err != nil {
		return err
	}
	if err := seesUnit(t, task.UnitID); err != nil {
		return err
	}
	if task.CoilID == nil {
		return Conflict{"the interval of a companion clock is set on the unit's card"}
	}
	c.OrganisationID, c.ID, c.TaskID, c.FromDays = t.Org, store.NewID(), task.ID, task.EveryDays
	c.AccountID, c.At = &a.AccountID, s.stamp()
	if err := t.SetTaskInterval(task, c.ToDays); err != nil {
		return err
	}
	return errors.Join(
		store.Insert(t, *c),
		t.Record(c.At, a.AccountID, "unit", task.UnitID, "interval set", auditDetail{Note: c.Reason, Changes: []contract.AuditChange{{
			Path: task.Kind + " clean every", Before: days(float64(c.FromDays)), After: days(float64(c.ToDays)),
		}}}),
		s.refresh(t, []uuid.UUID{task.UnitID}),
	)
}

func (s *Service) changeView(a Actor, c store.IntervalChange) contract.IntervalChange {
	return accountNames{a.AccountID: a.Person.Name}.change(c)
}
