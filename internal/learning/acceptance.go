package learning

import (
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// AcceptProposals shows what accepting open proposals would change, or accepts them. One that newer evidence took the
// place of is named and left alone.
func (s *Service) AcceptProposals(ctx context.Context, a organisation.Actor, req contract.Acceptance) (contract.AcceptanceResult, error) {
	out := contract.AcceptanceResult{Lines: []contract.AcceptanceLine{}}
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		ids := slices.Clone(req.ProposalIds)
		slices.SortFunc(ids, func(a, b uuid.UUID) int { return strings.Compare(a.String(), b.String()) })
		rows, err := t.LockProposals(slices.Compact(ids))
		if err != nil {
			return err
		}
		tasks, err := store.Where[store.Task](t, "id", store.Keys(rows, func(p store.Proposal) uuid.UUID { return p.TaskID }), "id")
		if err != nil {
			return err
		}
		units := store.Keys(tasks, func(x store.Task) uuid.UUID { return x.UnitID })
		r, err := load.Units(t, units)
		if err != nil {
			return err
		}
		r.Bulk = true
		lines := acceptance{s: s, r: r, rows: store.Index(rows, func(p store.Proposal) uuid.UUID { return p.TaskID }), out: &out}
		for _, u := range r.Rows.Units {
			if err := lines.unit(u); err != nil {
				return err
			}
		}
		if len(out.Lines) != len(slices.Compact(ids)) {
			return organisation.ErrNotFound
		}
		if req.Preview || len(lines.open) == 0 {
			return nil
		}
		return s.acceptAll(t, a, lines.open, units)
	})
	if !req.Preview && err == nil {
		for i := range out.Lines {
			if out.Lines[i].State == "open" {
				out.Lines[i].State = "accepted"
				out.Accepted++
			}
		}
	}
	return out, err
}

// acceptance gathers what accepting would change.
type acceptance struct {
	s    *Service
	r    *dossier.Facts
	rows map[uuid.UUID]store.Proposal // by task
	out  *contract.AcceptanceResult
	open []accepted
}

type accepted struct {
	store.Proposal
	task store.Task
}

func (x *acceptance) unit(u store.Unit) error {
	d, err := x.r.Unit(u, x.s.Now())
	if err != nil {
		return err
	}
	for _, c := range d.Coils {
		for _, task := range c.Tasks {
			p, ok := x.rows[task.ID]
			if !ok {
				continue
			}
			x.line(d, c, task, p)
		}
	}
	return nil
}

func (x *acceptance) line(d dossier.Unit, c dossier.Coil, task dossier.Task, p store.Proposal) {
	hours := c.Work(task.Kind).Minutes / 60 * yearDays
	line := contract.AcceptanceLine{
		ProposalID: p.ID, UnitID: d.Unit.ID, Tag: d.Unit.Tag, Site: d.Site.Name, Role: contract.CoilRole(c.Role), Kind: contract.TaskKind(task.Kind),
		FromDays: task.EveryDays, ToDays: p.Days, School: contract.School(p.School), State: contract.AcceptanceLineState(p.Status),
		DueBefore: task.Due.Day, DueAfter: nextDue(task, p.Days, d.Today), HoursYearBefore: hours / float64(task.EveryDays), HoursYearAfter: hours / float64(p.Days),
		SavesYear: p.SavesYear,
	}
	if k, proposed := keptIn(p); proposed {
		line.Plan, line.DueAfter = new(planView(k.Plan)), max(d.Today, k.On.Add(k.FirstIn))
		line.HoursYearAfter = k.Plan.Minutes / 60 * yearDays / float64(p.Days)
	}
	x.out.Lines = append(x.out.Lines, line)
	if p.Status != "open" {
		x.out.Superseded++
		return
	}
	x.open = append(x.open, accepted{p, task.Task})
	x.out.HoursYearBefore += line.HoursYearBefore
	x.out.HoursYearAfter += line.HoursYearAfter
	x.out.SavesYear += optional.Value(p.SavesYear)
	var r interval.Result
	if p.Result.Into(&r) == nil && r.InForce != nil && r.Proposed != nil {
		x.out.OverDaysBefore += r.InForce.OverDaysYear
		x.out.OverDaysAfter += r.Proposed.OverDaysYear
	}
}

