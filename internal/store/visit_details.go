package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"nextround/core/calendar"
)

// EndAnswers ends the answers to a question that hold for the organisation, a site or a unit. One given the same day is taken
// away, since it never held. What stood is returned, the earliest first.
func (t Tenant) EndAnswers(question string, site, unit *uuid.UUID, today calendar.Day) (was []HouseRule, err error) {
	where := "question = ? AND upper_inf(valid) AND site_id IS NOT DISTINCT FROM ? AND unit_id IS NOT DISTINCT FROM ?"
	if err := t.scoped().Where(where, question, site, unit).Order("lower(valid)").Find(&was).Error; err != nil {
		return nil, fmt.Errorf("reading an answer: %w", err)
	}
	err = t.scoped().Where(where+" AND lower(valid) >= ?", question, site, unit, Date(today)).Delete(&HouseRule{}).Error
	if err != nil {
		return nil, fmt.Errorf("ending an answer: %w", err)
	}
	return was, t.scoped().Model(&HouseRule{}).Where(where, question, site, unit).
		Update("valid", t.db.Raw("daterange(lower(valid), ?)", Date(today))).Error
}

// ExceptionLine is a house rule set aside, with where and when.
type ExceptionLine struct {
	RuleException
	UnitID    uuid.UUID
	Tag       string
	Day       Date
	AccountID *uuid.UUID
}

// Exceptions are the newest exceptions to house rules at units that may be seen.
func (t Tenant) Exceptions(most int) ([]ExceptionLine, error) {
	var rows []ExceptionLine
	db := t.db.Table("rule_exception e").Select("e.*, v.unit_id, u.tag, v.day, v.account_id").
		Joins("JOIN visit v ON v.organisation_id = e.organisation_id AND v.id = e.visit_id").
		Joins("JOIN unit u ON u.organisation_id = v.organisation_id AND u.id = v.unit_id").
		Where("e.organisation_id = ? AND v.status = 'submitted'", t.Org)
	err := t.seen(db).Order("v.day DESC, e.id DESC").Limit(most).Scan(&rows).Error
	return rows, err
}

// VisitDetails are what a visit holds beside its findings and treatments.
type VisitDetails struct {
	Steps      []StepResult
	Isolation  []IsolationProof
	Readings   []Reading
	Cells      []FindingCell
	Exceptions []RuleException
	Looks      []WatchLook
	Advice     []AdviceGiven
	Counts     []CountBack
	Opened     []WatchItem
	Symptoms   []SymptomReport
}

// VisitsOn lists the visits of a day to some units that stand, in the order they came in.
func (t Tenant) VisitsOn(units []uuid.UUID, day Date) ([]Visit, error) {
	var rows []Visit
	err := t.scoped().Where("unit_id IN ? AND day = ? AND status = 'submitted'", units, day).Order("submitted_at, id").Find(&rows).Error
	return rows, err
}

// LoadVisitDetails reads the details of some visits.
func (t Tenant) LoadVisitDetails(visits []uuid.UUID) (VisitDetails, error) {
	var d VisitDetails
	r := &reader{tenant: t}
	load(r, &d.Steps, "visit_id", visits, "visit_id, position")
	load(r, &d.Isolation, "visit_id", visits, "visit_id")
	load(r, &d.Readings, "visit_id", visits, "visit_id, id")
	var findings []Finding
	load(r, &findings, "visit_id", visits, "visit_id")
	load(r, &d.Cells, "finding_id", ids(findings, func(x Finding) uuid.UUID { return x.ID }), "finding_id, row_no, column_no")
	load(r, &d.Exceptions, "visit_id", visits, "visit_id, id")
	load(r, &d.Looks, "visit_id", visits, "visit_id, watch_item_id")
	load(r, &d.Advice, "visit_id", visits, "visit_id, id")
	load(r, &d.Counts, "visit_id", visits, "visit_id, what")
	load(r, &d.Opened, "visit_id", visits, "visit_id, id")
	load(r, &d.Symptoms, "visit_id", visits, "visit_id, id")
	return d, r.err
}

// UndoBooks takes what a visit drew out of the stock book again, and the companion clocks its steps ticked.
func (t Tenant) UndoBooks(visit uuid.UUID) error {
	if err := t.scoped().Where("visit_id = ?", visit).Delete(&StockMove{}).Error; err != nil {
		return err
	}
	return t.scoped().Where("visit_id = ?", visit).Delete(&TaskTick{}).Error
}

