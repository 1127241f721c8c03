package register

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// bulkShown is how many bulk changes are listed.
const bulkShown = 50

// bulkLine is one change of a bulk change, with what it takes to undo it.
type bulkLine struct {
	contract.BulkLine
	TaskID *uuid.UUID `json:"task_id,omitempty"`
	Was    *string    `json:"was,omitempty"`
	Now    *string    `json:"now,omitempty"`
}

// unitColumn is a field of a unit that can be changed in bulk, as text.
type unitColumn struct {
	number bool
	lo, hi float64
	unit   string
	at     func(*store.Unit) any
}

var unitColumns = map[contract.NewBulkChangeWhat]unitColumn{
	"make":             {at: func(u *store.Unit) any { return &u.Make }},
	"model":            {at: func(u *store.Unit) any { return &u.Model }},
	"refrigerant":      {at: func(u *store.Unit) any { return &u.Refrigerant }},
	"consequence_cost": {number: true, hi: 1e8, at: func(u *store.Unit) any { return &u.ConsequenceCost }},
	"energy_kwh_day":   {number: true, hi: 1e5, unit: "kWh", at: func(u *store.Unit) any { return &u.EnergyKwhDay }},
}

// text of a unit's field; nil when it is empty.
func (c unitColumn) text(u *store.Unit) *string {
	switch x := c.at(u).(type) {
	case *string:
		return optional.Text(*x)
	case **float64:
		if *x != nil {
			return new(strconv.FormatFloat(**x, 'f', -1, 64))
		}
	}
	return nil
}

func (c unitColumn) set(u *store.Unit, text *string) {
	switch x := c.at(u).(type) {
	case *string:
		*x = optional.Value(text)
	case **float64:
		*x = nil
		if text != nil {
			if v, err := strconv.ParseFloat(*text, 64); err == nil {
				*x = &v
			}
		}
	}
}

// bulkWork is a bulk change being made.
type bulkWork struct {
	s     *Service
	t     store.Tenant
	a     organisation.Actor
	req   contract.NewBulkChange
	lines []bulkLine
	write []func() error
}

// ChangeInBulk makes one change to many units, or with DryRun shows what it would change.
func (s *Service) ChangeInBulk(ctx context.Context, a organisation.Actor, req contract.NewBulkChange) (contract.BulkChange, error) {
	var out contract.BulkChange
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		units, err := t.LockUnits(req.UnitIds)
		if err != nil {
			return err
		}
		if len(units) != len(store.Keys(units, func(u store.Unit) uuid.UUID { return u.ID })) || len(units) < len(store.Keys(req.UnitIds, func(id uuid.UUID) uuid.UUID { return id })) {
			return invalid.At("/unit_ids", "names a unit that is not there")
		}
		w := &bulkWork{s: s, t: t, a: a, req: req}
		what, err := w.plan(units)
		if err != nil {
			return err
		}
		row := store.BulkChange{
			OrganisationID: t.Org, ID: store.NewID(), At: s.Stamp(), AccountID: a.AccountID, What: what, Changes: store.ToJSON(w.lines),
		}
		out = bulkView(row, w.lines, a.Person.Name)
		if req.DryRun {
			return nil
		}
		for _, write := range w.write {
			if err := write(); err != nil {
				return err
			}
		}
		// One audit row for the run, and one on each unit that changed.
		if err := store.Insert(t, row); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "bulk_change", row.ID, "made", organisation.AuditDetail{Note: what}); err != nil {
			return err
		}
		if err := recordLines(t, row.At, a, "changed in bulk", w.lines, false); err != nil {
			return err
		}
		return s.learner.Refresh(t, store.Keys(units, func(u store.Unit) uuid.UUID { return u.ID }))
	})
	return out, err
}

func (w *bulkWork) plan(units []store.Unit) (string, error) {
	switch w.req.What {
	case contract.NewBulkChangeWhatInterval:
		return w.planIntervals(units)
	case contract.NewBulkChangeWhatCompanion:
		return w.planCompanions(units)
	case contract.NewBulkChangeWhatPeople:
		return w.planPeople(units)
	}
	return w.planField(units)
}

func (w *bulkWork) days() (int, error) {
	if w.req.Days == nil || *w.req.Days < 1 || *w.req.Days > dossier.MostDays {
		return 0, invalid.At("/days", "must be between 1 and %d days", dossier.MostDays)
	}
	return *w.req.Days, nil
}

