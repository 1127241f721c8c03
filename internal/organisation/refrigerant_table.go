package organisation

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// RefrigerantTables are the saturation tables the organisation took in.
func (s *Service) RefrigerantTables(ctx context.Context, a Actor) ([]contract.RefrigerantTable, error) {
	t := s.Tenant(ctx, a)
	rows, err := store.All[store.RefrigerantTable](t, "code")
	if err != nil {
		return nil, err
	}
	names, err := s.Names(t)
	if err != nil {
		return nil, err
	}
	out := []contract.RefrigerantTable{}
	for _, r := range rows {
		view, err := tableView(r, names)
		if err != nil {
			return nil, err
		}
		out = append(out, view)
	}
	return out, nil
}

func tableView(r store.RefrigerantTable, names Names) (contract.RefrigerantTable, error) {
	var points []heat.TablePoint
	if err := r.Points.Into(&points); err != nil {
		return contract.RefrigerantTable{}, err
	}
	return contract.RefrigerantTable{
		Code: r.Code, Points: len(points), FromC: points[0].Celsius, ToC: points[len(points)-1].Celsius, At: r.At, By: names.Of(r.AccountID),
	}, nil
}

// ImportRefrigerantTable takes a saturation table in, in place of the built-in equations or for a refrigerant that has
// none. Its lines are held against one another; each that is wrong is named.
func (s *Service) ImportRefrigerantTable(ctx context.Context, a Actor, in contract.NewRefrigerantTable) (contract.RefrigerantTable, error) {
	var out contract.RefrigerantTable
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	code := strings.TrimSpace(in.Code)
	if known, ok := heat.RefrigerantByCode(code); ok {
		code = known.Code
	}
	points, err := readTable(in.Csv)
	if err != nil {
		return out, err
	}
	if err := heat.CheckTable(points); err != nil {
		return out, invalid.At("/csv", "%v", err)
	}
	err = s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row := store.RefrigerantTable{OrganisationID: t.Org, ID: store.NewID(), Code: code, Points: store.ToJSON(points), AccountID: &a.AccountID, At: s.Stamp()}
		if err := t.PutRefrigerantTable(row); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "rule", t.Org, "saturation table", AuditDetail{Note: code}); err != nil {
			return err
		}
		out, err = tableView(row, Names{a.AccountID: a.Person.Name})
		return err
	})
	return out, err
}

// readTable reads lines of temperature, bubble and dew pressure.
func readTable(text string) ([]heat.TablePoint, error) {
	r := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\ufeff")))
	r.TrimLeadingSpace = true
	head, err := r.Read()
	if err != nil || len(head) != 3 || !strings.EqualFold(strings.TrimSpace(head[0]), "celsius") {
		return nil, invalid.At("/csv", "line 1: the columns are celsius, bubble_kpa, dew_kpa")
	}
	var bad invalid.Error
	out := []heat.TablePoint{}
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		line, _ := r.FieldPos(0)
		if err != nil {
			bad.Addf("/csv", "line %d: %v", line, err)
			break
		}
		var v [3]float64
		for i, c := range cells {
			if v[i], err = strconv.ParseFloat(strings.TrimSpace(c), 64); err != nil {
				bad.Addf("/csv", "line %d: %q is not a number", line, c)
			}
		}
		out = append(out, heat.TablePoint{Celsius: v[0], BubbleKpa: v[1], DewKpa: v[2]})
	}
	if len(out) == 0 && len(bad) == 0 {
		return nil, invalid.At("/csv", "has no line under its columns")
	}
	if err := bad.Err(); err != nil {
		return nil, fmt.Errorf("the table: %w", err)
	}
	return out, nil
}
