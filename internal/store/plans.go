package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"nextround/core/calendar"
)

// CurrentPlan is the plan that rounds are published from; ErrNotFound where none was made.
func (t Tenant) CurrentPlan() (Plan, error) {
	var row Plan
	err := t.scoped().Where("is_current").Take(&row).Error
	return row, notFound(err)
}

// CurrentPlanForUpdate is CurrentPlan, locked until the transaction ends.
func (t Tenant) CurrentPlanForUpdate() (Plan, error) {
	var row Plan
	err := t.lock().Where("is_current").Take(&row).Error
	return row, notFound(err)
}

// NewestPlan is the newest run of the planner, without what it was made from; ErrNotFound where there was none.
func (t Tenant) NewestPlan() (Plan, error) {
	var row Plan
	err := t.scoped().Omit("asked", "problem", "jobs", "result", "greedy", "changes").Where("problem IS NOT NULL OR status <> 'done'").
		Order("made_at DESC, id DESC").Take(&row).Error
	return row, notFound(err)
}

// ClaimPlan takes up a run that waits; false where it does not wait any more at that attempt.
func (t Tenant) ClaimPlan(id uuid.UUID, attempt int) (bool, error) {
	res := t.scoped().Model(&Plan{}).Where("id = ? AND attempt = ? AND status = 'running' AND step = ?", id, attempt, StepWaiting).
		Updates(map[string]any{"step": "", "alive_at": databaseNow})
	return res.RowsAffected == 1, res.Error
}

// TellPlan writes down how far a run is, and says whether it is to stop.
func (t Tenant) TellPlan(id uuid.UUID, attempt int, share, cost float64, placed, iterations int) (stop bool, err error) {
	err = t.scoped().Model(&Plan{}).Where("id = ? AND attempt = ? AND status = 'running'", id, attempt).
		Updates(map[string]any{"share": share, "cost": cost, "placed": placed, "iterations": iterations, "alive_at": databaseNow}).Error
	if err != nil {
		return false, err
	}
	var row Plan
	err = t.scoped().Select("cancel_wanted", "status", "attempt").Where("id = ?", id).Take(&row).Error
	return row.CancelWanted || row.Status != "running" || row.Attempt != attempt, notFound(err)
}

// HoldPlan says whether a run still counts as running, and keeps it so until the transaction ends.
func (t Tenant) HoldPlan(id uuid.UUID, attempt int) (bool, error) {
	var rows []Plan
	err := t.lock().Select("id").Where("id = ? AND attempt = ? AND status = 'running'", id, attempt).Find(&rows).Error
	return len(rows) == 1, err
}

// StopPlan asks the run at work to stop, and ends one that waits.
func (t Tenant) StopPlan() error {
	err := t.scoped().Model(&Plan{}).Where("status = 'running'").Update("cancel_wanted", true).Error
	if err != nil {
		return err
	}
	return t.scoped().Model(&Plan{}).Where("status = 'running' AND step = ?", StepWaiting).
		Updates(map[string]any{"status": "failed", "step": "", "note": "stopped before it began"}).Error
}

// LostPlans lists the runs at work that have not told of themselves for so long.
func (s *Store) LostPlans(ctx context.Context, silent time.Duration) ([]Lost, error) {
	var rows []Lost
	err := s.DB.WithContext(ctx).Model(&Plan{}).Where("status = 'running' AND step <> ? AND alive_at < clock_timestamp() - make_interval(secs => ?)", StepWaiting, silent.Seconds()).Find(&rows).Error
	return rows, err
}

// ReturnPlan lets a run wait again, for whichever server takes it up, and returns the attempt that will be. It ends as failed where
// what it was asked for was not kept, it was to stop, or it was lost too often; then, and where it was ended before, the attempt is 0.
func (t Tenant) ReturnPlan(id uuid.UUID, attempt int) (next int, err error) {
	mine := t.scoped().Model(&Plan{}).Where("id = ? AND attempt = ? AND status = 'running'", id, attempt)
	if attempt < mostAttempts {
		res := mine.Session(&gorm.Session{}).Where("NOT cancel_wanted AND asked IS NOT NULL").
			Updates(map[string]any{"step": StepWaiting, "share": 0, "alive_at": databaseNow, "attempt": attempt + 1})
		if res.Error != nil || res.RowsAffected == 1 {
			return attempt + 1, res.Error
		}
	}
	return 0, mine.Updates(map[string]any{"status": "failed", "step": "", "note": "its server stopped"}).Error
}

// RetirePlans makes no plan the current one. What an earlier one was made from is not kept: what went out of it is.
func (t Tenant) RetirePlans() error {
	return t.scoped().Model(&Plan{}).Where("is_current").
		Updates(map[string]any{"is_current": false, "problem": nil, "jobs": nil, "result": nil, "greedy": nil, "changes": nil}).Error
}

// RoundsFrom lists the rounds of some statuses from a day on, by day and crew.
func (t Tenant) RoundsFrom(day calendar.Day, statuses ...string) ([]Round, error) {
	var rows []Round
	err := t.scoped().Where("day >= ? AND status IN ?", Date(day), statuses).Order("day, crew_id, sequence").Find(&rows).Error
	return rows, err
}