// MoveOpened gives what a visit opened, watch items and answered symptoms, to the version in its place.
func (t Tenant) MoveOpened(from, to uuid.UUID) error {
	if err := t.scoped().Model(&WatchItem{}).Where("visit_id = ?", from).Update("visit_id", to).Error; err != nil {
		return err
	}
	return t.scoped().Model(&SymptomReport{}).Where("visit_id = ?", from).Update("visit_id", to).Error
}

// BackToClock ends a date brought forward, for tasks that were done.
func (t Tenant) BackToClock(tasks []uuid.UUID) error {
	if len(tasks) == 0 {
		return nil
	}
	return t.scoped().Model(&Task{}).Where("id = ANY (?) AND forward_to IS NOT NULL", IDs(tasks)).Update("forward_to", nil).Error
}

// AnswerSymptom writes what a visit found of a symptom, and closes it.
func (t Tenant) AnswerSymptom(id, visit uuid.UUID, coil bool) error {
	return t.scoped().Model(&SymptomReport{}).Where("id = ?", id).
		Updates(map[string]any{"coil_was_cause": coil, "visit_id": visit, "status": "closed"}).Error
}

// OpenWatch are the watch items of a unit that are not closed, the oldest first.
func (t Tenant) OpenWatch(unit uuid.UUID) ([]WatchItem, error) {
	var rows []WatchItem
	err := t.scoped().Where("unit_id = ? AND closed IS NULL", unit).Order("opened, id").Find(&rows).Error
	return rows, err
}

// OpenSymptoms are the symptoms of a unit that no visit has answered, the oldest first.
func (t Tenant) OpenSymptoms(unit uuid.UUID) ([]SymptomReport, error) {
	var rows []SymptomReport
	err := t.scoped().Where("unit_id = ? AND status IN ('open', 'brought_forward')", unit).Order("at, id").Find(&rows).Error
	return rows, err
}

// makerManages holds for links whose maker still manages the link's site: a link reaches no further than who made it.
const makerManages = `EXISTS (SELECT 1 FROM membership m JOIN account a ON a.id = m.account_id
	WHERE m.organisation_id = guest_link.organisation_id AND m.account_id = guest_link.account_id AND m.role = 'manager' AND NOT a.disabled
	AND (m.all_sites OR EXISTS (SELECT 1 FROM membership_site s WHERE s.organisation_id = m.organisation_id AND s.membership_id = m.id AND s.site_id = guest_link.site_id)))`

// OrphanedLinks are those of some links whose maker no longer manages their site.
func (t Tenant) OrphanedLinks(ids []uuid.UUID) ([]uuid.UUID, error) {
	out := []uuid.UUID{}
	err := t.db.Model(&GuestLink{}).Where("organisation_id = ? AND id = ANY (?) AND NOT "+makerManages, t.Org, IDs(ids)).Order("id").Pluck("id", &out).Error
	return out, err
}

// TakeGuestLink finds a link that works.
func (s *Store) TakeGuestLink(ctx context.Context, hash string, now time.Time) (GuestLink, error) {
	var row GuestLink
	err := s.DB.WithContext(ctx).Where("token_hash = ? AND revoked_at IS NULL AND expires_at > ? AND (kind = 'site_staff' OR used_at IS NULL) AND "+makerManages, hash, now).
		Take(&row).Error
	return row, notFound(err)
}

// UsedGuestLink finds a contractor's link that was used up, but has neither ended nor expired.
func (s *Store) UsedGuestLink(ctx context.Context, hash string, now time.Time) (GuestLink, error) {
	var row GuestLink
	err := s.DB.WithContext(ctx).Where("token_hash = ? AND revoked_at IS NULL AND expires_at > ? AND kind = 'contractor' AND used_at IS NOT NULL AND "+makerManages, hash, now).
		Take(&row).Error
	return row, notFound(err)
}

// UseGuestUnit notes that a link's visit to a unit was returned; how many of its units are still to be.
func (t Tenant) UseGuestUnit(link, unit uuid.UUID, at time.Time) (left int64, err error) {
	if err := t.scoped().Model(&GuestLinkUnit{}).Where("link_id = ? AND unit_id = ?", link, unit).Update("used_at", at).Error; err != nil {
		return 0, err
	}
	err = t.scoped().Model(&GuestLinkUnit{}).Where("link_id = ? AND used_at IS NULL", link).Count(&left).Error
	return left, err
}

