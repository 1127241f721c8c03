package register_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/importing"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

func TestTheTemplatesImport(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	for _, format := range []string{"csv", "xlsx"} {
		var file strings.Builder
		require.NoError(t, h.Rooms.ImportTemplate("register", format, &file))
		dry := h.Take("register", file.String(), true)
		assert.Equal(t, contract.ImportRunStatusChecked, dry.Status, roomstest.Reasons(dry))
		assert.Equal(t, 3, dry.Report.NewUnits)
		assert.Equal(t, []string{"Harbour Office", "Crew Canteen"}, dry.Report.NewSites)
		assert.Empty(t, h.Portfolio(h.Manager), "a trial run stores nothing")
	}
	var file strings.Builder
	require.NoError(t, h.Rooms.ImportTemplate("register", "xlsx", &file))
	assert.Equal(t, contract.ImportRunStatusStored, h.Take("register", file.String(), false).Status)
	rows := h.Portfolio(h.Viewer)
	require.Len(t, rows, 3)
	assert.Equal(t, "HO-CU-1", rows[1].Tag)
	u := h.Look(rows[1].UnitID)
	assert.Len(t, u.Coils[0].Sides, 4, "sides come from the class")
	assert.Equal(t, contract.LastCleanQualityExact, u.Coils[0].StartQuality)
	assert.Equal(t, "2025-09-14", u.Coils[0].StartDay.String())

	_, err := h.Rooms.Organisation.AddPerson(h.Ctx, h.Manager, contract.NewPerson{Name: "Technician, Crew Tern"})
	require.NoError(t, err)
	for _, format := range []string{"csv", "xlsx"} {
		var visits strings.Builder
		require.NoError(t, h.Rooms.ImportTemplate("visits", format, &visits))
		dry := h.Take("visits", visits.String(), true)
		assert.Equal(t, contract.ImportRunStatusChecked, dry.Status, roomstest.Reasons(dry))
	}

	again := h.Take("register", file.String(), false)
	assert.Equal(t, contract.ImportRunStatusUnchanged, again.Status, roomstest.Reasons(again))
	assert.Zero(t, again.Report.NewUnits)
	assert.Len(t, h.Portfolio(h.Viewer), 3)
}

func TestImportIsAllOrNothing(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	run := h.Take("register", roomstest.Header+
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
		`line 6, class: "Dragon" is not a class of your organisation`,
	}, roomstest.Reasons(run))
	assert.Empty(t, h.Portfolio(h.Manager))
	assert.Empty(t, h.Sites())
}

func TestOneUnitWithTwoCoils(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	run := h.Take("register", roomstest.Header+"Hall,Roof,P-1,packaged_unit,condenser,never\nHall,Roof,P-1,packaged_unit,evaporator,about 2026-01\n", false)
	assert.Equal(t, 1, run.Report.NewUnits, roomstest.Reasons(run))
	assert.Equal(t, 2, run.Report.NewCoils)
	for _, row := range h.Portfolio(h.Manager) {
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
	t.Parallel()
	h := roomstest.New(t)
	const file = "Where,Standing at,Number,What,Part,Maker\nHall,Yard,A-1,Ice machine,condenser,Kuldvik\n"
	run := h.Take("register", file, true)
	assert.Equal(t, contract.ImportRunStatusRefused, run.Status)
	assert.Equal(t, []string{"site", "tag", "class", "coil role"}, run.Report.Missing, "“where” is known to be a placement")
	assert.Equal(t, "make", *run.Report.Columns[5].Column, "a name that is known without being told")

	told, err := h.Rooms.Importing.Import(h.Ctx, h.Manager, importing.Request{
		Kind: "register", FileName: "x.csv", File: []byte(file),
		Columns: `{"Where":"site","Standing at":"placement","Number":"tag","What":"class","Part":"coil role"}`,
	})
	require.NoError(t, err)
	assert.Equal(t, contract.ImportRunStatusStored, told.Status, roomstest.Reasons(told))
	next := h.Take("register", strings.ReplaceAll(file, "A-1", "A-2"), false)
	assert.Equal(t, contract.ImportRunStatusStored, next.Status, "the names are remembered")
	_, err = h.Rooms.Importing.Import(h.Ctx, h.Manager, importing.Request{Kind: "register", Columns: `{"Where":"planet"}`})
	assert.Contains(t, roomstest.Fields(t, err), "columns")
}

// A file changes what a file may change, says what it may not, and what is empty in it changes nothing.
func TestAFileChangesUnitsThatAreThere(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	const long = "site,placement,tag,class,coil role,last clean,make,year,deep days,note\n"
	h.Take("register", long+"Hall,Yard,A-1,Ice machine,condenser,2026-01-01,Kuldvik,2019,,old\n", false)
	run := h.Take("register", long+"Hall,Yard,A-1,Ice machine,condenser,,,2020,,\n", true)
	assert.Equal(t, 1, run.Report.ChangedUnits)
	h.Take("register", long+"Hall,Yard,A-1,Ice machine,condenser,,,2020,,\n", false)
	card := h.Card(h.Portfolio(h.Manager)[0].UnitID)
	assert.Equal(t, 2020, *card.Card.Year)
	assert.Equal(t, "Kuldvik", card.Card.Make)
	assert.Equal(t, "old", card.Card.Note)
	audit, err := h.Rooms.Organisation.Audit(h.Ctx, h.Manager, "unit", card.ID)
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
		run := h.Take("register", long+line+"\n", false)
		require.Len(t, run.Report.Problems, 1, line)
		assert.Contains(t, run.Report.Problems[0].Reason, want)
	}
}

