package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The manager reads what came back from the field, decides on a symptom, and the clean moves forward.
func TestASymptomBringsACleanForward(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/"))
	ok(t, p.WaitText("Came back from the field"))
	ok(t, p.WaitText("Reported: goods are warming"))
	ok(t, p.Click("Symptoms"))
	ok(t, p.WaitText("Bait soft again this morning"))
	accessible(t, p, "symptoms")
	ok(t, p.ClickNth("Decide", 1))
	ok(t, p.Fill("Note", "warmed twice already", 0))
	ok(t, p.Click("Bring the clean forward"))
	ok(t, p.WaitText("Clean brought forward"))
	ok(t, p.Click("FA-RF-1"))
	ok(t, p.WaitText("4 Mar 2026"))
	unbroken(t, p)
}

// The organisation answers a question of practice, and changes a procedure; what is wrong is said at the step.
func TestTheHouseSetsItsPractice(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/house-rules/practice"))
	ok(t, p.WaitText("0 of 35 differ"))
	accessible(t, p, "practice")
	ok(t, p.ClickNth("Change", 8)) // air through a condenser
	ok(t, p.Check("Never — it drives dirt on to fan and compressor", 0))
	ok(t, p.Click("Save the answer"))
	ok(t, p.WaitText("say why, so that others can follow it later"))
	ok(t, p.Fill("practice-reason", "fans got dirty", 0))
	ok(t, p.Click("Save the answer"))
	ok(t, p.WaitText("1 of 35 differ"))
	ok(t, p.WaitText("fans got dirty"))

	ok(t, p.Click("Procedures"))
	ok(t, p.WaitText("The standard procedure"))
	accessible(t, p, "procedures")
	ok(t, p.Click("Change it"))
	ok(t, p.Click("Arrive Find the unit and read its tag"))
	ok(t, p.Fill("Why", " ", 0))
	ok(t, p.Fill("procedure-reason", "shorter words", 0))
	ok(t, p.Click("Use the new version"))
	ok(t, p.WaitText("identify has no reason"))
	ok(t, p.Fill("Why", "the right unit gets the clock", 0))
	ok(t, p.Click("Use the new version"))
	ok(t, p.WaitText("Version 1"))
	ok(t, p.WaitText("shorter words"))
	unbroken(t, p)
}

// The bench works out outside any visit what a visit works out.
func TestTheBenchWorksItOut(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "technician")
	ok(t, p.Go("/bench"))
	ok(t, p.WaitText("First choice"))
	accessible(t, p, "bench, method")
	ok(t, p.Choose("Construction", "microchannel", 0))
	ok(t, p.Eval(`document.querySelector('details.out summary').click()`, nil))
	ok(t, p.WaitText("Strong alkaline eats microchannel coils."))
	ok(t, p.Click("Mix"))
	ok(t, p.WaitText("25.6 fl oz"))
	ok(t, p.WaitText("32.0 fl oz"))
	accessible(t, p, "bench, mix")
	ok(t, p.Click("Dwell of a batch"))
	ok(t, p.WaitText("27 min in all"))
	ok(t, p.WaitText("begin at 07:23 at the latest"))
	accessible(t, p, "bench, dwell")
	ok(t, p.Click("Saturation"))
	ok(t, p.WaitText("on the bubble line"))
	accessible(t, p, "bench, saturation")
	ok(t, p.Click("Where is the coil"))
	ok(t, p.Fill("What it looks like", "kick plate", 0))
	ok(t, p.WaitText("Look for a kick plate first"))
	ok(t, p.WaitGone("Draw-string bag"))
	accessible(t, p, "bench, coil")
	ok(t, p.Click("Practise grading"))
	for range 12 {
		ok(t, p.Click("2 Coat"))
	}
	ok(t, p.WaitText("over 12 faces"))
	ok(t, p.WaitText("Technician, Crew Tern"))
	accessible(t, p, "bench, grading")
	unbroken(t, p)
}

