package wording_test

import (
	"flag"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/workplan"
	"nextround/internal/wording"
)

var update = flag.Bool("update", false, "write the tables in docs again")

const (
	planTable = "../../docs/plans.md"
	ruleTable = "../../docs/house-rules.md"
)

// The tables in the docs are what the rules say today; make tables writes them again.
func TestTheTablesOfPlansAndRulesAreCurrent(t *testing.T) {
	t.Parallel()
	for path, write := range map[string]func() (string, error){planTable: wording.PlanTable, ruleTable: wording.RuleTable} {
		text, err := write()
		require.NoError(t, err)
		if *update {
			require.NoError(t, os.WriteFile(path, []byte(text), 0o644)) //nolint:gosec // a document for everyone
		}
		kept, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.True(t, text == string(kept), "%s is not current: run make tables", path)
		assert.NotContains(t, text, "none.  |", "every combination has a plan, or is told what to do")
	}
}

// Whatever code a plan carries, there are words for it.
func TestEveryCodeOfAPlanHasWords(t *testing.T) {
	t.Parallel()
	err := workplan.EachCase(func(c workplan.Case) {
		for _, x := range c.Advice.Then {
			assert.NotEmpty(t, wording.PlanThen[x], x)
		}
		for _, p := range c.Advice.Plans {
			assert.NotEmpty(t, wording.PlanContain[p.Contain], p.Contain)
			assert.NotEmpty(t, wording.PlanDispose[p.Dispose], p.Dispose)
			for _, n := range p.Notes {
				assert.NotEmpty(t, wording.PlanNotes[n], n)
			}
			for _, x := range p.Passes {
				assert.NotEmpty(t, wording.PassStops[x.StopWhen], x.StopWhen)
				assert.True(t, x.Tip == "" || wording.PassTips[x.Tip] != "", x.Tip)
				assert.True(t, x.Side == "" || wording.PassSides[x.Side] != "", x.Side)
			}
		}
	})
	require.NoError(t, err)
}
