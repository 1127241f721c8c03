package fieldwork

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/exchange"
	"nextround/internal/importing"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// visitOfFile is a visit of a file: where it stands and what it says.
type visitOfFile struct {
	line int
	tag  string
	req  contract.NewVisit
}

// visitFile takes in files of visits.
type visitFile struct{ *Service }

// VisitFiles takes in files of visits.
func (s *Service) VisitFiles() importing.Taker { return visitFile{s} }

// Columns are those of a file of visits.
func (visitFile) Columns() []exchange.Column { return exchange.VisitColumns }

// Take takes in a file of visits.
func (s visitFile) Take(ctx context.Context, t store.Tenant, j *importing.Job) (bool, error) {
	table, ok, err := j.Table(ctx)
	if !ok {
		return false, err
	}
	file := exchange.ReadVisits(table, j.Told)
	j.Report.Rows = len(file.Rows)
	j.Columns(file.Columns, file.Missing)
	r, err := unitsNamed(t, file.Rows)
	if err != nil {
		return false, err
	}
	reader := newVisitReader(r, &file.Problems)
	visits := reader.read(file.Rows)
	known := map[string]bool{}
	for _, list := range r.Visits {
		for _, v := range list {
			known[sameVisit(visitForm(r, v))] = true
		}
	}
	fresh := visits[:0]
	for _, v := range visits {
		if key := sameVisit(v.req); known[key] {
			j.Report.KnownVisits++
		} else {
			known[key] = true
			fresh = append(fresh, v)
		}
	}
	j.Report.NewVisits = len(fresh)
	rows, err := s.checkHistory(t, j.A, r, fresh, &file.Problems, func(i int) error { return j.Tell(ctx, "checking", i, len(fresh)) })
	if err != nil {
		return false, err
	}
	j.Problems(file.Problems)
	if j.Trial() || len(fresh) == 0 {
		return false, nil
	}
	if err := j.Tell(ctx, "storing", 0, len(fresh)); err != nil {
		return false, err
	}
	if err := rows.store(t); err != nil {
		return false, err
	}
	touched := store.Keys(fresh, func(v visitOfFile) uuid.UUID { return v.req.UnitID })
	return true, s.learner.RefreshTelling(t, touched, j.Telling(ctx, len(touched)))
}

// unitsNamed loads the units that the rows of a file name.
func unitsNamed(t store.Tenant, rows []exchange.VisitRow) (*dossier.Facts, error) {
	tags := map[string]bool{}
	for _, row := range rows {
		tags[strings.ToLower(row.Tag)] = true
	}
	list := make([]string, 0, len(tags))
	for tag := range tags {
		list = append(list, tag)
	}
	units, err := t.UnitsByTag(list)
	if err != nil {
		return nil, err
	}
	return load.Units(t, units)
}

// history is visits of the past on their way in.
type history struct {
	surfaces []store.PartLook
	moves    []store.StockMove
	visits   []store.Visit
	rows     visitRows
}

func (h history) store(t store.Tenant) error {
	if err := store.Insert(t, h.visits...); err != nil {
		return err
	}
	if err := h.rows.store(t); err != nil {
		return err
	}
	if err := store.Insert(t, h.surfaces...); err != nil {
		return err
	}
	return store.Insert(t, h.moves...)
}

// checkHistory checks visits as if each were submitted today.
func (s *Service) checkHistory(t store.Tenant, a organisation.Actor, r *dossier.Facts, visits []visitOfFile, problems *exchange.Problems, tell func(int) error) (history, error) {
	var out history
	dossiers := map[uuid.UUID]dossier.Unit{}
	for _, u := range r.Rows.Units {
		d, err := r.Unit(u, s.Now())
		if err != nil {
			return out, err
		}
		dossiers[u.ID] = d
	}
	for i, v := range visits {
		if i%200 == 0 {
			if err := tell(i); err != nil {
				return out, err
			}
		}
		sheet := visitSheet{req: v.req, r: r, d: dossiers[v.req.UnitID], past: true}
		visit := s.visitRow(t, a, store.NewID(), v.req)
		err := sheet.check(visit)
		var bad invalid.Error
		switch {
		case errors.As(err, &bad):
			for _, f := range bad {
				problems.Addf(v.line, columnOf(f.Path), "%s", f.Reason)
			}
			continue
		case err != nil:
			return out, err
		}
		out.visits = append(out.visits, visit)
		out.rows.append(sheet.rows)
		// What was used is drawn from stock whenever it was written down.
		out.surfaces, out.moves = append(out.surfaces, sheet.details.surfaces...), append(out.moves, sheet.details.moves...)
	}
	return out, nil
}

