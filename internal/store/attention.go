package store

import (
	"github.com/google/uuid"

	"nextround/core/calendar"
)

// AttentionRow is something that came back from the field; Number and Text mean what Kind says.
type AttentionRow struct {
	Kind    string
	UnitID  uuid.UUID
	VisitID *uuid.UUID
	Tag     string
	Site    string
	Day     Date
	Text    string
	Reason  string
	Number  float64
}

// OpenFoundUnits lists the units found that nobody has decided on, the oldest first.
func (t Tenant) OpenFoundUnits() ([]FoundUnit, error) {
	var rows []FoundUnit
	q := t.scoped().Where("decided_at IS NULL")
	if t.Sites != nil {
		q = q.Where("site_id = ANY (?)", IDs(t.Sites))
	}
	err := q.Order("at, id").Find(&rows).Error
	return rows, err
}

// attention lists what needs a decision, since a day. Each branch gives kind, visit, text, reason and number; symptoms
// belong to no visit.
const attention = `
WITH v AS (
    SELECT v.id, v.unit_id, v.day FROM visit v
    WHERE v.organisation_id = @org AND v.status = 'submitted' AND v.day >= @since
), raw AS (
    SELECT 'gate_skipped' AS kind, visit_id, text, reason, 0::float8 AS number FROM step_result
        WHERE organisation_id = @org AND gate AND state = 'skipped'
    UNION ALL SELECT 'exception', visit_id, ban, reason, 0 FROM rule_exception WHERE organisation_id = @org
    UNION ALL SELECT 'reading', visit_id, kind, cause, value FROM reading WHERE organisation_id = @org AND verdict = 'fail'
    UNION ALL SELECT 'count', visit_id, what, why, taken - back FROM count_back WHERE organisation_id = @org AND taken <> back
    UNION ALL SELECT 'over_dwell', visit_id, '', over_dwell, dwell_s FROM treatment WHERE organisation_id = @org AND over_dwell <> ''
    UNION ALL SELECT 'declined', visit_id, text, '', 0 FROM advice_given WHERE organisation_id = @org AND answer = 'declined'
    UNION ALL SELECT 'worse', l.visit_id, w.what, l.note, 0 FROM watch_look l
        JOIN watch_item w ON w.organisation_id = l.organisation_id AND w.id = l.watch_item_id
        WHERE l.organisation_id = @org AND l.state = 'worse' AND w.closed IS NULL
    UNION ALL SELECT 'twice', a.id, '', '', 0 FROM v a
        WHERE EXISTS (SELECT FROM v b WHERE b.unit_id = a.unit_id AND b.day = a.day AND b.id <> a.id)
), lines AS (
    SELECT raw.kind, v.unit_id, v.id AS visit_id, v.day, raw.text, raw.reason, raw.number FROM raw JOIN v ON v.id = raw.visit_id
    UNION ALL SELECT 'symptom', unit_id, NULL, day, kind, note, 0 FROM symptom_report
        WHERE organisation_id = @org AND status = 'open' AND unit_id IS NOT NULL
    UNION ALL SELECT 'returned', unit_id, NULL, at::date, kind, note, 0 FROM job_return
        WHERE organisation_id = @org AND at::date >= @since
)
SELECT l.*, u.tag, s.name AS site FROM lines l
JOIN unit u ON u.organisation_id = @org AND u.id = l.unit_id
JOIN placement p ON p.organisation_id = @org AND p.id = u.placement_id
JOIN site s ON s.organisation_id = @org AND s.id = p.site_id
WHERE @all OR s.id = ANY (@sites)
ORDER BY l.day DESC, u.tag, l.kind, l.text LIMIT @most`

// Attention lists what came back from the field since a day and needs a decision, as far as it may be seen.
func (t Tenant) Attention(since calendar.Day, most int) ([]AttentionRow, error) {
	var rows []AttentionRow
	err := t.db.Raw(attention, map[string]any{
		"org": t.Org, "since": Date(since), "most": most, "all": t.Sites == nil, "sites": IDs(t.Sites),
	}).Scan(&rows).Error
	return rows, err
}
