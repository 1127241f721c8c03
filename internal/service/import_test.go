package service_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

const header = "site,placement,tag,class,coil role,last clean\n"

func reasons(run contract.ImportRun) []string {
	out := []string{}
	for _, p := range run.Report.Problems {
		out = append(out, p.Pointer+": "+p.Reason)
	}
	return out
}

func TestTheTemplatesImport(t *testing.T) {
	h := newHouse(t)
	for _, format := range []string{"csv", "xlsx"} {
		var file strings.Builder
		require.NoError(t, h.svc.ImportTemplate("register", format, &file))
		dry := h.take("register", file.String(), true)
		assert.Equal(t, contract.ImportRunStatusChecked, dry.Status, reasons(dry))
		assert.Equal(t, 3, dry.Report.NewUnits)
		assert.Equal(t, []string{"Harbour Office", "Crew Canteen"}, dry.Report.NewSites)
		assert.Empty(t, h.portfolio(h.manager), "a trial run stores nothing")
	}
	var file strings.Builder
	require.NoError(t, h.svc.ImportTemplate("register", "xlsx", &file))
	assert.Equal(t, contract.ImportRunStatusStored, h.take("register", file.String(), false).Status)
	rows := h.portfolio(h.viewer)
	require.Len(t, rows, 3)
	assert.Equal(t, "HO-CU-1", rows[1].Tag)
	u := h.look(rows[1].UnitID)
	assert.Len(t, u.Coils[0].Sides, 4, "sides come from the class")
	assert.Equal(t, contract.Exact, u.Coils[0].StartQuality)
	assert.Equal(t, "2025-09-14", u.Coils[0].StartDay.String())

	_, err := h.svc.AddPerson(h.ctx, h.manager, contract.NewPerson{Name: "Technician, Crew Tern"})
	require.NoError(t, err)
	for _, format := range []string{"csv", "xlsx"} {
		var visits strings.Builder
		require.NoError(t, h.svc.ImportTemplate("visits", format, &visits))
		dry := h.take("visits", visits.String(), true)
		assert.Equal(t, contract.ImportRunStatusChecked, dry.Status, reasons(dry))
	}

	again := h.take("register", file.String(), false)
	assert.Equal(t, contract.ImportRunStatusUnchanged, again.Status, reasons(again))
	assert.Zero(t, again.Report.NewUnits)
	assert.Len(t, h.portfolio(h.viewer), 3)
}

func TestImportIsAllOrNothing(t *testing.T) {
	h := newHouse(t)
	run := h.take("register", header+
		"Hall,Yard,A-1,Ice machine,condenser,2026-01-01\n"+
		"Hall,Yard,A-1,Ice machine,condenser,2026-01-01\n"+
		"Hall,Roof,A-1,Ice machine,condenser,2027-01-01\n"+
		"Hall,Roof,A-1,Ice machine,evaporator,2026-01-01\n"+
		"Barn,Yard,A-2,Dragon,condenser,\n"+
		"Barn,Yard,A-3,Ice machine,condenser,never\n", false)
	assert.Equal(t, contract.ImportRunStatusRefused, run.Status)
	assert.Equal(t, []string{
		"line 3, coil role: A-1 has its condenser in line 2 already",
		"line 4, last clean: 2027-01-01 is in the future",
		`line 5, coil role: Ice machine has no coil "evaporator"; it has condenser`,
		`line 6, class: "Dragon" is not a class of the house`,
	}, reasons(run))
	assert.Empty(t, h.portfolio(h.manager))
	assert.Empty(t, h.sites())
}

func TestOneUnitWithTwoCoils(t *testing.T) {
	h := newHouse(t)
	run := h.take("register", header+"Hall,Roof,P-1,packaged_unit,condenser,never\nHall,Roof,P-1,packaged_unit,evaporator,about 2026-01\n", false)
	assert.Equal(t, 1, run.Report.NewUnits, reasons(run))
	assert.Equal(t, 2, run.Report.NewCoils)
	for _, row := range h.portfolio(h.manager) {
		task := row.Coil.Tasks[0]
		switch row.Coil.Role {
		case contract.CoilRoleCondenser:
			assert.True(t, task.FirstLook)
		case contract.CoilRoleEvaporator:
			assert.True(t, task.About)
			assert.Equal(t, "2026-01-15", task.LastDay.String())
		}
	}
}