// columnOf is the column of a file in which the field of a visit stands.
func columnOf(pointer string) string {
	for part, column := range map[string]string{
		"/outcome": "outcome", "/day": "day", "/people": "people", "/note": "note", "/found": "found", "/left": "left", "/why_not": "why not",
		"/soil_ids": "soils", "/cleaner_id": "cleaner", "/water_parts": "water parts", "/amount": "amount", "/method_id": "method",
		"/surface_ids": "side", "/unit_id": "tag", "/reached": "reached",
	} {
		if strings.Contains(pointer, part) {
			return column
		}
	}
	return ""
}

// LoadHistory takes in visits of the past in one transaction, all or none, each checked as if it were submitted
// today. Visits of one unit must come oldest first.
func (s *Service) LoadHistory(ctx context.Context, a organisation.Actor, visits []contract.NewVisit) error {
	if err := a.Only(contract.RoleManager); err != nil {
		return err
	}
	return s.Tenant(ctx, a).InBulk(func(t store.Tenant) error {
		r, err := load.Units(t, nil)
		if err != nil {
			return err
		}
		list := make([]visitOfFile, len(visits))
		for i, v := range visits {
			list[i] = visitOfFile{line: i, req: v}
		}
		var problems exchange.Problems
		rows, err := s.checkHistory(t, a, r, list, &problems, func(int) error { return nil })
		if err != nil {
			return err
		}
		if problems.Any() {
			p := problems.Listed[0]
			return invalid.At(fmt.Sprintf("/%d/%s", p.Line, p.Column), "%s", p.Reason)
		}
		if err := rows.store(t); err != nil {
			return err
		}
		return s.learner.Refresh(t, store.Keys(r.Rows.Units, func(u store.Unit) uuid.UUID { return u.ID }))
	}, nil)
}

// visitReader turns the rows of a file into visits.
type visitReader struct {
	r        *dossier.Facts
	problems *exchange.Problems
	unit     map[string]store.Unit
	person   map[string]uuid.UUID
	names    map[string]uuid.UUID // soils, methods and cleaners by kind and name or code
}

func newVisitReader(r *dossier.Facts, problems *exchange.Problems) visitReader {
	v := visitReader{r: r, problems: problems, unit: map[string]store.Unit{}, person: map[string]uuid.UUID{}, names: map[string]uuid.UUID{}}
	for _, u := range r.Rows.Units {
		v.unit[strings.ToLower(u.Tag)] = u
	}
	for _, p := range r.People {
		v.person[strings.ToLower(p.Name)] = p.ID
	}
	add := func(kind, code, name string, id uuid.UUID) {
		v.names[kind+strings.ToLower(code)], v.names[kind+strings.ToLower(name)] = id, id
	}
	for _, x := range r.Soils {
		add("soil/", x.Code, x.Name, x.ID)
	}
	for _, x := range r.Methods {
		add("method/", x.Code, x.Name, x.ID)
	}
	for _, x := range r.Cleaners {
		add("cleaner/", x.Code, x.Name, x.ID)
	}
	return v
}

type visitKey struct {
	tag    string
	day    calendar.Day
	number int
}

func (v visitReader) read(rows []exchange.VisitRow) []visitOfFile {
	at := map[visitKey]int{}
	var out []visitOfFile
	for _, row := range rows {
		u, ok := v.unit[strings.ToLower(row.Tag)]
		if !ok {
			if row.Tag != "" {
				v.problems.Addf(row.Line, "tag", "%s is not in the register; import or add the unit first", row.Tag)
			}
			continue
		}
		if row.Bad {
			continue
		}
		key := visitKey{strings.ToLower(row.Tag), row.Day, row.Visit}
		i, seen := at[key]
		if !seen {
			i = len(out)
			at[key] = i
			out = append(out, visitOfFile{line: row.Line, tag: row.Tag, req: contract.NewVisit{
				UnitID: u.ID, Day: row.Day, Outcome: contract.Outcome(row.Outcome), Note: optional.Text(row.Note),
				People: v.people(row), Coils: []contract.VisitCoil{},
			}})
		} else if string(out[i].req.Outcome) != row.Outcome {
			v.problems.Addf(row.Line, "outcome", "is another one in line %d of the same visit", out[i].line)
		}
		v.side(&out[i].req, row, u)
	}
	return out
}

func (v visitReader) people(row exchange.VisitRow) []contract.VisitPerson {
	out := []contract.VisitPerson{}
	for _, p := range row.People {
		id, ok := v.person[strings.ToLower(p.Name)]
		if !ok {
			v.problems.Addf(row.Line, "people", "%q is nobody of the organisation; add them under People first", p.Name)
			continue
		}
		out = append(out, contract.VisitPerson{PersonID: id, Minutes: p.Minutes})
	}
	return out
}

func (v visitReader) named(row exchange.VisitRow, kind, column, name string) *uuid.UUID {
	if name == "" {
		return nil
	}
	id, ok := v.names[kind+"/"+strings.ToLower(name)]
	if !ok {
		v.problems.Addf(row.Line, column, "%q is not one of your %s", name, kind+"s")
		return nil
	}
	return &id
}

