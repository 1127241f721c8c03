package exchange

import (
	"fmt"
	"strconv"
	"strings"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/method"
	"nextround/internal/contract"
)

// RegisterColumns are the columns of a register file, in the order in which it is written.
var RegisterColumns = []Column{
	{Name: "site", Required: true, Also: []string{"building", "location", "premises", "site name"}},
	{Name: "placement", Required: true, Also: []string{"room", "area", "position", "where"}},
	{Name: "tag", Required: true, Also: []string{"unit", "unit tag", "equipment", "equipment no", "unit no"}, Longest: 60},
	{Name: "class", Required: true, Also: []string{"kind", "type", "equipment class"}},
	{Name: "coil role", Required: true, Also: []string{"coil", "role"}},
	{Name: "last clean", Also: []string{"last cleaned", "cleaned on", "last cleaning"}, Day: true},
	{Name: "setting", Also: []string{"placed"}},
	{Name: "make", Also: []string{"maker", "manufacturer"}},
	{Name: "model", Also: []string{"model no", "model code"}},
	{Name: "serial", Also: []string{"serial no", "serial number"}},
	{Name: "year", Also: []string{"built", "year built"}},
	{Name: "commissioned", Also: []string{"installed", "in service since"}, Day: true},
	{Name: "refrigerant", Also: []string{"gas"}, Longest: 20},
	{Name: "flammable", Also: []string{"burns"}},
	{Name: "charge kg", Also: []string{"charge"}},
	{Name: "capacity kW", Also: []string{"capacity"}},
	{Name: "energy kWh a day", Also: []string{"energy", "kwh a day"}},
	{Name: "consequence cost", Also: []string{"cost of a failure"}},
	{Name: "construction"},
	{Name: "slabs"},
	{Name: "light days", Also: []string{"light interval"}},
	{Name: "deep days", Also: []string{"deep interval", "interval"}},
	{Name: "note", Also: []string{"notes", "remark", "remarks", "comment"}, Longest: 2000},
}

// ColumnNames lists the names of columns.
func ColumnNames(columns []Column) []string {
	out := make([]string, len(columns))
	for i, c := range columns {
		out[i] = c.Name
	}
	return out
}

// RegisterExample are three rows of a template.
var RegisterExample = []RegisterRow{
	{
		Site: "Harbour Office", Placement: "Yard", Tag: "HO-CU-1", Class: "Outdoor condensing unit", CoilRole: "condenser", Setting: string(method.Outdoor),
		LastClean: interval.Exact, LastDay: day("2025-09-14"), Refrigerant: "R-410A", Construction: "tube_fin", Slabs: 1,
	},
	{
		Site: "Harbour Office", Placement: "Meeting room", Tag: "HO-TW-1", Class: "Through-wall terminal unit", CoilRole: "condenser",
		Setting: string(method.Indoor), LastClean: interval.About, LastDay: day("2025-06-15"), Construction: string(method.Unstated), Slabs: 1,
	},
	{
		Site: "Crew Canteen", Placement: "Kitchen", Tag: "CC-RI-1", Class: "Reach-in fridge or freezer", CoilRole: "condenser",
		Setting: string(method.Indoor), LastClean: interval.Unknown, Construction: string(method.Unstated), Slabs: 1,
	},
}

// ExampleCells are the rows of RegisterExample as they are written.
func ExampleCells() [][]string {
	rows := make([][]string, len(RegisterExample))
	for i, r := range RegisterExample {
		rows[i] = r.Cells()
	}
	return rows
}

func day(s string) *calendar.Day {
	d := calendar.MustParse(s)
	return &d
}

// RegisterRow is one coil of a register file, with what is known of its unit.
type RegisterRow struct {
	Line                                  int
	Site, Placement, Tag, Class, CoilRole string
	LastClean                             interval.LastClean
	LastDay                               *calendar.Day
	Setting, Make, Model, Serial          string
	Year                                  *int
	Commissioned                          *calendar.Day
	Refrigerant, Flammable                string
	ChargeKg, CapacityKw, EnergyKwhDay    *float64
	ConsequenceCost                       *float64
	Construction                          string
	Slabs                                 int
	LightDays, DeepDays                   *int
	Note                                  string
	// Bad is true when something of the row was reported.
	Bad bool
}

// Register is a register file as it was read.
type Register struct {
	Rows    []RegisterRow
	Columns []Found
	Missing []string
	Problems
}