// A file under foreign column names is taken in once it is told what they stand for, and remembers it.
func TestForeignColumnsAreToldOnceAndRemembered(t *testing.T) {
	h := newHouse(t)
	const file = "Where,Standing at,Number,What,Part,Maker\nHall,Yard,A-1,Ice machine,condenser,Kuldvik\n"
	run := h.take("register", file, true)
	assert.Equal(t, contract.ImportRunStatusRefused, run.Status)
	assert.Equal(t, []string{"site", "tag", "class", "coil role"}, run.Report.Missing, "“where” is known to be a placement")
	assert.Equal(t, "make", *run.Report.Columns[5].Column, "a name that is known without being told")

	told, err := h.svc.Import(h.ctx, h.manager, service.ImportRequest{
		Kind: "register", FileName: "x.csv", File: []byte(file),
		Columns: `{"Where":"site","Standing at":"placement","Number":"tag","What":"class","Part":"coil role"}`,
	})
	require.NoError(t, err)
	assert.Equal(t, contract.ImportRunStatusStored, told.Status, reasons(told))
	next := h.take("register", strings.ReplaceAll(file, "A-1", "A-2"), false)
	assert.Equal(t, contract.ImportRunStatusStored, next.Status, "the names are remembered")
	_, err = h.svc.Import(h.ctx, h.manager, service.ImportRequest{Kind: "register", Columns: `{"Where":"planet"}`})
	assert.Contains(t, fields(t, err), "columns")
}

// A file changes what a file may change, says what it may not, and what is empty in it changes nothing.
func TestAFileChangesUnitsThatAreThere(t *testing.T) {
	h := newHouse(t)
	const long = "site,placement,tag,class,coil role,last clean,make,year,deep days,note\n"
	h.take("register", long+"Hall,Yard,A-1,Ice machine,condenser,2026-01-01,Kuldvik,2019,,old\n", false)
	run := h.take("register", long+"Hall,Yard,A-1,Ice machine,condenser,,,2020,,\n", true)
	assert.Equal(t, 1, run.Report.ChangedUnits)
	h.take("register", long+"Hall,Yard,A-1,Ice machine,condenser,,,2020,,\n", false)
	card := h.card(h.portfolio(h.manager)[0].UnitID)
	assert.Equal(t, 2020, *card.Card.Year)
	assert.Equal(t, "Kuldvik", card.Card.Make)
	assert.Equal(t, "old", card.Card.Note)
	audit, err := h.svc.Audit(h.ctx, h.manager, "unit", card.ID)
	require.NoError(t, err)
	assert.Equal(t, "changed by import", audit[0].Action)
	assert.Equal(t, []contract.AuditChange{{Path: "year", Before: "2019", After: "2020"}}, audit[0].Changes)

	for line, want := range map[string]string{
		"Barn,Yard,A-1,Ice machine,condenser,2026-01-01,,,,":       "in the register at Hall",
		"Hall,Roof,A-1,Ice machine,condenser,2026-01-01,,,,":       "in the register at Yard",
		"Hall,Yard,A-1,Ice machine,condenser,2026-01-02,,,,":       "record a visit instead",
		"Hall,Yard,A-1,Ice machine,condenser,2026-01-01,,,99,":     "change them on its page or in bulk",
		"Hall,Yard,A-1,Under-counter cooler,condenser,,,,,":        "in the register as a Ice machine",
		"Hall,Yard,A-9,Ice machine,condenser,2026-01-01,,18.5.,,":  `"18.5." is not a number`,
		"Hall,Yard,A-9,Ice machine,condenser,2026-01-01,,2019.5,,": "must be a whole number",
	} {
		run := h.take("register", long+line+"\n", false)
		require.Len(t, run.Report.Problems, 1, line)
		assert.Contains(t, run.Report.Problems[0].Reason, want)
	}
}

