package exchange_test

import (
	"bytes"
	"encoding/json"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/exchange"
)

// What openpyxl, a reader of spreadsheets that is not the one we write with, made of our file; kept by make
// check-outside together with its version.
func TestOpenpyxlReadsWhatWeWrite(t *testing.T) {
	t.Parallel()
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
	t.Parallel()
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

// What icalendar, a reader of calendars that is not the library we write with, made of ours; kept by make check-outside.
func TestIcalendarReadsWhatWeWrite(t *testing.T) {
	t.Parallel()
	b, err := os.ReadFile("testdata/icalendar.json")
	require.NoError(t, err)
	type event struct {
		UID         string `json:"uid"`
		Sequence    int    `json:"sequence"`
		Status      string `json:"status"`
		Summary     string `json:"summary"`
		Location    string `json:"location"`
		Description string `json:"description"`
		Starts      string `json:"starts"`
		Ends        string `json:"ends"`
		Changed     string `json:"changed"`
	}
	var kept struct {
		ReadBy string  `json:"read_by"`
		Name   string  `json:"name"`
		Method string  `json:"method"`
		Events []event `json:"events"`
	}
	require.NoError(t, json.Unmarshal(b, &kept))
	assert.Contains(t, kept.ReadBy, "icalendar")
	assert.Equal(t, [2]string{"Crew Tern", "PUBLISH"}, [2]string{kept.Name, kept.Method})
	const layout = "2006-01-02T15:04:05-07:00"
	want := []event{}
	for _, e := range exchange.ExampleEntries() {
		status := "CONFIRMED"
		if e.CalledOff {
			status = "CANCELLED"
		}
		want = append(want, event{
			e.UID, e.Sequence, status, e.Summary, e.Location, e.Description, e.Starts.Format(layout), e.Ends.Format(layout), e.Changed.Format(layout),
		})
	}
	assert.Equal(t, want, kept.Events)
}

func TestACalendarIsWrittenAsTheStandardWantsIt(t *testing.T) {
	t.Parallel()
	b := string(exchange.Calendar("Crew Tern", exchange.ExampleEntries()))
	assert.Equal(t, b, string(exchange.Calendar("Crew Tern", exchange.ExampleEntries())), "the same bytes each time")
	for _, line := range strings.Split(strings.TrimSuffix(b, "\r\n"), "\r\n") {
		assert.NotContains(t, line, "\n")
		assert.LessOrEqual(t, len(line), 75, "lines are folded at 75 octets (RFC 5545, 3.1): %s", line)
	}
}

func TestSheetsHaveCautionsAndAPageForEachStop(t *testing.T) {
	t.Parallel()
	sheets := []exchange.Sheet{
		{Head: "5 March", Title: "Harbour Office", Cautions: []string{"Tell the people here."}, Deferral: "Local codes come first.", Jobs: []exchange.SheetJob{{Title: "07:40 HO-PU-1", Detail: []string{"Küche"}}}},
		{Title: "Maritime Museum"},
	}
	made := time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC)
	write := func() []byte {
		var out bytes.Buffer
		require.NoError(t, exchange.WriteSheets(&out, "Round", sheets, []string{"water 20 L"}, made))
		return out.Bytes()
	}
	pdf := write()
	assert.True(t, bytes.HasPrefix(pdf, []byte("%PDF-")))
	assert.Equal(t, 3, bytes.Count(pdf, []byte("/Type /Page\n")), "two stops and the load list")
	assert.Equal(t, pdf, write(), "the same bytes each time")
}
