package exchange_test

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/internal/exchange"
)

// Whatever can be written as CSV is read back as it was, but for the space around it.
func TestWhatIsWrittenIsRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		word := rapid.StringMatching(`[A-Za-z0-9ÅØæ ,;"'\-\n]{0,10}[A-Za-z0-9]`)
		n := rapid.IntRange(1, 5).Draw(t, "rows")
		columns := rapid.Permutation(exchange.RegisterColumns).Draw(t, "columns")
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
		rows, problems := exchange.ReadRegister(file.Bytes())
		require.Empty(t, problems)
		require.Len(t, rows, n)
		for i, r := range rows {
			for column, got := range map[string]string{"site": r.Site, "placement": r.Placement, "tag": r.Tag, "class": r.Class} {
				assert.Equal(t, strings.TrimSpace(want[i][column]), got)
			}
			assert.Equal(t, interval.Never, r.LastClean)
		}
	})
}

func TestLastCleanReadsEveryForm(t *testing.T) {
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
