package organisation_test

import (
	"math"
	"slices"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
)

// A changed class changes what rests on it; its default can be put back; every version is told in the trail.
func TestHouseRulesAreChangedAndRestored(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-03")
	ice := rowNamed(h.Table("classes"), "Ice machine")
	assert.Equal(t, contract.Evidence("assumption"), ice.Evidence)
	assert.Equal(t, 60.0, ice.Values["reference_days"])
	values := contract.HouseValues{"reference_days": 120.0, "light_days": nil}
	changed, err := h.Rooms.Organisation.SaveHouseRule(h.Ctx, h.Manager, "classes", ice.ID, ice.Version, values)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"reference_days", "light_days"}, changed.Changed)
	assert.Less(t, *h.Look(u.ID).Coils[0].Sides[0].State.BlockedShare, .2, "half the rate")
	require.NoError(t, h.Rooms.Learning.RefreshAll(h.Ctx))
	assert.Less(t, *h.Portfolio(h.Viewer)[0].Coil.State.BlockedShare, .2, "and the portfolio follows")
	var stale organisation.Stale
	_, err = h.Rooms.Organisation.SaveHouseRule(h.Ctx, h.Manager, "classes", ice.ID, ice.Version, values)
	assert.ErrorAs(t, err, &stale)
	back, err := h.Rooms.Organisation.SaveHouseRule(h.Ctx, h.Manager, "classes", ice.ID, 0, nil)
	require.NoError(t, err)
	assert.Empty(t, back.Changed)
	assert.Equal(t, 3, back.Version)
	assert.InDelta(t, 1-math.Exp(math.Log(.7)*math.Exp(.18)), *h.Look(u.ID).Coils[0].Sides[0].State.BlockedShare, 1e-3)
	trail, err := h.Rooms.Organisation.Audit(h.Ctx, h.Viewer, "rule", ice.ID)
	require.NoError(t, err)
	require.Len(t, trail, 2)
	assert.Equal(t, "classes: default put back", trail[0].Action)

	limit := h.Table("limits").Rows[0]
	_, err = h.Rooms.Organisation.SaveHouseRule(h.Ctx, h.Manager, "limits", limit.ID, limit.Version, contract.HouseValues{"share": .2})
	require.NoError(t, err)
	assert.Equal(t, .2, h.Look(u.ID).LimitShare)

	for _, c := range []struct {
		table, row, key string
		value           any
	}{
		{"classes", "Ice machine", "max_days", 10.0},
		{"classes", "Ice machine", "deep_days", "often"},
		{"classes", "Ice machine", "deep_days", 12.5},
		{"classes", "Ice machine", "usual_soil", "chocolate"},
		{"classes", "Ice machine", "colour", "red"},
		{"classes", "Ice machine", "name", " "},
		{"soils", "Dry dust", "penetration", 2.0},
		{"soils", "Dry dust", "month_weights", []any{1.0, 2.0}},
		{"factors", "Sand", "multiplier", 0.0},
		{"cleaners", "Water", "ph", 1.0},
		{"cleaners", "Indoor neutral, no rinse", "ph", 12.0},
		{"cleaners", "Water", "dwell_max_s", 10.0},
	} {
		row := rowNamed(h.Table(c.table), c.row)
		require.NotEqual(t, uuid.Nil, row.ID, c.row)
		_, err := h.Rooms.Organisation.SaveHouseRule(h.Ctx, h.Manager, c.table, row.ID, row.Version, contract.HouseValues{c.key: c.value})
		assert.Contains(t, roomstest.Fields(t, err), "/values/"+c.key, "%v", c)
	}
	dust := rowNamed(h.Table("soils"), "Dry dust")
	season := []any{12.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 12.0}
	dust, err = h.Rooms.Organisation.SaveHouseRule(h.Ctx, h.Manager, "soils", dust.ID, dust.Version, contract.HouseValues{"month_weights": season})
	require.NoError(t, err)
	assert.Equal(t, 6.0, dust.Values["month_weights"].([]float64)[0], "months are brought to a mean of 1")
	_, err = h.Rooms.Organisation.SaveHouseRule(h.Ctx, h.Technician, "soils", dust.ID, dust.Version, nil)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
	for _, table := range []string{"methods", "sprayers", "rates", "cleaners"} {
		rows := h.Table(table).Rows
		require.NotEmpty(t, rows, table)
		assert.NotEmpty(t, rows[0].Source, "every default says what it rests on")
		assert.Empty(t, rows[0].Changed)
	}
}

// Every figure, choice and text of the organisation that a manager may change can be changed on its own, says that it is, and
// goes back to its default.
func TestEveryRuleIsChangedAndPutBack(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	rules, err := h.Rooms.Organisation.HouseRules(h.Ctx, h.Manager)
	require.NoError(t, err)
	tried := map[string]int{}
	for _, table := range rules.Tables {
		require.NotEmpty(t, table.Rows, table.Key)
		for _, column := range table.Columns {
			for i, row := range table.Rows {
				now, ok := other(column, row.Values[column.Key])
				if !ok {
					continue
				}
				changed, err := h.Rooms.Organisation.SaveHouseRule(h.Ctx, h.Manager, table.Key, row.ID, row.Version, contract.HouseValues{column.Key: now})
				if err != nil {
					// Some figures bound each other, such as the shortest and longest dwell: then the field is named.
					assert.NotEmpty(t, roomstest.Fields(t, err), "%s %s %s", table.Key, row.Name, column.Key)
					continue
				}
				tried[table.Key]++
				assert.Contains(t, changed.Changed, column.Key, "%s %s", table.Key, row.Name)
				assert.Equal(t, row.Version+1, changed.Version)
				assert.EqualValues(t, now, changed.Values[column.Key], "%s %s %s", table.Key, row.Name, column.Key)
				back, err := h.Rooms.Organisation.SaveHouseRule(h.Ctx, h.Manager, table.Key, row.ID, 0, nil)
				require.NoError(t, err, "%s %s %s", table.Key, row.Name, column.Key)
				assert.Empty(t, back.Changed)
				assert.Equal(t, row.Values, back.Values)
				table.Rows[i].Version = back.Version
				break
			}
		}
	}
	for _, key := range []string{"classes", "soils", "factors", "methods", "sprayers", "cleaners", "rates", "limits"} {
		assert.Positive(t, tried[key], key)
	}
}

// other is a value a column takes other than the one it has.
func other(c contract.HouseColumn, now any) (any, bool) {
	switch v := now.(type) {
	case float64:
		for _, n := range []float64{v * .9, v * 1.1, v + .05} {
			if n != v && (c.Min == nil || n >= *c.Min) && (c.Max == nil || n <= *c.Max) {
				return n, true
			}
		}
	case int:
		for _, n := range []int{v - 1, v + 1} {
			if (c.Min == nil || float64(n) >= *c.Min) && (c.Max == nil || float64(n) <= *c.Max) {
				return float64(n), true
			}
		}
	case bool:
		return !v, true
	case string:
		if len(c.Choices) > 0 {
			i := slices.IndexFunc(c.Choices, func(s string) bool { return s != v })
			if i < 0 {
				return nil, false
			}
			return c.Choices[i], true
		}
		return v + "of ours", true
	}
	return nil, false
}

func rowNamed(t contract.HouseTable, name string) contract.HouseRow {
	for _, r := range t.Rows {
		if r.Name == name {
			return r
		}
	}
	return contract.HouseRow{}
}
