package store

import (
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"nextround/core/calendar"
	"nextround/core/soil"
)

// CoilFilter says which coils are wanted; what is zero does not matter.
type CoilFilter struct {
	Text     string
	UnitID   *uuid.UUID
	SiteID   *uuid.UUID
	ClassID  *uuid.UUID
	Status   string
	Due      bool // due today or late, in service
	Proposed bool // with an open proposal
	MinGrade int
	Today    calendar.Day
}

// CoilPage says how they are sorted, after which one and how many are wanted.
type CoilPage struct {
	// Sort is site (the default), class, tag, due, soil, wait or rate.
	Sort  string
	After *CoilCursor
	Limit int
}

// CoilCursor is where a page ended.
type CoilCursor struct {
	Site    string       `json:"s,omitempty"`
	Class   string       `json:"k,omitempty"`
	Tag     string       `json:"t,omitempty"`
	Due     calendar.Day `json:"d"`
	Blocked float64      `json:"b,omitempty"`
	Wait    float64      `json:"w,omitempty"`
	Rate    float64      `json:"r,omitempty"`
	Coil    uuid.UUID    `json:"c"`
}

// CoilLineShown is a line with the names it is shown under.
type CoilLineShown struct {
	CoilLine
	PlacementName string
}

// Cursor is where a page that ends with this line goes on.
func (c CoilLineShown) Cursor(sort string) CoilCursor {
	out := CoilCursor{Coil: c.CoilID}
	switch sort {
	case "class":
		out.Class, out.Tag = c.ClassName, c.Tag
	case "tag":
		out.Tag = c.Tag
	case "due":
		out.Due = c.Due.Day()
	case "soil":
		out.Blocked = c.Blocked
	case "wait":
		out.Wait = c.WaitWeek
	case "rate":
		out.Rate = c.Rate
	default:
		out.Site, out.Tag = c.SiteName, c.Tag
	}
	return out
}

// like is a search text as a pattern.
func like(text string) string {
	return "%" + strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(strings.TrimSpace(text)) + "%"
}

func (t Tenant) filtered(f CoilFilter) *gorm.DB {
	db := t.db.Table("coil_line l").Where("l.organisation_id = ?", t.Org)
	if t.Sites != nil {
		db = db.Where("l.site_id = ANY (?)", IDs(t.Sites))
	}
	if f.UnitID != nil {
		db = db.Where("l.unit_id = ?", *f.UnitID)
	}
	if f.SiteID != nil {
		db = db.Where("l.site_id = ?", *f.SiteID)
	}
	if f.ClassID != nil {
		db = db.Where("l.class_id = ?", *f.ClassID)
	}
	if f.Status != "" {
		db = db.Where("l.status = ?", f.Status)
	} else {
		db = db.Where("l.status <> 'retired'")
	}
	if f.Due {
		db = db.Where("l.due <= ? AND l.status = 'in_service'", Date(f.Today))
	}
	if f.Proposed {
		db = db.Where("l.proposed")
	}
	if f.MinGrade > 0 {
		low, _ := soil.Grade(f.MinGrade).Band()
		db = db.Where("l.blocked >= ?", low)
	}
	if text := strings.TrimSpace(f.Text); text != "" {
		pattern := like(text)
		db = db.Where(`(l.tag ILIKE ? OR l.site_name ILIKE ? OR l.class_name ILIKE ? OR EXISTS (SELECT 1 FROM placement p
			WHERE p.organisation_id = l.organisation_id AND p.id = l.placement_id AND p.name ILIKE ?))`, pattern, pattern, pattern, pattern)
	}
	return db
}

// CoilLines gives a page of the portfolio, one more row than asked for when more follow.
func (t Tenant) CoilLines(f CoilFilter, p CoilPage) ([]CoilLineShown, error) {
	db := t.filtered(f).
		Select("l.*, p.name AS placement_name").
		Joins("JOIN placement p ON p.organisation_id = l.organisation_id AND p.id = l.placement_id")
	after := p.After
	switch p.Sort {
	case "class":
		if db = db.Order("l.class_name, l.tag, l.coil_id"); after != nil {
			db = db.Where("(l.class_name, l.tag, l.coil_id) > (?, ?, ?)", after.Class, after.Tag, after.Coil)
		}
	case "tag":
		if db = db.Order("l.tag, l.coil_id"); after != nil {
			db = db.Where("(l.tag, l.coil_id) > (?, ?)", after.Tag, after.Coil)
		}
	case "due":
		if db = db.Order("l.due, l.coil_id"); after != nil {
			db = db.Where("(l.due, l.coil_id) > (?, ?)", Date(after.Due), after.Coil)
		}
	case "soil":
		if db = db.Order("l.blocked DESC, l.coil_id"); after != nil {
			db = db.Where("(l.blocked < ? OR (l.blocked = ? AND l.coil_id > ?))", after.Blocked, after.Blocked, after.Coil)
		}
	case "wait":
		if db = db.Order("l.wait_week DESC, l.coil_id"); after != nil {
			db = db.Where("(l.wait_week < ? OR (l.wait_week = ? AND l.coil_id > ?))", after.Wait, after.Wait, after.Coil)
		}
	case "rate":
		if db = db.Order("l.rate DESC, l.coil_id"); after != nil {
			db = db.Where("(l.rate < ? OR (l.rate = ? AND l.coil_id > ?))", after.Rate, after.Rate, after.Coil)
		}
	default:
		if db = db.Order("l.site_name, l.tag, l.coil_id"); after != nil {
			db = db.Where("(l.site_name, l.tag, l.coil_id) > (?, ?, ?)", after.Site, after.Tag, after.Coil)
		}
	}
	var rows []CoilLineShown
	err := db.Limit(p.Limit + 1).Scan(&rows).Error
	return rows, err
}

