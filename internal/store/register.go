package store

import (
	"errors"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"nextround/core/calendar"
)

// SitesSeen lists the sites that may be seen, by name.
func (t Tenant) SitesSeen() ([]Site, error) {
	var rows []Site
	db := t.scoped()
	if t.Sites != nil {
		db = db.Where("id = ANY (?)", IDs(t.Sites))
	}
	err := db.Order("lower(name)").Find(&rows).Error
	return rows, err
}

// PlacementsSeen lists the placements of the sites that may be seen, by name.
func (t Tenant) PlacementsSeen() ([]Placement, error) {
	var rows []Placement
	db := t.scoped()
	if t.Sites != nil {
		db = db.Where("site_id = ANY (?)", IDs(t.Sites))
	}
	err := db.Order("lower(name), id").Find(&rows).Error
	return rows, err
}

// UnitsAt lists the units that stand at a site now.
func (t Tenant) UnitsAt(site uuid.UUID) ([]uuid.UUID, error) {
	var ids []uuid.UUID
	err := t.scoped().Model(&Unit{}).
		Where("placement_id IN (SELECT p.id FROM placement p WHERE p.organisation_id = ? AND p.site_id = ?)", t.Org, site).
		Order("id").Pluck("id", &ids).Error
	return ids, err
}

// UnitIDs lists the next units after one in the order of their ids, of all organisations' sites that may be seen.
func (t Tenant) UnitIDs(after uuid.UUID, limit int) ([]uuid.UUID, error) {
	var ids []uuid.UUID
	err := t.seen(t.scoped()).Model(&Unit{}).Where("id > ?", after).Order("id").Limit(limit).Pluck("id", &ids).Error
	return ids, err
}

// UnitByLabel finds the unit a label's code stands for.
func (t Tenant) UnitByLabel(code string) (Unit, error) {
	var row Unit
	err := t.seen(t.scoped()).Where("label_code = ?", code).Take(&row).Error
	return row, notFound(err)
}

// SetUnit changes some columns of a unit and counts its version up.
func (t Tenant) SetUnit(id uuid.UUID, columns map[string]any) error {
	columns["version"] = t.db.Raw("version + 1")
	return t.scoped().Model(&Unit{}).Where("id = ?", id).Updates(columns).Error
}

// EndStay ends a unit's stay that is open.
func (t Tenant) EndStay(stay UnitStay) error {
	return t.scoped().Model(&UnitStay{}).Where("id = ?", stay.ID).Update("during", stay.During).Error
}

// UnitSeen reads a unit; ErrNotFound when there is none or it stands where one may not look.
func (t Tenant) UnitSeen(id uuid.UUID) (Unit, error) {
	var row Unit
	err := t.seen(t.scoped()).Where("id = ?", id).Take(&row).Error
	return row, notFound(err)
}

// UnitSeenForUpdate is UnitSeen with the row locked until the transaction ends.
func (t Tenant) UnitSeenForUpdate(id uuid.UUID) (Unit, error) {
	var row Unit
	err := t.seen(t.lock()).Where("id = ?", id).Take(&row).Error
	return row, notFound(err)
}

// AuditOf lists what was done to a record, newest first.
func (t Tenant) AuditOf(entity string, id uuid.UUID, limit int) ([]Audit, error) {
	var rows []Audit
	err := t.scoped().Where("entity = ? AND entity_id = ?", entity, id).Order("at DESC, id DESC").Limit(limit).Find(&rows).Error
	return rows, err
}

// UnitsOnceAt lists the units that stand at a site or once did.
func (t Tenant) UnitsOnceAt(site uuid.UUID) ([]uuid.UUID, error) {
	var ids []uuid.UUID
	err := t.scoped().Model(&UnitStay{}).Distinct().
		Where("placement_id IN (SELECT p.id FROM placement p WHERE p.organisation_id = ? AND p.site_id = ?)", t.Org, site).
		Order("unit_id").Pluck("unit_id", &ids).Error
	return ids, err
}

// LoadCard reads what the card of a unit is made of, beside the unit itself.
func (t Tenant) LoadCard(unit uuid.UUID) (Facts, error) {
	var f Facts
	one := []uuid.UUID{unit}
	r := &reader{tenant: t}
	load(r, &f.Access, "unit_id", one, "lower(valid)")
	load(r, &f.Parts, "unit_id", one, "kind, specification, id")
	load(r, &f.Coils, "unit_id", one, "role DESC")
	load(r, &f.Surfaces, "coil_id", ids(f.Coils, func(c Coil) uuid.UUID { return c.ID }), "position, name")
	load(r, &f.UnitSurfaces, "unit_id", one, "position, name", "coil_id IS NULL")
	load(r, &f.Companions, "unit_id", one, "kind", "coil_id IS NULL")
	return f, r.err
}

