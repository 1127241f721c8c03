package store

import "github.com/google/uuid"

// UnitsSeen are those of some units that stand where the actor may look.
func (t Tenant) UnitsSeen(ids []uuid.UUID) ([]Unit, error) {
	var rows []Unit
	db := t.db.Where("organisation_id = ? AND id = ANY (?)", t.Org, IDs(ids))
	if t.Sites != nil {
		db = db.Where("placement_id IN (SELECT p.id FROM placement p WHERE p.organisation_id = ? AND p.site_id = ANY (?))", t.Org, IDs(t.Sites))
	}
	return rows, db.Order("tag").Find(&rows).Error
}

// HasSurface says whether a side or surface belongs to a unit.
func (t Tenant) HasSurface(unit, surface uuid.UUID) (bool, error) {
	var n int64
	err := t.db.Model(&Surface{}).Where(`organisation_id = ? AND id = ? AND (unit_id = ? OR coil_id IN
		(SELECT c.id FROM coil c WHERE c.organisation_id = surface.organisation_id AND c.unit_id = ?))`, t.Org, surface, unit, unit).Count(&n).Error
	return n > 0, err
}

// VisitsSeen says which of some visits were at sites where the actor may look.
func (t Tenant) VisitsSeen(ids []uuid.UUID) (map[uuid.UUID]bool, error) {
	visits, err := Where[Visit](t, "id", ids, "id")
	if err != nil {
		return nil, err
	}
	units, err := t.UnitsSeen(Keys(visits, func(v Visit) uuid.UUID { return v.UnitID }))
	if err != nil {
		return nil, err
	}
	there := Index(units, func(u Unit) uuid.UUID { return u.ID })
	out := map[uuid.UUID]bool{}
	for _, v := range visits {
		_, out[v.ID] = there[v.UnitID]
	}
	return out, nil
}

// PeopleSeen are the people by name, but for those whose account is limited to sites where the actor may not look.
func (t Tenant) PeopleSeen() ([]Person, error) {
	var rows []Person
	db := t.db.Where("organisation_id = ?", t.Org)
	if t.Sites != nil {
		db = db.Where(`NOT EXISTS (SELECT 1 FROM membership m WHERE m.organisation_id = person.organisation_id AND m.person_id = person.id AND NOT m.all_sites)
			OR EXISTS (SELECT 1 FROM membership m JOIN membership_site s ON s.organisation_id = m.organisation_id AND s.membership_id = m.id
				WHERE m.organisation_id = person.organisation_id AND m.person_id = person.id AND s.site_id = ANY (?))`, IDs(t.Sites))
	}
	return rows, db.Order("name").Find(&rows).Error
}