// What is written is taken in again and changes nothing, as CSV and as XLSX; into an empty house it makes the same.
func TestExportGivesTheSameFileBack(t *testing.T) {
	h := newHouse(t)
	h.unit("IM-1", "ice_machine", "2026-01-03")
	u := h.unit("CU-1", "outdoor_condensing", "2025-03-04")
	h.unit("RI-1", "reach_in", "")
	v := h.visit(u, "2026-03-01", contract.TaskKindDeep, 3, 1, contract.LightThrough)
	amount := contract.Amount{Value: 12.5, Unit: contract.AmountUnitUsFlOz}
	v.Coils[0].Treatments[0].MethodID = h.method("foam_rinse")
	v.Coils[0].Treatments[0].CleanerID, v.Coils[0].Treatments[0].Amount = ptr(h.cat.Cleaners[4].ID), &amount
	v.Coils[0].Sides[1].SoilIds = ptr([]uuid.UUID{h.soil("leaf_grass"), h.soil("dust")})
	v.Note = ptr(`a "quoted" note, with a comma`)
	h.submit(v)
	for _, format := range []string{"csv", "xlsx"} {
		for _, kind := range []string{"register", "visits"} {
			run := h.take(kind, h.export(h.manager, kind, format), false)
			assert.Equal(t, contract.ImportRunStatusUnchanged, run.Status, "%s as %s: %v", kind, format, reasons(run))
		}
	}
	register, visits := h.export(h.manager, "register", "csv"), h.export(h.manager, "visits", "csv")
	other := newHouse(t)
	assert.Equal(t, contract.ImportRunStatusStored, other.take("register", register, false).Status)
	run := other.take("visits", visits, false)
	assert.Equal(t, contract.ImportRunStatusStored, run.Status, reasons(run))
	assert.Equal(t, register, other.export(other.manager, "register", "csv"))
	assert.Equal(t, visits, other.export(other.manager, "visits", "csv"))
	assert.Equal(t, 1, run.Report.NewVisits)
	for _, row := range other.portfolio(other.manager) {
		if row.Tag == "CU-1" {
			assert.Equal(t, "2026-03-01", row.Coil.Tasks[1].LastDay.String(), "a visit taken in moves clocks")
		}
	}
}

func TestVisitFilesSayWhatIsWrong(t *testing.T) {
	h := newHouse(t)
	h.unit("CU-1", "outdoor_condensing", "2025-03-04")
	const head = "tag,day,outcome,coil role,side,reached,why not,found,left,work,method,people\n"
	for line, want := range map[string]string{
		"XX-1,2026-02-01,done,,,yes,,2,0,deep,Brush and vacuum,The technician 30":              "line 2, tag: XX-1 is not in the register; import or add the unit first",
		"CU-1,soon,done,,,yes,,2,0,deep,Brush and vacuum,The technician 30":                    `line 2, day: "soon" is not a date: write it as 2026-03-05`,
		"CU-1,2027-02-01,done,,,yes,,2,0,deep,Brush and vacuum,The technician 30":              "line 2, day: is in the future",
		"CU-1,2026-02-01,fine,,,yes,,2,0,deep,Brush and vacuum,The technician 30":              `line 2, outcome: "fine" is not one of done, partly, no access, refused, weather, unsafe, not found`,
		"CU-1,2026-02-01,done,,,yes,,2,0,deep,Dragon fire,The technician 30":                   `line 2, method: "Dragon fire" is not a method of the house`,
		"CU-1,2026-02-01,done,,inner side,yes,,2,0,deep,Brush and vacuum,The technician 30":    `line 2, side: CU-1, condenser has no side "inner side"`,
		"CU-1,2026-02-01,done,,,yes,,7,0,deep,Brush and vacuum,The technician 30":              "line 2, found: must be between 0 and 5",
		"CU-1,2026-02-01,done,,,yes,,2,0,deep,Brush and vacuum,Nobody 30":                      `line 2, people: "Nobody" is nobody of the house; add them under People first`,
		"CU-1,2026-02-01,done,,,yes,,2,0,deep,Brush and vacuum,The technician":                 `line 2, people: "The technician": write each as a name and minutes, such as Technician 45; more than one apart by semicolons`,
		"CU-1,2026-02-01,done,,left,yes,,2,0,deep,Brush and vacuum,The technician 30":          "line 2, : front: say whether it was reached",
		"CU-1,2026-02-01,no access,,,,,,,,,":                                                   "line 2, note: say what stood in the way",
		"CU-1,2026-02-01,done,evaporator,,yes,,2,0,deep,Brush and vacuum,The technician 30":    "line 2, coil role: CU-1 has no evaporator",
		"CU-1,2026-02-01,done,condenser,,yes,,2,,deep,Brush and vacuum,\"The technician 30\"":  "line 2, left: say how it was left",
		"CU-1,2026-02-01,done,condenser,,maybe,,2,0,deep,Brush and vacuum,The technician 30":   `line 2, reached: "maybe" is not one of yes, no`,
		"CU-1,2026-02-01,done,condenser,,yes,,2,0,deep,Brush and vacuum,The technician 30;x 9": `line 2, people: "x" is nobody of the house; add them under People first`,
	} {
		run := h.take("visits", head+line+"\n", false)
		require.NotEmpty(t, run.Report.Problems, line)
		assert.Contains(t, reasons(run), want)
		assert.Equal(t, contract.ImportRunStatusRefused, run.Status)
	}
	assert.Empty(t, h.look(h.portfolio(h.manager)[0].UnitID).Visits)
	good := h.take("visits", head+"CU-1,2026-02-01,done,,,yes,,2,0,deep,Brush and vacuum,The technician 30\n", false)
	assert.Equal(t, contract.ImportRunStatusStored, good.Status, reasons(good))
	visits := h.look(h.portfolio(h.manager)[0].UnitID).Visits
	require.Len(t, visits, 1)
	assert.Len(t, visits[0].Sides, 4, "without a side, all of the coil's")
	assert.Equal(t, 30, visits[0].Minutes)
}