// planIntervals sets the interval of the light or deep clean of every coil.
func (w *bulkWork) planIntervals(units []store.Unit) (string, error) {
	kind, why := optional.Value(w.req.Kind), optional.Trim(w.req.Reason)
	days, err := w.days()
	switch {
	case err != nil:
		return "", err
	case kind != contract.NewBulkChangeKindLight && kind != contract.NewBulkChangeKindDeep:
		return "", invalid.At("/kind", "must be light or deep")
	case why == "":
		return "", invalid.At("/reason", "say why, so that others can follow it later")
	}
	tasks, err := store.Where[store.Task](w.t, "unit_id", idsOfUnits(units), "unit_id, coil_id")
	if err != nil {
		return "", err
	}
	of := store.By(tasks, func(t store.Task) uuid.UUID { return t.UnitID })
	for _, u := range units {
		found := false
		for _, task := range of[u.ID] {
			if task.Kind != string(kind) || task.CoilID == nil {
				continue
			}
			found = true
			w.setDays(u, task, days, why)
		}
		if !found {
			w.skip(u, string(kind)+" clean", "has no "+string(kind)+" clean")
		}
	}
	return fmt.Sprintf("%s clean every %d d: %s", wording.UpperFirst(string(kind)), days, why), nil
}

func (w *bulkWork) setDays(u store.Unit, task store.Task, days int, why string) {
	line := bulkLine{
		BulkLine: contract.BulkLine{UnitID: u.ID, Tag: u.Tag, What: task.Kind, From: fmt.Sprintf("%d d", task.EveryDays), To: fmt.Sprintf("%d d", days)},
		TaskID:   &task.ID, Was: new(strconv.Itoa(task.EveryDays)), Now: new(strconv.Itoa(days)),
	}
	if task.EveryDays == days {
		line.Skipped = "is so already"
		w.lines = append(w.lines, line)
		return
	}
	w.lines = append(w.lines, line)
	w.write = append(w.write, func() error {
		if task.CoilID == nil {
			return w.t.SetTaskInterval(task, days)
		}
		change := store.IntervalChange{
			OrganisationID: w.t.Org, ID: store.NewID(), TaskID: task.ID, FromDays: task.EveryDays, ToDays: days, School: string(contract.SchoolOwn),
			Reason: why, AccountID: &w.a.AccountID, At: w.s.Stamp(),
		}
		if err := w.t.SetTaskInterval(task, days); err != nil {
			return err
		}
		if err := w.t.CloseProposals([]uuid.UUID{task.ID}, "overridden", w.s.Stamp()); err != nil {
			return err
		}
		return store.Insert(w.t, change)
	})
}

func (w *bulkWork) skip(u store.Unit, what, why string) {
	w.lines = append(w.lines, bulkLine{BulkLine: contract.BulkLine{UnitID: u.ID, Tag: u.Tag, What: what, Skipped: why}})
}

func idsOfUnits(units []store.Unit) []uuid.UUID {
	return store.Keys(units, func(u store.Unit) uuid.UUID { return u.ID })
}

// planCompanions sets how often a companion task runs.
func (w *bulkWork) planCompanions(units []store.Unit) (string, error) {
	kind := optional.Value(w.req.Kind)
	days, err := w.days()
	switch {
	case err != nil:
		return "", err
	case !contract.CompanionKind(kind).Valid():
		return "", invalid.At("/kind", "must be a companion task, such as filter")
	}
	tasks, err := store.Where[store.Task](w.t, "unit_id", idsOfUnits(units), "unit_id")
	if err != nil {
		return "", err
	}
	of := store.By(tasks, func(t store.Task) uuid.UUID { return t.UnitID })
	for _, u := range units {
		found := false
		for _, task := range of[u.ID] {
			if task.Kind == string(kind) && task.CoilID == nil {
				found = true
				w.setDays(u, task, days, "")
			}
		}
		if !found {
			w.skip(u, string(kind), "has no such clock")
		}
	}
	return fmt.Sprintf("%s every %d d", wording.UpperFirst(string(kind)), days), nil
}

