package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A unit with two coils shows the worse one first, and either can be chosen.
func TestChoosingACoilAndSide(t *testing.T) {
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
	ok(t, p.WaitText("Assumed rate"))
	ok(t, p.WaitText("assumed"))
	unbroken(t, p)
}

// Filters live in the address, so that a filtered list can be shared and survives a reload.
func TestFiltersLiveInTheAddress(t *testing.T) {
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

// An override needs a reason; what is said goes on the list of changes.
func TestOverridingAProposal(t *testing.T) {
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio?q=FA-IM-2"))
	ok(t, p.Click("FA-IM-2"))
	ok(t, p.WaitText("Accept 98 d"))
	ok(t, p.ClickNth("Set my own", 1))
	ok(t, p.Fill("Days", "28", 0))
	ok(t, p.Press("Tab"))
	ok(t, p.Click("Set 28 d"))
	ok(t, p.WaitText("say why, so that others can follow it later"))
	ok(t, p.Fill("Reason", "spring auctions", 0))
	ok(t, p.Click("Set 28 d"))
	ok(t, p.WaitText("182 → 28 d Own choice, Maintenance manager: spring auctions"))
	ok(t, p.WaitText("30 → 56 d Own choice, Maintenance manager: brushed on the eight-week round"))
	ok(t, p.WaitGone("Accept 98 d"))
	unbroken(t, p)
}

// Another day can be chosen for the round; a day without work says so.
func TestChoosingTheDayOfTheRound(t *testing.T) {
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.WaitText("Thursday 5 March: Crew Eider cleans"))
	ok(t, p.Fill("Day", "2026-03-08", 0))
	ok(t, p.WaitText("Sunday 8 March: Crew Eider does not work."))
	ok(t, p.Fill("Day", "2026-03-10", 0))
	ok(t, p.WaitText("Tuesday 10 March: Crew Eider cleans"))
	ok(t, p.Click("Publish round"))
	ok(t, p.WaitText("Published by Maintenance manager"))
	ok(t, p.Go("/?day=2026-03-10"))
	ok(t, p.WaitText("Crew Eider already has a round."))
	ok(t, p.Click("See it"))
	ok(t, p.WaitText("Print sheets"))
	unbroken(t, p)
}
