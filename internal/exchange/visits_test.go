package exchange_test

import (
	"bytes"
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/internal/exchange"
)

func visitRows() *rapid.Generator[exchange.VisitRow] {
	text := rapid.StringMatching(`[=+\-@'A-Za-z0-9ÅØæ][A-Za-z0-9 ,"'=+\-]{0,12}[A-Za-z]`)
	looks := rapid.SampledFrom([]string{"face_look", "light_through", "wiped_more_below"})
	figures := rapid.Map(rapid.IntRange(0, 100_000), func(n int) float64 { return float64(n) / 100 })
	return rapid.Custom(func(t *rapid.T) exchange.VisitRow {
		r := exchange.VisitRow{
			Tag: text.Draw(t, "tag"), Day: calendar.MustParse("2024-02-28").Add(rapid.IntRange(0, 900).Draw(t, "day")),
			Visit: rapid.IntRange(1, 1000).Draw(t, "visit"), Outcome: rapid.SampledFrom([]string{"done", "partly", "no_access", "weather"}).Draw(t, "outcome"),
			CoilRole: "condenser", Side: text.Draw(t, "side"), Reached: rapid.Bool().Draw(t, "reached"), Note: text.Draw(t, "note"),
			FoundBy: "face_look", LeftBy: "face_look", Direction: "along_fins", AmountUnit: "l",
			Where: "in_place",
		}
		if rapid.Bool().Draw(t, "seen") {
			r.Found, r.FoundBy = ptr(rapid.IntRange(0, 5).Draw(t, "found")), looks.Draw(t, "found by")
			r.Left, r.LeftBy = ptr(rapid.IntRange(0, 5).Draw(t, "left")), looks.Draw(t, "left by")
			r.Soils = rapid.SliceOfN(text, 1, 3).Draw(t, "soils")
		}
		if rapid.Bool().Draw(t, "worked") {
			r.Work = rapid.SampledFrom([]string{"deep", "light"}).Draw(t, "work")
			r.Method, r.Cleaner = text.Draw(t, "method"), text.Draw(t, "cleaner")
			r.Direction = rapid.SampledFrom([]string{"along_fins", "against_airflow", "with_airflow", "downward_closed"}).Draw(t, "direction")
			r.WaterParts, r.Amount = ptr(figures.Draw(t, "parts")), ptr(figures.Draw(t, "amount"))
			r.AmountUnit = rapid.SampledFrom([]string{"l", "ml", "us_fl_oz", "us_gal"}).Draw(t, "unit")
			r.EndPoints = []string{"clear", "bright"}
			r.Where, r.Tip = rapid.SampledFrom([]string{"in_place", "taken_out"}).Draw(t, "where"), text.Draw(t, "tip")
			r.StoodMin, r.LoadedL, r.ToppedUpL = ptr(float64(rapid.IntRange(1, 1440).Draw(t, "stood"))), ptr(float64(rapid.IntRange(1, 100).Draw(t, "loaded"))), ptr(.5)
			r.ReturnedL, r.FirstLook = ptr(.25), ptr(rapid.IntRange(0, 5).Draw(t, "first look"))
			r.People = []exchange.PersonMinutes{{Name: text.Draw(t, "person"), Minutes: rapid.IntRange(1, 1440).Draw(t, "minutes")}, {Name: "Technician 2", Minutes: 5}}
		}
		return r
	})
}

// A visit that is written, as CSV or as a spreadsheet, is read as it was.
func TestVisitsAreReadAsWritten(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		want := rapid.SliceOfN(visitRows(), 1, 4).Draw(t, "visits")
		rows := make([][]string, len(want))
		for i, r := range want {
			rows[i] = r.Cells()
			want[i].Line = i + 2
		}
		header := exchange.ColumnNames(exchange.VisitColumns)
		var csv, xlsx bytes.Buffer
		require.NoError(t, exchange.WriteCSV(&csv, header, rows))
		require.NoError(t, exchange.WriteXLSX(&xlsx, "Visits", header, rows))
		for _, file := range [][]byte{csv.Bytes(), xlsx.Bytes()} {
			table, problems := exchange.ReadTable(context.Background(), file)
			require.Empty(t, problems.Listed)
			got := exchange.ReadVisits(table, nil)
			require.Empty(t, got.Listed)
			assert.Equal(t, want, got.Rows)
		}
	})
}

