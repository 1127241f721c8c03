package exchange

import (
	"nextround/core/calendar"
	"nextround/internal/contract"
)

// CallOutColumns are the columns of a file of call-outs: a row for each.
var CallOutColumns = []Column{
	{Name: "tag", Required: true, Also: []string{"unit", "unit tag", "equipment"}, Longest: 60},
	{Name: "day", Required: true, Also: []string{"date", "called out on"}, Day: true},
	{Name: "cause", Required: true, Also: []string{"fault", "put down to"}},
	{Name: "coil to blame", Also: []string{"coil", "soil to blame"}},
	{Name: "prevented", Also: []string{"preventable", "a clean would have prevented it"}},
	{Name: "cost", Also: []string{"price", "invoice"}},
	{Name: "goods", Also: []string{"goods lost"}},
	{Name: "note", Also: []string{"notes", "remark"}, Longest: 500},
}

// CallOutRow is one call-out of a file.
type CallOutRow struct {
	Line                   int
	Tag                    string
	Day                    calendar.Day
	Cause                  contract.CallOutCause
	CoilToBlame, Prevented contract.YesNo
	Cost, Goods            *float64
	Note                   string
	Bad                    bool
}

// CallOutFile is a file of call-outs with all that is wrong with it.
type CallOutFile struct {
	Rows    []CallOutRow
	Columns []Found
	Missing []string
	Problems
}

var causes = []contract.CallOutCause{
	contract.CallOutCauseOther, contract.CallOutCauseSoiledCoil, contract.CallOutCauseAirflow, contract.CallOutCauseIced, contract.CallOutCauseWater,
	contract.CallOutCauseRefrigerant, contract.CallOutCauseElectrical, contract.CallOutCauseControls, contract.CallOutCauseMisuse,
}

// ReadCallOuts gives a table's rows the meaning of call-outs, reporting every problem it can find in one go. An answer that is left empty is
// not known.
func ReadCallOuts(t Table, told map[string]string) CallOutFile {
	var out CallOutFile
	l, found, missing := match(t.Header, CallOutColumns, told, &out.Problems)
	out.Columns, out.Missing = found, missing
	if len(missing) > 0 || out.Any() {
		return out
	}
	answers := []contract.YesNo{contract.YesNoUnknown, contract.YesNoYes, contract.YesNoNo}
	for _, row := range t.Rows {
		c := &cells{layout: l, row: row, p: &out.Problems}
		r := CallOutRow{
			Line: row.Line, Tag: c.text("tag"), Cause: choice(c, "cause", causes...), CoilToBlame: choice(c, "coil to blame", answers...),
			Prevented: choice(c, "prevented", answers...), Cost: c.number("cost", 0, 1e9), Goods: c.number("goods", 0, 1e9), Note: c.text("note"),
		}
		if d := c.day("day"); d != nil {
			r.Day = *d
		} else if !c.bad {
			c.badf("day", "is empty")
		}
		r.Bad = c.bad
		out.Rows = append(out.Rows, r)
	}
	return out
}

// Cells writes the row in the order of CallOutColumns.
func (r CallOutRow) Cells() []string {
	return []string{
		r.Tag, r.Day.String(), words(string(r.Cause)), string(r.CoilToBlame), string(r.Prevented), figure(r.Cost), figure(r.Goods), r.Note,
	}
}
