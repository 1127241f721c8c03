package fieldwork

import (
	"context"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// AddFoundUnit keeps a unit met on site that is not in the register, for a manager to decide on.
func (s *Service) AddFoundUnit(ctx context.Context, a organisation.Actor, key uuid.UUID, in contract.NewFoundUnit) (contract.FoundUnit, error) {
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return contract.FoundUnit{}, err
	}
	return organisation.Once(s.Base, s.Tenant(ctx, a), a, key, in, func(t store.Tenant) (contract.FoundUnit, error) {
		var bad invalid.Error
		if organisation.SeesSite(t, in.SiteID) != nil {
			bad.Addf("/site_id", "is not one of your sites")
		}
		row := store.FoundUnit{
			OrganisationID: t.Org, ID: key, SiteID: in.SiteID, Place: optional.Trim(&in.Place), Tag: optional.Trim(in.Tag), ClassID: in.ClassID,
			Note: optional.Trim(in.Note), AccountID: &a.AccountID, At: s.Stamp(),
		}
		if row.Place == "" {
			bad.Addf("/place", "say where it is")
		}
		if in.ClassID != nil {
			if _, err := store.Get[store.EquipmentClass](t, *in.ClassID); err != nil {
				bad.Addf("/class_id", "is not one of your classes")
			}
		}
		if err := bad.Err(); err != nil {
			return contract.FoundUnit{}, err
		}
		site, err := store.Get[store.Site](t, in.SiteID)
		if err != nil {
			return contract.FoundUnit{}, err
		}
		row.Day = store.Date(s.Today(site.Zone))
		if err := store.Insert(t, row); err != nil {
			return contract.FoundUnit{}, err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "site", row.SiteID, "unit found", organisation.AuditDetail{Note: row.Place + " " + row.Tag}); err != nil {
			return contract.FoundUnit{}, err
		}
		views, err := s.foundViews(t, []store.FoundUnit{row})
		if err != nil {
			return contract.FoundUnit{}, err
		}
		return views[0], nil
	})
}

// FoundUnits lists what was found and waits for a decision.
func (s *Service) FoundUnits(ctx context.Context, a organisation.Actor) ([]contract.FoundUnit, error) {
	if err := a.Only(contract.RoleManager); err != nil {
		return nil, err
	}
	t := s.Tenant(ctx, a)
	rows, err := t.OpenFoundUnits()
	if err != nil {
		return nil, err
	}
	return s.foundViews(t, rows)
}

func (s *Service) foundViews(t store.Tenant, rows []store.FoundUnit) ([]contract.FoundUnit, error) {
	out := []contract.FoundUnit{}
	names, err := s.Names(t)
	if err != nil {
		return nil, err
	}
	sites, err := store.Where[store.Site](t, "id", store.Keys(rows, func(x store.FoundUnit) uuid.UUID { return x.SiteID }), "id")
	if err != nil {
		return nil, err
	}
	classes, err := store.All[store.EquipmentClass](t, "id")
	if err != nil {
		return nil, err
	}
	site := store.Index(sites, func(x store.Site) uuid.UUID { return x.ID })
	files, err := store.Where[store.Attachment](t, "entity_id", store.Keys(rows, func(x store.FoundUnit) uuid.UUID { return x.ID }), "at, id")
	if err != nil {
		return nil, err
	}
	of := store.By(files, func(x store.Attachment) uuid.UUID { return x.EntityID })
	class := store.Index(classes, func(x store.EquipmentClass) uuid.UUID { return x.ID })
	for _, x := range rows {
		line := contract.FoundUnit{
			ID: x.ID, SiteID: x.SiteID, Site: site[x.SiteID].Name, Place: x.Place, Tag: x.Tag, Note: x.Note, Day: x.Day.Day(), By: names.Of(x.AccountID),
			Class: class[optional.Value(x.ClassID)].Name, ClassCode: class[optional.Value(x.ClassID)].Code, Photos: []contract.Attachment{},
		}
		for _, f := range of[x.ID] {
			line.Photos = append(line.Photos, organisation.AttachmentView(f, names))
		}
		out = append(out, line)
	}
	return out, nil
}

// DecideFoundUnit closes what was found: added as a unit, or not, with why.
func (s *Service) DecideFoundUnit(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.FoundDecision) error {
	if err := a.Only(contract.RoleManager); err != nil {
		return err
	}
	why := optional.Trim(in.Dismissed)
	if (in.UnitID == nil) == (why == "") {
		return invalid.At("/dismissed", "say as which unit it was added, or why it was not")
	}
	return s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.FoundUnit](t, id)
		if err != nil {
			return err
		}
		if err := organisation.SeesSite(t, row.SiteID); err != nil {
			return err
		}
		if row.DecidedAt != nil {
			return organisation.Conflict{Reason: "somebody has decided on it already"}
		}
		if in.UnitID != nil {
			if err := organisation.SeesUnit(t, *in.UnitID); err != nil {
				return invalid.At("/unit_id", "is not one of your units")
			}
		}
		row.UnitID, row.Dismissed, row.DecidedBy, row.DecidedAt = in.UnitID, why, &a.AccountID, new(s.Stamp())
		if err := store.Save(t, id, &row); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, "site", row.SiteID, "found unit decided", organisation.AuditDetail{Note: row.Place + " " + why})
	})
}