// What is written is taken in again and changes nothing, as CSV and as XLSX; into an empty house it makes the same.
func TestExportGivesTheSameFileBack(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Unit("IM-1", "ice_machine", "2026-01-03")
	u := h.Unit("CU-1", "outdoor_condensing", "2025-03-04")
	h.Unit("RI-1", "reach_in", "")
	v := h.Visit(u, "2026-03-01", contract.TaskKindDeep, 3, 1, contract.LightThrough)
	amount := contract.Amount{Value: 12.5, Unit: contract.AmountUnitUsFlOz}
	v.Coils[0].Treatments[0].MethodID = h.Method("foam_rinse")
	v.Coils[0].Treatments[0].CleanerID, v.Coils[0].Treatments[0].Amount = new(h.Cat.Cleaners[4].ID), &amount
	v.Coils[0].Sides[1].SoilIds = new([]uuid.UUID{h.Soil("leaf_grass"), h.Soil("dust")})
	v.Note = new(`a "quoted" note, with a comma`)
	h.Submit(v)
	for _, format := range []string{"csv", "xlsx"} {
		for _, kind := range []string{"register", "visits"} {
			run := h.Take(kind, h.Export(h.Manager, kind, format), false)
			assert.Equal(t, contract.ImportRunStatusUnchanged, run.Status, "%s as %s: %v", kind, format, roomstest.Reasons(run))
		}
	}
	register, visits := h.Export(h.Manager, "register", "csv"), h.Export(h.Manager, "visits", "csv")
	other := roomstest.New(t)
	assert.Equal(t, contract.ImportRunStatusStored, other.Take("register", register, false).Status)
	run := other.Take("visits", visits, false)
	assert.Equal(t, contract.ImportRunStatusStored, run.Status, roomstest.Reasons(run))
	assert.Equal(t, register, other.Export(other.Manager, "register", "csv"))
	assert.Equal(t, visits, other.Export(other.Manager, "visits", "csv"))
	assert.Equal(t, 1, run.Report.NewVisits)
	for _, row := range other.Portfolio(other.Manager) {
		if row.Tag == "CU-1" {
			assert.Equal(t, "2026-03-01", row.Coil.Tasks[1].LastDay.String(), "a visit taken in moves clocks")
		}
	}
}

// many is a register of n units.
func many(n int) string {
	var file strings.Builder
	file.WriteString(roomstest.Header)
	for i := range n {
		fmt.Fprintf(&file, "Site %d,Yard,M-%05d,Ice machine,condenser,2026-01-01\n", i%40, i)
	}
	return file.String()
}

