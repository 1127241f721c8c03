package service

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/store"
)

// SiteDetails is what is known of a site beyond its name.
type SiteDetails struct {
	Address, Contact, AccessNote string
	Lat, Lon                     float64
	Windows                      []store.SiteWindow
}

// DescribeSite fills in a site by its name.
func (s *Service) DescribeSite(ctx context.Context, a Actor, name string, in SiteDetails) error {
	if err := a.only(contract.Manager); err != nil {
		return err
	}
	return s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		site, err := t.SiteByName(name)
		if err != nil {
			return fmt.Errorf("describing %s: %w", name, err)
		}
		site.Address, site.Contact, site.AccessNote, site.Lat, site.Lon = in.Address, in.Contact, in.AccessNote, &in.Lat, &in.Lon
		for i := range in.Windows {
			in.Windows[i].OrganisationID, in.Windows[i].ID, in.Windows[i].SiteID = t.Org, store.NewID(), site.ID
		}
		return errors.Join(
			t.SaveSite(site), store.Insert(t, in.Windows...),
			t.Record(s.stamp(), a.AccountID, "site", site.ID, "described", nil),
		)
	})
}

// AddCrew adds a crew that works the same minutes on some weekdays (0 is Sunday).
func (s *Service) AddCrew(ctx context.Context, a Actor, name, starts string, minutes int, weekdays ...int) error {
	if err := a.only(contract.Manager); err != nil {
		return err
	}
	return s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		crew := store.Crew{OrganisationID: t.Org, ID: store.NewID(), Name: name}
		var hours []store.CrewHours
		for _, d := range weekdays {
			hours = append(hours, store.CrewHours{OrganisationID: t.Org, CrewID: crew.ID, Weekday: d, Starts: starts, Minutes: minutes})
		}
		return errors.Join(
			store.Insert(t, crew), store.Insert(t, hours...),
			t.Record(s.stamp(), a.AccountID, "crew", crew.ID, "added", nil),
		)
	})
}

// AddPerson adds somebody who works but does not sign in.
func (s *Service) AddPerson(ctx context.Context, a Actor, name string) (uuid.UUID, error) {
	p := store.Person{OrganisationID: a.Org.ID, ID: store.NewID(), Name: name}
	if err := a.only(contract.Manager); err != nil {
		return p.ID, err
	}
	return p.ID, store.Insert(s.tenant(ctx, a), p)
}

// LoadHistory takes in visits of the past in one transaction, all or none, each checked as if it were submitted
// today. Visits of one unit must come oldest first.
func (s *Service) LoadHistory(ctx context.Context, a Actor, visits []contract.NewVisit) error {
	if err := a.only(contract.Manager); err != nil {
		return err
	}
	return s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		r, err := loadRegister(t, nil)
		if err != nil {
			return err
		}
		dossiers := map[uuid.UUID]dossier{}
		units := []uuid.UUID{}
		for _, u := range r.facts.Units {
			if dossiers[u.ID], err = s.dossier(r, u); err != nil {
				return err
			}
			units = append(units, u.ID)
		}
		var all visitRows
		var rows []store.Visit
		for i, req := range visits {
			d, ok := dossiers[req.UnitID]
			if !ok {
				return field(fmt.Sprintf("/%d/unit_id", i), "there is no such unit")
			}
			sheet := visitSheet{req: req, r: r, d: d}
			visit := s.visitRow(t, a, store.NewID(), req)
			if err := sheet.check(visit); err != nil {
				return fmt.Errorf("visit %d to %s: %w", i, d.unit.Tag, err)
			}
			rows = append(rows, visit)
			all.append(sheet.rows)
		}
		return errors.Join(store.Insert(t, rows...), all.store(t), s.refreshProposals(t, units))
	})
}
