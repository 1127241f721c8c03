package store

import (
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm/clause"

	"nextround/core/calendar"
)

// SetTaskInterval changes a task's interval; ErrStale when the task is no longer at the version that was read.
func (t Tenant) SetTaskInterval(task Task, days int) error {
	res := t.scoped().Model(&Task{}).Where("id = ? AND version = ?", task.ID, task.Version).
		Updates(map[string]any{"every_days": days, "version": task.Version + 1})
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrStale
	}
	return res.Error
}

// CloseProposals moves the open proposals of some tasks to another status.
func (t Tenant) CloseProposals(tasks []uuid.UUID, status string) error {
	if len(tasks) == 0 {
		return nil
	}
	return t.scoped().Model(&Proposal{}).Where("task_id IN ? AND status = 'open'", tasks).Update("status", status).Error
}

// SetRoundStatus moves a round to another status.
func (t Tenant) SetRoundStatus(id uuid.UUID, status string) error {
	return t.scoped().Model(&Round{}).Where("id = ?", id).
		Updates(map[string]any{"status": status}).Error
}

// LockUnits reads the units and keeps them locked until the transaction ends, in one order for all callers.
func (t Tenant) LockUnits(units []uuid.UUID) ([]Unit, error) {
	var rows []Unit
	err := t.lock().Where("id IN ?", units).Order("id").Find(&rows).Error
	return rows, err
}

// OnRound is a task that a published round carries.
type OnRound struct {
	TaskID uuid.UUID
	Day    Date
}

// TasksOnRounds lists the tasks carried by rounds published for today or later.
func (t Tenant) TasksOnRounds(today calendar.Day) ([]OnRound, error) {
	var rows []OnRound
	err := t.db.Table("stop_job j").
		Select("j.task_id, min(r.day) AS day").
		Joins("JOIN stop s ON s.organisation_id = j.organisation_id AND s.id = j.stop_id").
		Joins("JOIN round r ON r.organisation_id = s.organisation_id AND r.id = s.round_id").
		Where("j.organisation_id = ? AND r.status = 'published' AND r.day >= ?", t.Org, Date(today)).
		Group("j.task_id").Scan(&rows).Error
	return rows, err
}

// PublishedRound finds the crew's round of a day; ErrNotFound when there is none.
func (t Tenant) PublishedRound(crew uuid.UUID, day calendar.Day) (Round, error) {
	var row Round
	err := t.scoped().Where("crew_id = ? AND day = ? AND status = 'published'", crew, Date(day)).Take(&row).Error
	return row, notFound(err)
}

// NewestVisits lists the newest visits in force, newest first.
func (t Tenant) NewestVisits(limit int) ([]Visit, error) {
	var rows []Visit
	err := t.scoped().Where("status = 'submitted'").Order("day DESC, id DESC").Limit(limit).Find(&rows).Error
	return rows, err
}

// TakeKey stores an idempotency key; the second result is the answer stored earlier, if there was one. Two
// senders of one key wait for one another: the row is locked until the transaction ends.
func (t Tenant) TakeKey(row Idempotency) (first bool, earlier Idempotency, err error) {
	res := t.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&row)
	if res.Error != nil || res.RowsAffected == 1 {
		return true, row, res.Error
	}
	err = t.lock().Where("account_id = ? AND key = ?", row.AccountID, row.Key).Take(&earlier).Error
	return false, earlier, err
}

// KeepAnswer stores the answer that belongs to a key.
func (t Tenant) KeepAnswer(account, key uuid.UUID, answer any) error {
	return t.scoped().Model(&Idempotency{}).Where("account_id = ? AND key = ?", account, key).
		Update("answer", ToJSON(answer)).Error
}

// Record writes an audit row.
func (t Tenant) Record(at time.Time, account uuid.UUID, entity string, id uuid.UUID, action string, detail any) error {
	row := Audit{
		OrganisationID: t.Org, ID: NewID(), At: at, Entity: entity, EntityID: id, Action: action, Detail: ToJSON(detail),
	}
	if account != uuid.Nil {
		row.AccountID = &account
	}
	return Insert(t, row)
}

// Evidence names what a decision on a task rested on.
type Evidence struct {
	TaskID uuid.UUID
	Hash   string
}

// DecidedEvidence is the evidence on which proposals were already accepted or overridden.
func (t Tenant) DecidedEvidence() (map[Evidence]bool, error) {
	var rows []Proposal
	err := t.scoped().Select("task_id", "inputs_hash").Where("status IN ('accepted', 'overridden')").Find(&rows).Error
	out := map[Evidence]bool{}
	for _, r := range rows {
		out[Evidence{TaskID: r.TaskID, Hash: r.InputsHash}] = true
	}
	return out, err
}

// SiteByName finds a site without regard to case.
func (t Tenant) SiteByName(name string) (Site, error) {
	var row Site
	err := t.scoped().Where("lower(name) = lower(?)", name).Take(&row).Error
	return row, notFound(err)
}

// SaveSite writes a site back; ErrStale when it is no longer at the version that was read.
func (t Tenant) SaveSite(site Site) error {
	read := site.Version
	site.Version++
	res := t.scoped().Model(&Site{}).Where("id = ? AND version = ?", site.ID, read).
		Select("name", "zone", "address", "contact", "access_note", "lat", "lon", "version").Updates(site)
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrStale
	}
	return res.Error
}
