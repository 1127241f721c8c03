package exchange

import (
	"strconv"
	"strings"

	"nextround/core/calendar"
	"nextround/core/soil"
	"nextround/internal/contract"
)

// VisitColumns are the columns of a file of visits: a row for each side of a coil, and once more for each further
// treatment of it. Rows of one unit and day with the same visit number are one visit.
var VisitColumns = []Column{
	{Name: "tag", Required: true, Also: []string{"unit", "unit tag", "equipment"}, Longest: 60},
	{Name: "day", Required: true, Also: []string{"date", "visit date", "cleaned on"}, Day: true},
	{Name: "visit", Also: []string{"visit no", "visit number"}},
	{Name: "outcome", Also: []string{"result"}},
	{Name: "coil role", Also: []string{"coil", "role"}},
	{Name: "side", Also: []string{"surface"}},
	{Name: "reached"},
	{Name: "why not", Longest: 300},
	{Name: "found", Also: []string{"grade found", "found grade"}},
	{Name: "found by"},
	{Name: "soils", Also: []string{"soil"}, Longest: 300},
	{Name: "left", Also: []string{"grade left", "left grade"}},
	{Name: "left seen by"},
	{Name: "work", Also: []string{"light or deep"}},
	{Name: "method"},
	{Name: "direction"},
	{Name: "cleaner", Also: []string{"chemical"}},
	{Name: "water parts", Also: []string{"ratio"}},
	{Name: "amount"},
	{Name: "amount unit"},
	{Name: "end points", Longest: 300},
	{Name: "where", Also: []string{"in place or taken out"}},
	{Name: "stood min", Also: []string{"dwell", "dwell min"}},
	{Name: "tip", Longest: 120},
	{Name: "loaded l"},
	{Name: "topped up l"},
	{Name: "returned l"},
	{Name: "first look"},
	{Name: "people", Also: []string{"technician", "by"}, Longest: 500},
	{Name: "note", Also: []string{"notes", "remark"}, Longest: 4000},
}

// VisitRow is one side of a visit, with one treatment of it.
type VisitRow struct {
	Line               int
	Tag                string
	Day                calendar.Day
	Visit              int
	Outcome            string
	CoilRole, Side     string
	Reached            bool
	WhyNot             string
	Found, Left        *int
	FoundBy, LeftBy    string
	Soils              []string
	Work, Method       string
	Direction          string
	Cleaner            string
	WaterParts, Amount *float64
	AmountUnit         string
	EndPoints          []string
	Where, Tip         string
	StoodMin, LoadedL  *float64
	ToppedUpL          *float64
	ReturnedL          *float64
	FirstLook          *int
	People             []PersonMinutes
	Note               string
	Bad                bool
}

// PersonMinutes is somebody and how long they worked.
type PersonMinutes struct {
	Name    string
	Minutes int
}

// VisitFile is a file of visits as it was read.
type VisitFile struct {
	Rows    []VisitRow
	Columns []Found
	Missing []string
	Problems
}

// ReadVisits gives a table's rows the meaning of visits, reporting every problem it can find in one go.
func ReadVisits(t Table, told map[string]string) VisitFile {
	var out VisitFile
	l, found, missing := match(t.Header, VisitColumns, told, &out.Problems)
	out.Columns, out.Missing = found, missing
	if len(missing) > 0 || out.Any() {
		return out
	}
	for _, row := range t.Rows {
		c := &cells{layout: l, row: row, p: &out.Problems}
		out.Rows = append(out.Rows, readVisitRow(c))
	}
	return out
}

// What the columns of a choice take; the first is meant by an empty cell.
var (
	outcomes = []contract.Outcome{
		contract.OutcomeDone, contract.OutcomePartly, contract.OutcomeNoAccess, contract.OutcomeRefused, contract.OutcomeWeather, contract.OutcomeUnsafe,
		contract.OutcomeNotFound,
	}
	looks      = []soil.Seen{soil.FaceLook, soil.LightThrough, soil.WipedMoreBelow}
	directions = []soil.Direction{soil.AlongFins, soil.Against, soil.With, soil.DownwardClosed}
)

