package service

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// mostDays bounds an interval of the manager's own; ten years is a slip.
const mostDays = 3650

// refreshProposals brings the open proposals of some units in line with what is known now. An open proposal
// whose evidence changed is superseded, never swapped silently; a proposal that was decided on the same
// evidence is not made again.
func (s *Service) refreshProposals(t store.Tenant, units []uuid.UUID) error {
	if len(units) == 0 {
		return nil
	}
	r, err := loadRegister(t, units)
	if err != nil {
		return err
	}
	decided, err := t.DecidedEvidence()
	if err != nil {
		return err
	}
	var stale []uuid.UUID
	var fresh []store.Proposal
	for _, u := range r.facts.Units {
		d, err := s.dossier(r, u)
		if err != nil {
			return err
		}
		for _, coil := range d.coils {
			for _, task := range coil.tasks {
				want := task.result.Change && !decided[store.Evidence{TaskID: task.ID, Hash: task.evidence}]
				same := task.open != nil && task.open.InputsHash == task.evidence &&
					task.open.Days == task.result.Days && task.open.FromDays == task.EveryDays
				if want && same {
					continue
				}
				if task.open != nil {
					stale = append(stale, task.ID)
				}
				if want {
					fresh = append(fresh, s.proposalRow(t.Org, task))
				}
			}
		}
	}
	if err := t.CloseProposals(stale, "superseded"); err != nil {
		return err
	}
	return store.Insert(t, fresh...)
}

func (s *Service) proposalRow(org uuid.UUID, task taskDossier) store.Proposal {
	return store.Proposal{
		OrganisationID: org, ID: store.NewID(), TaskID: task.ID, School: string(task.result.School), Days: task.result.Days,
		FromDays: task.EveryDays, HabitDays: task.result.Habit.Days, StaircaseDays: task.result.Staircase.Days,
		Binding: task.result.Binding, Status: "open", Result: store.ToJSON(task.result), Reasons: store.ToJSON(task.result.Reasons),
		ModelVersion: ModelVersion, InputsHash: task.evidence, ComputedAt: s.stamp(),
	}
}

// RefreshAll brings every organisation's proposals in line with the day: site factors begin and end.
func (s *Service) RefreshAll(ctx context.Context) error {
	orgs, err := s.store.OrganisationIDs(ctx)
	if err != nil {
		return err
	}
	for _, org := range orgs {
		err := s.store.For(ctx, org).InTransaction(func(t store.Tenant) error {
			units, err := store.All[store.Unit](t, "id")
			if err != nil {
				return err
			}
			ids := make([]uuid.UUID, len(units))
			for i, u := range units {
				ids[i] = u.ID
			}
			return s.refreshProposals(t, ids)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// DecideProposal accepts an open proposal or sets the manager's own interval in its place, with a reason.
func (s *Service) DecideProposal(ctx context.Context, a Actor, id uuid.UUID, req contract.Decision) (contract.IntervalChange, error) {
	if err := a.only(contract.Manager); err != nil {
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
			status, change.ToDays, change.School = "overridden", value(req.Days), string(contract.Own)
		}
		if err := t.CloseProposals([]uuid.UUID{p.TaskID}, status); err != nil {
			return err
		}
		return s.changeInterval(t, a, p.TaskID, &change)
	})
	return s.changeView(a, change), err
}

// SetInterval sets an interval of the manager's own, with a reason.
func (s *Service) SetInterval(ctx context.Context, a Actor, task uuid.UUID, req contract.OwnInterval) (contract.IntervalChange, error) {
	if err := a.only(contract.Manager); err != nil {
		return contract.IntervalChange{}, err
	}
	change := store.IntervalChange{ToDays: req.Days, School: string(contract.Own), Reason: strings.TrimSpace(req.Reason)}
	if err := checkOwn(req.Days, change.Reason); err != nil {
		return contract.IntervalChange{}, err
	}
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if err := t.CloseProposals([]uuid.UUID{task}, "overridden"); err != nil {
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
	c.OrganisationID, c.ID, c.TaskID, c.FromDays = t.Org, store.NewID(), task.ID, task.EveryDays
	c.AccountID, c.At = &a.AccountID, s.stamp()
	if err := t.SetTaskInterval(task, c.ToDays); err != nil {
		return err
	}
	return errors.Join(
		store.Insert(t, *c),
		t.Record(c.At, a.AccountID, "task", task.ID, "interval set", map[string]any{"from": c.FromDays, "to": c.ToDays, "school": c.School}),
		s.refreshProposals(t, []uuid.UUID{task.UnitID}),
	)
}

func (s *Service) changeView(a Actor, c store.IntervalChange) contract.IntervalChange {
	return accountNames{a.AccountID: a.Person.Name}.change(c)
}