// planPeople sets how many people a unit takes.
func (w *bulkWork) planPeople(units []store.Unit) (string, error) {
	n := optional.Value(w.req.Number)
	if n < 1 || n > 6 || n != float64(int(n)) {
		return "", invalid.At("/number", "must be a whole number between 1 and 6")
	}
	access, err := store.Where[store.UnitAccess](w.t, "unit_id", idsOfUnits(units), "lower(valid)")
	if err != nil {
		return "", err
	}
	of := store.By(access, func(x store.UnitAccess) uuid.UUID { return x.UnitID })
	days, err := w.s.SiteDays(w.t, store.Keys(units, func(u store.Unit) uuid.UUID { return u.PlacementID }))
	if err != nil {
		return "", err
	}
	for _, u := range units {
		today := days[u.PlacementID]
		var before *store.UnitAccess
		for i, x := range of[u.ID] {
			if x.Valid.Holds(today) {
				before = &of[u.ID][i]
			}
		}
		after := store.UnitAccess{OrganisationID: w.t.Org, UnitID: u.ID, IsolationKind: string(contract.AccessCardIsolationKindUnstated), People: 1}
		if before != nil {
			after = *before
		}
		line := bulkLine{
			BulkLine: contract.BulkLine{UnitID: u.ID, Tag: u.Tag, What: "people", From: strconv.Itoa(after.People), To: strconv.Itoa(int(n))},
			Was:      new(strconv.Itoa(after.People)), Now: new(strconv.Itoa(int(n))),
		}
		if after.People == int(n) {
			line.Skipped = "is so already"
			w.lines = append(w.lines, line)
			continue
		}
		after.ID, after.People, after.Valid = store.NewID(), int(n), store.DateRange{From: &today}
		w.lines = append(w.lines, line)
		w.write = append(w.write, func() error {
			if err := w.s.storeAccess(w.t, before, &after, today); err != nil {
				return err
			}
			return w.t.SetUnit(u.ID, map[string]any{})
		})
	}
	return fmt.Sprintf("People needed: %d", int(n)), nil
}

// planField sets a field of the units themselves.
func (w *bulkWork) planField(units []store.Unit) (string, error) {
	column, ok := unitColumns[w.req.What]
	if !ok {
		return "", invalid.At("/what", "is not something that can be changed in bulk")
	}
	text := optional.Text(optional.Trim(w.req.Text))
	if column.number {
		text = nil
		if w.req.Number != nil {
			if !(*w.req.Number >= column.lo && *w.req.Number <= column.hi) {
				return "", invalid.At("/number", "must be between %g and %g", column.lo, column.hi)
			}
			text = new(strconv.FormatFloat(*w.req.Number, 'f', -1, 64))
		}
	}
	name := strings.ReplaceAll(string(w.req.What), "_", " ")
	for _, u := range units {
		was := column.text(&u)
		line := bulkLine{
			BulkLine: contract.BulkLine{UnitID: u.ID, Tag: u.Tag, What: name, From: optional.Value(was), To: optional.Value(text)}, Was: was, Now: text,
		}
		if optional.Value(was) == optional.Value(text) {
			line.Skipped = "is so already"
			w.lines = append(w.lines, line)
			continue
		}
		w.lines = append(w.lines, line)
		w.write = append(w.write, func() error {
			read := u.Version
			column.set(&u, text)
			if w.req.What == contract.NewBulkChangeWhatRefrigerant {
				u.Flammable, _ = flammable("", u.Refrigerant, unknown)
			}
			u.Version++
			return store.SaveVersion(w.t, u.ID, read, &u)
		})
	}
	return wording.UpperFirst(name) + ": " + optional.Value(text), nil
}

func bulkView(row store.BulkChange, lines []bulkLine, by string) contract.BulkChange {
	out := contract.BulkChange{ID: row.ID, At: row.At, By: by, What: row.What, Undone: row.UndoneAt != nil, Lines: []contract.BulkLine{}}
	for _, l := range lines {
		out.Lines = append(out.Lines, l.BulkLine)
	}
	return out
}

// BulkChanges lists the newest bulk changes, newest first.
func (s *Service) BulkChanges(ctx context.Context, a organisation.Actor) ([]contract.BulkChange, error) {
	if err := a.Only(contract.RoleManager); err != nil {
		return nil, err
	}
	t := s.Tenant(ctx, a)
	rows, err := store.All[store.BulkChange](t, "at DESC, id DESC")
	if err != nil {
		return nil, err
	}
	names, err := s.Names(t)
	out := []contract.BulkChange{}
	for _, row := range rows[:min(len(rows), bulkShown)] {
		if a.Sites != nil && row.AccountID != a.AccountID {
			continue // may name units elsewhere
		}
		var lines []bulkLine
		if err := row.Changes.Into(&lines); err != nil {
			return nil, err
		}
		out = append(out, bulkView(row, lines, names.Of(&row.AccountID)))
	}
	return out, err
}

