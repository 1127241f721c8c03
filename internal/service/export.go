package service

import (
	"context"
	"io"
	"sort"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/internal/contract"
	"nextround/internal/exchange"
	"nextround/internal/store"
)

// batch is how many units are worked on at once where all of them are.
const batch = 500

// eachBatch loads the units that may be seen, a batch at a time, in the order of their ids.
func eachBatch(t store.Tenant, do func(*register) error) error {
	c, err := loadCatalogue(t)
	if err != nil {
		return err
	}
	after := uuid.Nil
	for {
		units, err := t.UnitIDs(after, batch)
		if err != nil || len(units) == 0 {
			return err
		}
		after = units[len(units)-1]
		r, err := loadRegisterWith(t, c, units)
		if err != nil {
			return err
		}
		if err := do(r); err != nil {
			return err
		}
	}
}

// eachRegisterRow gives every coil as a row of a register file.
func eachRegisterRow(t store.Tenant, do func(store.Unit, exchange.RegisterRow) error) error {
	c, err := loadCatalogue(t)
	if err != nil {
		return err
	}
	after := uuid.Nil
	for {
		units, err := t.UnitIDs(after, 10*batch)
		if err != nil || len(units) == 0 {
			return err
		}
		after = units[len(units)-1]
		r := &register{catalogue: c}
		if r.facts, err = t.LoadRegisterFacts(units); err != nil {
			return err
		}
		if err := r.loadPlaces(t, false); err != nil {
			return err
		}
		coils := store.By(r.facts.Coils, func(x store.Coil) uuid.UUID { return x.UnitID })
		tasks := store.By(r.facts.Tasks, func(x store.Task) uuid.UUID { return value(x.CoilID) })
		for _, u := range r.facts.Units {
			for _, coil := range coils[u.ID] {
				if err := do(u, r.registerRow(u, coil, tasks[coil.ID])); err != nil {
					return err
				}
			}
		}
	}
}

func (r *register) registerRow(u store.Unit, c store.Coil, tasks []store.Task) exchange.RegisterRow {
	place := r.placements[u.PlacementID]
	row := exchange.RegisterRow{
		Site: r.sites[place.SiteID].Name, Placement: place.Name, Setting: place.Setting, Tag: u.Tag, Class: r.classByID[u.ClassID].Name,
		CoilRole: c.Role, LastClean: interval.LastClean(c.StartQuality), LastDay: store.DayOf(c.StartDay), Make: u.Make, Model: u.Model,
		Serial: u.Serial, Year: u.Year, Commissioned: store.DayOf(u.Commissioned), Refrigerant: u.Refrigerant, ChargeKg: u.ChargeKg,
		CapacityKw: u.CapacityKw, EnergyKwhDay: u.EnergyKwhDay, ConsequenceCost: u.ConsequenceCost, Construction: c.Construction,
		Slabs: c.Slabs, Note: u.Note,
	}
	for _, t := range tasks {
		if t.Kind == string(contract.TaskKindLight) {
			row.LightDays = ptr(t.EveryDays)
		} else {
			row.DeepDays = ptr(t.EveryDays)
		}
	}
	return row
}

// Export writes the register or the visits as a file that the import reads back.
func (s *Service) Export(ctx context.Context, a Actor, kind, format string, w io.Writer) error {
	t := s.tenant(ctx, a)
	if kind == "visits" {
		rows, err := exportVisits(t)
		if err != nil {
			return err
		}
		return writeTable(w, format, "Visits", exchange.VisitColumns, rows)
	}
	var lines []exchange.RegisterRow
	err := eachRegisterRow(t, func(u store.Unit, row exchange.RegisterRow) error {
		if u.Status != retired {
			lines = append(lines, row)
		}
		return nil
	})
	if err != nil {
		return err
	}
	sort.SliceStable(lines, func(i, j int) bool {
		if lines[i].Site != lines[j].Site {
			return lines[i].Site < lines[j].Site
		}
		return lines[i].Tag < lines[j].Tag
	})
	rows := make([][]string, len(lines))
	for i, line := range lines {
		rows[i] = line.Cells()
	}
	return writeTable(w, format, "Register", exchange.RegisterColumns, rows)
}

