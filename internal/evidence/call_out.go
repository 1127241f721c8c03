package evidence

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// CallOuts lists call-outs, the newest first, of a site or a unit where one is named, with the times for which the logs are complete
// and what follows for each class.
func (s *Service) CallOuts(ctx context.Context, a organisation.Actor, site, unit *uuid.UUID) (contract.CallOuts, error) {
	t := s.Tenant(ctx, a)
	out := contract.CallOuts{CallOuts: []contract.CallOut{}, Logs: []contract.CallLogSpan{}, Classes: []contract.ClassCalls{}}
	sites, err := t.SitesSeen()
	if err != nil {
		return out, err
	}
	if site != nil {
		sites = slices.DeleteFunc(sites, func(x store.Site) bool { return x.ID != *site })
	}
	seen := store.Keys(sites, func(x store.Site) uuid.UUID { return x.ID })
	logs, err := store.Where[store.CallLog](t, "site_id", seen, "lower(during) DESC, id")
	if err != nil {
		return out, err
	}
	names, err := s.Names(t)
	if err != nil {
		return out, err
	}
	called := store.Index(sites, func(x store.Site) uuid.UUID { return x.ID })
	for _, x := range logs {
		out.Logs = append(out.Logs, logView(x, called[x.SiteID].Name, names))
	}
	rows, err := store.Where[store.CallOut](t, "site_id", seen, "day DESC, id DESC")
	if err != nil {
		return out, err
	}
	if unit != nil {
		rows = slices.DeleteFunc(rows, func(x store.CallOut) bool { return x.UnitID != *unit })
	}
	if out.CallOuts, err = s.views(t, rows); err != nil {
		return out, err
	}
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return out, err
	}
	for _, k := range c.Classes {
		if e, ok := c.Earned(k.ID); ok {
			out.Classes, out.ComputedAt = append(out.Classes, classView(k, e)), &e.ComputedAt
		}
	}
	return out, nil
}

func classView(k store.EquipmentClass, e organisation.Earned) contract.ClassCalls {
	out := contract.ClassCalls{
		Class: k.Name, Seen: e.CallsSeen, Expected: e.CallsExpected, UnitYears: e.UnitYears, Times: e.Calls.Mean, Low: e.Calls.P10, High: e.Calls.P90,
		AssumedShare: e.Calls.Assumed, RisePairs: e.RisePairs,
	}
	if e.Rise != nil {
		out.RiseTimes, out.RiseLow, out.RiseHigh = &e.Rise.Mean, &e.Rise.P10, &e.Rise.P90
	}
	return out
}

// views of call-outs that may be seen.
func (s *Service) views(t store.Tenant, rows []store.CallOut) ([]contract.CallOut, error) {
	out := []contract.CallOut{}
	units, err := store.Where[store.Unit](t, "id", store.Keys(rows, func(x store.CallOut) uuid.UUID { return x.UnitID }), "id")
	if err != nil {
		return out, err
	}
	at := store.Keys(rows, func(x store.CallOut) uuid.UUID { return x.SiteID })
	sites, err := store.Where[store.Site](t, "id", at, "id")
	if err != nil {
		return out, err
	}
	logs, err := store.Where[store.CallLog](t, "site_id", at, "id")
	if err != nil {
		return out, err
	}
	answered := []uuid.UUID{}
	for _, x := range rows {
		if x.VisitID != nil {
			answered = append(answered, *x.VisitID)
		}
	}
	visits, err := store.Where[store.Visit](t, "id", answered, "id")
	if err != nil {
		return out, err
	}
	names, err := s.Names(t)
	if err != nil {
		return out, err
	}
	unit := store.Index(units, func(x store.Unit) uuid.UUID { return x.ID })
	site := store.Index(sites, func(x store.Site) uuid.UUID { return x.ID })
	visit := store.Index(visits, func(x store.Visit) uuid.UUID { return x.ID })
	for _, x := range rows {
		view := contract.CallOut{
			ID: x.ID, UnitID: x.UnitID, Tag: unit[x.UnitID].Tag, SiteID: x.SiteID, Site: site[x.SiteID].Name, Day: x.Day.Day(), Cause: contract.CallOutCause(x.Cause),
			CoilToBlame: contract.YesNo(x.CoilToBlame), Prevented: contract.YesNo(x.Prevented), Cost: x.Cost, Goods: x.Goods, VisitID: x.VisitID,
			Note: x.Note, By: names.Of(x.AccountID),
		}
		if x.VisitID != nil {
			view.VisitDay = new(visit[*x.VisitID].Day.Day())
		}
		view.Counted = view.CoilToBlame == contract.YesNoYes && slices.ContainsFunc(logs, func(l store.CallLog) bool {
			return l.SiteID == x.SiteID && l.During.Holds(view.Day)
		})
		out = append(out, view)
	}
	return out, nil
}

