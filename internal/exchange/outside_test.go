package exchange_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/exchange"
)

// What openpyxl, a reader of spreadsheets that is not the one we write with, made of our file; kept by make
// check-outside together with its version.
func TestOpenpyxlReadsWhatWeWrite(t *testing.T) {
	b, err := os.ReadFile("testdata/openpyxl.json")
	require.NoError(t, err)
	var kept struct {
		ReadBy string     `json:"read_by"`
		Sheet  string     `json:"sheet"`
		Rows   [][]string `json:"rows"`
	}
	require.NoError(t, json.Unmarshal(b, &kept))
	assert.Contains(t, kept.ReadBy, "openpyxl")
	assert.Equal(t, "Register", kept.Sheet)
	want := append([][]string{exchange.ColumnNames(exchange.RegisterColumns)}, exchange.ExampleCells()...)
	assert.Equal(t, want, kept.Rows)
}

// A spreadsheet that openpyxl wrote, with a real date, numbers and letters beyond ASCII.
func TestWeReadWhatOpenpyxlWrites(t *testing.T) {
	b, err := os.ReadFile("testdata/openpyxl.xlsx")
	require.NoError(t, err)
	rows, problems := read(b)
	require.Empty(t, problems)
	require.Len(t, rows, 2)
	assert.Equal(t, "2025-09-14", rows[0].LastDay.String())
	assert.Equal(t, 2019, *rows[0].Year)
	assert.InDelta(t, 9.5, *rows[0].CapacityKw, 1e-12)
	assert.Equal(t, "Küche", rows[1].Placement)
	assert.Equal(t, "101", rows[1].Tag)
}
