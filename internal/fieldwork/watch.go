package fieldwork

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// WatchItems are what is watched on a unit, open items first, each with how it was found and its pictures.
func (s *Service) WatchItems(ctx context.Context, a organisation.Actor, unit uuid.UUID) ([]contract.WatchItem, error) {
	t := s.Tenant(ctx, a)
	if err := organisation.SeesUnit(t, unit); err != nil {
		return nil, err
	}
	rows, err := store.Where[store.WatchItem](t, "unit_id", []uuid.UUID{unit}, "closed IS NOT NULL, opened, id")
	if err != nil {
		return nil, err
	}
	return s.watchViews(t, rows)
}

func (s *Service) watchViews(t store.Tenant, rows []store.WatchItem) ([]contract.WatchItem, error) {
	out := []contract.WatchItem{}
	items := store.Keys(rows, func(w store.WatchItem) uuid.UUID { return w.ID })
	looks, err := store.Where[store.WatchLook](t, "watch_item_id", items, "visit_id")
	if err != nil {
		return nil, err
	}
	visits, err := store.Where[store.Visit](t, "id", store.Keys(looks, func(x store.WatchLook) uuid.UUID { return x.VisitID }), "day, id")
	if err != nil {
		return nil, err
	}
	surfaces := []uuid.UUID{}
	for _, w := range rows {
		if w.SurfaceID != nil {
			surfaces = append(surfaces, *w.SurfaceID)
		}
	}
	sides, err := store.Where[store.Surface](t, "id", surfaces, "id")
	if err != nil {
		return nil, err
	}
	files, err := store.Where[store.Attachment](t, "entity_id", items, "at, id")
	if err != nil {
		return nil, err
	}
	names, err := s.Names(t)
	if err != nil {
		return nil, err
	}
	side := store.Index(sides, func(x store.Surface) uuid.UUID { return x.ID })
	for _, w := range rows {
		item := contract.WatchItem{
			ID: w.ID, What: w.What, Opened: w.Opened.Day(), Closed: store.DayOf(w.Closed), ClosedWhy: w.ClosedWhy,
			Looks: []contract.WatchSeen{}, Photos: []contract.Attachment{},
		}
		if w.SurfaceID != nil {
			item.Side = new(side[*w.SurfaceID].Name)
		}
		for _, v := range visits { // in order of their days
			for _, l := range looks {
				if l.WatchItemID == w.ID && l.VisitID == v.ID && v.Status == "submitted" {
					item.Looks = append(item.Looks, contract.WatchSeen{Day: v.Day.Day(), State: l.State, Note: l.Note})
				}
			}
		}
		for _, f := range files {
			if f.EntityID == w.ID {
				item.Photos = append(item.Photos, organisation.AttachmentView(f, names))
			}
		}
		out = append(out, item)
	}
	return out, nil
}

// AddWatchItem opens something to be looked at again at each visit.
func (s *Service) AddWatchItem(ctx context.Context, a organisation.Actor, unit uuid.UUID, in contract.NewWatchItem) (contract.WatchItem, error) {
	var out contract.WatchItem
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	what := strings.TrimSpace(in.What)
	if what == "" {
		return out, invalid.At("/what", "say what is to be watched")
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		u, err := t.UnitSeen(unit)
		if err != nil {
			return err
		}
		if in.SurfaceID != nil {
			facts, err := t.LoadCard(unit)
			if err != nil {
				return err
			}
			if _, ok := store.Index(append(facts.Surfaces, facts.UnitSurfaces...), func(x store.Surface) uuid.UUID { return x.ID })[*in.SurfaceID]; !ok {
				return invalid.At("/surface_id", "is not a side of %s", u.Tag)
			}
		}
		today, err := s.SiteToday(t, u.PlacementID)
		if err != nil {
			return err
		}
		row := store.WatchItem{
			OrganisationID: t.Org, ID: store.NewID(), UnitID: unit, SurfaceID: in.SurfaceID, What: what, Opened: store.Date(today), AccountID: &a.AccountID,
		}
		if err := store.Insert(t, row); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "unit", unit, "watched", organisation.AuditDetail{Note: what}); err != nil {
			return err
		}
		return s.oneWatch(t, row, &out)
	})
	return out, err
}

func (s *Service) oneWatch(t store.Tenant, row store.WatchItem, into *contract.WatchItem) error {
	views, err := s.watchViews(t, []store.WatchItem{row})
	if err == nil {
		*into = views[0]
	}
	return err
}

// CloseWatchItem ends watching something, with the reason.
func (s *Service) CloseWatchItem(ctx context.Context, a organisation.Actor, id uuid.UUID, reason string) (contract.WatchItem, error) {
	var out contract.WatchItem
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	why := strings.TrimSpace(reason)
	if why == "" {
		return out, invalid.At("/reason", "say why it need not be watched any more")
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.WatchItem](t, id)
		if err != nil {
			return err
		}
		u, err := t.UnitSeen(row.UnitID)
		if err != nil {
			return err
		}
		if row.Closed != nil {
			return organisation.Conflict{Reason: "this was already closed"}
		}
		today, err := s.SiteToday(t, u.PlacementID)
		if err != nil {
			return err
		}
		row.Closed, row.ClosedWhy = new(store.Date(today)), why
		if err := store.Save(t, id, &row); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "unit", row.UnitID, "no longer watched", organisation.AuditDetail{Note: row.What + ": " + why}); err != nil {
			return err
		}
		return s.oneWatch(t, row, &out)
	})
	return out, err
}
