package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A unit and a site factor by hand; an interval of the manager's own; a round withdrawn.
func TestByHand(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio/new-unit"))
	ok(t, p.Fill("Tag", "CC-RF-1", 0))
	ok(t, p.Choose("Class", "Reach-in fridge or freezer", 0))
	ok(t, p.Choose("Site", "Crew Canteen", 0))
	ok(t, p.Choose("Placement", "Bar", 0))
	ok(t, p.WaitText("deep clean every 182 d to begin with"))
	accessible(t, p, "new unit")
	ok(t, p.Click("Add the unit"))
	ok(t, p.WaitText("CC-RF-1 is in the register already"))
	ok(t, p.Fill("Tag", "CC-RF-9", 0))
	ok(t, p.Click("Add the unit"))
	ok(t, p.WaitText("No curve yet"))
	ok(t, p.WaitText("due now: no clean known"))

	ok(t, p.Go("/portfolio/new-factor"))
	ok(t, p.WaitText("Add a site factor"))
	ok(t, p.Choose("Factor", "Animals or hair ×4", 0))
	ok(t, p.Find("Where", "CC-RF-9", "only CC-RF-9, Crew Canteen › Bar"))
	accessible(t, p, "new factor")
	ok(t, p.Click("Add the factor"))
	ok(t, p.WaitText("74 units with 88 coils at 9 sites"))
	ok(t, p.Click("CC-RF-9"))
	ok(t, p.WaitText("Class interval 182 d ÷ site factor 4.56 = 39.9 d."))
	ok(t, p.Click("Set my own"))
	ok(t, p.Fill("Reason", "staff clean it weekly", 0))
	ok(t, p.Click("Set 35 d"))
	ok(t, p.WaitText("182 → 35 d Own choice, Maintenance manager: staff clean it weekly"))

	ok(t, p.Go("/"))
	ok(t, p.Click("Publish round"))
	ok(t, p.WaitText("Print sheets"))
	ok(t, p.Click("Withdraw"))
	ok(t, p.WaitText("Withdrawn: its work is due again."))
	ok(t, p.Click("Rounds"))
	ok(t, p.WaitText("Withdrawn"))
	accessible(t, p, "rounds")
	ok(t, p.Click("Visits"))
	ok(t, p.WaitText("The newest 100 visits"))
	accessible(t, p, "visits")
	ok(t, p.Go("/portfolio"))
	ok(t, p.WaitText("Ice machine"))
	accessible(t, p, "portfolio")
	unbroken(t, p)
}

// A viewer sees everything and is offered nothing that changes it; without a session there is only the way in.
func TestAViewerOnlyLooks(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	ok(t, p.Go("/portfolio"))
	ok(t, p.WaitText("Which coils to clean next"))
	accessible(t, p, "sign in")
	ok(t, p.Fill("Login", "viewer", 0))
	ok(t, p.Fill("Password", "wrong", 0))
	ok(t, p.Click("Sign in"))
	ok(t, p.WaitText("Login or password is not right."))
	signIn(t, p, "viewer")
	var offered int
	for _, path := range []string{"/", "/portfolio", "/rounds", "/house-rules"} {
		ok(t, p.Go(path))
		ok(t, p.WaitText("Sign out"))
		ok(t, p.WaitGone("Loading"))
		ok(t, p.Eval(`[...document.querySelectorAll('button,a')].filter(e => /Publish|Import|Add a|Withdraw|Accept|Set my own|Record|Change|Save/.test(e.innerText)).length`, &offered))
		assert.Zero(t, offered, path)
	}
	ok(t, p.Go("/nowhere"))
	ok(t, p.WaitText("There is nothing at this address."))
}

// Everything on the way to a published round is reached and worked by keyboard alone.
func TestByKeyboard(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	ok(t, p.Go("/sign-in"))
	ok(t, p.WaitText("Which coils to clean next"))
	tabTo := func(name string) {
		t.Helper()
		var at string
		for range 120 {
			ok(t, p.Eval(`(e => (e.getAttribute('aria-label') || e.innerText || e.name || '').trim())(document.activeElement)`, &at))
			if at == name {
				var outlined bool
				ok(t, p.Eval(`(s => s.outlineStyle !== 'none' || s.boxShadow !== 'none' || document.activeElement.closest('.el-input__wrapper, .el-select__wrapper') !== null)(getComputedStyle(document.activeElement))`, &outlined))
				assert.True(t, outlined, "%s shows that it has the focus", name)
				return
			}
			ok(t, p.Press("Tab"))
		}
		t.Fatalf("%q is not reached by Tab; last was %q", name, at)
	}
	tabTo("login")
	ok(t, p.Press("manager"))
	tabTo("password")
	ok(t, p.Press("harbour-demo"))
	ok(t, p.Press("Enter"))
	ok(t, p.WaitText("Publish round"))
	tabTo("Publish round")
	ok(t, p.Press("Enter"))
	ok(t, p.WaitText("Print sheets"))
	tabTo("Portfolio")
	ok(t, p.Press("Enter"))
	ok(t, p.WaitText("73 units with 87 coils at 9 sites"))
	tabTo("CC-BC-1")
	ok(t, p.Press("Enter"))
	ok(t, p.WaitText("Why this rate"))
	tabTo("Record a past visit")
	ok(t, p.Press("Enter"))
	ok(t, p.WaitText("Before anything is opened"))
	tabTo("Send the visit")
}
