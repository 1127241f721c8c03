package store

import (
	"encoding/json"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"nextround/core/calendar"
)

// SetTaskInterval changes a task's interval, and lets it go on where it had ended; ErrStale when the task is no longer at the version that was read.
func (t Tenant) SetTaskInterval(task Task, days int) error {
	res := t.scoped().Model(&Task{}).Where("id = ? AND version = ?", task.ID, task.Version).
		Updates(map[string]any{"every_days": days, "paused": false, "version": task.Version + 1})
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrStale
	}
	return res.Error
}

// SetTaskPlan sets how a task is done from now on, and the day it is first due so.
func (t Tenant) SetTaskPlan(task uuid.UUID, plan JSON, first Date, yearDays Array[int]) error {
	return t.scoped().Model(&Task{}).Where("id = ?", task).Updates(map[string]any{"plan": plan, "forward_to": first, "year_days": yearDays}).Error
}

// ClearYearDays lets a task go by its interval alone.
func (t Tenant) ClearYearDays(task uuid.UUID) error {
	return t.scoped().Model(&Task{}).Where("id = ?", task).Update("year_days", nil).Error
}

// SetAnchor sets the month that a task should fall into.
func (t Tenant) SetAnchor(task uuid.UUID, month *int) error {
	return t.scoped().Model(&Task{}).Where("id = ?", task).Update("anchor_month", month).Error
}

// SetLightTask sets the interval of a light clean, or ends it; ErrStale when the task is no longer at the version that was read.
func (t Tenant) SetLightTask(task Task, days int, ended bool) error {
	res := t.scoped().Model(&Task{}).Where("id = ? AND version = ?", task.ID, task.Version).
		Updates(map[string]any{"every_days": days, "paused": ended, "version": task.Version + 1})
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrStale
	}
	return res.Error
}

// PutProposalFigures writes what open proposals come to now: days and plan stay as they were proposed.
func (t Tenant) PutProposalFigures(rows []Proposal) error {
	if len(rows) == 0 {
		return nil
	}
	figures := make([]map[string]any, len(rows))
	for i, p := range rows {
		figures[i] = map[string]any{
			"id": p.ID, "saves_year": p.SavesYear, "result": json.RawMessage(p.Result), "program": json.RawMessage(p.Program), "rests": json.RawMessage(p.Rests), "reasons": json.RawMessage(p.Reasons),
			"habit_days": p.HabitDays, "staircase_days": p.StaircaseDays, "limit_days": p.LimitDays, "cost_days": p.CostDays, "binding": p.Binding,
		}
	}
	return t.db.Exec(`UPDATE proposal p SET saves_year = v.saves_year, result = v.result, program = v.program, rests = v.rests, reasons = v.reasons, habit_days = v.habit_days,
			staircase_days = v.staircase_days, limit_days = v.limit_days, cost_days = v.cost_days, binding = v.binding
		FROM jsonb_to_recordset(?::jsonb) AS v(id uuid, saves_year float8, result jsonb, program jsonb, rests jsonb, reasons jsonb, habit_days float8,
			staircase_days float8, limit_days float8, cost_days float8, binding text)
		WHERE p.organisation_id = ? AND p.id = v.id AND p.status = 'open'`, ToJSON(figures), t.Org).Error
}

// CloseProposals moves the open proposals of some tasks to another status.
func (t Tenant) CloseProposals(tasks []uuid.UUID, status string, at time.Time) error {
	if len(tasks) == 0 {
		return nil
	}
	return t.scoped().Model(&Proposal{}).Where("task_id = ANY (?) AND status = 'open'", IDs(tasks)).
		Updates(map[string]any{"status": status, "closed_at": at}).Error
}

// SetRoundStatus moves a round to another status. What is withdrawn is told to the crew's calendar as a change of its own.
func (t Tenant) SetRoundStatus(id uuid.UUID, status string, at time.Time) error {
	change := map[string]any{"status": status, "changed_at": at}
	if status == "withdrawn" {
		change["sequence"] = gorm.Expr("sequence + 1")
	}
	return t.scoped().Model(&Round{}).Where("id = ?", id).Updates(change).Error
}

// LockUnits reads the units and keeps them locked until the transaction ends, in one order for all callers.
func (t Tenant) LockUnits(units []uuid.UUID) ([]Unit, error) {
	var rows []Unit
	err := t.seen(t.lock()).Where("id = ANY (?)", IDs(units)).Order("id").Find(&rows).Error
	return rows, err
}

// LockFreeUnits locks those of some units that nobody else holds, and names them: what somebody else works on is theirs.
func (t Tenant) LockFreeUnits(units []uuid.UUID) ([]uuid.UUID, error) {
	var rows []Unit
	err := t.scoped().Clauses(clause.Locking{Strength: "UPDATE", Options: "SKIP LOCKED"}).Select("id").
		Where("id = ANY (?)", IDs(units)).Order("id").Find(&rows).Error
	return ids(rows, func(u Unit) uuid.UUID { return u.ID }), err
}

