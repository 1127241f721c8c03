package tables_test

import (
	"flag"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/proof/tables"
)

var update = flag.Bool("update", false, "write the tables in docs again")

const (
	planTable = "../../../docs/plans.md"
	ruleTable = "../../../docs/house-rules.md"
)

// The tables in the docs are what the rules say today; make tables writes them again.
func TestTheTablesOfPlansAndRulesAreCurrent(t *testing.T) {
	t.Parallel()
	for path, write := range map[string]func() (string, error){planTable: tables.PlanTable, ruleTable: tables.RuleTable} {
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