// ReadRegister gives a table's rows the meaning of a register, reporting every problem it can find in one go. Told
// names foreign columns and which of ours they are.
func ReadRegister(t Table, told map[string]string) Register {
	var out Register
	l, found, missing := match(t.Header, RegisterColumns, told, &out.Problems)
	out.Columns, out.Missing = found, missing
	if len(missing) > 0 || out.Any() {
		return out
	}
	out.Rows = make([]RegisterRow, 0, len(t.Rows))
	for _, row := range t.Rows {
		c := &cells{layout: l, row: row, p: &out.Problems}
		out.Rows = append(out.Rows, readRegisterRow(c))
	}
	return out
}

// maxDays is the longest interval taken; ten years is a slip.
const maxDays = 3650

func readRegisterRow(c *cells) RegisterRow {
	r := RegisterRow{
		Line: c.row.Line, Site: c.text("site"), Placement: c.text("placement"), Tag: c.text("tag"), Class: c.text("class"),
		CoilRole: strings.ReplaceAll(strings.ToLower(c.text("coil role")), " ", "_"), Make: c.text("make"), Model: c.text("model"), Serial: c.text("serial"),
		Year: c.whole("year", 1950, 2200), Commissioned: c.day("commissioned"), Refrigerant: c.text("refrigerant"),
		Flammable: string(choice(c, "flammable", contract.YesNoUnknown, contract.YesNoYes, contract.YesNoNo)),
		ChargeKg:  c.number("charge kg", .001, 5000), CapacityKw: c.number("capacity kW", .01, 20000),
		EnergyKwhDay: c.number("energy kWh a day", 0, 100000), ConsequenceCost: c.number("consequence cost", 0, 1e8),
		Setting:      string(choice(c, "setting", method.UnstatedSetting, method.Indoor, method.Outdoor, method.Roof, method.PlantRoom)),
		Construction: string(choice(c, "construction", method.Unstated, method.TubeFin, method.Microchannel, method.TubeGrid, method.Rolled)), Slabs: 1,
		LightDays: c.whole("light days", 1, maxDays), DeepDays: c.whole("deep days", 1, maxDays), Note: c.text("note"),
	}
	r.CoilRole = strings.TrimSuffix(r.CoilRole, "_coil")
	if n := c.whole("slabs", 1, 6); n != nil {
		r.Slabs = *n
	}
	quality, day, err := ParseLastClean(c.text("last clean"))
	if err != nil {
		c.badf("last clean", "%v", err)
	}
	r.LastClean, r.LastDay, r.Bad = quality, day, c.bad
	return r
}

// Cells writes the row in the order of RegisterColumns.
func (r RegisterRow) Cells() []string {
	return []string{
		r.Site, r.Placement, r.Tag, r.Class, r.CoilRole, lastClean(r.LastClean, r.LastDay), words(r.Setting), r.Make, r.Model, r.Serial,
		whole(r.Year), dayText(r.Commissioned), r.Refrigerant, answer(r.Flammable), figure(r.ChargeKg), figure(r.CapacityKw), figure(r.EnergyKwhDay),
		figure(r.ConsequenceCost), words(r.Construction), strconv.Itoa(r.Slabs), whole(r.LightDays), whole(r.DeepDays), r.Note,
	}
}

// answer leaves out what nobody has said.
func answer(text string) string {
	if text == "unknown" {
		return ""
	}
	return text
}

func lastClean(quality interval.LastClean, d *calendar.Day) string {
	switch {
	case quality == interval.Exact && d != nil:
		return d.String()
	case quality == interval.About && d != nil:
		return "about " + d.String()
	}
	return string(quality)
}

func whole(v *int) string {
	if v == nil {
		return ""
	}
	return strconv.Itoa(*v)
}

func figure(v *float64) string {
	if v == nil {
		return ""
	}
	return strconv.FormatFloat(*v, 'f', -1, 64)
}

func dayText(d *calendar.Day) string {
	if d == nil {
		return ""
	}
	return d.String()
}

// ParseLastClean reads 2025-09-14, about 2025-09-14, about 2025-09 (the middle of the month), never, unknown, or
// nothing, which is unknown.
func ParseLastClean(text string) (interval.LastClean, *calendar.Day, error) {
	text = strings.ToLower(strings.TrimSpace(text))
	quality := interval.Exact
	switch text {
	case "", string(interval.Unknown):
		return interval.Unknown, nil, nil
	case string(interval.Never):
		return interval.Never, nil, nil
	}
	if rest, ok := strings.CutPrefix(text, "about "); ok {
		quality, text = interval.About, strings.TrimSpace(rest)
		if len(text) == len("2025-09") {
			text += "-15"
		}
	}
	day, err := calendar.Parse(text)
	if err != nil {
		return "", nil, fmt.Errorf("%q is not a last clean: write 2025-09-14, about 2025-09, never or unknown", text)
	}
	return quality, &day, nil
}