// many is a register of n units.
func many(n int) string {
	var file strings.Builder
	file.WriteString(header)
	for i := range n {
		fmt.Fprintf(&file, "Site %d,Yard,M-%05d,Ice machine,condenser,2026-01-01\n", i%40, i)
	}
	return file.String()
}

// Ten thousand rows go in while their progress can be followed, and a run that is cancelled leaves nothing.
func TestLargeImportsTellHowFarTheyAreAndCanBeCancelled(t *testing.T) {
	h := newHouse(t)
	req := service.ImportRequest{Kind: "register", FileName: "large.csv", File: []byte(many(10_000))}
	run, err := h.svc.StartImport(h.ctx, h.manager, req)
	require.NoError(t, err)
	assert.Equal(t, contract.ImportRunStatusRunning, run.Status)
	_, err = h.svc.CancelImport(h.ctx, h.manager, run.ID)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		run, err = h.svc.ImportRun(h.ctx, h.manager, run.ID)
		return err == nil && run.Status != contract.ImportRunStatusRunning
	}, waitLong, waitStep)
	assert.Equal(t, contract.ImportRunStatusCancelled, run.Status)
	assert.Empty(t, h.portfolio(h.manager))

	// The clock of the house stands still, so each step tells of itself once.
	run, err = h.svc.Import(h.ctx, h.manager, req)
	require.NoError(t, err)
	require.Equal(t, contract.ImportRunStatusStored, run.Status, reasons(run))
	assert.Equal(t, 10_000, run.Report.NewUnits)
	summary, err := h.svc.PortfolioSummary(h.ctx, h.viewer, store.CoilFilter{})
	require.NoError(t, err)
	assert.Equal(t, 10_000, summary.Units)
	assert.Equal(t, 40, summary.Sites)
	list, err := h.svc.Imports(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Len(t, list, 2)
}

// Whatever file comes in, an import ends without a panic and stores all of it or nothing.
func FuzzImport(f *testing.F) {
	f.Add("register", []byte(header+"Hall,Yard,A-1,Ice machine,condenser,2026-01-01\nHall,Yard,A-1,Ice machine,condenser,\n"))
	f.Add("register", []byte(header+"Hall,Yard,A-1,Ice machine,condenser,2026-01-01\nBarn,Yard,\"A\n2\",packaged_unit,evaporator,about 2025-06\n"))
	f.Add("visits", []byte("tag,day,found,left,work,method,people\nIM-1,2026-02-02,3,0,light,Brush and vacuum,The technician 40\n"))
	f.Add("visits", []byte("tag,day,outcome\nIM-1,2026-02-02,no access\nIM-1,2026-02-03\n"))
	h := newHouse(f)
	h.unit("IM-1", "ice_machine", "2026-01-01")
	f.Fuzz(func(t *testing.T, kind string, file []byte) {
		if kind != "visits" {
			kind = "register"
		}
		count := func() (n [2]int64) {
			require.NoError(t, h.store.DB.Raw("SELECT count(*) FROM unit").Scan(&n[0]).Error)
			require.NoError(t, h.store.DB.Raw("SELECT count(*) FROM visit").Scan(&n[1]).Error)
			return n
		}
		before := count()
		run, err := h.svc.Import(h.ctx, h.manager, service.ImportRequest{Kind: kind, FileName: "x", File: file})
		require.NoError(t, err)
		require.NotEqual(t, contract.ImportRunStatusFailed, run.Status, "%q", file)
		after := count()
		if run.Status == contract.ImportRunStatusStored {
			assert.Equal(t, before[0]+map[bool]int64{true: int64(run.Report.NewUnits)}[kind == "register"], after[0])
			assert.Equal(t, before[1]+int64(run.Report.NewVisits), after[1])
		} else {
			assert.Equal(t, before, after, "%s stores nothing", run.Status)
		}
	})
}
