package register

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// AddUnit adds one unit by hand.
func (s *Service) AddUnit(ctx context.Context, a organisation.Actor, req contract.NewUnit) (contract.Created, error) {
	var id uuid.UUID
	if err := a.Only(contract.RoleManager); err != nil {
		return contract.Created{}, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		in, err := s.newIntake(t, a)
		if err != nil {
			return err
		}
		u, err := in.check(req)
		if err != nil {
			return err
		}
		if id, err = in.add(u); err != nil {
			return err
		}
		if err := in.store(); errors.Is(err, store.ErrDuplicate) {
			return invalid.At("/tag", "%s is in the register already", u.tag)
		} else if err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "unit", id, "added", organisation.AuditDetail{Note: u.tag}); err != nil {
			return err
		}
		return s.learner.Refresh(t, []uuid.UUID{id})
	})
	return contract.Created{ID: id}, err
}

func (in *intake) check(req contract.NewUnit) (newUnit, error) {
	var bad invalid.Error
	u := newUnit{
		site: strings.TrimSpace(req.Site), placement: strings.TrimSpace(req.Placement), setting: string(optional.Value(req.Setting)),
		tag: strings.TrimSpace(req.Tag), make: optional.Value(req.Make), model: optional.Value(req.Model), note: optional.Value(req.Note), commissioned: req.Commissioned,
	}
	for pointer, text := range map[string]string{"/site": u.site, "/placement": u.placement, "/tag": u.tag} {
		if text == "" {
			bad.Addf(pointer, "is empty")
		}
	}
	u.refrigerant = optional.Trim(req.Refrigerant)
	burns, err := flammable("/flammable", u.refrigerant, optional.Or(req.Flammable, unknown))
	if err != nil {
		bad.Take(err)
	}
	u.flammable = burns
	class, ok := in.Class(req.Class)
	if !ok {
		bad.Addf("/class", "%q %v", req.Class, errNoClass)
	}
	u.class = class
	quality, day := interval.LastClean(req.LastClean.Quality), req.LastClean.Day
	dated := quality == interval.Exact || quality == interval.About
	switch {
	case dated && day == nil:
		bad.Addf("/last_clean/day", "is needed when the last clean is known")
	case !dated && day != nil:
		bad.Addf("/last_clean/day", "must be empty when the last clean is %s", quality)
	case day != nil && *day > in.today:
		bad.Addf("/last_clean/day", "is in the future")
	case day != nil && u.commissioned != nil && *day < *u.commissioned:
		bad.Addf("/last_clean/day", "is before the unit was commissioned")
	}
	if u.commissioned != nil && *u.commissioned > in.today {
		bad.Addf("/commissioned", "is in the future")
	}
	seen := map[contract.CoilRole]bool{}
	for i, role := range req.CoilRoles {
		clean := plainCoil(string(role), quality, day)
		if column, why := in.checkCoil(class, clean); ok && column == "coil role" {
			bad.Addf(fmt.Sprintf("/coil_roles/%d", i), "%s", why)
		}
		if seen[role] {
			bad.Addf(fmt.Sprintf("/coil_roles/%d", i), "is given twice")
		}
		seen[role] = true
		u.coils = append(u.coils, clean)
	}
	return u, bad.Err()
}

// AddSiteFactor puts a factor to work at a site, placement or unit.
func (s *Service) AddSiteFactor(ctx context.Context, a organisation.Actor, req contract.NewSiteFactor) (contract.Created, error) {
	if err := a.Only(contract.RoleManager); err != nil {
		return contract.Created{}, err
	}
	row := store.SiteFactor{
		OrganisationID: a.Org.ID, ID: store.NewID(), FactorID: req.FactorID, Note: strings.TrimSpace(optional.Value(req.Note)),
		Valid: store.DateRange{From: &req.From, To: req.To},
	}
	var bad invalid.Error
	if req.To != nil && *req.To <= req.From {
		bad.Addf("/to", "must be later than the first day")
	}
	if far := s.Today(a.Org.Zone).Add(366); req.From > far {
		bad.Addf("/from", "lies more than a year ahead")
	}
	if err := bad.Err(); err != nil {
		return contract.Created{}, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if _, err := store.Get[store.FactorDef](t, req.FactorID); err != nil {
			return orField(err, "/factor_id", "is not one of your site factors")
		}
		aim(req, &row)
		units, entity, record, err := s.bearsOn(t, row)
		if err != nil {
			return orField(err, "/scope_id", fmt.Sprintf("there is no such %s", req.Scope))
		}
		if err := factorTaken(store.Insert(t, row)); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, entity, record, "factor added", organisation.AuditDetail{Note: "from " + req.From.String()}); err != nil {
			return err
		}
		return s.learner.Refresh(t, units)
	})
	return contract.Created{ID: row.ID}, err
}

// factorTaken says in words that a factor is at work already.
func factorTaken(err error) error {
	if err != nil && strings.Contains(err.Error(), "exclusion constraint") {
		return invalid.At("/from", "this factor already applies here on some of these days")
	}
	return err
}

// aim points the factor at its place.
func aim(req contract.NewSiteFactor, row *store.SiteFactor) {
	switch req.Scope {
	case contract.FactorScopeSite:
		row.SiteID = &req.ScopeID
	case contract.FactorScopePlacement:
		row.PlacementID = &req.ScopeID
	case contract.FactorScopeUnit:
		row.UnitID = &req.ScopeID
	}
}

func orField(err error, pointer, why string) error {
	if errors.Is(err, store.ErrNotFound) {
		return invalid.At(pointer, "%s", why)
	}
	return err
}
