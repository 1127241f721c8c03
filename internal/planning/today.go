package planning

import (
	"context"
	"errors"
	"slices"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// CrewToday is the round of a crew's day, or the next one that is out; without a crew, of the crew that the person is in.
func (s *Service) CrewToday(ctx context.Context, a organisation.Actor, crew *uuid.UUID) (contract.Today, error) {
	out := contract.Today{Today: s.Today(a.Org.Zone), Crews: []contract.CrewName{}}
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	t := s.Tenant(ctx, a)
	crews, err := store.All[store.Crew](t, "name")
	if err != nil {
		return out, err
	}
	for _, c := range crews {
		out.Crews = append(out.Crews, contract.CrewName{ID: c.ID, Name: c.Name})
	}
	if crew == nil {
		if crew, err = s.crewOf(t, a.Person.ID, out.Today); err != nil {
			return out, err
		}
	}
	if crew == nil {
		return out, nil
	}
	at := slices.IndexFunc(out.Crews, func(c contract.CrewName) bool { return c.ID == *crew })
	if at < 0 {
		return out, organisation.ErrNotFound
	}
	out.Crew = &out.Crews[at]
	row, err := t.NextRoundOf(*crew, out.Today)
	if errors.Is(err, store.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	r, err := s.round(t, row.ID)
	if errors.Is(err, organisation.ErrNotFound) { // none of its stops is where the person may look
		return out, nil
	}
	out.Round = &r
	return out, err
}

// crewOf is the crew that somebody is in on a day; nil where there is none.
func (s *Service) crewOf(t store.Tenant, person uuid.UUID, day calendar.Day) (*uuid.UUID, error) {
	rows, err := store.Where[store.CrewMember](t, "person_id", []uuid.UUID{person}, "id")
	if err != nil {
		return nil, err
	}
	for _, m := range rows {
		if m.During.Holds(day) {
			return &m.CrewID, nil
		}
	}
	return nil, nil //nolint:nilnil // in no crew
}
