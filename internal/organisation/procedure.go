package organisation

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/core/procedure"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/store"
)

// Procedures are the templates in force, by class.
func (s *Service) Procedures(ctx context.Context, a Actor) ([]contract.ProcedureTemplate, error) {
	t := s.Tenant(ctx, a)
	c, err := LoadCatalogue(t)
	if err != nil {
		return nil, err
	}
	names, err := s.Names(t)
	if err != nil {
		return nil, err
	}
	out := []contract.ProcedureTemplate{}
	for _, class := range c.Classes {
		template, err := c.Template(class)
		if err != nil {
			return nil, err
		}
		if row, ok := c.procedures[class.ID]; ok {
			template.By = names.Of(row.AccountID)
		}
		out = append(out, template)
	}
	return out, nil
}

// ProcedureVersions are all versions of a class's template, the newest first; the standard one closes the list.
func (s *Service) ProcedureVersions(ctx context.Context, a Actor, class uuid.UUID) ([]contract.ProcedureTemplate, error) {
	t := s.Tenant(ctx, a)
	row, err := store.Get[store.EquipmentClass](t, class)
	if err != nil {
		return nil, err
	}
	names, err := s.Names(t)
	if err != nil {
		return nil, err
	}
	versions, err := store.Where[store.ProcedureVersion](t, "class_id", []uuid.UUID{class}, "version DESC")
	if err != nil {
		return nil, err
	}
	out := []contract.ProcedureTemplate{}
	for _, v := range versions {
		p := contract.ProcedureTemplate{ClassID: class, Class: row.Name, Version: v.Version, Reason: v.Reason, By: names.Of(v.AccountID), At: new(v.At)}
		if err := v.Steps.Into(&p.Steps); err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return append(out, contract.ProcedureTemplate{
		ClassID: class, Class: row.Name, Steps: defaults.Procedure(row.Code), Reason: defaults.ProcedureReason, By: "standard",
	}), nil
}

// SaveProcedure puts a new version of a class's template in force; earlier ones are kept. A template that lacks a
// needed step, or a step without its reason, is refused.
func (s *Service) SaveProcedure(ctx context.Context, a Actor, class uuid.UUID, in contract.ProcedureChange) (contract.ProcedureTemplate, error) {
	var out contract.ProcedureTemplate
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	why := strings.TrimSpace(in.Reason)
	if why == "" {
		return out, invalid.At("/reason", "say why, so that others can follow it later")
	}
	if err := procedure.CheckTemplate(in.Steps); err != nil {
		return out, Pointers(err)
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.EquipmentClass](t, class)
		if err != nil {
			return err
		}
		versions, err := store.Where[store.ProcedureVersion](t, "class_id", []uuid.UUID{class}, "version DESC")
		if err != nil {
			return err
		}
		newest := 0
		if len(versions) > 0 {
			newest = versions[0].Version
		}
		if newest != in.Version {
			return Conflict{Reason: "somebody else changed this procedure meanwhile; look at the newest version first"}
		}
		next := store.ProcedureVersion{
			OrganisationID: t.Org, ID: store.NewID(), ClassID: class, Version: newest + 1, Steps: store.ToJSON(in.Steps), Reason: why,
			AccountID: &a.AccountID, At: s.Stamp(),
		}
		out = contract.ProcedureTemplate{ClassID: class, Class: row.Name, Version: next.Version, Steps: in.Steps, Reason: why, By: a.Person.Name, At: &next.At}
		if err := store.Insert(t, next); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, "rule", class, "procedure changed", AuditDetail{Note: row.Name + ": " + why})
	})
	return out, err
}

// Pointers turns the core's paths, such as steps[2].why, into JSON pointers.
func Pointers(err error) error {
	var bad invalid.Error
	if !errors.As(err, &bad) {
		return err
	}
	out := make(invalid.Error, len(bad))
	for i, f := range bad {
		out[i] = invalid.Field{Path: invalid.Pointer(f.Path), Reason: f.Reason}
	}
	return out
}
