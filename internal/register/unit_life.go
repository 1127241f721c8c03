package register

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// lifeStep is what a step in a unit's life is given: the unit, locked, with its open stay and pause.
type lifeStep struct {
	store.Tenant
	unit  store.Unit
	stay  store.UnitStay
	pause *store.UnitPause
	today calendar.Day
}

// step runs one step in a unit's life in a transaction and records it.
func (s *Service) step(ctx context.Context, a organisation.Actor, id uuid.UUID, day calendar.Day, action, note string, do func(*lifeStep) error) (contract.UnitRecord, error) {
	var out contract.UnitRecord
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		unit, err := t.UnitSeenForUpdate(id)
		if err != nil {
			return err
		}
		l := &lifeStep{Tenant: t, unit: unit}
		if l.today, err = s.SiteToday(t, unit.PlacementID); err != nil {
			return err
		}
		facts, err := t.LoadStays(id)
		if err != nil {
			return err
		}
		l.stay = facts.Stays[len(facts.Stays)-1]
		for i, p := range facts.Pauses {
			if p.During.To == nil {
				l.pause = &facts.Pauses[i]
			}
		}
		switch {
		case unit.Status == dossier.Retired:
			return organisation.Conflict{Reason: unit.Tag + " is retired; nothing more happens to it"}
		case day > l.today:
			return invalid.At("/day", "is in the future")
		case l.stay.During.From != nil && day < *l.stay.During.From:
			return invalid.At("/day", "is before the unit came to its present placement, %s", l.stay.During.From)
		}
		if last, err := t.LastVisitDay(id); err != nil {
			return err
		} else if last != nil && day < *last && action != "taken out of service" && action != "back in service" {
			return invalid.At("/day", "is before its last visit, %s", last)
		}
		if err := do(l); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "unit", id, action, organisation.AuditDetail{Note: note}); err != nil {
			return err
		}
		if err := s.learner.Refresh(t, []uuid.UUID{id}); err != nil {
			return err
		}
		out, err = s.unitRecord(t, id)
		if errors.Is(err, organisation.ErrNotFound) { // moved to where the actor does not see it
			return nil
		}
		return err
	})
	return out, err
}

// MoveUnit ends a unit's stay and begins one at another placement.
func (s *Service) MoveUnit(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.UnitMove) (contract.UnitRecord, error) {
	return s.step(ctx, a, id, in.Day, "moved", "on "+in.Day.String(), func(l *lifeStep) error {
		place, err := store.Get[store.Placement](l.Tenant, in.PlacementID)
		if err != nil || organisation.SeesSite(l.Tenant, place.SiteID) != nil {
			return invalid.At("/placement_id", "there is no such placement")
		}
		if place.ID == l.unit.PlacementID {
			return invalid.At("/placement_id", "%s is already there", l.unit.Tag)
		}
		if l.stay.During.From != nil && *l.stay.During.From == in.Day {
			return invalid.At("/day", "is the day it came to its present placement; choose a later one")
		}
		l.stay.During.To = &in.Day
		if err := l.EndStay(l.stay); err != nil {
			return err
		}
		if err := store.Insert(l.Tenant, store.UnitStay{
			OrganisationID: l.Org, ID: store.NewID(), UnitID: id, PlacementID: place.ID, During: store.DateRange{From: &in.Day},
		}); err != nil {
			return err
		}
		return l.SetUnit(id, map[string]any{"placement_id": place.ID})
	})
}

// PauseUnit takes a unit out of service from a day: it does not soil meanwhile.
func (s *Service) PauseUnit(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.UnitPause) (contract.UnitRecord, error) {
	why := strings.TrimSpace(in.Reason)
	return s.step(ctx, a, id, in.Day, "taken out of service", why, func(l *lifeStep) error {
		if l.pause != nil {
			return organisation.Conflict{Reason: l.unit.Tag + " is already out of service"}
		}
		if why == "" {
			return invalid.At("/reason", "say why")
		}
		err := store.Insert(l.Tenant, store.UnitPause{
			OrganisationID: l.Org, ID: store.NewID(), UnitID: id, During: store.DateRange{From: &in.Day}, Reason: why,
		})
		if err != nil && strings.Contains(err.Error(), "exclusion constraint") {
			return invalid.At("/day", "it was already out of service then")
		}
		if err != nil {
			return err
		}
		return l.SetUnit(id, map[string]any{"status": dossier.OutOfService})
	})
}

