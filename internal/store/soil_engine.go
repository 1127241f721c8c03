package store

import (
	"database/sql"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// RateGroup is a peer group summed up: the members that count, by class and role, at one site.
type RateGroup struct {
	ClassID uuid.UUID
	Role    string
	SiteID  uuid.UUID
	Members int
	// Weight is Σ 1/(v + unit variance), Weighted the same with the own means.
	Weight   float64
	Weighted float64
}

// RateGroups sums up the peers of some classes, always in the same order, so that the sums are the same to the last digit.
func (t Tenant) RateGroups(classes []uuid.UUID, unitVariance float64) ([]RateGroup, error) {
	var rows []RateGroup
	err := t.db.Raw(`SELECT class_id, role, site_id, count(*) AS members, sum(1 / (own_variance + ?) ORDER BY surface_id) AS weight,
			sum(own_mean / (own_variance + ?) ORDER BY surface_id) AS weighted
		FROM rate_estimate WHERE organisation_id = ? AND class_id = ANY (?) AND telling > 0 AND own_mean IS NOT NULL
		GROUP BY class_id, role, site_id ORDER BY class_id, role, site_id`, unitVariance, unitVariance, t.Org, IDs(classes)).Scan(&rows).Error
	return rows, err
}

// PutRateEstimates writes estimates, in place of earlier ones of the same sides.
func (t Tenant) PutRateEstimates(rows []RateEstimate) error {
	if len(rows) == 0 {
		return nil
	}
	if err := t.scoped().Where("surface_id = ANY (?)", IDs(ids(rows, func(r RateEstimate) uuid.UUID { return r.SurfaceID }))).Delete(&RateEstimate{}).Error; err != nil {
		return fmt.Errorf("replacing rates: %w", err)
	}
	return Insert(t, rows...)
}

// Neighbour is a coil of the same class and role.
type Neighbour struct {
	UnitID    uuid.UUID
	Tag       string
	SiteName  string
	SameSite  bool
	Rate      float64
	Assumed   float64
	Counted   int
	EveryDays int
}

// Neighbours lists coils of a class and role other than one, those at a site first.
func (t Tenant) Neighbours(class uuid.UUID, role string, site, coil uuid.UUID, limit int) ([]Neighbour, error) {
	var rows []Neighbour
	sites, args := "TRUE", []any{site, t.Org, class, role, coil}
	if t.Sites != nil {
		sites = "l.site_id = ANY (?)"
		args = append(args, IDs(t.Sites))
	}
	err := t.db.Raw(`SELECT l.unit_id, l.tag, l.site_name, l.site_id = ? AS same_site, max(e.rate) AS rate, max(e.assumed) AS assumed, max(e.counted) AS counted,
			(SELECT every_days FROM task WHERE task.organisation_id = l.organisation_id AND task.coil_id = l.coil_id AND kind = 'deep') AS every_days
		FROM coil_line l JOIN rate_estimate e ON e.organisation_id = l.organisation_id AND e.coil_id = l.coil_id
		WHERE l.organisation_id = ? AND l.class_id = ? AND l.role = ? AND l.coil_id <> ? AND l.status <> 'retired' AND `+sites+`
		GROUP BY l.organisation_id, l.unit_id, l.coil_id, l.tag, l.site_name, l.site_id ORDER BY same_site DESC, l.tag LIMIT ?`, append(args, limit)...).Scan(&rows).Error
	return rows, err
}

// ClassRecords are what the estimates and the log of call-outs say of a class.
type ClassRecords struct {
	ClassID       uuid.UUID
	CallsSeen     int
	CallsExpected float64
	UnitYears     float64
	RisePairs     Array[string] // each a list of pairs, as JSON
}

// AnyRecords reports whether there is anything for ClassRecords to sum up: a complete log, or readings after a clean.
func (t Tenant) AnyRecords() (bool, error) {
	var any bool
	err := t.db.Raw(`SELECT EXISTS (SELECT 1 FROM call_log WHERE organisation_id = @org)
		OR EXISTS (SELECT 1 FROM reading WHERE organisation_id = @org AND phase = 'after' AND kind = 'high_pressure_kpa')
		OR EXISTS (SELECT 1 FROM class_evidence WHERE organisation_id = @org)`, sql.Named("org", t.Org)).Scan(&any).Error
	return any, err
}

// ClassRecords sums up, by class, the call-outs laid to a coil in complete logs, those expected in the same time, and the pairs of readings
// before and after cleans.
func (t Tenant) ClassRecords() ([]ClassRecords, error) {
	var rows []ClassRecords
	err := t.db.Raw(`WITH units AS (
			SELECT class_id, unit_id, sum(calls_expected ORDER BY surface_id) AS expected, max(logged_days) AS logged
			FROM rate_estimate WHERE organisation_id = @org GROUP BY class_id, unit_id
		), seen AS (
			SELECT u.class_id, count(*) AS n FROM call_out c
			JOIN units u ON u.unit_id = c.unit_id AND u.logged > 0
			JOIN call_log l ON l.organisation_id = c.organisation_id AND l.site_id = c.site_id AND l.during @> c.day
			WHERE c.organisation_id = @org AND c.coil_to_blame = 'yes' GROUP BY u.class_id
		), pairs AS (
			SELECT class_id, array_agg(rise_pairs::text ORDER BY surface_id) AS pairs FROM rate_estimate
			WHERE organisation_id = @org AND jsonb_typeof(rise_pairs) = 'array' GROUP BY class_id
		)
		SELECT u.class_id, coalesce(max(s.n), 0) AS calls_seen, sum(u.expected ORDER BY u.unit_id) AS calls_expected, sum(u.logged) / 365.0 AS unit_years,
			max(p.pairs) AS rise_pairs
		FROM units u LEFT JOIN seen s USING (class_id) LEFT JOIN pairs p USING (class_id)
		GROUP BY u.class_id HAVING max(u.logged) > 0 OR max(p.pairs) IS NOT NULL ORDER BY u.class_id`, sql.Named("org", t.Org)).Scan(&rows).Error
	return rows, err
}

// PutClassEvidence writes what was learned of classes, in place of all that was.
func (t Tenant) PutClassEvidence(rows []ClassEvidence) error {
	if err := t.scoped().Delete(&ClassEvidence{}, "true").Error; err != nil {
		return fmt.Errorf("replacing what was learned of classes: %w", err)
	}
	return Insert(t, rows...)
}

// PairCount is how often a method was found to leave one grade of another.
type PairCount struct {
	MethodID uuid.UUID
	Family   string
	Found    int
	Left     int
	Seen     string
	N        int
}

// betweenLooks are the passes of visits in force, with what was seen before and after each, and the kinds of soil found.
const betweenLooks = `WITH passes AS (
		SELECT t.visit_id, s.surface_id, t.seq, t.method_id, t.after_grade, t.after_seen,
			row_number() OVER w AS nth, count(*) OVER (PARTITION BY t.visit_id, s.surface_id) AS n,
			lag(t.after_grade) OVER w AS before_grade, lag(t.after_seen) OVER w AS before_seen
		FROM treatment t
		JOIN treatment_surface s ON s.organisation_id = t.organisation_id AND s.treatment_id = t.id
		JOIN visit v ON v.organisation_id = t.organisation_id AND v.id = t.visit_id AND v.status = 'submitted'
		WHERE t.organisation_id = @org WINDOW w AS (PARTITION BY t.visit_id, s.surface_id ORDER BY t.seq)
	), kinds AS (
		SELECT f.id, CASE WHEN count(DISTINCT k.family) = 1 THEN min(k.family) ELSE 'mixed' END AS family
		FROM finding f JOIN finding_soil fs ON fs.organisation_id = f.organisation_id AND fs.finding_id = f.id
		JOIN soil_kind k ON k.organisation_id = f.organisation_id AND k.id = fs.soil_id
		WHERE f.organisation_id = @org GROUP BY f.id
	), looks AS (
		SELECT f.visit_id, f.surface_id, f.grade, f.seen, l.grade AS left_grade, l.seen AS left_seen, kinds.family
		FROM finding f
		JOIN finding l ON l.organisation_id = f.organisation_id AND l.visit_id = f.visit_id AND l.surface_id = f.surface_id AND l.phase = 'as_left'
		JOIN kinds ON kinds.id = f.id
		WHERE f.organisation_id = @org AND f.phase = 'opened_up' AND kinds.family <> 'mixed'
	)`

// Pairs counts what methods left of what they found, over visits in force: of each pass with a look before and after it, the same way.
func (t Tenant) Pairs() ([]PairCount, error) {
	var rows []PairCount
	err := t.db.Raw(betweenLooks+`, apart AS (
			SELECT p.method_id, l.family, CASE WHEN p.nth = 1 THEN l.grade ELSE p.before_grade END AS found, CASE WHEN p.nth = 1 THEN l.seen ELSE p.before_seen END AS seen,
				CASE WHEN p.nth = p.n THEN l.left_grade ELSE p.after_grade END AS left, CASE WHEN p.nth = p.n THEN l.left_seen ELSE p.after_seen END AS left_seen
			FROM passes p JOIN looks l USING (visit_id, surface_id)
		)
		SELECT method_id, family, found, "left", seen, count(*) AS n FROM apart
		WHERE found > 0 AND "left" IS NOT NULL AND seen = left_seen AND seen <> 'wiped_more_below'
		GROUP BY method_id, family, found, "left", seen ORDER BY method_id, family, found, "left", seen`, sql.Named("org", t.Org)).Scan(&rows).Error
	return rows, err
}

// PlanPairs counts what plans of several passes left of what they found, where the passes were not all seen apart.
func (t Tenant) PlanPairs() ([]PlanPairCount, error) {
	var rows []PlanPairCount
	err := t.db.Raw(betweenLooks+`, plans AS (
			SELECT p.visit_id, p.surface_id, string_agg(m.code, '+' ORDER BY p.seq) AS plan FROM passes p
			JOIN method m ON m.organisation_id = @org AND m.id = p.method_id
			WHERE p.n > 1 GROUP BY p.visit_id, p.surface_id HAVING bool_or(p.nth < p.n AND p.after_grade IS NULL)
		)
		SELECT plans.plan, l.family, l.grade AS found, l.left_grade AS "left", l.seen, count(*) AS n FROM plans JOIN looks l USING (visit_id, surface_id)
		WHERE l.grade > 0 AND l.seen = l.left_seen AND l.seen <> 'wiped_more_below'
		GROUP BY plans.plan, l.family, l.grade, l.left_grade, l.seen ORDER BY plans.plan, l.family, l.grade, l.left_grade, l.seen`, sql.Named("org", t.Org)).Scan(&rows).Error
	return rows, err
}

// PlanPairCount is how often a plan was found to leave one grade of another.
type PlanPairCount struct {
	Plan   string
	Family string
	Found  int
	Left   int
	Seen   string
	N      int
}

// PutPlanEstimates replaces what is learned of all plans.
func (t Tenant) PutPlanEstimates(rows []PlanEstimate) error {
	if err := t.scoped().Where("1 = 1").Delete(&PlanEstimate{}).Error; err != nil {
		return fmt.Errorf("replacing what plans take: %w", err)
	}
	return Insert(t, rows...)
}

// PutRemovalEstimates replaces what is learned of all methods.
func (t Tenant) PutRemovalEstimates(rows []RemovalEstimate) error {
	if err := t.scoped().Where("1 = 1").Delete(&RemovalEstimate{}).Error; err != nil {
		return fmt.Errorf("replacing removals: %w", err)
	}
	return Insert(t, rows...)
}

// ClosedProposals are those of some tasks that were answered or superseded since a time, the newest first.
func (t Tenant) ClosedProposals(tasks []uuid.UUID, since time.Time) ([]Proposal, error) {
	var rows []Proposal
	err := t.scoped().Where("task_id = ANY (?) AND status <> 'open' AND closed_at >= ?", IDs(tasks), since).Order("closed_at DESC, id").Find(&rows).Error
	return rows, err
}

// PeersAt lists the units with coils of the same class and role at the same site as some units have, those apart.
func (t Tenant) PeersAt(units []uuid.UUID) ([]uuid.UUID, error) {
	var out []uuid.UUID
	err := t.db.Raw(`SELECT DISTINCT p.unit_id FROM rate_estimate m JOIN rate_estimate p ON p.organisation_id = m.organisation_id
			AND p.class_id = m.class_id AND p.role = m.role AND p.site_id = m.site_id
		WHERE m.organisation_id = ? AND m.unit_id = ANY (?) AND NOT p.unit_id = ANY (?)`, t.Org, IDs(units), IDs(units)).Scan(&out).Error
	return out, err
}

// LockEstimationRun reads a run and keeps it locked until the transaction ends.
func (t Tenant) LockEstimationRun(id uuid.UUID) (EstimationRun, error) {
	var row EstimationRun
	err := t.lock().Where("id = ?", id).Take(&row).Error
	return row, notFound(err)
}

// SaveEstimationRun writes how far a run is.
func (t Tenant) SaveEstimationRun(row EstimationRun) error {
	return t.scoped().Model(&EstimationRun{}).Where("id = ?", row.ID).Updates(map[string]any{
		"status": row.Status, "step": row.Step, "after": row.After, "done": row.Done, "note": row.Note, "alive_at": row.AliveAt,
	}).Error
}

// AskToCancel asks a run that is under way to stop.
func (t Tenant) AskToCancel(id uuid.UUID) error {
	return t.scoped().Model(&EstimationRun{}).Where("id = ?", id).Update("cancel_wanted", true).Error
}

// CountUnits counts all units.
func (t Tenant) CountUnits() (int, error) {
	var n int64
	err := t.scoped().Model(&Unit{}).Count(&n).Error
	return int(n), err
}

// LockProposals reads proposals and keeps them locked until the transaction ends, in one order for all callers.
func (t Tenant) LockProposals(ids []uuid.UUID) ([]Proposal, error) {
	var rows []Proposal
	err := t.lock().Where("id = ANY (?)", IDs(ids)).Order("id").Find(&rows).Error
	return rows, err
}

// EstimationUnderWay is the run that is queued or running, nil where there is none.
func (t Tenant) EstimationUnderWay() (*EstimationRun, error) {
	var rows []EstimationRun
	err := t.scoped().Where("status IN ('queued', 'running')").Find(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	return &rows[0], nil
}

// EstimationIsDue reports whether none was begun since a night began and a visit or call-out came in since the last one.
func (t Tenant) EstimationIsDue(night time.Time) (bool, error) {
	var due bool
	err := t.db.Raw(`SELECT NOT EXISTS (SELECT 1 FROM estimation_run WHERE organisation_id = @org AND (at >= @night OR status IN ('queued', 'running')))
		AND EXISTS (SELECT 1 FROM audit WHERE organisation_id = @org AND entity IN ('visit', 'call_out', 'call_log')
			AND at > coalesce((SELECT max(at) FROM estimation_run WHERE organisation_id = @org), '-infinity'))`,
		map[string]any{"org": t.Org, "night": night}).Scan(&due).Error
	return due, err
}

// Transaction is the database transaction the tenant works in, for what joins it from outside GORM.
func (t Tenant) Transaction() (*sql.Tx, bool) {
	tx, ok := t.db.Statement.ConnPool.(*sql.Tx)
	return tx, ok
}
