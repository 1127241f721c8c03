package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A unit with two coils shows the worse one first, and either can be chosen.
func TestChoosingACoilAndSide(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio?q=NL-PU-1"))
	ok(t, p.Click("NL-PU-1"))
	ok(t, p.WaitText("Interval: condenser"))
	ok(t, p.WaitText("Interval: evaporator"))
	ok(t, p.Choose("Coil and side", "Evaporator, air-in side", 0))
	ok(t, p.WaitText("packaged unit or heat pump: evaporator, air-in side"))
	ok(t, p.Choose("Coil and side", "Condenser, left bank", 0))
	ok(t, p.WaitText("packaged unit or heat pump: condenser, left bank"))
	var label string
	ok(t, p.Eval(`document.querySelector('.curve svg').getAttribute('aria-label')`, &label))
	assert.Contains(t, label, "Soil curve of left bank")
	ok(t, p.WaitText("Lint or a dryer exhaust nearby ×2"))
	ok(t, p.WaitText("load in 30 days, its own; likely"))
	ok(t, p.WaitText("assumed"))
	unbroken(t, p)
}

// Filters live in the address, so that a filtered list can be shared and survives a reload.
func TestFiltersLiveInTheAddress(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "viewer")
	ok(t, p.Go("/portfolio"))
	ok(t, p.WaitText("73 units with 87 coils at 9 sites"))
	ok(t, p.Choose("Site", "Net Loft Workshops", 0))
	ok(t, p.WaitGone("CC-BC-1"))
	ok(t, p.Check("Due or late", 0))
	ok(t, p.WaitGone("NL-CU-1"))
	var address string
	ok(t, p.Eval(`location.pathname + location.search`, &address))
	assert.Contains(t, address, "due=1")
	assert.Contains(t, address, "site=")
	ok(t, p.Go(address))
	ok(t, p.WaitText("NL-CU-2"))
	ok(t, p.WaitGone("NL-CU-1"))
	ok(t, p.WaitGone("CC-BC-1"))
}

// An override needs a reason; what is said goes on the list of changes, and the proposal is answered.
func TestOverridingAProposal(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio?proposed=1&q=FA-UC"))
	ok(t, p.WaitText("FA-UC-"))
	ok(t, p.Eval(`document.querySelector('tbody td a').click()`, nil))
	ok(t, p.WaitText("Proposed:"))
	ok(t, p.ClickNth("Set my own", 0))
	ok(t, p.Fill("Days", "200", 0))
	ok(t, p.Press("Tab"))
	ok(t, p.Click("Set 200 d"))
	ok(t, p.WaitText("say why, so that others can follow it later"))
	ok(t, p.Fill("Reason", "spring auctions", 0))
	ok(t, p.Click("Set 200 d"))
	ok(t, p.WaitText("182 → 200 d Own choice, Maintenance manager: spring auctions"))
	ok(t, p.WaitGone("Proposed:"))
	unbroken(t, p)
}

// Each story of the sample data is told by the unit's screen in its own words.
func TestTheScreenTellsWhatStandsOut(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	for tag, words := range map[string][]string{
		"FA-IM-2": {"Nobody has seen the core. It is probably", "Look through it with a light at the next visit.", "Choose another method.", "Days over the limit", "First clean by"},
		"SY-RC-3": {"Its rate has changed: since the finding of", "Look for what changed there."},
		"NL-CU-2": {"Seaward side is never reached: behind the cable tray. It stays due and counts in no interval."},
		"HO-CU-1": {"Found bare the last 4 times: the light clean comes too often."},
		"CC-BC-1": {"Without built in tight, one breathing path (×1.3)", "instead of"},
		"HO-CU-2": {"By what its peers showed", "Nothing found at it yet: it has the rate of"},
	} {
		ok(t, p.Go("/portfolio?q="+tag))
		ok(t, p.Click(tag))
		for _, w := range words {
			ok(t, p.WaitText(w))
		}
	}
	unbroken(t, p)
}

// Dragging the interval by keys: curve, money and risk follow, worked out by the core in the browser.
func TestTheIntervalUnderTheHand(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio?q=FA-UC-1"))
	ok(t, p.Click("FA-UC-1"))
	ok(t, p.WaitText("A year costs"))
	look := func() (shape, words string) {
		ok(t, p.Eval(`document.querySelector('.curve .fan').getAttribute('d')`, &shape))
		ok(t, p.Eval(`document.querySelector('.drag').innerText`, &words))
		return shape, words
	}
	shape, words := look()
	ok(t, p.Eval(`document.querySelector('.drag input').focus()`, nil))
	for range 6 {
		ok(t, p.Press("ArrowRight"))
	}
	ok(t, p.WaitText("than now"))
	later, said := look()
	assert.NotEqual(t, shape, later, "the curve follows")
	assert.NotEqual(t, words, said, "money and risk follow")
	ok(t, p.Eval(`(i => { i.value = i.min; i.dispatchEvent(new Event('input')) })(document.querySelector('.drag input'))`, nil))
	ok(t, p.WaitText("7 d"))
	ok(t, p.WaitText("more than now"))
	unbroken(t, p)
}

// Proposals of many units: what would change is shown, then all of it happens.
func TestAcceptingManyProposals(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio?proposed=1&q=FA-UC"))
	ok(t, p.WaitText("FA-UC-1"))
	ok(t, p.Check("Choose all shown", 0))
	ok(t, p.WaitText("units chosen"))
	ok(t, p.Eval(`[...document.querySelectorAll('.tools button')].find(b => /Accept \d+ proposal/.test(b.textContent)).click()`, nil))
	ok(t, p.WaitText("What accepting changes"))
	ok(t, p.WaitText("on site;"))
	ok(t, p.Eval(`[...document.querySelectorAll('.panel button')].find(b => /Accept \d+ proposal/.test(b.textContent)).click()`, nil))
	ok(t, p.WaitText("changed."))
	ok(t, p.WaitText("accepted"))
	ok(t, p.WaitText("No unit fits these filters."))
	unbroken(t, p)
}

// Everything recalculated from the house rules, with its progress.
func TestRecalculatingEverything(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/house-rules"))
	ok(t, p.WaitText("Recalculate all rates and proposals"))
	ok(t, p.Click("Start"))
	ok(t, p.WaitText("All 73 units worked out."))
	unbroken(t, p)
}

// Another day can be chosen for the round; a day without work says so.
func TestChoosingTheDayOfTheRound(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/"))
	ok(t, p.WaitText("Thursday 5 March: Crew"))
	ok(t, p.Fill("Another day", "2026-03-08", 0))
	ok(t, p.WaitText("Nothing is planned for that crew and day."))
	ok(t, p.Fill("Another day", "2026-03-10", 0))
	ok(t, p.WaitText("Tuesday 10 March: Crew Eider"))
	ok(t, p.Click("Publish round"))
	ok(t, p.WaitText("Published by Maintenance manager"))
	ok(t, p.Go("/?day=2026-03-10"))
	ok(t, p.WaitText("It is published."))
	ok(t, p.Click("See it"))
	ok(t, p.WaitText("Print sheets"))
	unbroken(t, p)
}