// Every cell that cannot be is named with its line and column, all in one go.
func TestVisitCellsThatCannotBe(t *testing.T) {
	t.Parallel()
	header := "tag,day,visit,outcome,reached,found,found by,left,work,method,direction,water parts,amount,amount unit,people\n"
	for line, want := range map[string]string{
		",2026-02-01,,,,,,,,,,,,,":                                        "tag: is empty",
		"A,,,,,,,,,,,,,,":                                                 "day: is empty",
		"A,01.02.2026,,,,,,,,,,,,,":                                       `day: "01.02.2026" is not a date: write it as 2026-03-05`,
		"A,2026-02-30,,,,,,,,,,,,,":                                       `day: "2026-02-30" is not a date: write it as 2026-03-05`,
		"A,2026-02-01,0,,,,,,,,,,,,":                                      "visit: must be between 1 and 1000",
		"A,2026-02-01,1.5,,,,,,,,,,,,":                                    "visit: must be a whole number",
		"A,2026-02-01,,finished,,,,,,,,,,,":                               `outcome: "finished" is not one of done, partly, no access, refused, weather, unsafe, not found`,
		"A,2026-02-01,,,maybe,,,,,,,,,,":                                  `reached: "maybe" is not one of yes, no`,
		"A,2026-02-01,,,,6,,,,,,,,,":                                      "found: must be between 0 and 5",
		"A,2026-02-01,,,,,smell,,,,,,,,":                                  `found by: "smell" is not one of face look, light through, wiped more below`,
		"A,2026-02-01,,,,,,NaN,,,,,,,":                                    "left: must be between 0 and 5",
		"A,2026-02-01,,,,,,,quick,Brush,,,,,":                             `work: "quick" is not one of deep, light`,
		"A,2026-02-01,,,,,,,,,sideways,,,,":                               `direction: "sideways" is not one of along fins, against airflow, with airflow, downward closed`,
		`A,2026-02-01,,,,,,,,,,"1,5",,,`:                                  `water parts: "1,5" is not a number: write the decimals behind a point and no thousands separator`,
		"A,2026-02-01,,,,,,,,,,,much,,":                                   `amount: "much" is not a number`,
		"A,2026-02-01,,,,,,,,,,,2,buckets,":                               `amount unit: "buckets" is not one of l, ml, us fl oz, us gal`,
		"A,2026-02-01,,,,,,,,,,,,,Anna":                                   `people: "Anna": write each as a name and minutes, such as Technician 45; more than one apart by semicolons`,
		"A,2026-02-01,,,,,,,,,,,,,Anna 30; Bo 1441":                       `people: "Bo 1441": write each as a name and minutes, such as Technician 45; more than one apart by semicolons`,
		strings.Repeat("A", 61) + ",2026-02-01" + strings.Repeat(",", 13): "tag: is longer than 60 characters",
	} {
		table, problems := exchange.ReadTable(context.Background(), []byte(header+"B,2026-02-01"+strings.Repeat(",", 13)+"\n"+line+"\n"))
		require.Empty(t, problems.Listed, line)
		got := exchange.ReadVisits(table, nil)
		if assert.Len(t, got.Listed, 1, line) {
			assert.Equal(t, 3, got.Listed[0].Line)
			assert.Equal(t, want, got.Listed[0].Column+": "+got.Listed[0].Reason)
		}
		assert.False(t, got.Rows[0].Bad)
		assert.True(t, got.Rows[1].Bad)
	}
	table, _ := exchange.ReadTable(context.Background(), []byte("tag,found\nA,1\n"))
	assert.Equal(t, []string{"day"}, exchange.ReadVisits(table, nil).Missing)
	table, _ = exchange.ReadTable(context.Background(), []byte("machine,when it was\nA,2026-02-01\n"))
	told := exchange.ReadVisits(table, map[string]string{"machine": "tag", "when it was": "day"})
	require.Len(t, told.Rows, 1, "foreign columns are read as they were told")
	assert.Equal(t, "A", told.Rows[0].Tag)
}
