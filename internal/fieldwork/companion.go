package fieldwork

import (
	"context"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Tick notes that a companion task was done on a day.
func (s *Service) Tick(ctx context.Context, a organisation.Actor, task uuid.UUID, in contract.NewTick) (contract.Companion, error) {
	var out contract.Companion
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.Get[store.Task](t, task)
		if err != nil {
			return err
		}
		r, err := load.Units(t, []uuid.UUID{row.UnitID})
		if err != nil {
			return err
		}
		if len(r.Rows.Units) == 0 {
			return organisation.ErrNotFound
		}
		if row.CoilID != nil {
			return organisation.Conflict{Reason: "a coil's clean is recorded as a visit"}
		}
		d, err := r.Unit(r.Rows.Units[0], s.Now())
		if err != nil {
			return err
		}
		if in.Day > d.Today {
			return invalid.At("/day", "is in the future")
		}
		if d.Unit.Status == dossier.Retired {
			return organisation.Conflict{Reason: d.Unit.Tag + " is retired"}
		}
		tick := store.TaskTick{
			OrganisationID: t.Org, ID: store.NewID(), TaskID: task, Day: store.Date(in.Day), Note: optional.Trim(in.Note), AccountID: &a.AccountID, At: s.Stamp(),
		}
		r.Ticks[task] = append(r.Ticks[task], tick)
		out = r.Companion(d, row)
		if err := store.Insert(t, tick); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, "unit", row.UnitID, row.Kind+" done", organisation.AuditDetail{Note: in.Day.String()})
	})
	return out, err
}
