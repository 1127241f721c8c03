package wording_test

import (
	"flag"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/wording"
)

var update = flag.Bool("update", false, "write docs/cleaners.md again")

const cleanerTable = "../../docs/cleaners.md"

// The table in the docs is what the rules say today; make tables writes it again.
func TestTheTableOfCleanersIsCurrent(t *testing.T) {
	t.Parallel()
	text, err := wording.CleanerTable()
	require.NoError(t, err)
	if *update {
		require.NoError(t, os.WriteFile(cleanerTable, []byte(text), 0o644)) //nolint:gosec // a document for everyone
	}
	kept, err := os.ReadFile(cleanerTable)
	require.NoError(t, err)
	assert.Equal(t, text, string(kept), "run make tables")
	for _, row := range strings.Split(text, "\n") {
		if strings.HasPrefix(row, "| ") {
			assert.NotContains(t, row, "|  |", "every combination has a recommendation or a named rule: %s", row)
		}
	}
	assert.Contains(t, text, "`alkaline_microchannel`")
}
