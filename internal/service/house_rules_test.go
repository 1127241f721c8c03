package service_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
)

// Every figure, choice and text of the house that a manager may change can be changed on its own, says that it is, and
// goes back to its default.
func TestEveryRuleIsChangedAndPutBack(t *testing.T) {
	h := newHouse(t)
	rules, err := h.svc.HouseRules(h.ctx, h.manager)
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
				changed, err := h.svc.SaveHouseRule(h.ctx, h.manager, table.Key, row.ID, row.Version, contract.HouseValues{column.Key: now})
				if err != nil {
					// Some figures bound each other, such as the shortest and longest dwell: then the field is named.
					assert.NotEmpty(t, fields(t, err), "%s %s %s", table.Key, row.Name, column.Key)
					continue
				}
				tried[table.Key]++
				assert.Contains(t, changed.Changed, column.Key, "%s %s", table.Key, row.Name)
				assert.Equal(t, row.Version+1, changed.Version)
				assert.EqualValues(t, now, changed.Values[column.Key], "%s %s %s", table.Key, row.Name, column.Key)
				back, err := h.svc.SaveHouseRule(h.ctx, h.manager, table.Key, row.ID, 0, nil)
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
