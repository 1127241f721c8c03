package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A crew's card: people, base, kit, tank; what is wrong is said at once and nothing is lost.
func TestACrewSaysWhatItBrings(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 900, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/people"))
	ok(t, p.WaitText("1 person, from Harbour Office, ladder, brush and vacuum, tank sprayer, tank 40 L"))
	accessible(t, p, "crews")
	ok(t, p.Click("Change Crew Eider"))
	ok(t, p.Fill("People", "2", 0))
	ok(t, p.Fill("Tank", "90", 0))
	ok(t, p.Fill("Skills and permits", "Roof edge, permit 7", 0))
	ok(t, p.Fill("Mail", "nobody", 0))
	ok(t, p.Click("Save the crew"))
	ok(t, p.WaitText("is not a mail address"))
	ok(t, p.Fill("Mail", "eider@hallvik.example", 0))
	ok(t, p.Choose("Starts from", "Maritime Museum", 0))
	ok(t, p.Click("Save the crew"))
	ok(t, p.WaitText("2 people, from Maritime Museum, roof edge, permit 7, ladder, brush and vacuum, tank sprayer, tank 90 L"))

	// An absence, and back again; a calendar, and closed.
	ok(t, p.Click("Absence of Crew Eider"))
	ok(t, p.Fill("Away from", "2026-03-10", 0))
	ok(t, p.Fill("Last day", "2026-03-09", 0))
	ok(t, p.Click("Save the absence"))
	ok(t, p.WaitText("must not be before the first day"))
	ok(t, p.Fill("Last day", "2026-03-12", 0))
	ok(t, p.Fill("How many", "1", 0))
	ok(t, p.Click("Save the absence"))
	ok(t, p.WaitText("Away: 1 of 2, 10 Mar 2026 to 12 Mar 2026"))
	ok(t, p.Click("Delete the absence of Crew Eider"))
	ok(t, p.WaitGone("Away: 1 of 2"))
	ok(t, p.Click("Calendar address of Crew Eider"))
	ok(t, p.WaitText("Shown this once"))
	ok(t, p.Click("Close the calendar of Crew Eider"))
	ok(t, p.WaitGone("Shown this once"))
	unbroken(t, p)
}

// Hours for one placement, water and holidays on the site's card bind the plan.
func TestASitesHoursBindThePlan(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 900, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio"))
	ok(t, p.Click("Harbour Office"))
	ok(t, p.WaitText("Rounds are planned by it"))
	// A time field is typed in the browser's own order; set it as its picker would.
	ok(t, p.Eval(`(() => { const e = document.querySelector('input[type=time]');
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(e, '12:00');
		e.dispatchEvent(new Event('input', {bubbles: true})); e.dispatchEvent(new Event('change', {bubbles: true})) })()`, nil))
	ok(t, p.Fill("Only for the placement", "Attic", 0))
	ok(t, p.Click("Save the site"))
	ok(t, p.WaitText("is not a placement of the site"))
	ok(t, p.Fill("Only for the placement", "Meeting room", 0))
	ok(t, p.Click("Save the site"))
	ok(t, p.WaitText("Saved"))
	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("Something has changed since this plan was made"))
	ok(t, p.Fill("Seconds to search", "1", 0))
	ok(t, p.Click("Plan again"))
	ok(t, p.WaitGone("Something has changed since this plan was made"))
	var starts []string
	ok(t, p.Eval(`fetch('/api/v1/plan').then(r => r.json()).then(p => p.rounds.flatMap(r => r.stops).flatMap(s => s.jobs).filter(j => j.placement === 'Meeting room').map(j => j.starts))`, &starts))
	assert.NotEmpty(t, starts)
	for _, s := range starts {
		assert.GreaterOrEqual(t, s, "12:00")
	}
	unbroken(t, p)
}

// A viewer reads the plan and can change nothing; what the locks and the exports are for is the manager's.
func TestAViewerReadsThePlan(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 900, false)
	signIn(t, p, "viewer")
	ok(t, p.Go("/"))
	ok(t, p.WaitText("Waiting one more week would cost"))
	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("cheaper than by due date"))
	for _, button := range []string{"Publish round", "Plan again", "Choose the next week", "lock", "Remind them of this week"} {
		var there bool
		ok(t, p.Eval(`[...document.querySelectorAll('button')].some(b => b.innerText.trim() === '`+button+`')`, &there))
		assert.False(t, there, button)
	}
	var rows int
	ok(t, p.Eval(`fetch('/api/v1/plan/export?format=csv').then(r => r.text()).then(t => t.split('\n').length)`, &rows))
	assert.Greater(t, rows, 50)
	accessible(t, p, "rounds for a viewer")
	unbroken(t, p)
}

// A round is locked, and stays where it is when the weeks are planned again.
func TestALockedRoundStays(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 900, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("cheaper than by due date"))
	label := said(t, p, `[...document.querySelectorAll('button[aria-label^="Lock "]')].at(-1).getAttribute('aria-label')`)
	ok(t, p.Click(label))
	unlock := "Unlock" + label[len("Lock"):]
	ok(t, p.Wait("the lock", `document.querySelector('button[aria-label="`+unlock+`"]') !== null`))
	ok(t, p.Fill("Seconds to search", "1", 0))
	// The plan is asked for again once the run is over: the request that begins it is the first, that one the second.
	ok(t, p.Eval(`performance.clearResourceTimings(); true`, nil))
	ok(t, p.Click("Plan again"))
	ok(t, p.Wait("the plan to be read again", `performance.getEntriesByType('resource').filter(e => e.name.endsWith('/api/v1/plan')).length >= 2 &&
		document.querySelector('.going') === null && document.querySelector('button[aria-label="`+unlock+`"]') !== null`))
	ok(t, p.Click(unlock))
	ok(t, p.Wait("the lock gone", `document.querySelector('button[aria-label="`+label+`"]') !== null`))
	unbroken(t, p)
}