// row turns a form into a row of a unit whose facts are at hand, and lists what is wrong with it.
func (s *Service) row(r *dossier.Facts, a organisation.Actor, unit store.Unit, in contract.NewCallOut, before store.CallOut) (store.CallOut, error) {
	row := before
	site, _ := r.Standing(unit.ID, in.Day)
	var bad invalid.Error
	if in.Day > s.Today(site.Zone) {
		bad.Addf("/day", "is in the future")
	}
	if unit.Commissioned != nil && in.Day < unit.Commissioned.Day() {
		bad.Addf("/day", "is before the unit was commissioned, %s", unit.Commissioned.Day())
	}
	if in.Cause == contract.CallOutCauseSoiledCoil && in.CoilToBlame == contract.YesNoNo {
		bad.Addf("/coil_to_blame", "cannot be no where a soiled coil was the cause")
	}
	if in.VisitID != nil {
		k := slices.IndexFunc(r.Visits[unit.ID], func(v store.Visit) bool { return v.ID == *in.VisitID })
		if k < 0 {
			bad.Addf("/visit_id", "is not a visit of this unit")
		} else if r.Visits[unit.ID][k].Day.Day() < in.Day {
			bad.Addf("/visit_id", "is before the call-out")
		}
	}
	row.OrganisationID, row.SiteID, row.UnitID, row.Day, row.Cause = a.Org.ID, site.ID, unit.ID, store.Date(in.Day), string(in.Cause)
	row.CoilToBlame, row.Prevented, row.Cost, row.Goods = string(in.CoilToBlame), string(in.Prevented), in.Cost, in.Goods
	row.VisitID, row.Note, row.AccountID, row.At = in.VisitID, optional.Trim(in.Note), &a.AccountID, s.Stamp()
	return row, bad.Err()
}

// shown is what the audit trail says of a call-out.
func shown(x store.CallOut) map[string]any {
	return map[string]any{
		"day": x.Day.Day(), "cause": x.Cause, "coil_to_blame": x.CoilToBlame, "prevented": x.Prevented, "cost": x.Cost, "goods": x.Goods, "note": x.Note,
	}
}

// AddCallOut puts a call-out into the log.
func (s *Service) AddCallOut(ctx context.Context, a organisation.Actor, in contract.NewCallOut) (contract.CallOut, error) {
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return contract.CallOut{}, err
	}
	return s.store(ctx, a, in, nil)
}

// ChangeCallOut corrects one.
func (s *Service) ChangeCallOut(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.NewCallOut) (contract.CallOut, error) {
	if err := a.Only(contract.RoleManager); err != nil {
		return contract.CallOut{}, err
	}
	return s.store(ctx, a, in, &id)
}

func (s *Service) store(ctx context.Context, a organisation.Actor, in contract.NewCallOut, id *uuid.UUID) (contract.CallOut, error) {
	var out contract.CallOut
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		before := store.CallOut{ID: store.NewID()}
		var was any
		if id != nil {
			var err error
			if before, err = callOut(t, *id); err != nil {
				return err
			}
			was = shown(before)
		}
		r, err := load.Units(t, []uuid.UUID{in.UnitID})
		if err != nil {
			return err
		}
		if len(r.Rows.Units) == 0 {
			return invalid.At("/unit_id", "is not one of your units")
		}
		row, err := s.row(r, a, r.Rows.Units[0], in, before)
		if err != nil {
			return err
		}
		if id == nil {
			err = store.Insert(t, row)
		} else {
			err = store.Save(t, *id, &row)
		}
		if err != nil {
			return err
		}
		if err := s.record(t, a, row, map[bool]string{true: "call-out added", false: "call-out changed"}[id == nil], was, shown(row)); err != nil {
			return err
		}
		touched := []uuid.UUID{row.UnitID}
		if id != nil && before.UnitID != row.UnitID {
			touched = append(touched, before.UnitID)
		}
		if err := s.learner.Refresh(t, touched); err != nil {
			return err
		}
		views, err := s.views(t, []store.CallOut{row})
		if err == nil {
			out = views[0]
		}
		return err
	})
	return out, err
}

// record keeps a change in the unit's history, and in the trail of the log, by which the night's run knows that there is something new.
func (s *Service) record(t store.Tenant, a organisation.Actor, x store.CallOut, action string, before, after any) error {
	if err := organisation.RecordChange(t, s.Stamp(), a, "unit", x.UnitID, action, before, after); err != nil {
		return err
	}
	return t.Record(s.Stamp(), a.AccountID, "call_out", x.ID, action, organisation.AuditDetail{Note: x.Cause})
}

