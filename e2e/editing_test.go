package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/e2e/browser"
)

// open goes to a unit by the field that finds things.
func open(t *testing.T, p *browser.Page, tag string) {
	t.Helper()
	ok(t, p.Go("/portfolio?q="+tag))
	ok(t, p.Click(tag))
	ok(t, p.WaitText("Why this rate"))
}

// Two managers save one card: the second sees both texts, and decides.
func TestTwoManagersSaveOneCard(t *testing.T) {
	t.Parallel()
	p, a := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	open(t, p, "CC-BC-1")
	ok(t, p.Click("Card"))
	ok(t, p.WaitText("CC-BC-1: unit details"))
	accessible(t, p, "card of a unit")
	ok(t, p.Fill("Maker", "mine", 0))
	require.NoError(t, a.Store.DB.Exec("UPDATE unit SET make = 'hers', version = version + 1 WHERE tag = 'CC-BC-1'").Error)
	ok(t, p.Click("Save the card"))
	ok(t, p.WaitText("Yours was not saved: compare, then save again"))
	ok(t, p.WaitText("make mine hers"))
	accessible(t, p, "conflict")
	ok(t, p.Click("Save mine instead"))
	ok(t, p.WaitText("Saved."))
	var kept string
	require.NoError(t, a.Store.DB.Raw("SELECT make FROM unit WHERE tag = 'CC-BC-1'").Scan(&kept).Error)
	assert.Equal(t, "mine", kept)
	ok(t, p.WaitText("changed"))

	// A wrong figure is told at its field; US units are typed and shown as such, and stored in SI.
	ok(t, p.Fill("Year built", "2031", 0))
	ok(t, p.Click("Save the card"))
	ok(t, p.WaitText("must be between 1950 and this year"))
	ok(t, p.Go("/settings"))
	ok(t, p.Choose("Figures", "US: ft, lb, tons, US gal", 0))
	ok(t, p.WaitText("Kept."))
	accessible(t, p, "settings")
	open(t, p, "CC-BC-1")
	ok(t, p.Click("Card"))
	ok(t, p.WaitText("lb"))
	ok(t, p.Fill("Charge", "2", 0))
	ok(t, p.Click("Save the card"))
	ok(t, p.WaitText("Saved."))
	var kg float64
	require.NoError(t, a.Store.DB.Raw("SELECT charge_kg FROM unit WHERE tag = 'CC-BC-1'").Scan(&kg).Error)
	assert.InDelta(t, 2*.45359237, kg, 1e-9)
	unbroken(t, p)
}

func TestAUnitsLifeAndItsFiles(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	open(t, p, "CC-BC-2")
	ok(t, p.Click("Grille done today"))
	ok(t, p.WaitText("11 Mar 2026"))
	photo := filepath.Join(t.TempDir(), "plate.txt")
	require.NoError(t, os.WriteFile(photo, []byte("no picture"), 0o600))
	ok(t, p.Upload(photo))
	ok(t, p.WaitText("is not a JPEG, PNG or PDF file"))
	ok(t, p.Click("Card"))
	ok(t, p.WaitText("Save the card"))
	ok(t, p.Click("Take it out of service"))
	ok(t, p.Fill("Reason", "bar closed", 0))
	ok(t, p.ClickNth("Take it out of service", 1))
	ok(t, p.WaitText("out of service, bar closed. It did not soil meanwhile."))
	ok(t, p.Click("Move it"))
	ok(t, p.Find("To", "Cellar", "Crew Canteen: Cellar"))
	ok(t, p.ClickNth("Move it", 1))
	ok(t, p.WaitText("Crew Canteen, Cellar"))
	ok(t, p.Click("CC-BC-2"))
	ok(t, p.WaitText("Out of service: it does not soil meanwhile."))
	accessible(t, p, "unit out of service")
	open(t, p, "FN-PU-2")
	ok(t, p.WaitText("end plate 2024.png"))
	unbroken(t, p)
}

func TestAVisitIsAmendedAndVoided(t *testing.T) {
	t.Parallel()
	p, a := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	var id string
	require.NoError(t, a.Store.DB.Raw("SELECT v.id FROM visit v JOIN unit u ON u.id = v.unit_id WHERE u.tag = 'FA-IM-1' ORDER BY v.day DESC LIMIT 1").Scan(&id).Error)
	ok(t, p.Go("/visits/"+id))
	ok(t, p.WaitText("Sent"))
	accessible(t, p, "visit record")
	ok(t, p.Click("Amend"))
	ok(t, p.WaitText("Amend a visit"))
	ok(t, p.Fill("Why it is amended", "wrong grade", 0))
	ok(t, p.Check("5 Blocked", 0))
	ok(t, p.Click("Send the amended visit"))
	ok(t, p.WaitText("Recorded: FA-IM-1."))
	ok(t, p.Go("/visits/"+id))
	ok(t, p.WaitText("No longer in force: amended, “wrong grade”."))
	ok(t, p.Click("The newer version"))
	ok(t, p.WaitText("This version replaces"))
	ok(t, p.Click("Void"))
	ok(t, p.Fill("Why this visit does not count", "another machine", 0))
	ok(t, p.Click("Void the visit"))
	ok(t, p.WaitText("No longer in force: voided, “another machine”."))
	unbroken(t, p)
}

