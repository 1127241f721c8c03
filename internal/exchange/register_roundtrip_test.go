package exchange_test

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/internal/exchange"
)

// Whatever others write as CSV is read as it was, but for the space around it. (An apostrophe at the start may be a
// spreadsheet's own mark for text; see TestBothFormatsReadTheSame.)
func TestWhatIsWrittenIsRead(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		word := rapid.StringMatching(`[ \n]{0,2}[A-Za-z0-9ÅØæ,;"\-][A-Za-z0-9ÅØæ ,;"'\-\n]{0,10}[A-Za-z0-9]`)
		n := rapid.IntRange(1, 5).Draw(t, "rows")
		columns := rapid.Permutation([]string{"site", "placement", "tag", "class", "coil role", "last clean", "something else"}).Draw(t, "columns")
		records := [][]string{columns}
		var want []map[string]string
		for range n {
			row := map[string]string{"coil role": "condenser", "last clean": "never"}
			for _, c := range []string{"site", "placement", "tag", "class"} {
				row[c] = word.Draw(t, c)
			}
			var record []string
			for _, c := range columns {
				record = append(record, row[c])
			}
			records, want = append(records, record), append(want, row)
		}
		var file bytes.Buffer
		w := csv.NewWriter(&file)
		w.UseCRLF = rapid.Bool().Draw(t, "CRLF")
		require.NoError(t, w.WriteAll(records))
		got, problems := read(file.Bytes())
		require.Empty(t, problems)
		require.Len(t, got, n)
		for i, r := range got {
			for column, text := range map[string]string{"site": r.Site, "placement": r.Placement, "tag": r.Tag, "class": r.Class} {
				assert.Equal(t, strings.TrimSpace(want[i][column]), text)
			}
			assert.Equal(t, interval.Never, r.LastClean)
		}
	})
}

// What we write, as CSV or XLSX, is read as it was, whatever a spreadsheet would make of it.
func TestBothFormatsReadTheSame(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`[=+\-@'A-Za-z0-9ÅØæ][A-Za-z0-9 ,;"'=+\-]{0,12}[A-Za-z0-9]`)
		year := rapid.IntRange(1950, 2026).Draw(t, "year")
		row := exchange.RegisterRow{
			Site: text.Draw(t, "site"), Placement: text.Draw(t, "placement"), Tag: text.Draw(t, "tag"), Class: "Ice machine", CoilRole: "condenser",
			LastClean: interval.About, LastDay: ptr(calendar.MustParse("2025-06-15")), Setting: "plant_room", Flammable: rapid.SampledFrom([]string{"yes", "no", "unknown"}).Draw(t, "burns"), Make: text.Draw(t, "make"), Year: &year,
			CapacityKw: ptr(rapid.Float64Range(.01, 20000).Draw(t, "kW")), Construction: "tube_fin", Slabs: 2, Note: text.Draw(t, "note"),
		}
		header := exchange.ColumnNames(exchange.RegisterColumns)
		var file, sheet bytes.Buffer
		require.NoError(t, exchange.WriteCSV(&file, header, [][]string{row.Cells()}))
		require.NoError(t, exchange.WriteXLSX(&sheet, "Register", header, [][]string{row.Cells()}))
		row.Line = 2
		for _, written := range [][]byte{file.Bytes(), sheet.Bytes()} {
			got, problems := read(written)
			require.Empty(t, problems)
			assert.Equal(t, []exchange.RegisterRow{row}, got)
		}
		for _, cell := range row.Cells() {
			if strings.HasPrefix(cell, "=") {
				assert.NotContains(t, "\n"+file.String(), ","+cell+",", "no cell starts a formula")
			}
		}
	})
}

func TestASpreadsheetIsRead(t *testing.T) {
	t.Parallel()
	f := excelize.NewFile()
	for cell, v := range map[string]any{
		"A1": "Site", "B1": "Room", "C1": "Unit", "D1": "Type", "E1": "Coil", "F1": "Last cleaned", "A2": "Hall", "B2": "Yard", "C2": 101, "D2": "Ice machine",
		"E2": "Condenser", "F2": time.Date(2025, 9, 14, 0, 0, 0, 0, time.UTC),
	} {
		require.NoError(t, f.SetCellValue("Sheet1", cell, v))
	}
	bytesOf := func() []byte {
		var out bytes.Buffer
		require.NoError(t, f.Write(&out))
		return out.Bytes()
	}
	rows, problems := read(bytesOf())
	require.Empty(t, problems)
	assert.Equal(t, "101", rows[0].Tag)
	assert.Equal(t, "2025-09-14", rows[0].LastDay.String(), "a date kept as a number of days")

	require.NoError(t, f.SetCellFormula("Sheet1", "C2", "=1+1"))
	require.NoError(t, f.MergeCell("Sheet1", "A3", "B4"))
	_, problems = read(bytesOf())
	require.Len(t, problems, 2)
	assert.Equal(t, exchange.Problem{Line: 3, Column: "A3:B4", Reason: "the cells are merged; give every row its own value"}, problems[0])
	assert.Contains(t, problems[1].Reason, "is a formula")
	_, problems = read([]byte("PK\x03\x04 and then nothing of a spreadsheet"))
	assert.Contains(t, problems[0].Reason, "cannot be read")
}

func ptr[T any](v T) *T { return &v }

func TestLastCleanReadsEveryForm(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]struct {
		quality interval.LastClean
		day     string
	}{
		"2025-09-14":         {interval.Exact, "2025-09-14"},
		" 2024-02-29 ":       {interval.Exact, "2024-02-29"},
		"about 2025-09-14":   {interval.About, "2025-09-14"},
		"About 2025-09":      {interval.About, "2025-09-15"},
		"about  2025-02-03 ": {interval.About, "2025-02-03"},
		"Never":              {interval.Never, ""},
		"UNKNOWN":            {interval.Unknown, ""},
		"":                   {interval.Unknown, ""},
	} {
		quality, day, err := exchange.ParseLastClean(text)
		require.NoError(t, err, text)
		assert.Equal(t, want.quality, quality, text)
		if want.day == "" {
			assert.Nil(t, day, text)
			continue
		}
		require.NotNil(t, day, text)
		assert.Equal(t, calendar.MustParse(want.day), *day, text)
	}
	for _, text := range []string{"2025-13-01", "2025-02-29", "2025-09", "about", "about 2025", "yesterday", "14.09.2025", "2025/09/14"} {
		_, _, err := exchange.ParseLastClean(text)
		assert.ErrorContains(t, err, "write 2025-09-14", text)
	}
}