// SymptomsByLink lists the complaints that came by a link, the newest first.
func (t Tenant) SymptomsByLink(link uuid.UUID, most int) ([]SymptomReport, error) {
	var rows []SymptomReport
	err := t.scoped().Where("link_id = ?", link).Order("at DESC, id DESC").Limit(most).Find(&rows).Error
	return rows, err
}

// Symptoms are the newest complaints at sites that may be seen, open ones first.
func (t Tenant) Symptoms(most int) ([]SymptomReport, error) {
	var rows []SymptomReport
	db := t.scoped()
	if t.Sites != nil {
		db = db.Where("site_id = ANY (?)", IDs(t.Sites))
	}
	err := db.Order("status <> 'open', status = 'closed', at DESC, id DESC").Limit(most).Find(&rows).Error
	return rows, err
}

// BringForward makes a task due on a day, until it is done.
func (t Tenant) BringForward(task uuid.UUID, day calendar.Day) error {
	return t.scoped().Model(&Task{}).Where("id = ?", task).Update("forward_to", Date(day)).Error
}

// SaveStockItem writes when a cleaner is bought again; ErrStale when another version stands.
func (t Tenant) SaveStockItem(row StockItem, read int) error {
	if read == 0 {
		err := t.db.Create(&row).Error
		if errors.Is(err, gorm.ErrDuplicatedKey) {
			return ErrStale
		}
		return err
	}
	res := t.scoped().Model(&StockItem{}).Where("cleaner_id = ? AND version = ?", row.CleanerID, read).
		Updates(map[string]any{"reorder_at_l": row.ReorderAtL, "lead_days": row.LeadDays, "version": row.Version})
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrStale
	}
	return res.Error
}

// GraderOf is what is known of how somebody grades; ErrNotFound when nothing is.
func (t Tenant) GraderOf(person uuid.UUID) (Grader, error) {
	var row Grader
	err := t.lock().Where("organisation_id = ? AND person_id = ?", t.Org, person).Take(&row).Error
	return row, notFound(err)
}

// KeepGrader writes what is known of how somebody grades.
func (t Tenant) KeepGrader(row Grader) error {
	return t.db.Clauses(clause.OnConflict{
		Columns: []clause.Column{{Name: "organisation_id"}, {Name: "person_id"}}, DoUpdates: clause.AssignmentColumns([]string{"scores", "estimate", "at"}),
	}).Create(&row).Error
}

// PutRefrigerantTable keeps a saturation table in place of an earlier one.
func (t Tenant) PutRefrigerantTable(row RefrigerantTable) error {
	return t.db.Clauses(clause.OnConflict{
		Columns: []clause.Column{{Name: "organisation_id"}, {Name: "code"}}, DoUpdates: clause.AssignmentColumns([]string{"points", "account_id", "at"}),
	}).Create(&row).Error
}

// NewestMails lists mails, the newest first.
func (t Tenant) NewestMails(most int) ([]MailOut, error) {
	var rows []MailOut
	err := t.scoped().Omit("file", "body").Order("at DESC, id DESC").Limit(most).Find(&rows).Error
	return rows, err
}

// LockMail is a mail, held until the transaction ends.
func (t Tenant) LockMail(id uuid.UUID) (MailOut, error) {
	var row MailOut
	err := t.lock().Where("id = ?", id).Take(&row).Error
	return row, notFound(err)
}

// WaitingMails are mails of every organisation that are still to be delivered, the oldest first.
func (s *Store) WaitingMails(ctx context.Context) ([]MailOut, error) {
	var rows []MailOut
	err := s.DB.WithContext(ctx).Where("status = 'waiting'").Omit("file", "body").Order("at, id").Find(&rows).Error
	return rows, err
}

// Found is the worst grade found at a unit's newest visit that graded it.
type Found struct {
	UnitID uuid.UUID
	Day    Date
	Grade  int
}

// LastFound is what the newest visits found of some units.
func (t Tenant) LastFound(units []uuid.UUID) ([]Found, error) {
	var rows []Found
	err := t.db.Raw(`SELECT DISTINCT ON (v.unit_id) v.unit_id, v.day, max(f.grade) AS grade FROM visit v
		JOIN finding f ON f.organisation_id = v.organisation_id AND f.visit_id = v.id AND f.phase = 'opened_up'
		WHERE v.organisation_id = ? AND v.status = 'submitted' AND v.unit_id = ANY (?)
		GROUP BY v.unit_id, v.id, v.day ORDER BY v.unit_id, v.day DESC, v.id DESC`, t.Org, IDs(units)).Scan(&rows).Error
	return rows, err
}
