package service

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// VisitRecord is a visit as it was sent, with what became of it.
func (s *Service) VisitRecord(ctx context.Context, a Actor, id uuid.UUID) (contract.VisitRecord, error) {
	return s.visitRecord(s.tenant(ctx, a), id)
}

func (s *Service) visitRecord(t store.Tenant, id uuid.UUID) (contract.VisitRecord, error) {
	var out contract.VisitRecord
	row, err := store.Get[store.Visit](t, id)
	if err != nil {
		return out, err
	}
	r, err := loadRegister(t, []uuid.UUID{row.UnitID})
	if err != nil {
		return out, err
	}
	if len(r.facts.Units) == 0 {
		return out, ErrNotFound
	}
	if row.Status != "submitted" {
		// Only visits in force are loaded with a unit; this one is read beside them.
		if err := r.addVisit(t, row); err != nil {
			return out, err
		}
	}
	details, err := t.LoadVisitDetails([]uuid.UUID{id})
	if err != nil {
		return out, err
	}
	r.details = map[uuid.UUID]store.VisitDetails{id: details}
	names, err := s.accountNames(t)
	if err != nil {
		return out, err
	}
	d := dossier{unit: r.facts.Units[0]}
	d.site, _ = r.standing(row.UnitID, calendar.Day(row.Day))
	for _, c := range r.coils[row.UnitID] {
		coil := coilDossier{Coil: c}
		for _, x := range r.surfaces[c.ID] {
			coil.sides = append(coil.sides, sideDossier{Surface: x})
		}
		d.coils = append(d.coils, coil)
	}
	out = contract.VisitRecord{
		ID: id, Status: contract.VisitRecordStatus(row.Status), StatusReason: row.StatusReason, By: names.of(row.AccountID),
		SubmittedAt: row.SubmittedAt, Visit: r.form(row), Summary: r.visitSummary(d, row), Supersedes: row.Supersedes,
		Steps: []contract.StepLine{}, Readings: []contract.ReadingLine{}, Proof: proof(details.Readings),
	}
	for _, x := range details.Steps {
		out.Steps = append(out.Steps, contract.StepLine{Step: x.Step, Phase: x.Phase, Text: x.Text, Gate: x.Gate, State: x.State, Reason: x.Reason, At: x.At})
	}
	for _, x := range details.Readings {
		line, err := readingLine(x)
		if err != nil {
			return out, err
		}
		out.Readings = append(out.Readings, line)
	}
	out.SupersededBy, err = t.SupersededBy(id)
	return out, err
}

// addVisit reads what one visit found, did and left.
func (r *register) addVisit(t store.Tenant, v store.Visit) error {
	f, err := t.LoadVisit(v.ID)
	if err != nil {
		return err
	}
	r.visitPeople[v.ID] = f.People
	for _, x := range f.Reached {
		r.reached[[2]uuid.UUID{v.ID, x.SurfaceID}] = x
	}
	for _, x := range f.Findings {
		key := [2]uuid.UUID{v.ID, x.SurfaceID}
		r.findings[key] = append(r.findings[key], x)
	}
	for _, x := range f.FindingSoils {
		r.findingSoils[x.FindingID] = append(r.findingSoils[x.FindingID], x)
	}
	r.treatments[v.ID] = f.Treatments
	for _, x := range f.TreatmentSide {
		if r.treated[x.TreatmentID] == nil {
			r.treated[x.TreatmentID] = map[uuid.UUID]bool{}
		}
		r.treated[x.TreatmentID][x.SurfaceID] = true
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
		return row, ErrNotFound
	}
	if row, err = store.GetForUpdate[store.Visit](t, id); err != nil {
		return row, err
	}
	if row.Status != "submitted" {
		return row, Conflict{map[string]string{
			"amended": "this visit was amended already; amend the newer version", "voided": "this visit was voided already",
		}[row.Status]}
	}
	return row, nil
}

// AmendVisit puts another version in place of a visit. The old one is kept; clocks, soil and proposals follow the
// new one.
func (s *Service) AmendVisit(ctx context.Context, a Actor, key, id uuid.UUID, in contract.VisitAmendment) (contract.VisitOutcome, error) {
	if err := a.only(contract.RoleManager); err != nil {
		return contract.VisitOutcome{}, err
	}
	why := strings.TrimSpace(in.Reason)
	if why == "" {
		return contract.VisitOutcome{}, field("/reason", "say why, so that others can follow it later")
	}
	return once(s, s.tenant(ctx, a), a, key, in, func(t store.Tenant) (contract.VisitOutcome, error) {
		old, err := inForce(t, id)
		if err != nil {
			return contract.VisitOutcome{}, err
		}
		if in.Visit.UnitID != old.UnitID {
			return contract.VisitOutcome{}, field("/visit/unit_id", "an amended visit stays with its unit; void it and record it at the other")
		}
		was, err := s.visitRecord(t, id)
		if err != nil {
			return contract.VisitOutcome{}, err
		}
		if err := errors.Join(t.SetVisitStatus(id, "amended", why), t.UndoStock(id)); err != nil {
			return contract.VisitOutcome{}, err
		}
		out, err := s.storeVisit(t, a, key, in.Visit, &id)
		if err != nil {
			return out, under("/visit", err)
		}
		now, err := s.visitRecord(t, key)
		if err != nil {
			return out, err
		}
		detail := auditDetail{Note: why, Changes: differences(was.Summary, now.Summary)}
		return out, errors.Join(
			t.Record(s.stamp(), a.AccountID, "visit", id, "amended", detail), t.Record(s.stamp(), a.AccountID, "visit", key, "amends another", detail),
			t.Record(s.stamp(), a.AccountID, "unit", old.UnitID, "visit amended", auditDetail{Note: old.Day.Day().String() + ": " + why}),
		)
	})
}

// VoidVisit takes a visit out of the record; it is kept, and what rested on it is worked out anew.
func (s *Service) VoidVisit(ctx context.Context, a Actor, id uuid.UUID, reason string) (contract.VisitRecord, error) {
	var out contract.VisitRecord
	if err := a.only(contract.RoleManager); err != nil {
		return out, err
	}
	why := strings.TrimSpace(reason)
	if why == "" {
		return out, field("/reason", "say why, so that others can follow it later")
	}
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := inForce(t, id)
		if err != nil {
			return err
		}
		if err := errors.Join(
			t.SetVisitStatus(id, "voided", why), t.UndoStock(id), t.Record(s.stamp(), a.AccountID, "visit", id, "voided", auditDetail{Note: why}),
			t.Record(s.stamp(), a.AccountID, "unit", row.UnitID, "visit voided", auditDetail{Note: row.Day.Day().String() + ": " + why}),
			s.refresh(t, []uuid.UUID{row.UnitID}),
		); err != nil {
			return err
		}
		out, err = s.visitRecord(t, id)
		return err
	})
	return out, err
}
