package register

import (
	"context"
	"io"
	"sort"

	"github.com/google/uuid"

	"nextround/core/interval"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/exchange"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// eachRegisterRow gives every coil as a row of a register file.
func eachRegisterRow(t store.Tenant, do func(store.Unit, exchange.RegisterRow) error) error {
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return err
	}
	after := uuid.Nil
	for {
		units, err := t.UnitIDs(after, 10*load.Batch)
		if err != nil || len(units) == 0 {
			return err
		}
		after = units[len(units)-1]
		f, err := t.LoadRegisterFacts(units)
		if err != nil {
			return err
		}
		if err := t.LoadPlaces(&f, false); err != nil {
			return err
		}
		r := dossier.New(c, f, true)
		coils := store.By(r.Rows.Coils, func(x store.Coil) uuid.UUID { return x.UnitID })
		tasks := store.By(r.Rows.Tasks, func(x store.Task) uuid.UUID { return optional.Value(x.CoilID) })
		for _, u := range r.Rows.Units {
			for _, coil := range coils[u.ID] {
				if err := do(u, registerRow(r, u, coil, tasks[coil.ID])); err != nil {
					return err
				}
			}
		}
	}
}

func registerRow(r *dossier.Facts, u store.Unit, c store.Coil, tasks []store.Task) exchange.RegisterRow {
	place := r.Placements[u.PlacementID]
	row := exchange.RegisterRow{
		Site: r.Sites[place.SiteID].Name, Placement: place.Name, Setting: place.Setting, Tag: u.Tag, Class: r.ClassByID[u.ClassID].Name,
		CoilRole: c.Role, LastClean: interval.LastClean(c.StartQuality), LastDay: store.DayOf(c.StartDay), Make: u.Make, Model: u.Model,
		Serial: u.Serial, Year: u.Year, Commissioned: store.DayOf(u.Commissioned), Refrigerant: u.Refrigerant, Flammable: u.Flammable, ChargeKg: u.ChargeKg,
		CapacityKw: u.CapacityKw, EnergyKwhDay: u.EnergyKwhDay, ConsequenceCost: u.ConsequenceCost, Construction: c.Construction,
		Slabs: c.Slabs, Note: u.Note,
	}
	for _, t := range tasks {
		if t.Kind == string(contract.TaskKindLight) {
			row.LightDays = new(t.EveryDays)
		} else {
			row.DeepDays = new(t.EveryDays)
		}
	}
	return row
}

// ExportRegister writes the register as a file that the import reads back.
func (s *Service) ExportRegister(ctx context.Context, a organisation.Actor, format string, w io.Writer) error {
	var lines []exchange.RegisterRow
	err := eachRegisterRow(s.Tenant(ctx, a), func(u store.Unit, row exchange.RegisterRow) error {
		if u.Status != dossier.Retired {
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
	return exchange.WriteTable(w, format, "Register", exchange.RegisterColumns, rows)
}

// RegisterTemplate is a register file with our columns and example rows.
func (s *Service) RegisterTemplate(format string, w io.Writer) error {
	return exchange.WriteTable(w, format, "Register", exchange.RegisterColumns, exchange.ExampleCells())
}