// ImportTemplate is a file with our columns and example rows.
func (s *Service) ImportTemplate(kind, format string, w io.Writer) error {
	if kind == "visits" {
		grade := 2
		row := exchange.VisitRow{
			Tag: "CC-RI-1", Day: calendar.MustParse("2025-09-14"), Visit: 1, Outcome: "done", CoilRole: "condenser", Side: "rear", Reached: true,
			Found: &grade, FoundBy: "light_through", Soils: []string{"Dry dust"}, Left: new(int), LeftBy: "light_through", Work: "deep",
			Method: "Brush and vacuum", Direction: "along_fins", People: []exchange.PersonMinutes{{Name: "Technician, Crew Tern", Minutes: 45}},
		}
		return writeTable(w, format, "Visits", exchange.VisitColumns, [][]string{row.Cells()})
	}
	return writeTable(w, format, "Register", exchange.RegisterColumns, exchange.ExampleCells())
}

func writeTable(w io.Writer, format, sheet string, columns []exchange.Column, rows [][]string) error {
	if format == "xlsx" {
		return exchange.WriteXLSX(w, sheet, exchange.ColumnNames(columns), rows)
	}
	return exchange.WriteCSV(w, exchange.ColumnNames(columns), rows)
}

func exportVisits(t store.Tenant) ([][]string, error) {
	var lines []exchange.VisitRow
	err := eachBatch(t, func(r *register) error {
		for _, u := range r.facts.Units {
			number := map[calendar.Day]int{}
			for _, v := range r.visits[u.ID] {
				number[v.Day.Day()]++
				lines = append(lines, r.visitLines(u, v, number[v.Day.Day()])...)
			}
		}
		return nil
	})
	sort.SliceStable(lines, func(i, j int) bool {
		if lines[i].Day != lines[j].Day {
			return lines[i].Day < lines[j].Day
		}
		return lines[i].Tag < lines[j].Tag
	})
	rows := make([][]string, len(lines))
	for i, line := range lines {
		rows[i] = line.Cells()
	}
	return rows, err
}

// visitLines writes a visit as rows: one for each side, and once more for each further treatment of it.
func (r *register) visitLines(u store.Unit, v store.Visit, number int) []exchange.VisitRow {
	form := r.form(v)
	person := store.Index(r.people, func(p store.Person) uuid.UUID { return p.ID })
	base := exchange.VisitRow{Tag: u.Tag, Day: form.Day, Visit: number, Outcome: string(form.Outcome), Note: value(form.Note)}
	for _, p := range form.People {
		base.People = append(base.People, exchange.PersonMinutes{Name: person[p.PersonID].Name, Minutes: p.Minutes})
	}
	if len(form.Coils) == 0 {
		return []exchange.VisitRow{base}
	}
	coils := store.Index(r.coils[u.ID], func(c store.Coil) uuid.UUID { return c.ID })
	var out []exchange.VisitRow
	for _, c := range form.Coils {
		name := store.Index(r.surfaces[c.CoilID], func(s store.Surface) uuid.UUID { return s.ID })
		for _, side := range c.Sides {
			row := base
			row.CoilRole, row.Side, row.Reached, row.WhyNot = coils[c.CoilID].Role, name[side.SurfaceID].Name, side.Reached, value(side.WhyNot)
			if side.Found != nil {
				row.Found, row.FoundBy = &side.Found.Grade, string(side.Found.Seen)
			}
			if side.Left != nil {
				row.Left, row.LeftBy = &side.Left.Grade, string(side.Left.Seen)
			}
			for _, id := range value(side.SoilIds) {
				row.Soils = append(row.Soils, r.soilByID[id].Name)
			}
			done := r.treatedLines(row, c, side.SurfaceID)
			if len(done) == 0 {
				done = []exchange.VisitRow{row}
			}
			out = append(out, done...)
		}
	}
	return out
}

func (r *register) treatedLines(row exchange.VisitRow, c contract.VisitCoil, surface uuid.UUID) []exchange.VisitRow {
	var out []exchange.VisitRow
	for _, t := range c.Treatments {
		for _, id := range t.SurfaceIds {
			if id != surface {
				continue
			}
			line := row
			line.Work, line.Method, line.Direction, line.WaterParts = string(t.Work), r.method[t.MethodID].Name, string(t.Direction), t.WaterParts
			if t.CleanerID != nil {
				line.Cleaner = r.cleaner[*t.CleanerID].Name
			}
			if t.Amount != nil {
				line.Amount, line.AmountUnit = &t.Amount.Value, string(t.Amount.Unit)
			}
			for _, e := range value(t.EndPoints) {
				line.EndPoints = append(line.EndPoints, string(e))
			}
			out = append(out, line)
		}
	}
	return out
}