// callOut reads one of a unit that may be seen, to change it.
func callOut(t store.Tenant, id uuid.UUID) (store.CallOut, error) {
	row, err := store.GetForUpdate[store.CallOut](t, id)
	if err != nil {
		return row, err
	}
	return row, organisation.SeesSite(t, row.SiteID)
}

// RemoveCallOut takes one out of the log; the audit trail keeps it.
func (s *Service) RemoveCallOut(ctx context.Context, a organisation.Actor, id uuid.UUID) error {
	if err := a.Only(contract.RoleManager); err != nil {
		return err
	}
	return s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := callOut(t, id)
		if err != nil {
			return err
		}
		if err := store.Delete[store.CallOut](t, id); err != nil {
			return err
		}
		if err := s.record(t, a, row, "call-out removed", shown(row), nil); err != nil {
			return err
		}
		return s.learner.Refresh(t, []uuid.UUID{row.UnitID})
	})
}

// DeclareLog declares that every call-out of a site was put down from a day to another.
func (s *Service) DeclareLog(ctx context.Context, a organisation.Actor, site uuid.UUID, in contract.NewCallLogSpan) (contract.CallLogSpan, error) {
	var out contract.CallLogSpan
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if err := organisation.SeesSite(t, site); err != nil {
			return err
		}
		at, err := store.Get[store.Site](t, site)
		if err != nil {
			return err
		}
		var bad invalid.Error
		if in.To < in.From {
			bad.Addf("/to", "must not be before the first day")
		}
		if in.To > s.Today(at.Zone) {
			bad.Addf("/to", "is in the future: nobody knows yet who will be called out")
		}
		if in.From < earliestLog {
			bad.Addf("/from", "must be in this century")
		}
		there, err := store.Where[store.CallLog](t, "site_id", []uuid.UUID{site}, "id")
		if err != nil {
			return err
		}
		during := store.DateRange{From: &in.From, To: new(in.To.Add(1))}
		for _, x := range there {
			if both, ok := x.During.Overlap(during); ok {
				bad.Addf("/from", "is declared already from %s to %s; take that out first", *both.From, both.To.Add(-1))
			}
		}
		if err := bad.Err(); err != nil {
			return err
		}
		row := store.CallLog{OrganisationID: t.Org, ID: store.NewID(), SiteID: site, During: during, AccountID: &a.AccountID, At: s.Stamp()}
		if err := store.Insert(t, row); err != nil {
			return err
		}
		if err := s.taken(t, a, row, "log of call-outs declared complete"); err != nil {
			return err
		}
		names, err := s.Names(t)
		out = logView(row, at.Name, names)
		return err
	})
	return out, err
}

// earliestLog is how far back a log may be declared complete: further is a slip of the pen.
var earliestLog = calendar.MustParse("2000-01-01")

// taken has what was declared, or is no longer, taken up by the site's units, and kept in the trail.
func (s *Service) taken(t store.Tenant, a organisation.Actor, row store.CallLog, action string) error {
	note := row.During.From.String() + " – " + row.During.To.Add(-1).String()
	for _, x := range []struct {
		entity string
		id     uuid.UUID
	}{{"site", row.SiteID}, {"call_log", row.ID}} {
		if err := t.Record(s.Stamp(), a.AccountID, x.entity, x.id, action, organisation.AuditDetail{Note: note}); err != nil {
			return err
		}
	}
	units, err := t.UnitsOnceAt(row.SiteID)
	if err != nil {
		return err
	}
	return s.learner.Refresh(t, units)
}

// WithdrawLog takes such a declaration back.
func (s *Service) WithdrawLog(ctx context.Context, a organisation.Actor, id uuid.UUID) error {
	if err := a.Only(contract.RoleManager); err != nil {
		return err
	}
	return s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.CallLog](t, id)
		if err != nil {
			return err
		}
		if err := organisation.SeesSite(t, row.SiteID); err != nil {
			return err
		}
		if err := store.Delete[store.CallLog](t, id); err != nil {
			return err
		}
		return s.taken(t, a, row, "log of call-outs no longer complete")
	})
}

func logView(x store.CallLog, site string, names organisation.Names) contract.CallLogSpan {
	return contract.CallLogSpan{
		ID: x.ID, SiteID: x.SiteID, Site: site, From: *x.During.From, To: x.During.To.Add(-1), By: names.Of(x.AccountID),
	}
}