func TestThePortfolioIsFilteredChangedAndSearched(t *testing.T) {
	t.Parallel()
	p, a := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio?q=CC-BC&due=1"))
	ok(t, p.WaitText("No unit fits these filters."))
	ok(t, p.Go("/portfolio"))
	ok(t, p.WaitText("73 units"))
	var rows int
	ok(t, p.Eval(`[...document.querySelectorAll('tbody tr')].filter(r => r.getBoundingClientRect().bottom <= innerHeight).length`, &rows))
	assert.GreaterOrEqual(t, rows, 25, "rows in sight at 1280 × 800")
	ok(t, p.Fill("Find a unit", "CC-BC", 0))
	ok(t, p.WaitText("3 units with 3 coils at 1 site"))
	ok(t, p.Click("Save this filter"))
	ok(t, p.Fill("Name of this filter", "Bar coolers", 0))
	ok(t, p.Click("Keep"))
	ok(t, p.WaitText("Bar coolers"))
	ok(t, p.Check("Choose all shown", 0))
	ok(t, p.WaitText("3 units chosen"))
	ok(t, p.Click("Change in bulk"))
	ok(t, p.Choose("Which", "deep clean", 0))
	ok(t, p.Fill("Every", "70", 0))
	ok(t, p.Fill("Reason", "fryer next door", 0))
	ok(t, p.Click("Preview"))
	ok(t, p.WaitText("CC-BC-1 deep 91 d 70 d"))
	accessible(t, p, "bulk change")
	var days int
	count := func() int {
		require.NoError(t, a.Store.DB.Raw("SELECT count(*) FROM task t JOIN unit u ON u.id = t.unit_id WHERE u.tag LIKE 'CC-BC-%' AND t.every_days = 70").Scan(&days).Error)
		return days
	}
	assert.Zero(t, count(), "only shown")
	ok(t, p.Click("Change 3 places"))
	ok(t, p.WaitText("Made: Deep clean every 70 d: fryer next door"))
	assert.Equal(t, 3, count())
	ok(t, p.Wait("the portfolio to follow", `![...document.querySelectorAll('tbody tr')].some(r => r.innerText.includes('CC-BC-1') && r.innerText.includes('91 d'))`))
	ok(t, p.Click("Undo"))
	ok(t, p.WaitText("Undone"))
	assert.Zero(t, count())
	ok(t, p.Click("Bulk changes"))
	ok(t, p.WaitText("undone"))
	accessible(t, p, "bulk changes")

	// The field that finds things, by keys alone; the sheet of keys.
	ok(t, p.Chord("k"))
	ok(t, p.Press("FA-IM-2"))
	ok(t, p.Wait("the one unit of that tag", `[...document.querySelectorAll('[role=option]')].filter(e => e.innerText.includes('FA-IM-')).length === 1`))
	ok(t, p.Press("Enter"))
	ok(t, p.WaitText("FA-IM-2, ice machine"))
	ok(t, p.Eval(`document.activeElement.blur()`, nil))
	ok(t, p.Press("?"))
	ok(t, p.WaitText("This sheet"))
	accessible(t, p, "keys")
	ok(t, p.Press("Escape"))
	ok(t, p.WaitGone("This sheet"))
	ok(t, p.Press("g"))
	ok(t, p.Press("p"))
	ok(t, p.WaitText("73 units with 87 coils"))
	ok(t, p.Click("Bar coolers"))
	ok(t, p.WaitText("3 units with 3 coils"))
	ok(t, p.Go("/portfolio?view=map"))
	ok(t, p.WaitText("The number is the grade of the worst coil"))
	accessible(t, p, "map")
	ok(t, p.Go("/settings"))
	ok(t, p.Choose("Theme", "dark (plant room)", 0))
	ok(t, p.WaitText("Kept."))
	for path, wait := range map[string]string{"/": "Publish round", "/portfolio": "Ice machine", "/house-rules": "House limit", "/people": "Crew Gannet"} {
		ok(t, p.Go(path))
		ok(t, p.WaitText(wait))
		accessible(t, p, "dark "+path)
	}
	open(t, p, "NL-CU-2")
	accessible(t, p, "dark unit")
	unbroken(t, p)
}

