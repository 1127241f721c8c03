package fieldwork

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// VisitRecord is a visit as it was sent, with what became of it.
func (s *Service) VisitRecord(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.VisitRecord, error) {
	return s.visitRecord(s.Tenant(ctx, a), id, a.US())
}

func (s *Service) visitRecord(t store.Tenant, id uuid.UUID, us bool) (contract.VisitRecord, error) {
	var out contract.VisitRecord
	row, err := store.Get[store.Visit](t, id)
	if err != nil {
		return out, err
	}
	r, err := load.Units(t, []uuid.UUID{row.UnitID})
	if err != nil {
		return out, err
	}
	if len(r.Rows.Units) == 0 {
		return out, organisation.ErrNotFound
	}
	if row.Status != "submitted" {
		// Only visits in force are loaded with a unit; this one is read beside them.
		if err := addVisit(r, t, row); err != nil {
			return out, err
		}
	}
	details, err := t.LoadVisitDetails([]uuid.UUID{id})
	if err != nil {
		return out, err
	}
	r.Details = map[uuid.UUID]store.VisitDetails{id: details}
	names, err := s.Names(t)
	if err != nil {
		return out, err
	}
	d := dossier.Unit{Unit: r.Rows.Units[0]}
	d.Site, _ = r.Standing(row.UnitID, calendar.Day(row.Day))
	for _, c := range r.Coils[row.UnitID] {
		coil := dossier.Coil{Coil: c}
		for _, x := range r.Surfaces[c.ID] {
			coil.Sides = append(coil.Sides, dossier.Side{Surface: x})
		}
		d.Coils = append(d.Coils, coil)
	}
	out = contract.VisitRecord{
		ID: id, Status: contract.VisitRecordStatus(row.Status), StatusReason: row.StatusReason, By: names.Of(row.AccountID),
		SubmittedAt: row.SubmittedAt, Visit: visitForm(r, row), Summary: r.VisitSummary(d, row), Supersedes: row.Supersedes,
		Steps: []contract.StepLine{}, Readings: []contract.ReadingLine{}, Proof: dossier.Proof(details.Readings),
	}
	for _, x := range details.Steps {
		out.Steps = append(out.Steps, contract.StepLine{Step: x.Step, Phase: x.Phase, Text: x.Text, Gate: x.Gate, State: x.State, Reason: x.Reason, At: x.At})
	}
	for _, q := range method.Questions {
		if code := optional.Value(out.Visit.Choices)[q.Code]; code != "" {
			for _, c := range q.Choices {
				if c.Code == code {
					out.Choices = new(append(optional.Value(out.Choices), contract.ChoiceLine{Question: q.Text, Answer: c.Text}))
				}
			}
		}
	}
	for _, x := range details.Readings {
		line, err := readingLine(x, us)
		if err != nil {
			return out, err
		}
		out.Readings = append(out.Readings, line)
	}
	out.SupersededBy, err = t.SupersededBy(id)
	return out, err
}

// addVisit reads what one visit found, did and left.
func addVisit(r *dossier.Facts, t store.Tenant, v store.Visit) error {
	f, err := t.LoadVisit(v.ID)
	if err != nil {
		return err
	}
	r.VisitPeople[v.ID] = f.People
	for _, x := range f.Reached {
		r.Reached[[2]uuid.UUID{v.ID, x.SurfaceID}] = x
	}
	for _, x := range f.Findings {
		key := [2]uuid.UUID{v.ID, x.SurfaceID}
		r.Findings[key] = append(r.Findings[key], x)
	}
	for _, x := range f.FindingSoils {
		r.FindingSoils[x.FindingID] = append(r.FindingSoils[x.FindingID], x)
	}
	r.Treatments[v.ID], r.PartLooks[v.ID] = f.Treatments, f.PartLooks
	for _, x := range f.TreatmentSide {
		if r.Treated[x.TreatmentID] == nil {
			r.Treated[x.TreatmentID] = map[uuid.UUID]bool{}
		}
		r.Treated[x.TreatmentID][x.SurfaceID] = true
	}
	return nil
}