// UndoBulkChange puts back what stood before a bulk change, all of it or, where something was changed since, nothing.
func (s *Service) UndoBulkChange(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.BulkChange, error) {
	var out contract.BulkChange
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.BulkChange](t, id)
		if err != nil || (a.Sites != nil && row.AccountID != a.AccountID) {
			return errors.Join(err, organisation.ErrNotFound)
		}
		if row.UndoneAt != nil {
			return organisation.Conflict{Reason: "this change was already undone"}
		}
		var lines []bulkLine
		if err := row.Changes.Into(&lines); err != nil {
			return err
		}
		units, err := t.LockUnits(store.Keys(lines, func(l bulkLine) uuid.UUID { return l.UnitID }))
		if err != nil {
			return err
		}
		unit := store.Index(units, func(u store.Unit) uuid.UUID { return u.ID })
		w := &bulkWork{s: s, t: t, a: a}
		for _, l := range lines {
			if l.Skipped != "" {
				continue
			}
			if err := w.undo(l, unit[l.UnitID]); err != nil {
				return err
			}
		}
		at := s.Stamp()
		row.UndoneAt = &at
		names, err := s.Names(t)
		if err != nil {
			return err
		}
		out = bulkView(row, lines, names.Of(&row.AccountID))
		if err := store.Save(t, id, &row); err != nil {
			return err
		}
		if err := t.Record(at, a.AccountID, "bulk_change", id, "undone", organisation.AuditDetail{Note: row.What}); err != nil {
			return err
		}
		if err := recordLines(t, at, a, "bulk change undone", lines, true); err != nil {
			return err
		}
		return s.learner.Refresh(t, idsOfUnits(units))
	})
	return out, err
}

// recordLines leaves a bulk change, or that it was undone, on the trail of each unit that changed.
func recordLines(t store.Tenant, at time.Time, a organisation.Actor, action string, lines []bulkLine, undone bool) error {
	for _, l := range lines {
		if l.Skipped != "" {
			continue
		}
		change := contract.AuditChange{Path: l.What, Before: l.From, After: l.To}
		if undone {
			change.Before, change.After = change.After, change.Before
		}
		if err := t.Record(at, a.AccountID, "unit", l.UnitID, action, organisation.AuditDetail{Changes: []contract.AuditChange{change}}); err != nil {
			return err
		}
	}
	return nil
}

func (w *bulkWork) undo(l bulkLine, u store.Unit) error {
	changed := organisation.Conflict{Reason: fmt.Sprintf("%s was changed since; undo it there by hand", l.Tag)}
	if u.ID == uuid.Nil {
		return changed
	}
	if l.TaskID != nil {
		task, err := store.GetForUpdate[store.Task](w.t, *l.TaskID)
		if err != nil {
			return err
		}
		if strconv.Itoa(task.EveryDays) != optional.Value(l.Now) {
			return changed
		}
		days, err := strconv.Atoi(optional.Value(l.Was))
		if err != nil {
			return err
		}
		w.setDays(u, task, days, "bulk change undone")
		return w.write[len(w.write)-1]()
	}
	if l.What == "people" {
		n, err := strconv.ParseFloat(optional.Value(l.Was), 64)
		if err != nil {
			return err
		}
		w.req.Number = &n
		from := len(w.write)
		if _, err := w.planPeople([]store.Unit{u}); err != nil {
			return err
		}
		if last := w.lines[len(w.lines)-1]; optional.Value(last.Was) != optional.Value(l.Now) || len(w.write) == from {
			return changed
		}
		return w.write[from]()
	}
	column := unitColumns[contract.NewBulkChangeWhat(strings.ReplaceAll(l.What, " ", "_"))]
	if optional.Value(column.text(&u)) != optional.Value(l.Now) {
		return changed
	}
	read := u.Version
	column.set(&u, l.Was)
	u.Version++
	return store.SaveVersion(w.t, u.ID, read, &u)
}