// side adds a row's side, or all sides of its coil, and its treatment to a visit.
func (v visitReader) side(req *contract.NewVisit, row exchange.VisitRow, u store.Unit) {
	coils := v.r.Coils[u.ID]
	if row.CoilRole == "" && len(coils) > 1 && (row.Side != "" || row.Found != nil || row.Method != "") {
		v.problems.Addf(row.Line, "coil role", "is empty, and %s has more than one coil", row.Tag)
		return
	}
	if row.CoilRole == "" && row.Side == "" && row.Found == nil && row.Method == "" {
		return
	}
	var coil *store.Coil
	for i := range coils {
		if row.CoilRole == "" || coils[i].Role == row.CoilRole {
			coil = &coils[i]
			break
		}
	}
	if coil == nil {
		v.problems.Addf(row.Line, "coil role", "%s has no %s", row.Tag, row.CoilRole)
		return
	}
	var sides []store.Surface
	for _, s := range v.r.Surfaces[coil.ID] {
		if row.Side == "" || strings.EqualFold(s.Name, row.Side) {
			sides = append(sides, s)
		}
	}
	if len(sides) == 0 {
		v.problems.Addf(row.Line, "side", "%s, %s has no side %q", row.Tag, coil.Role, row.Side)
		return
	}
	at := -1
	for i := range req.Coils {
		if req.Coils[i].CoilID == coil.ID {
			at = i
		}
	}
	if at < 0 {
		at = len(req.Coils)
		req.Coils = append(req.Coils, contract.VisitCoil{CoilID: coil.ID, Sides: []contract.VisitSide{}, Treatments: []contract.VisitTreatment{}})
	}
	form := &req.Coils[at]
	for _, s := range sides {
		v.addSide(form, row, s)
	}
	if row.Method != "" {
		v.addTreatment(form, row, sides)
	}
}

func (v visitReader) addSide(form *contract.VisitCoil, row exchange.VisitRow, s store.Surface) {
	for _, there := range form.Sides {
		if there.SurfaceID == s.ID {
			return // once more, for a further treatment
		}
	}
	side := contract.VisitSide{SurfaceID: s.ID, Reached: row.Reached, WhyNot: optional.Text(row.WhyNot)}
	if row.FirstLook != nil && row.Reached {
		side.FirstLook = &contract.Look{Grade: *row.FirstLook, Seen: contract.FaceLook}
	}
	if row.Found != nil {
		side.Found = &contract.Look{Grade: *row.Found, Seen: contract.Seen(row.FoundBy)}
	}
	if row.Left != nil {
		side.Left = &contract.Look{Grade: *row.Left, Seen: contract.Seen(row.LeftBy)}
	}
	for _, name := range row.Soils {
		if id := v.named(row, "soil", "soils", name); id != nil {
			side.SoilIds = new(append(optional.Value(side.SoilIds), *id))
		}
	}
	form.Sides = append(form.Sides, side)
}

func (v visitReader) addTreatment(form *contract.VisitCoil, row exchange.VisitRow, sides []store.Surface) {
	t := contract.VisitTreatment{
		Work: contract.TaskKind(row.Work), Direction: contract.Direction(row.Direction), WaterParts: row.WaterParts, SurfaceIds: []uuid.UUID{},
	}
	if id := v.named(row, "method", "method", row.Method); id != nil {
		t.MethodID = *id
	} else {
		return
	}
	t.CleanerID = v.named(row, "cleaner", "cleaner", row.Cleaner)
	t.Tip, t.LoadedL, t.ToppedUpL, t.ReturnedL = optional.Text(row.Tip), row.LoadedL, row.ToppedUpL, row.ReturnedL
	if row.Where == "taken_out" {
		t.TakenOut = new(true)
	}
	if row.StoodMin != nil {
		t.DwellS = new(int(math.Round(*row.StoodMin * 60)))
	}
	if row.Amount != nil {
		t.Amount = &contract.Amount{Value: *row.Amount, Unit: contract.AmountUnit(row.AmountUnit)}
	}
	for _, e := range row.EndPoints {
		point := contract.EndPoint(strings.ReplaceAll(strings.ToLower(e), " ", "_"))
		if !point.Valid() {
			v.problems.Addf(row.Line, "end points", "%q is not an end-point", e)
			continue
		}
		t.EndPoints = new(append(optional.Value(t.EndPoints), point))
	}
	same := func(x contract.VisitTreatment) string {
		x.SurfaceIds = nil
		return organisation.HashOf(x)
	}
	for i := range form.Treatments {
		if same(form.Treatments[i]) == same(t) {
			for _, s := range sides {
				form.Treatments[i].SurfaceIds = append(form.Treatments[i].SurfaceIds, s.ID)
			}
			return
		}
	}
	for _, s := range sides {
		t.SurfaceIds = append(t.SurfaceIds, s.ID)
	}
	form.Treatments = append(form.Treatments, t)
}