func TestHouseRulesAndSites(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/house-rules"))
	ok(t, p.WaitText("House limit"))
	ok(t, p.Click("Cleaners"))
	ok(t, p.WaitText("Medium universal"))
	ok(t, p.Click("Change Medium universal"))
	accessible(t, p, "house rule")
	ok(t, p.Fill("pH", "12", 0))
	ok(t, p.Click("Save Medium universal"))
	ok(t, p.WaitText("it is corrosive: not on microchannel"))
	ok(t, p.Fill("pH", "9.5", 0))
	ok(t, p.Click("Save Medium universal"))
	ok(t, p.WaitText("9.5"))
	ok(t, p.Click("Change Medium universal"))
	ok(t, p.WaitText("default: 10.5"))
	ok(t, p.Click("Restore the default"))
	ok(t, p.WaitGone("9.5"))
	ok(t, p.Click("Change Medium universal"))
	ok(t, p.WaitGone("default: 10.5"))

	ok(t, p.Go("/sites/new"))
	ok(t, p.WaitText("Add a site"))
	ok(t, p.Fill("Name", "Crew Canteen", 0))
	ok(t, p.Click("Add the site"))
	ok(t, p.WaitText("is another site's name"))
	ok(t, p.Fill("Name", "Customs Shed", 0))
	ok(t, p.Click("Add a placement"))
	ok(t, p.Fill("Placement", "Loading bay", 0))
	ok(t, p.Click("Add the site"))
	ok(t, p.WaitText("Customs Shed: 0 units"))
	accessible(t, p, "site")
	ok(t, p.Fill("What happened", "roof painted", 0))
	ok(t, p.Click("Record event"))
	ok(t, p.WaitText("4 Mar 2026: roof painted"))
	ok(t, p.Click("Add a unit here"))
	ok(t, p.WaitText("Customs Shed"))
	unbroken(t, p)
}

// Somebody is invited with one site, chooses a password by the link, and sees that site only.
func TestSomebodyIsInvited(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/people"))
	ok(t, p.WaitText("Add somebody"))
	accessible(t, p, "people")
	ok(t, p.Fill("Name", "Museum steward", 0))
	ok(t, p.Fill("Login", "steward", 0))
	ok(t, p.Choose("Role", "viewer", 0))
	ok(t, p.Check("sees all sites", 0))
	ok(t, p.Choose("Only these sites", "Maritime Museum", 0))
	ok(t, p.Press("Escape"))
	ok(t, p.Click("Invite"))
	ok(t, p.WaitText("A link for Museum steward"))
	var link string
	ok(t, p.Eval(`document.querySelector('code').innerText`, &link))
	ok(t, p.Click("Sign out"))
	ok(t, p.WaitText("Which coils to clean next"))
	ok(t, p.Go(link[strings.Index(link, "/join/"):]))
	ok(t, p.WaitText("Welcome, Museum steward."))
	accessible(t, p, "join")
	ok(t, p.Fill("Choose a password", "three old herring nets", 0))
	ok(t, p.Click("Set password and sign in"))
	ok(t, p.WaitText("Sign out"))
	ok(t, p.Go("/portfolio"))
	ok(t, p.WaitText("8 units with 8 coils at 1 site"))
	ok(t, p.Go("/people"))
	ok(t, p.WaitText("Your role does not allow this."))
}

// Foreign column names are told on the screen; a spreadsheet of past visits goes in.
func TestImportsWithForeignNames(t *testing.T) {
	t.Parallel()
	p, a := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	dir := t.TempDir()
	write := func(name, text string) string {
		file := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
		return file
	}
	ok(t, p.Go("/portfolio/import"))
	ok(t, p.WaitText("One row per coil."))
	ok(t, p.Upload(write("foreign.csv", "Place,Room,Number,Kind,Coil\nCrew Canteen,Bar,CC-BC-9,Under-counter cooler,condenser\n")))
	ok(t, p.WaitText("the column is missing; if it has another name in the file, say which one it is"))
	ok(t, p.Choose("Place stands for", "site", 0))
	ok(t, p.Choose("Number stands for", "tag", 0))
	ok(t, p.Click("Check again with these names"))
	ok(t, p.WaitText("1 row: 1 new unit with 1 coil, 0 new placements."))
	accessible(t, p, "import checked")
	ok(t, p.Click("Import 1 unit"))
	ok(t, p.WaitText("Imported: 1 unit with 1 coil."))
	ok(t, p.Click("Import another file"))
	ok(t, p.Choose("What the file holds", "Past visits: one row per side", 0))
	ok(t, p.Upload(write("visits.csv", "tag,day,found,left,work,method,people\nCC-BC-9,2026-02-02,3,0,deep,Brush and vacuum,\"Technician, Crew Eider 40\"\n")))
	ok(t, p.Click("Import 1 visit"))
	ok(t, p.WaitText("Imported: 1 visit."))
	var visits int64
	require.NoError(t, a.Store.DB.Raw("SELECT count(*) FROM visit v JOIN unit u ON u.id = v.unit_id WHERE u.tag = 'CC-BC-9'").Scan(&visits).Error)
	assert.Equal(t, int64(1), visits)
	unbroken(t, p)
}