// More rows than are stored at once go in while their progress can be followed, and a run that is cancelled leaves nothing.
func TestLargeImportsTellHowFarTheyAreAndCanBeCancelled(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	const rows = 2_100 // a full portion and a bit
	req := importing.Request{Kind: "register", FileName: "large.csv", File: []byte(many(rows))}
	run, err := h.Rooms.Importing.StartImport(h.Ctx, h.Manager, req)
	require.NoError(t, err)
	assert.Equal(t, contract.ImportRunStatusRunning, run.Status)
	cancelled, err := h.Rooms.Importing.CancelImport(h.Ctx, h.Manager, run.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.ImportRunStatusCancelled, cancelled.Status, "no server has taken it up yet")
	h.Server()
	run, err = h.Rooms.Importing.StartImport(h.Ctx, h.Manager, req)
	require.NoError(t, err)
	h.ImportBegins(run.ID)
	_, err = h.Rooms.Importing.CancelImport(h.Ctx, h.Manager, run.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.ImportRunStatusCancelled, h.ImportEnds(run.ID).Status)
	assert.Empty(t, h.Portfolio(h.Manager))

	// The clock of the organisation stands still, so each step tells of itself once.
	run, err = h.Rooms.Importing.Import(h.Ctx, h.Manager, req)
	require.NoError(t, err)
	require.Equal(t, contract.ImportRunStatusStored, run.Status, roomstest.Reasons(run))
	assert.Equal(t, rows, run.Report.NewUnits)
	summary, err := h.Rooms.Register.PortfolioSummary(h.Ctx, h.Viewer, store.CoilFilter{})
	require.NoError(t, err)
	assert.Equal(t, rows, summary.Units)
	assert.Equal(t, 40, summary.Sites)
	list, err := h.Rooms.Importing.Imports(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Len(t, list, 3)
}

// What a server that dies or stops was taking in is taken up by another; the dead one can store nothing any more.
func TestAnotherServerTakesAnImportUp(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	tenant := h.Store.For(h.Ctx, h.Org.ID)
	run, err := h.Rooms.Importing.StartImport(h.Ctx, h.Manager, importing.Request{Kind: "register", FileName: "left.csv", File: []byte(many(60))})
	require.NoError(t, err)
	claimed, err := tenant.ClaimImport(run.ID, 1, "reading")
	require.NoError(t, err)
	require.True(t, claimed, "by a server that then dies")
	require.NoError(t, h.Store.DB.Exec("UPDATE import_run SET alive_at = alive_at - interval '1 minute'").Error)
	first := h.Server()
	run = h.ImportEnds(run.ID)
	assert.Equal(t, contract.ImportRunStatusStored, run.Status, roomstest.Reasons(run))
	assert.Len(t, h.Portfolio(h.Manager), 60)
	late, err := store.Get[store.ImportRun](tenant, run.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, late.Attempt)
	late.Attempt = 1
	ended, err := tenant.EndImport(late)
	require.NoError(t, err)
	assert.False(t, ended)
	_, err = tenant.ImportFileOf(run.ID)
	require.ErrorIs(t, err, store.ErrNotFound, "the file is not kept")

	large := strings.ReplaceAll(many(2_100), ",M-", ",L-")
	run, err = h.Rooms.Importing.StartImport(h.Ctx, h.Manager, importing.Request{Kind: "register", FileName: "large.csv", File: []byte(large)})
	require.NoError(t, err)
	h.ImportBegins(run.ID)
	first.Close()
	run, err = h.Rooms.Importing.ImportRun(h.Ctx, h.Manager, run.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.ImportRunStatusRunning, run.Status)
	assert.Equal(t, store.StepWaiting, run.Step, "handed back by the server that stopped")
	assert.Len(t, h.Portfolio(h.Manager), 60)
	h.Server()
	assert.Equal(t, contract.ImportRunStatusStored, h.ImportEnds(run.ID).Status)
	summary, err := h.Rooms.Register.PortfolioSummary(h.Ctx, h.Viewer, store.CoilFilter{})
	require.NoError(t, err)
	assert.Equal(t, 2_160, summary.Units)
}

// An import that runs in the background is followed until it ends.
func TestAnImportInTheBackgroundIsFollowed(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Server()
	run, err := h.Rooms.Importing.StartImport(h.Ctx, h.Manager, importing.Request{Kind: "register", FileName: "small.csv", File: []byte(many(60))})
	require.NoError(t, err)
	run = h.ImportEnds(run.ID)
	assert.Equal(t, contract.ImportRunStatusStored, run.Status, roomstest.Reasons(run))
	assert.Len(t, h.Portfolio(h.Manager), 60)
}

// A run that was told as ended stores nothing afterwards, and says so to whoever waited for it.
func TestAnImportToldAsEndedStoresNothing(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	require.NoError(t, h.Store.DB.Exec(`CREATE FUNCTION end_runs() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NEW.status := 'failed'; RETURN NEW; END $$;
		CREATE TRIGGER end_runs BEFORE INSERT ON import_run FOR EACH ROW EXECUTE FUNCTION end_runs()`).Error)
	run, err := h.Rooms.Importing.Import(h.Ctx, h.Manager, importing.Request{Kind: "register", FileName: "late.csv", File: []byte(many(3))})
	require.NoError(t, err)
	assert.Equal(t, contract.ImportRunStatusFailed, run.Status)
	assert.Empty(t, h.Portfolio(h.Manager))
}

// Whatever file comes in, an import ends without a panic and stores all of it or nothing.
func FuzzImport(f *testing.F) {
	f.Add("register", []byte(roomstest.Header+"Hall,Yard,A-1,Ice machine,condenser,2026-01-01\nHall,Yard,A-1,Ice machine,condenser,\n"))
	f.Add("register", []byte(roomstest.Header+"Hall,Yard,A-1,Ice machine,condenser,2026-01-01\nBarn,Yard,\"A\n2\",packaged_unit,evaporator,about 2025-06\n"))
	f.Add("visits", []byte("tag,day,found,left,work,method,people\nIM-1,2026-02-02,3,0,light,Brush and vacuum,The technician 40\n"))
	f.Add("visits", []byte("tag,day,outcome\nIM-1,2026-02-02,no access\nIM-1,2026-02-03\n"))
	h := roomstest.New(f)
	h.Unit("IM-1", "ice_machine", "2026-01-01")
	f.Fuzz(func(t *testing.T, kind string, file []byte) {
		if kind != "visits" {
			kind = "register"
		}
		count := func() (n [2]int64) {
			require.NoError(t, h.Store.DB.Raw("SELECT count(*) FROM unit").Scan(&n[0]).Error)
			require.NoError(t, h.Store.DB.Raw("SELECT count(*) FROM visit").Scan(&n[1]).Error)
			return n
		}
		before := count()
		run, err := h.Rooms.Importing.Import(h.Ctx, h.Manager, importing.Request{Kind: kind, FileName: "x", File: file})
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
