package organisation

import (
	"context"
	"encoding/json"
	"fmt"
	"sort"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// AuditDetail is what an audit row keeps of a change: the fields that differ.
type AuditDetail struct {
	Changes []contract.AuditChange `json:"changes,omitempty"`
	Note    string                 `json:"note,omitempty"`
}

// RecordChange writes an audit row with what differs between two states of a record; nothing when nothing does.
func RecordChange(t store.Tenant, at time.Time, a Actor, entity string, id uuid.UUID, action string, before, after any) error {
	changes := Differences(before, after)
	if len(changes) == 0 {
		return nil
	}
	return t.Record(at, a.AccountID, entity, id, action, AuditDetail{Changes: changes})
}

// Differences lists the fields in which two values differ, by their JSON names.
func Differences(before, after any) []contract.AuditChange {
	a, b := map[string]string{}, map[string]string{}
	flatten("", plainJSON(before), a)
	flatten("", plainJSON(after), b)
	var out []contract.AuditChange
	for path, was := range a {
		if now := b[path]; now != was {
			out = append(out, contract.AuditChange{Path: path, Before: was, After: now})
		}
	}
	for path, now := range b {
		if _, there := a[path]; !there && now != "" {
			out = append(out, contract.AuditChange{Path: path, After: now})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Path < out[j].Path })
	return out
}

func plainJSON(v any) any {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only plain data is ever given
	}
	var out any
	_ = json.Unmarshal(b, &out)
	return out
}

// flatten writes the leaves of a value by their paths. Records in a list go by their names, so that one taken out
// does not shift the others.
func flatten(at string, v any, into map[string]string) {
	switch x := v.(type) {
	case map[string]any:
		for k, inner := range x {
			if k == "id" || k == "version" || strings.HasSuffix(k, "_id") {
				continue
			}
			flatten(strings.TrimPrefix(at+" › "+strings.ReplaceAll(k, "_", " "), " › "), inner, into)
		}
	case []any:
		for i, inner := range x {
			flatten(at+" "+listName(inner, i), inner, into)
		}
	case nil:
	case string:
		into[at] = x
	case float64:
		into[at] = strconv.FormatFloat(x, 'f', -1, 64)
	case bool:
		into[at] = map[bool]string{true: "yes", false: "no"}[x]
	}
}

func listName(v any, i int) string {
	if m, ok := v.(map[string]any); ok {
		for _, k := range []string{"name", "role", "day", "specification", "kind"} {
			if text, ok := m[k].(string); ok && text != "" {
				return text
			}
		}
	}
	return strconv.Itoa(i + 1)
}

// auditShown is how many audit lines a record shows.
const auditShown = 200

// Audit says who changed a record, when and from what to what; newest first.
func (s *Service) Audit(ctx context.Context, a Actor, entity string, id uuid.UUID) ([]contract.AuditLine, error) {
	if entity == "account" && a.Role != contract.RoleManager && id != a.AccountID {
		return nil, ErrForbidden // from where somebody signed in is for them and for managers
	}
	switch entity {
	case "plan", "round", "organisation", "bulk_change", "import_run":
		if err := a.OnlyHouse(contract.RoleManager); err != nil {
			return nil, err
		}
	}
	t := s.Tenant(ctx, a)
	if err := seesRecord(t, entity, id); err != nil {
		return nil, err
	}
	names, err := s.Names(t)
	if err != nil {
		return nil, err
	}
	rows, err := t.AuditOf(entity, id, auditShown)
	if err != nil {
		return nil, err
	}
	out := []contract.AuditLine{}
	for _, r := range rows {
		line := contract.AuditLine{ID: r.ID, At: r.At, By: names.Of(r.AccountID), Action: r.Action, Changes: []contract.AuditChange{}}
		var detail AuditDetail
		if err := r.Detail.Into(&detail); err == nil && (detail.Changes != nil || detail.Note != "") {
			line.Changes = append(line.Changes, detail.Changes...)
			if detail.Note != "" {
				line.Changes = append(line.Changes, contract.AuditChange{Path: "note", After: detail.Note})
			}
		} else {
			var other map[string]any
			if r.Detail.Into(&other) == nil {
				line.Changes = append(line.Changes, Differences(nil, other)...)
			}
		}
		out = append(out, line)
	}
	return out, nil
}

// seesRecord returns ErrNotFound unless the record exists and stands where the actor may look.
func seesRecord(t store.Tenant, entity string, id uuid.UUID) error {
	switch entity {
	case "site":
		return SeesSite(t, id)
	case "unit", "visit", "watch", "tick":
		unit, err := unitOf(t, entity, id)
		if err != nil {
			return err
		}
		return SeesUnit(t, unit)
	case "found":
		x, err := store.Get[store.FoundUnit](t, id)
		if err != nil {
			return err
		}
		return SeesSite(t, x.SiteID)
	case "symptom":
		x, err := store.Get[store.SymptomReport](t, id)
		if err != nil {
			return err
		}
		return SeesSite(t, x.SiteID)
	case "rule", "person", "crew", "account", "cleaner":
		if t.Sites != nil {
			return ErrNotFound
		}
		return nil
	case "plan", "round", "organisation", "bulk_change", "import_run":
		return nil
	}
	return fmt.Errorf("audit of %q: %w", entity, ErrNotFound)
}

// unitOf is the unit that a record belongs to; none where it is of a whole site.
func unitOf(t store.Tenant, entity string, id uuid.UUID) (uuid.UUID, error) {
	switch entity {
	case "unit":
		return id, nil
	case "visit":
		v, err := store.Get[store.Visit](t, id)
		return v.UnitID, err
	case "watch":
		w, err := store.Get[store.WatchItem](t, id)
		return w.UnitID, err
	case "symptom":
		x, err := store.Get[store.SymptomReport](t, id)
		return optional.Value(x.UnitID), err
	case "tick":
		x, err := store.Get[store.TaskTick](t, id)
		if err != nil {
			return uuid.Nil, err
		}
		task, err := store.Get[store.Task](t, x.TaskID)
		return task.UnitID, err
	}
	return uuid.Nil, nil
}

// SeesSite is ErrNotFound for a site that may not be seen.
func SeesSite(t store.Tenant, id uuid.UUID) error {
	if t.Sites != nil {
		for _, s := range t.Sites {
			if s == id {
				_, err := store.Get[store.Site](t, id)
				return err
			}
		}
		return ErrNotFound
	}
	_, err := store.Get[store.Site](t, id)
	return err
}

// SeesUnit is ErrNotFound for a unit that may not be seen.
func SeesUnit(t store.Tenant, id uuid.UUID) error {
	_, err := t.UnitSeen(id)
	return err
}
