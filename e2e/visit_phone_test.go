package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A technician records a visit on a phone; what was written survives a reload, a side is missed, and only the
// others move.
func TestVisitOnAPhone(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 390, 844, true)
	signIn(t, p, "technician")
	ok(t, p.Go("/portfolio?q=NL-CU-1"))
	ok(t, p.Click("NL-CU-1"))
	ok(t, p.WaitText("Why this rate"))
	var wide bool
	ok(t, p.Eval(`document.documentElement.scrollWidth > innerWidth`, &wide))
	assert.False(t, wide, "the unit fits the phone's width")
	ok(t, p.Click("Record a past visit"))
	ok(t, p.WaitText("Before anything is opened"))
	ok(t, p.Eval(`document.documentElement.scrollWidth > innerWidth`, &wide))
	assert.False(t, wide, "the form fits the phone's width")
	ok(t, p.Check("I read the cautions and followed them.", 0))
	for side := range 3 {
		ok(t, p.Check("Reached", side))
		ok(t, p.Check("2 Coat", side))
	}
	accessible(t, p, "visit")

	ok(t, p.Go("/portfolio?q=NL-CU-1"))
	ok(t, p.Click("NL-CU-1"))
	ok(t, p.Click("Record a past visit"))
	ok(t, p.WaitText("Continuing an earlier draft."))
	ok(t, p.Check("Not reached", 3))
	ok(t, p.Click("Send the visit"))
	ok(t, p.WaitText("condenser, wall side: why not reached: say why it was not reached"))
	ok(t, p.Fill("Why not", "ivy", 0))
	ok(t, p.WaitText("Partly done"))
	ok(t, p.Choose("Kind of clean", "deep: resets both clocks", 0))
	ok(t, p.Choose("Method", "Foam and rinse", 0))
	ok(t, p.Choose("Direction", "against the airflow", 0))
	ok(t, p.Choose("Cleaner", "Medium universal", 0))
	ok(t, p.Fill("Parts of water", "4", 0))
	ok(t, p.Fill("Amount of cleaner", "0.6", 0))
	ok(t, p.Check("Run-off clear", 0))
	for side := range 3 {
		ok(t, p.Check("0 Bare", 3+side))
	}
	ok(t, p.Fill("Minutes on site", "55", 0))
	ok(t, p.Click("Send the visit"))
	ok(t, p.WaitText("Recorded: NL-CU-1."))
	ok(t, p.WaitText("Done: front, left, right."))
	ok(t, p.WaitText("Stays due: wall side."))
	ok(t, p.Click("See the unit"))
	ok(t, p.WaitText("not reached: ivy"))
	ok(t, p.WaitText("medium universal 4:1, 0.6 L"))
	unbroken(t, p)
}