// CoilCount is what a filter adds up to.
type CoilCount struct {
	Units, Coils, Sites, Due, Proposals, Unseen, AllUnits int
}

// CountCoilLines counts what a filter lets through.
func (t Tenant) CountCoilLines(f CoilFilter) (CoilCount, error) {
	var n CoilCount
	err := t.filtered(f).Select(`count(DISTINCT l.unit_id) AS units, count(*) AS coils, count(DISTINCT l.site_id) AS sites,
		count(*) FILTER (WHERE l.due <= ? AND l.status = 'in_service') AS due, count(*) FILTER (WHERE l.proposed) AS proposals,
		count(*) FILTER (WHERE l.blocked < 0) AS unseen`, Date(f.Today)).Scan(&n).Error
	if err != nil {
		return n, err
	}
	var all int64
	err = t.seen(t.scoped()).Model(&Unit{}).Where("status <> 'retired'").Count(&all).Error
	n.AllUnits = int(all)
	return n, err
}

// PutCoilLines writes lines, in place of earlier ones of the same coils.
func (t Tenant) PutCoilLines(rows []CoilLine) error {
	if len(rows) == 0 {
		return nil
	}
	coils := make(IDs, len(rows))
	for i, r := range rows {
		coils[i] = r.CoilID
	}
	if err := t.scoped().Where("coil_id = ANY (?)", coils).Delete(&CoilLine{}).Error; err != nil {
		return fmt.Errorf("replacing the portfolio's lines: %w", err)
	}
	return Insert(t, rows...)
}

// LooksWorth are the lines of coils of which it pays to know more, the most first.
func (t Tenant) LooksWorth(site *uuid.UUID, limit int) ([]CoilLine, error) {
	var rows []CoilLine
	db := t.scoped().Where("look_net > 0")
	if site != nil {
		db = db.Where("site_id = ?", *site)
	}
	if t.Sites != nil {
		db = db.Where("site_id = ANY (?)", IDs(t.Sites))
	}
	err := db.Order("look_net DESC, coil_id").Limit(limit).Find(&rows).Error
	return rows, err
}

// CoilHours are what the coils' deep cleans take of crew-hours, in one order.
func (t Tenant) CoilHours() ([]JSON, error) {
	var rows []struct{ Hours JSON }
	err := t.scoped().Model(&CoilLine{}).Where("jsonb_typeof(hours) = 'object' AND jsonb_exists(hours, 'curve')").Order("tag, coil_id").Select("hours").Scan(&rows).Error
	out := make([]JSON, len(rows))
	for i, r := range rows {
		out[i] = r.Hours
	}
	return out, err
}

// UnitsBehind lists units whose line is from another day at their site or from another model, or missing.
func (t Tenant) UnitsBehind(now time.Time, model string, limit int) ([]uuid.UUID, error) {
	var ids []uuid.UUID
	err := t.db.Raw(`SELECT DISTINCT l.unit_id FROM coil_line l JOIN site s ON s.organisation_id = l.organisation_id AND s.id = l.site_id
		WHERE l.organisation_id = ? AND (l.as_of <> (?::timestamptz AT TIME ZONE s.zone)::date OR l.model_version <> ?) LIMIT ?`,
		t.Org, now, model, limit).Scan(&ids).Error
	if err != nil || len(ids) > 0 {
		return ids, err
	}
	err = t.db.Raw(`SELECT DISTINCT c.unit_id FROM coil c WHERE c.organisation_id = ? AND NOT EXISTS (SELECT 1 FROM coil_line l
		WHERE l.organisation_id = c.organisation_id AND l.coil_id = c.id) LIMIT ?`, t.Org, limit).Scan(&ids).Error
	return ids, err
}

// Hit is something a search found.
type Hit struct {
	Kind, Label, Detail string
	ID                  uuid.UUID
}

// Search finds units and sites by text; those that begin with it come first.
func (t Tenant) Search(text string, limit int) ([]Hit, error) {
	pattern, begin := like(text), like(text)[1:]
	var hits []Hit
	seen := "TRUE"
	args := []any{}
	if t.Sites != nil {
		seen = "s.id = ANY (?)"
		args = append(args, IDs(t.Sites))
	}
	query := `SELECT kind, id, label, detail FROM (
		SELECT 'site' AS kind, s.id, s.name AS label, s.code AS detail, CASE WHEN s.name ILIKE ? OR s.code ILIKE ? THEN 0 ELSE 1 END AS rank
		FROM site s WHERE s.organisation_id = ? AND ` + seen + ` AND (s.name ILIKE ? OR s.code ILIKE ?)
		UNION ALL
		SELECT 'unit', u.id, u.tag, s.name || ' › ' || p.name, CASE WHEN u.tag ILIKE ? THEN 0 ELSE 1 END
		FROM unit u JOIN placement p ON p.organisation_id = u.organisation_id AND p.id = u.placement_id
		JOIN site s ON s.organisation_id = p.organisation_id AND s.id = p.site_id
		WHERE u.organisation_id = ? AND ` + seen + ` AND (u.tag ILIKE ? OR u.make ILIKE ? OR u.model ILIKE ? OR u.serial ILIKE ?)
	) found ORDER BY rank, length(label), label LIMIT ?`
	all := []any{begin, begin, t.Org}
	all = append(append(all, args...), pattern, pattern, begin, t.Org)
	all = append(append(all, args...), pattern, pattern, pattern, pattern, limit)
	err := t.db.Raw(query, all...).Scan(&hits).Error
	return hits, err
}