func readVisitRow(c *cells) VisitRow {
	r := VisitRow{
		Line: c.row.Line, Tag: c.text("tag"),
		Outcome:  string(choice(c, "outcome", outcomes...)),
		CoilRole: strings.TrimSuffix(strings.ReplaceAll(strings.ToLower(c.text("coil role")), " ", "_"), "_coil"), Side: c.text("side"),
		Reached: choice(c, "reached", contract.YesNoYes, contract.YesNoNo) == contract.YesNoYes, WhyNot: c.text("why not"), Found: c.whole("found", 0, 5), Left: c.whole("left", 0, 5),
		FoundBy: string(choice(c, "found by", looks...)), LeftBy: string(choice(c, "left seen by", looks...)), Soils: list(c.text("soils")),
		Method: c.text("method"), Direction: string(choice(c, "direction", directions...)),
		Cleaner: c.text("cleaner"), WaterParts: c.number("water parts", 0, 1000), Amount: c.number("amount", 0, 10000),
		AmountUnit: string(choice(c, "amount unit", contract.AmountUnitL, contract.AmountUnitMl, contract.AmountUnitUsFlOz, contract.AmountUnitUsGal)), EndPoints: list(c.text("end points")), Note: c.text("note"),
		Where: choice(c, "where", "in_place", "taken_out"), StoodMin: c.number("stood min", 0, 1440), Tip: c.text("tip"), LoadedL: c.number("loaded l", 0, 200),
		ToppedUpL: c.number("topped up l", 0, 200), ReturnedL: c.number("returned l", 0, 200), FirstLook: c.whole("first look", 0, 5),
	}
	if r.Method != "" {
		r.Work = string(choice(c, "work", contract.TaskKindDeep, contract.TaskKindLight))
	}
	if d := c.day("day"); d != nil {
		r.Day = *d
	} else if !c.bad {
		c.badf("day", "is empty")
	}
	if n := c.whole("visit", 1, 1000); n != nil {
		r.Visit = *n
	}
	for _, p := range list(c.text("people")) {
		name, minutes := p, 0
		if i := strings.LastIndex(p, " "); i > 0 {
			if n, err := strconv.Atoi(strings.TrimSuffix(p[i+1:], "min")); err == nil {
				name, minutes = strings.TrimSpace(p[:i]), n
			}
		}
		if minutes < 1 || minutes > 1440 {
			c.badf("people", "%q: write each as a name and minutes, such as Technician 45; more than one apart by semicolons", p)
		}
		r.People = append(r.People, PersonMinutes{Name: name, Minutes: minutes})
	}
	r.Bad = c.bad
	return r
}

func list(text string) []string {
	var out []string
	for _, part := range strings.Split(text, ";") {
		if part = strings.TrimSpace(part); part != "" {
			out = append(out, part)
		}
	}
	return out
}

// Cells writes the row in the order of VisitColumns.
func (r VisitRow) Cells() []string {
	var people []string
	for _, p := range r.People {
		people = append(people, p.Name+" "+strconv.Itoa(p.Minutes))
	}
	reached, foundBy, leftBy, direction, unit, where := "", "", "", "", "", ""
	if r.Side != "" {
		reached = map[bool]string{true: "yes", false: "no"}[r.Reached]
	}
	if r.Found != nil {
		foundBy = words(r.FoundBy)
	}
	if r.Left != nil {
		leftBy = words(r.LeftBy)
	}
	if r.Method != "" {
		direction, where = words(r.Direction), words(r.Where)
	}
	if r.Amount != nil {
		unit = words(r.AmountUnit)
	}
	ends := make([]string, len(r.EndPoints))
	for i, e := range r.EndPoints {
		ends[i] = words(e)
	}
	return []string{
		r.Tag, r.Day.String(), strconv.Itoa(r.Visit), words(r.Outcome), words(r.CoilRole), r.Side, reached, r.WhyNot, whole(r.Found), foundBy,
		strings.Join(r.Soils, "; "), whole(r.Left), leftBy, r.Work, r.Method, direction, r.Cleaner, figure(r.WaterParts), figure(r.Amount), unit,
		strings.Join(ends, "; "), where, figure(r.StoodMin), r.Tip, figure(r.LoadedL), figure(r.ToppedUpL), figure(r.ReturnedL), whole(r.FirstLook),
		strings.Join(people, "; "), r.Note,
	}
}
