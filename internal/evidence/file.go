package evidence

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier/load"
	"nextround/internal/exchange"
	"nextround/internal/importing"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// callOutFile takes in files of call-outs.
type callOutFile struct{ *Service }

// CallOutFiles takes in files of call-outs.
func (s *Service) CallOutFiles() importing.Taker { return callOutFile{s} }

// Columns are those of a file of call-outs.
func (callOutFile) Columns() []exchange.Column { return exchange.CallOutColumns }

// Take takes in a file of call-outs. One that is in the log already, of the same unit, day and cause, is passed over.
func (s callOutFile) Take(ctx context.Context, t store.Tenant, j *importing.Job) (bool, error) {
	table, ok, err := j.Table(ctx)
	if !ok {
		return false, err
	}
	file := exchange.ReadCallOuts(table, j.Told)
	j.Report.Rows = len(file.Rows)
	j.Columns(file.Columns, file.Missing)
	fresh, err := s.fresh(ctx, t, j, &file)
	if err != nil {
		return false, err
	}
	j.Report.NewCallOuts = len(fresh)
	j.Problems(file.Problems)
	if j.Trial() || len(fresh) == 0 {
		return false, nil
	}
	if err := j.Tell(ctx, "storing", 0, len(fresh)); err != nil {
		return false, err
	}
	if err := store.Insert(t, fresh...); err != nil {
		return false, err
	}
	if err := t.Record(s.Stamp(), j.A.AccountID, "call_out", fresh[0].ID, "imported", organisation.AuditDetail{Note: fmt.Sprintf("%d call-outs", len(fresh))}); err != nil {
		return false, err
	}
	touched := store.Keys(fresh, func(x store.CallOut) uuid.UUID { return x.UnitID })
	return true, s.learner.RefreshTelling(t, touched, j.Telling(ctx, len(touched)))
}

// callKey is what makes two call-outs the same.
type callKey struct {
	unit  uuid.UUID
	day   calendar.Day
	cause string
}

// fresh are the call-outs of a file that are not in the log yet.
func (s callOutFile) fresh(ctx context.Context, t store.Tenant, j *importing.Job, file *exchange.CallOutFile) ([]store.CallOut, error) {
	tags := store.Keys(file.Rows, func(r exchange.CallOutRow) string { return strings.ToLower(r.Tag) })
	ids, err := t.UnitsByTag(tags)
	if err != nil {
		return nil, err
	}
	facts, err := load.Units(t, ids)
	if err != nil {
		return nil, err
	}
	byTag := store.Index(facts.Rows.Units, func(u store.Unit) string { return strings.ToLower(u.Tag) })
	there, err := store.Where[store.CallOut](t, "unit_id", ids, "id")
	if err != nil {
		return nil, err
	}
	known := store.Index(there, func(x store.CallOut) callKey { return callKey{x.UnitID, x.Day.Day(), x.Cause} })
	var fresh []store.CallOut
	for i, r := range file.Rows {
		if i%200 == 0 {
			if err := j.Tell(ctx, "checking", i, len(file.Rows)); err != nil {
				return nil, err
			}
		}
		u, ok := byTag[strings.ToLower(r.Tag)]
		switch {
		case r.Bad:
			continue
		case !ok:
			file.Addf(r.Line, "tag", "%s is not in the register; import or add the unit first", r.Tag)
			continue
		}
		key := callKey{u.ID, r.Day, string(r.Cause)}
		if _, twice := known[key]; twice {
			j.Report.KnownCallOuts++
			continue
		}
		row, err := s.row(facts, j.A, u, contract.NewCallOut{
			UnitID: u.ID, Day: r.Day, Cause: r.Cause, CoilToBlame: r.CoilToBlame, Prevented: r.Prevented, Cost: r.Cost, Goods: r.Goods, Note: optional.Text(r.Note),
		}, store.CallOut{ID: store.NewID()})
		if bad, ok := err.(invalid.Error); ok { //nolint:errorlint // that of row, as it is
			for _, f := range bad {
				file.Addf(r.Line, strings.ReplaceAll(strings.TrimPrefix(f.Path, "/"), "_", " "), "%s", f.Reason)
			}
			continue
		} else if err != nil {
			return nil, err
		}
		known[key], fresh = row, append(fresh, row)
	}
	return fresh, nil
}

// ExportCallOuts writes the log as a file that the import reads back.
func (s *Service) ExportCallOuts(ctx context.Context, a organisation.Actor, format string, w io.Writer) error {
	log, err := s.CallOuts(ctx, a, nil, nil)
	if err != nil {
		return err
	}
	rows := make([][]string, 0, len(log.CallOuts))
	for _, x := range log.CallOuts {
		rows = append(rows, exchange.CallOutRow{
			Tag: x.Tag, Day: x.Day, Cause: x.Cause, CoilToBlame: x.CoilToBlame, Prevented: x.Prevented, Cost: x.Cost, Goods: x.Goods, Note: x.Note,
		}.Cells())
	}
	return exchange.WriteTable(w, format, "Call-outs", exchange.CallOutColumns, rows)
}

// CallOutTemplate is a file of call-outs with our columns and an example row.
func (s *Service) CallOutTemplate(format string, w io.Writer) error {
	row := exchange.CallOutRow{
		Tag: "CC-RI-1", Day: calendar.MustParse("2025-07-19"), Cause: contract.CallOutCauseSoiledCoil, CoilToBlame: contract.YesNoYes,
		Prevented: contract.YesNoYes, Cost: new(310.), Goods: new(140.), Note: "tripped on high pressure on a hot day",
	}
	return exchange.WriteTable(w, format, "Call-outs", exchange.CallOutColumns, [][]string{row.Cells()})
}