// inForce locks a visit's unit and gives the visit, if it is still in force.
func inForce(t store.Tenant, id uuid.UUID) (store.Visit, error) {
	row, err := store.Get[store.Visit](t, id)
	if err != nil {
		return row, err
	}
	units, err := t.LockUnits([]uuid.UUID{row.UnitID})
	if err != nil {
		return row, err
	}
	if len(units) == 0 {
		return row, organisation.ErrNotFound
	}
	if row, err = store.GetForUpdate[store.Visit](t, id); err != nil {
		return row, err
	}
	if row.Status != "submitted" {
		return row, organisation.Conflict{Reason: map[string]string{
			"amended": "this visit was amended already; amend the newer version", "voided": "this visit was voided already",
		}[row.Status]}
	}
	return row, nil
}

// AmendVisit puts another version in place of a visit. The old one is kept; clocks, soil and proposals follow the
// new one.
func (s *Service) AmendVisit(ctx context.Context, a organisation.Actor, key, id uuid.UUID, in contract.VisitAmendment) (contract.VisitOutcome, error) {
	if err := a.Only(contract.RoleManager); err != nil {
		return contract.VisitOutcome{}, err
	}
	why := strings.TrimSpace(in.Reason)
	if why == "" {
		return contract.VisitOutcome{}, invalid.At("/reason", "say why, so that others can follow it later")
	}
	return organisation.Once(s.Base, s.Tenant(ctx, a), a, key, in, func(t store.Tenant) (contract.VisitOutcome, error) {
		old, err := inForce(t, id)
		if err != nil {
			return contract.VisitOutcome{}, err
		}
		if in.Visit.UnitID != old.UnitID {
			return contract.VisitOutcome{}, invalid.At("/visit/unit_id", "an amended visit stays with its unit; void it and record it at the other")
		}
		was, err := s.visitRecord(t, id, a.US())
		if err != nil {
			return contract.VisitOutcome{}, err
		}
		if err := t.SetVisitStatus(id, "amended", why); err != nil {
			return contract.VisitOutcome{}, err
		}
		if err := t.UndoBooks(id); err != nil {
			return contract.VisitOutcome{}, err
		}
		out, err := s.storeVisit(t, a, key, in.Visit, &id)
		if err != nil {
			return out, invalid.Under("/visit", err)
		}
		now, err := s.visitRecord(t, key, a.US())
		if err != nil {
			return out, err
		}
		detail := organisation.AuditDetail{Note: why, Changes: organisation.Differences(was.Summary, now.Summary)}
		if err := t.Record(s.Stamp(), a.AccountID, "visit", id, "amended", detail); err != nil {
			return out, err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "visit", key, "amends another", detail); err != nil {
			return out, err
		}
		return out, t.Record(s.Stamp(), a.AccountID, "unit", old.UnitID, "visit amended", organisation.AuditDetail{Note: old.Day.Day().String() + ": " + why})
	})
}

// VoidVisit takes a visit out of the record; it is kept, and what rested on it is recalculated.
func (s *Service) VoidVisit(ctx context.Context, a organisation.Actor, id uuid.UUID, reason string) (contract.VisitRecord, error) {
	var out contract.VisitRecord
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	why := strings.TrimSpace(reason)
	if why == "" {
		return out, invalid.At("/reason", "say why, so that others can follow it later")
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := inForce(t, id)
		if err != nil {
			return err
		}
		if err := t.SetVisitStatus(id, "voided", why); err != nil {
			return err
		}
		if err := t.UndoBooks(id); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "visit", id, "voided", organisation.AuditDetail{Note: why}); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "unit", row.UnitID, "visit voided", organisation.AuditDetail{Note: row.Day.Day().String() + ": " + why}); err != nil {
			return err
		}
		if err := s.learner.Refresh(t, []uuid.UUID{row.UnitID}); err != nil {
			return err
		}
		out, err = s.visitRecord(t, id, a.US())
		return err
	})
	return out, err
}