// LoadStays reads where a unit stood and when it was out of service.
func (t Tenant) LoadStays(unit uuid.UUID) (Facts, error) {
	var f Facts
	r := &reader{tenant: t}
	load(r, &f.Stays, "unit_id", []uuid.UUID{unit}, "lower(during) NULLS FIRST")
	load(r, &f.Pauses, "unit_id", []uuid.UUID{unit}, "lower(during)")
	return f, r.err
}

// LastVisitDay is the day of the newest visit in force to a unit; nil when there is none.
func (t Tenant) LastVisitDay(unit uuid.UUID) (*calendar.Day, error) {
	var day *Date
	err := t.scoped().Model(&Visit{}).Where("unit_id = ? AND status = 'submitted'", unit).Select("max(day)").Scan(&day).Error
	return DayOf(day), err
}

// UncoverSides takes sides out from under their clocks, before they are removed.
func (t Tenant) UncoverSides(sides []uuid.UUID) error {
	if len(sides) == 0 {
		return nil
	}
	err := t.scoped().Where("surface_id = ANY (?)", IDs(sides)).Delete(&TaskSurface{}).Error
	if errors.Is(err, gorm.ErrForeignKeyViolated) {
		return ErrInUse
	}
	return err
}

// SiteTotal is what a site adds up to.
type SiteTotal struct {
	Units, Due int
	Worst      float64
}

// SiteTotals counts units, coils due and the worst coil of each site.
func (t Tenant) SiteTotals(today calendar.Day) (map[uuid.UUID]SiteTotal, error) {
	var rows []struct {
		SiteID uuid.UUID
		SiteTotal
	}
	err := t.scoped().Model(&CoilLine{}).
		Select("site_id, count(DISTINCT unit_id) AS units, count(*) FILTER (WHERE due <= ? AND status = 'in_service') AS due, max(blocked) AS worst", Date(today)).
		Where("status <> 'retired'").Group("site_id").Scan(&rows).Error
	out := map[uuid.UUID]SiteTotal{}
	for _, r := range rows {
		out[r.SiteID] = r.SiteTotal
	}
	return out, err
}

// LoadRegisterFacts reads what a register file holds of some units.
func (t Tenant) LoadRegisterFacts(units []uuid.UUID) (Facts, error) {
	var f Facts
	r := &reader{tenant: t}
	load(r, &f.Units, "id", units, "tag, id")
	load(r, &f.Stays, "unit_id", units, "lower(during)")
	load(r, &f.Coils, "unit_id", units, "role DESC")
	load(r, &f.Tasks, "unit_id", units, "kind DESC", "coil_id IS NOT NULL")
	return f, r.err
}

// UnitsByTag lists the units with some tags, in lower case, as far as they may be seen.
func (t Tenant) UnitsByTag(tags []string) ([]uuid.UUID, error) {
	ids := []uuid.UUID{}
	err := t.seen(t.scoped()).Model(&Unit{}).Where("lower(tag) = ANY (?)", Array[string](tags)).Order("id").Pluck("id", &ids).Error
	return ids, err
}

// AttachmentsOf lists the files kept with a record, oldest first, without their content.
func (t Tenant) AttachmentsOf(entity string, id uuid.UUID) ([]Attachment, error) {
	var rows []Attachment
	err := t.scoped().Omit("content").Where("entity = ? AND entity_id = ?", entity, id).Order("at, id").Find(&rows).Error
	return rows, err
}

// Labelled is what stands on a unit's label.
type Labelled struct {
	Tag, Code, ClassName, Place string
}

// Labels lists what stands on the labels of the units that a filter lets through.
func (t Tenant) Labels(f CoilFilter, limit int) ([]Labelled, error) {
	var rows []Labelled
	err := t.db.Raw(`SELECT u.tag, u.label_code AS code, k.name AS class_name, s.name || ' › ' || p.name AS place
		FROM unit u JOIN placement p ON p.organisation_id = u.organisation_id AND p.id = u.placement_id
		JOIN site s ON s.organisation_id = p.organisation_id AND s.id = p.site_id
		JOIN equipment_class k ON k.organisation_id = u.organisation_id AND k.id = u.class_id
		WHERE u.organisation_id = ? AND u.id IN (?) ORDER BY s.name, u.tag LIMIT ?`,
		t.Org, t.filtered(f).Select("l.unit_id"), limit).Scan(&rows).Error
	return rows, err
}