// OnRound is a task that a published round carries.
type OnRound struct {
	TaskID uuid.UUID
	Day    Date
}

// TasksOnRounds lists the tasks carried by rounds published for today or later, the last day first.
func (t Tenant) TasksOnRounds(today calendar.Day) ([]OnRound, error) {
	var rows []OnRound
	err := t.db.Table("stop_job j").
		Select("unnest(j.tasks) AS task_id, r.day").
		Joins("JOIN stop s ON s.organisation_id = j.organisation_id AND s.id = j.stop_id").
		Joins("JOIN round r ON r.organisation_id = s.organisation_id AND r.id = s.round_id").
		Where("j.organisation_id = ? AND r.status = 'published' AND r.day >= ?", t.Org, Date(today)).
		Order("r.day DESC").Scan(&rows).Error
	return rows, err
}

// NewestVisits lists the newest visits in force, newest first.
func (t Tenant) NewestVisits(limit int) ([]Visit, error) {
	var rows []Visit
	db := t.scoped().Where("status = 'submitted'")
	if t.Sites != nil {
		db = db.Where("unit_id IN (?)", t.seen(t.db.Model(&Unit{}).Select("id").Where("organisation_id = ?", t.Org)))
	}
	err := db.Order("day DESC, id DESC").Limit(limit).Find(&rows).Error
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

// DecidedEvidence is the evidence on which proposals for some tasks were already accepted or overridden.
func (t Tenant) DecidedEvidence(tasks []uuid.UUID) (map[Evidence]bool, error) {
	var rows []Proposal
	err := t.scoped().Select("task_id", "inputs_hash").
		Where("status IN ('accepted', 'overridden') AND task_id = ANY (?)", IDs(tasks)).Find(&rows).Error
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

// ClearCrewHours forgets the hours of a crew.
func (t Tenant) ClearCrewHours(crew uuid.UUID) error {
	return t.scoped().Where("crew_id = ?", crew).Delete(&CrewHours{}).Error
}

// SetVisitStatus takes a visit out of force, with the reason. The visit itself is not touched.
func (t Tenant) SetVisitStatus(id uuid.UUID, status, reason string) error {
	return t.scoped().Model(&Visit{}).Where("id = ?", id).Updates(map[string]any{"status": status, "status_reason": reason}).Error
}

// SupersededBy names the visit that stands in place of another; nil when none does.
func (t Tenant) SupersededBy(id uuid.UUID) (*uuid.UUID, error) {
	var ids []uuid.UUID
	err := t.scoped().Model(&Visit{}).Where("supersedes = ?", id).Limit(1).Pluck("id", &ids).Error
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	return &ids[0], nil
}

// LoadVisit reads what one visit found, did and left.
func (t Tenant) LoadVisit(id uuid.UUID) (Facts, error) {
	var f Facts
	one := []uuid.UUID{id}
	r := &reader{tenant: t}
	load(r, &f.People, "visit_id", one, "visit_id")
	load(r, &f.Reached, "visit_id", one, "visit_id")
	load(r, &f.Findings, "visit_id", one, "visit_id")
	load(r, &f.FindingSoils, "finding_id", ids(f.Findings, func(x Finding) uuid.UUID { return x.ID }), "finding_id, soil_id")
	load(r, &f.Treatments, "visit_id", one, "visit_id, seq")
	load(r, &f.TreatmentSide, "treatment_id", ids(f.Treatments, func(x Treatment) uuid.UUID { return x.ID }), "treatment_id")
	load(r, &f.PartLooks, "visit_id", one, "part")
	return f, r.err
}

// SaveHouseRule writes a rule's choice and reason; ErrStale when it was changed since it was read.
func (t Tenant) SaveHouseRule(r HouseRule, read int) error {
	res := t.scoped().Model(&HouseRule{}).Where("id = ? AND revision = ?", r.ID, read).
		Updates(map[string]any{"choice": r.Choice, "reason": r.Reason, "revision": r.Revision})
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrStale
	}
	return res.Error
}

// SaveRemoval writes what a method takes away from soil of a family.
func (t Tenant) SaveRemoval(r MethodRemoval) error {
	return t.scoped().Model(&MethodRemoval{}).Where("method_id = ? AND family = ?", r.MethodID, r.Family).
		Updates(map[string]any{"face_share": r.FaceShare, "core_share": r.CoreShare}).Error
}

// AgeCoilLines marks every line of the portfolio as to be recalculated.
func (t Tenant) AgeCoilLines() error {
	return t.scoped().Model(&CoilLine{}).Where("1 = 1").Update("model_version", "").Error
}