// NextRoundOf is the crew's published round of a day, or the next one after it; ErrNotFound where none is out.
func (t Tenant) NextRoundOf(crew uuid.UUID, from calendar.Day) (Round, error) {
	var row Round
	err := t.scoped().Where("crew_id = ? AND day >= ? AND status IN ('published', 'done')", crew, Date(from)).Order("day, sequence DESC").Take(&row).Error
	return row, notFound(err)
}

// ClearMembers takes everybody out of a crew.
func (t Tenant) ClearMembers(crew uuid.UUID) error {
	return t.scoped().Where("crew_id = ?", crew).Delete(&CrewMember{}).Error
}

// RoundsOfCrew lists what a calendar shows of a crew since a day: the rounds that are out, and those withdrawn.
func (t Tenant) RoundsOfCrew(crew uuid.UUID, since calendar.Day) ([]Round, error) {
	var rows []Round
	err := t.scoped().Where("crew_id = ? AND day >= ? AND status IN ('published', 'withdrawn', 'done')", crew, Date(since)).
		Order("day, uid, sequence").Find(&rows).Error
	return rows, err
}

// OpenFeeds lists the calendars that are open.
func (t Tenant) OpenFeeds() ([]FeedToken, error) {
	var rows []FeedToken
	err := t.scoped().Where("revoked_at IS NULL").Order("crew_id").Find(&rows).Error
	return rows, err
}

// CloseFeed ends a crew's calendar.
func (t Tenant) CloseFeed(crew uuid.UUID, at time.Time) error {
	return t.scoped().Model(&FeedToken{}).Where("crew_id = ? AND revoked_at IS NULL", crew).Update("revoked_at", at).Error
}

// FindFeed finds an open calendar by its token's hash, whoever's it is.
func (s *Store) FindFeed(ctx context.Context, hash string) (FeedToken, error) {
	var row FeedToken
	err := s.DB.WithContext(ctx).Where("token_hash = ? AND revoked_at IS NULL", hash).Take(&row).Error
	return row, notFound(err)
}

// SendOnce notes that something goes out; ErrDuplicate where it did already.
func (t Tenant) SendOnce(kind, key string, at time.Time) error {
	return Insert(t, NoticeSent{OrganisationID: t.Org, Kind: kind, Key: key, At: at})
}

// WasSent tells whether something has gone out.
func (t Tenant) WasSent(kind, key string) (bool, error) {
	var n int64
	err := t.scoped().Model(&NoticeSent{}).Where("kind = ? AND key = ?", kind, key).Count(&n).Error
	return n > 0, err
}

// What is done to a plan by hand, as it stands on the trail of the unit or crew it concerns: it makes no plan stale.
const (
	MovedByHand = "moved in the plan by hand"
	RoundLocked = "round locked or released"
)

// NewestAudit is the key of the newest line of the audit trail that tells of something a plan rests on.
func (t Tenant) NewestAudit() (uuid.UUID, error) {
	var ids []uuid.UUID
	err := t.scoped().Model(&Audit{}).Where("entity NOT IN ('plan', 'round', 'account', 'organisation', 'cleaner', 'person') AND action NOT IN (?, ?)", MovedByHand, RoundLocked).Order("id DESC").Limit(1).Pluck("id", &ids).Error
	if len(ids) == 0 {
		return uuid.Nil, err
	}
	return ids[0], err
}

// OpenProposal is a proposal that waits for an answer, with where it is.
type OpenProposal struct {
	Proposal
	UnitID   uuid.UUID
	Tag      string
	SiteName string
	Role     string
	Kind     string
}

// OpenProposals lists the proposals that wait for an answer, the largest shortening first.
func (t Tenant) OpenProposals(most int) ([]OpenProposal, error) {
	var rows []OpenProposal
	q := t.db.Table("proposal p").
		Select("p.*, l.unit_id, l.tag, l.site_name, l.role, k.kind").
		Joins("JOIN task k ON k.organisation_id = p.organisation_id AND k.id = p.task_id").
		Joins("JOIN coil_line l ON l.organisation_id = p.organisation_id AND l.coil_id = k.coil_id").
		Where("p.organisation_id = ? AND p.status = 'open' AND l.status = 'in_service'", t.Org)
	if t.Sites != nil {
		q = q.Where("l.site_id = ANY (?)", IDs(t.Sites))
	}
	err := q.Order("p.days::double precision / p.from_days, l.tag, p.task_id").Limit(most).Scan(&rows).Error
	return rows, err
}

// HouseManager is the account of a manager who sees all sites, the first that was made.
func (s *Store) HouseManager(ctx context.Context, org uuid.UUID) (uuid.UUID, error) {
	var ids []uuid.UUID
	err := s.DB.WithContext(ctx).Table("membership m").
		Joins("JOIN account a ON a.id = m.account_id").
		Where("m.organisation_id = ? AND m.role = 'manager' AND m.all_sites AND NOT a.disabled", org).Order("a.id").Limit(1).Pluck("a.id", &ids).Error
	if err == nil && len(ids) == 0 {
		return uuid.Nil, ErrNotFound
	}
	if len(ids) == 0 {
		return uuid.Nil, err
	}
	return ids[0], err
}