// ResumeUnit puts a unit back in service from a day.
func (s *Service) ResumeUnit(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.UnitResumption) (contract.UnitRecord, error) {
	return s.step(ctx, a, id, in.Day, "back in service", "on "+in.Day.String(), func(l *lifeStep) error {
		if l.pause == nil {
			return organisation.Conflict{Reason: l.unit.Tag + " is in service"}
		}
		if in.Day <= *l.pause.During.From {
			return invalid.At("/day", "must be later than the day it went out of service, %s", l.pause.During.From)
		}
		l.pause.During.To = &in.Day
		if err := store.Save(l.Tenant, l.pause.ID, l.pause); err != nil {
			return err
		}
		return l.SetUnit(id, map[string]any{"status": dossier.InService})
	})
}

// end is what retirement and replacement share.
func (l *lifeStep) end(day calendar.Day, by *uuid.UUID) error {
	if l.stay.During.From != nil && *l.stay.During.From >= day {
		return invalid.At("/day", "must be later than the day it came to its present placement")
	}
	l.stay.During.To = &day
	if l.pause != nil {
		if *l.pause.During.From >= day {
			return invalid.At("/day", "must be later than the day it went out of service")
		}
		l.pause.During.To = &day
		if err := store.Save(l.Tenant, l.pause.ID, l.pause); err != nil {
			return err
		}
	}
	if err := l.EndStay(l.stay); err != nil {
		return err
	}
	return l.SetUnit(l.unit.ID, map[string]any{"status": dossier.Retired, "retired": store.Date(day), "replaced_by": by})
}

// RetireUnit ends a unit's service for good.
func (s *Service) RetireUnit(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.UnitRetirement) (contract.UnitRecord, error) {
	why := strings.TrimSpace(in.Reason)
	return s.step(ctx, a, id, in.Day, "retired", why, func(l *lifeStep) error {
		if why == "" {
			return invalid.At("/reason", "say why")
		}
		return l.end(in.Day, nil)
	})
}

// ReplaceUnit retires a unit and puts another of its class, with the same coils, in its place.
func (s *Service) ReplaceUnit(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.UnitReplacement) (contract.Created, error) {
	var made contract.Created
	why := strings.TrimSpace(in.Reason)
	_, err := s.step(ctx, a, id, in.Day, "replaced", why+": by "+strings.TrimSpace(in.Tag), func(l *lifeStep) error {
		if why == "" {
			return invalid.At("/reason", "say why")
		}
		take, err := s.newIntake(l.Tenant, a)
		if err != nil {
			return err
		}
		place, err := store.Get[store.Placement](l.Tenant, l.unit.PlacementID)
		if err != nil {
			return err
		}
		site, err := store.Get[store.Site](l.Tenant, place.SiteID)
		if err != nil {
			return err
		}
		u := newUnit{
			site: site.Name, placement: place.Name, tag: strings.TrimSpace(in.Tag), make: optional.Trim(in.Make), model: optional.Trim(in.Model),
			serial: optional.Trim(in.Serial), flammable: unknown, class: take.ClassByID[l.unit.ClassID], commissioned: &in.Day,
		}
		if u.tag == "" {
			return invalid.At("/tag", "is empty")
		}
		coils, err := store.Where[store.Coil](l.Tenant, "unit_id", []uuid.UUID{id}, "role DESC")
		if err != nil {
			return err
		}
		for _, c := range coils {
			u.coils = append(u.coils, plainCoil(c.Role, interval.Exact, &in.Day))
		}
		if made.ID, err = take.add(u); err != nil {
			return err
		}
		if err := take.store(); errors.Is(err, store.ErrDuplicate) {
			return invalid.At("/tag", "%s is in the register already", u.tag)
		} else if err != nil {
			return err
		}
		if err := l.end(in.Day, &made.ID); err != nil {
			return err
		}
		if err := s.learner.Refresh(l.Tenant, []uuid.UUID{made.ID}); err != nil {
			return err
		}
		return l.Record(s.Stamp(), a.AccountID, "unit", made.ID, "added", organisation.AuditDetail{Note: "in place of " + l.unit.Tag})
	})
	return made, err
}