// acceptAll accepts proposals, each with its change, and brings their units in line.
func (s *Service) acceptAll(t store.Tenant, a organisation.Actor, rows []accepted, units []uuid.UUID) error {
	at := s.Stamp()
	if err := t.CloseProposals(store.Keys(rows, func(p accepted) uuid.UUID { return p.TaskID }), "accepted", at); err != nil {
		return err
	}
	changes := make([]store.IntervalChange, len(rows))
	for i, p := range rows {
		if err := t.SetTaskInterval(p.task, p.Days); err != nil {
			return errors.Join(err, organisation.ErrConcurrency)
		}
		if err := s.acceptProgram(t, p.task, p.Proposal); err != nil {
			return err
		}
		changes[i] = store.IntervalChange{
			OrganisationID: t.Org, ID: store.NewID(), TaskID: p.TaskID, FromDays: p.task.EveryDays, ToDays: p.Days, School: p.School,
			ProposalID: &p.ID, AccountID: &a.AccountID, At: at,
		}
	}
	if err := store.Insert(t, changes...); err != nil {
		return err
	}
	if err := t.Record(at, a.AccountID, "interval", t.Org, "proposals accepted", organisation.AuditDetail{Note: wording.Count(len(rows), "interval")}); err != nil {
		return err
	}
	return s.Refresh(t, units)
}

// AddCap puts a hard cap on a task's interval.
func (s *Service) AddCap(ctx context.Context, a organisation.Actor, task uuid.UUID, in contract.NewCap) (contract.Cap, error) {
	var out contract.Cap
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	row := store.TaskCap{ID: store.NewID(), TaskID: task, Kind: string(in.Kind), Note: optional.Trim(in.Note), AccountID: &a.AccountID, At: s.Stamp()}
	if in.Kind == contract.Chemistry {
		if row.TimesAYear = in.TimesAYear; row.TimesAYear == nil {
			return out, invalid.At("/times_a_year", "say how many times a year at most")
		}
	} else if row.MostDays = in.MostDays; row.MostDays == nil {
		return out, invalid.At("/most_days", "say how many days at most")
	}
	err := s.onTask(ctx, a, task, func(t store.Tenant, x store.Task) error {
		row.OrganisationID = t.Org
		out = capViews([]store.TaskCap{row})[0]
		if err := store.Insert(t, row); err != nil {
			return err
		}
		return t.Record(row.At, a.AccountID, "unit", x.UnitID, "cap added", capDetail(row, x, nil, &out))
	})
	return out, err
}

// capDetail is what the trail keeps of a cap put on or taken off.
func capDetail(row store.TaskCap, x store.Task, before, after *contract.Cap) organisation.AuditDetail {
	return organisation.AuditDetail{Note: row.Kind + " cap on the " + x.Kind + " clean", Changes: organisation.Differences(before, after)}
}

// RemoveCap takes a hard cap off.
func (s *Service) RemoveCap(ctx context.Context, a organisation.Actor, id uuid.UUID) error {
	if err := a.Only(contract.RoleManager); err != nil {
		return err
	}
	row, err := store.Get[store.TaskCap](s.Tenant(ctx, a), id)
	if err != nil {
		return err
	}
	return s.onTask(ctx, a, row.TaskID, func(t store.Tenant, x store.Task) error {
		if err := store.Delete[store.TaskCap](t, id); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, "unit", x.UnitID, "cap removed", capDetail(row, x, &capViews([]store.TaskCap{row})[0], nil))
	})
}

// onTask changes something of a coil's task and brings its unit in line.
func (s *Service) onTask(ctx context.Context, a organisation.Actor, task uuid.UUID, do func(store.Tenant, store.Task) error) error {
	return s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		x, err := store.GetForUpdate[store.Task](t, task)
		if err != nil {
			return err
		}
		if err := organisation.SeesUnit(t, x.UnitID); err != nil {
			return err
		}
		if x.CoilID == nil {
			return organisation.Conflict{Reason: "a companion task has no caps"}
		}
		if err := do(t, x); err != nil {
			return err
		}
		return s.Refresh(t, []uuid.UUID{x.UnitID})
	})
}