// A site's staff tick a light task and report a symptom through their link, without an account.
func TestSiteStaffWorkThroughTheirLink(t *testing.T) {
	t.Parallel()
	p, a := window(t, 390, 844, true)
	signIn(t, p, "manager")
	ok(t, p.Go("/links"))
	ok(t, p.WaitText("A link needs no account."))
	accessible(t, p, "links")
	ok(t, p.Fill("link-name", "kitchen", 0))
	ok(t, p.Eval(`(() => { const s = [...document.querySelectorAll('select')].find(e => e.innerText.includes('Crew Canteen'));
		s.value = [...s.options].find(o => o.text === 'Crew Canteen').value; s.dispatchEvent(new Event('change', {bubbles: true})) })()`, nil))
	ok(t, p.Click("Make the link"))
	ok(t, p.WaitText("Shown this once:"))
	var link string
	ok(t, p.Eval(`document.querySelector('code').innerText`, &link))
	ok(t, p.Eval(`fetch('/api/v1/session', {method: 'DELETE'}).then(r => localStorage.clear())`, nil))
	ok(t, p.Go(link[strings.Index(link, "/g/"):]))
	ok(t, p.WaitText("This link shows this site only."))
	ok(t, p.WaitText("Wipe the grille"))
	accessible(t, p, "guest")
	bigEnough(t, p, "guest")
	fits(t, p, "guest")
	var task string
	ok(t, p.Eval(`document.querySelector('button.line').innerText.replace(/\s+/g, ' ').trim()`, &task))
	ok(t, p.Click(task))
	ok(t, p.Click("Done today"))
	ok(t, p.WaitText("noted. Thank you."))
	ok(t, p.Eval(`(() => { const s = document.querySelector('form select'); s.value = 'water'; s.dispatchEvent(new Event('change', {bubbles: true})) })()`, nil))
	ok(t, p.Click("Report it"))
	ok(t, p.WaitText("Reported. A manager sees it now"))
	var ticks, symptoms int64
	require.NoError(t, a.Store.DB.Raw("SELECT count(*) FROM task_tick WHERE link_id IS NOT NULL").Scan(&ticks).Error)
	require.NoError(t, a.Store.DB.Raw("SELECT count(*) FROM symptom_report WHERE link_id IS NOT NULL").Scan(&symptoms).Error)
	assert.Equal(t, [2]int64{1, 1}, [2]int64{ticks, symptoms})
	ok(t, p.Go("/portfolio"))
	ok(t, p.WaitText("Which coils to clean next"))
	ok(t, p.Go("/g/no-such-link-was-ever-made"))
	ok(t, p.WaitText("This link does not work any more."))
}

// Something watched is opened on the unit, seen at its visits and closed with a reason; stock shows who pours too much.
func TestWatchingAndStock(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio?q=FN-PU-2"))
	ok(t, p.Click("FN-PU-2"))
	ok(t, p.WaitText("Greenish specks on the end plate"))
	ok(t, p.WaitText("end plate, autumn 2024"))
	ok(t, p.Click("Close it"))
	ok(t, p.Fill("Why it need not be watched", "unchanged in two years", 0))
	ok(t, p.Click("Close it"))
	ok(t, p.WaitText("closed 4 Mar 2026, unchanged in two years"))
	ok(t, p.Fill("Something to watch", "chafing at the second bend", 0))
	ok(t, p.Click("Watch it"))
	ok(t, p.WaitText("Chafing at the second bend"))
	ok(t, p.Go("/stock"))
	ok(t, p.WaitText("Technician, Crew Gannet"))
	var first string
	ok(t, p.Eval(`document.querySelectorAll('table.lines')[1].querySelector('tbody tr').innerText`, &first))
	assert.Contains(t, first, "Gannet", "the crew that uses most beyond its plan comes first")
	accessible(t, p, "stock")
	unbroken(t, p)
}
