package fieldwork

import (
	"context"
	"io"
	"sort"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/exchange"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// ExportVisits writes the visits as a file that the import reads back.
func (s *Service) ExportVisits(ctx context.Context, a organisation.Actor, format string, w io.Writer) error {
	rows, err := exportVisits(s.Tenant(ctx, a))
	if err != nil {
		return err
	}
	return exchange.WriteTable(w, format, "Visits", exchange.VisitColumns, rows)
}

// VisitTemplate is a file of visits with our columns and an example row.
func (s *Service) VisitTemplate(format string, w io.Writer) error {
	grade := 2
	row := exchange.VisitRow{
		Tag: "CC-RI-1", Day: calendar.MustParse("2025-09-14"), Visit: 1, Outcome: string(contract.OutcomeDone), CoilRole: "condenser", Side: "rear", Reached: true,
		Found: &grade, FoundBy: "light_through", Soils: []string{"Dry dust"}, Left: new(int), LeftBy: "light_through", Work: "deep",
		Method: "Brush and vacuum", Direction: "along_fins", People: []exchange.PersonMinutes{{Name: "Technician, Crew Tern", Minutes: 45}},
	}
	return exchange.WriteTable(w, format, "Visits", exchange.VisitColumns, [][]string{row.Cells()})
}

func exportVisits(t store.Tenant) ([][]string, error) {
	var lines []exchange.VisitRow
	err := load.EachBatch(t, func(r *dossier.Facts) error {
		for _, u := range r.Rows.Units {
			number := map[calendar.Day]int{}
			for _, v := range r.Visits[u.ID] {
				number[v.Day.Day()]++
				lines = append(lines, visitLines(r, u, v, number[v.Day.Day()])...)
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
func visitLines(r *dossier.Facts, u store.Unit, v store.Visit, number int) []exchange.VisitRow {
	form := visitForm(r, v)
	person := store.Index(r.People, func(p store.Person) uuid.UUID { return p.ID })
	base := exchange.VisitRow{Tag: u.Tag, Day: form.Day, Visit: number, Outcome: string(form.Outcome), Note: optional.Value(form.Note)}
	for _, p := range form.People {
		base.People = append(base.People, exchange.PersonMinutes{Name: person[p.PersonID].Name, Minutes: p.Minutes})
	}
	if len(form.Coils) == 0 {
		return []exchange.VisitRow{base}
	}
	coils := store.Index(r.Coils[u.ID], func(c store.Coil) uuid.UUID { return c.ID })
	var out []exchange.VisitRow
	for _, c := range form.Coils {
		name := store.Index(r.Surfaces[c.CoilID], func(s store.Surface) uuid.UUID { return s.ID })
		for _, side := range c.Sides {
			row := base
			row.CoilRole, row.Side, row.Reached, row.WhyNot = coils[c.CoilID].Role, name[side.SurfaceID].Name, side.Reached, optional.Value(side.WhyNot)
			if side.FirstLook != nil {
				row.FirstLook = &side.FirstLook.Grade
			}
			if side.Found != nil {
				row.Found, row.FoundBy = &side.Found.Grade, string(side.Found.Seen)
			}
			if side.Left != nil {
				row.Left, row.LeftBy = &side.Left.Grade, string(side.Left.Seen)
			}
			for _, id := range optional.Value(side.SoilIds) {
				row.Soils = append(row.Soils, r.SoilByID[id].Name)
			}
			done := treatedLines(r, row, c, side.SurfaceID)
			if len(done) == 0 {
				done = []exchange.VisitRow{row}
			}
			out = append(out, done...)
		}
	}
	return out
}

func treatedLines(r *dossier.Facts, row exchange.VisitRow, c contract.VisitCoil, surface uuid.UUID) []exchange.VisitRow {
	var out []exchange.VisitRow
	for _, t := range c.Treatments {
		for _, id := range t.SurfaceIds {
			if id != surface {
				continue
			}
			line := row
			line.Work, line.Method, line.Direction, line.WaterParts = string(t.Work), r.Method[t.MethodID].Name, string(t.Direction), t.WaterParts
			line.Where, line.Tip, line.LoadedL, line.ToppedUpL, line.ReturnedL = "in_place", optional.Value(t.Tip), t.LoadedL, t.ToppedUpL, t.ReturnedL
			if optional.Value(t.TakenOut) {
				line.Where = "taken_out"
			}
			if t.DwellS != nil {
				line.StoodMin = new(float64(*t.DwellS) / 60)
			}
			if t.CleanerID != nil {
				line.Cleaner = r.Cleaner[*t.CleanerID].Name
			}
			if t.Amount != nil {
				line.Amount, line.AmountUnit = &t.Amount.Value, string(t.Amount.Unit)
			}
			for _, e := range optional.Value(t.EndPoints) {
				line.EndPoints = append(line.EndPoints, string(e))
			}
			out = append(out, line)
		}
	}
	return out
}
