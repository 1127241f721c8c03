package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// An empty database is set up through the screens alone, and every screen says what to do first.
func TestFirstRunAndEmptyStates(t *testing.T) {
	t.Parallel()
	p := empty(t)
	ok(t, p.Go("/"))
	ok(t, p.WaitText("This database is empty."))
	accessible(t, p, "set up")
	ok(t, p.Fill("Organisation", "Eastern Quay", 0))
	ok(t, p.Fill("Your name", "Manager", 0))
	ok(t, p.Fill("Login", "boss", 0))
	ok(t, p.Fill("Password", "short", 0))
	ok(t, p.Click("Set up"))
	ok(t, p.WaitText("must have at least 12 characters"))
	ok(t, p.Fill("Password", "three old herring nets", 0))
	ok(t, p.Click("Set up"))
	ok(t, p.WaitText("Eastern Quay is set up."))
	accessible(t, p, "welcome")
	ok(t, p.Click("Invite people and name the crews"))
	ok(t, p.WaitText("a round needs a crew with hours"))
	ok(t, p.Click("Add a crew"))
	ok(t, p.Fill("Crew", "Crew One", 0))
	ok(t, p.Click("Save the crew"))
	ok(t, p.WaitText("Crew One Mon, Tue, Wed, Thu, Fri from 07:30, 7 h 30 min"))

	ok(t, p.Click("Next round"))
	ok(t, p.WaitText("The weeks are not planned yet."))
	ok(t, p.WaitText("No interval waits for an answer."))
	accessible(t, p, "empty next round")
	ok(t, p.Click("Visits"))
	ok(t, p.WaitText("No visit recorded yet."))
	ok(t, p.Click("Rounds"))
	ok(t, p.WaitText("No round was published yet."))
	ok(t, p.Click("Portfolio"))
	ok(t, p.WaitText("No units yet."))
	accessible(t, p, "empty portfolio")

	var template string
	ok(t, p.Eval(`fetch('/api/v1/import-template').then(r => r.text())`, &template))
	file := filepath.Join(t.TempDir(), "template.csv")
	require.NoError(t, os.WriteFile(file, []byte(template), 0o600))
	ok(t, p.Click("Import a file"))
	ok(t, p.Upload(file))
	ok(t, p.Click("Import 3 units"))
	ok(t, p.WaitText("Imported: 3 units with 3 coils."))
	ok(t, p.Click("Next round"))
	ok(t, p.Fill("Seconds to search", "1", 0))
	ok(t, p.Click("Plan the weeks"))
	ok(t, p.WaitText("Waiting one more week would cost"))
	ok(t, p.WaitText("CC-RI-1"))
	ok(t, p.Go("/portfolio?q=dragon"))
	ok(t, p.WaitText("No unit fits these filters."))
	ok(t, p.Click("Show all"))
	ok(t, p.WaitText("HO-CU-1"))
	unbroken(t, p)
}

// With the network gone a screen says so and can be tried again; a visit that could not be sent is kept and sent
// once when the network is back.
func TestNothingIsLostWithoutTheNetwork(t *testing.T) {
	t.Parallel()
	p, a, wire := phone(t)
	signIn(t, p, "technician")
	ok(t, p.Go("/portfolio?q=CC-BC-1"))
	ok(t, p.Click("CC-BC-1"))
	ok(t, p.Click("Record a past visit"))
	ok(t, p.WaitText("Before anything is opened"))
	ok(t, p.Check("I read the cautions and followed them.", 0))
	ok(t, p.Check("Reached", 0))
	ok(t, p.Check("2 Coat", 0))
	ok(t, p.Click("Inspection only"))
	ok(t, p.Fill("Minutes on site", "15", 0))
	ok(t, p.Fill("Note", "looked on the way past", 0))
	wire.Cut()
	ok(t, p.Click("Send the visit"))
	ok(t, p.WaitText("The server cannot be reached. Nothing was lost here; try again."))
	wire.Join()
	ok(t, p.Click("Send the visit"))
	ok(t, p.WaitText("Recorded: CC-BC-1."))
	ok(t, p.WaitText("Due date unchanged."))
	var stored int64
	require.NoError(t, a.Store.DB.Raw("SELECT count(*) FROM visit WHERE note = 'looked on the way past'").Scan(&stored).Error)
	assert.Equal(t, int64(1), stored)
	ok(t, p.Click("See the unit"))
	ok(t, p.WaitText("inspection only"))
	ok(t, p.Click("Record a past visit"))
	ok(t, p.WaitText("Before anything is opened"))
	ok(t, p.WaitGone("Continuing an earlier draft."))

	menu := func(screen string) {
		ok(t, p.Click("Menu"))
		ok(t, p.Click(screen))
	}
	wire.Cut()
	menu("Rounds")
	ok(t, p.WaitText("could not be loaded"))
	wire.Join()
	menu("Portfolio")
	menu("Rounds")
	ok(t, p.WaitText("Crew Tern"))
	menu("Portfolio")
	ok(t, p.WaitText("Ice machine"))
	wire.Cut()
	menu("Rounds")
	ok(t, p.WaitText("The rounds could not be loaded."))
	wire.Join()
	ok(t, p.Click("Try again"))
	ok(t, p.WaitText("Crew Tern"))
}

// A visit on which nothing could be done needs a word why, and moves no clock.
func TestNoAccess(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 390, 844, true)
	signIn(t, p, "technician")
	ok(t, p.Go("/portfolio?q=FA-UC-1"))
	ok(t, p.Click("FA-UC-1"))
	ok(t, p.Click("Record a past visit"))
	ok(t, p.Choose("Outcome", "No access", 0))
	ok(t, p.WaitText("Nothing was done: no clock moves."))
	ok(t, p.Click("Send the visit"))
	ok(t, p.WaitText("say what stood in the way"))
	ok(t, p.Fill("Note", "auction running late", 0))
	ok(t, p.Click("Send the visit"))
	ok(t, p.WaitText("Due dates unchanged."))
	ok(t, p.Click("See the unit"))
	ok(t, p.WaitText("No access: auction running late"))
	unbroken(t, p)
}

// No screen is wider than a phone; tables scroll within themselves.
func TestEveryScreenFitsAPhone(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 390, 844, true)
	signIn(t, p, "manager")
	for path, text := range map[string]string{
		"/": "Waiting for you", "/portfolio": "Ice machine", "/portfolio/import": "One row per coil", "/portfolio/new-unit": "Last thorough clean",
		"/portfolio/new-factor": "Where", "/visits": "The newest", "/rounds": "Crew Tern",
	} {
		ok(t, p.Go(path))
		ok(t, p.WaitText(text))
		var over []string
		ok(t, p.Eval(`document.documentElement.scrollWidth <= innerWidth ? [] : [...document.querySelectorAll('body *')].filter(e => e.getBoundingClientRect().right > innerWidth + 1 && !e.closest('.scroll-x')).slice(0, 3).map(e => e.outerHTML.slice(0, 120))`, &over))
		assert.Empty(t, over, path)
	}
}

// The list shows at least 24 coils at 1280×800 without scrolling; numbers carry their units.
func TestThePortfolioIsDense(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "viewer")
	ok(t, p.Go("/portfolio"))
	ok(t, p.WaitText("Ice machine"))
	var visible int
	ok(t, p.Eval(`[...document.querySelectorAll('tbody tr')].filter(r => r.getBoundingClientRect().bottom <= innerHeight).length`, &visible))
	assert.GreaterOrEqual(t, visible, 25, "rows at once")
	var headings, text string
	ok(t, p.Eval(`document.querySelector('thead').innerText`, &headings))
	for _, h := range []string{"Soil expected", "Blocked", "Last clean", "Interval", "Next due"} {
		assert.Contains(t, headings, h)
	}
	ok(t, p.Eval(`document.querySelector('tbody').innerText`, &text))
	assert.Contains(t, text, " %")
	assert.Contains(t, text, " d")
}

// The comb says in words what it shows, so that it is not colour alone.
func TestTheCombSpeaks(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "viewer")
	ok(t, p.Go("/portfolio?q=FA-IM-2"))
	ok(t, p.WaitText("Ice machine"))
	var label string
	ok(t, p.Eval(`document.querySelector('.comb svg').getAttribute('aria-label')`, &label))
	assert.True(t, strings.HasPrefix(label, "Expected today: face 1 Film"), label)
	assert.Contains(t, label, "not seen")
	ok(t, p.Click("FA-IM-2"))
	ok(t, p.WaitText("Look through it with a light at the next visit."))
	ok(t, p.Eval(`document.querySelector('.curve svg').getAttribute('aria-label')`, &label))
	assert.Contains(t, label, "Soil curve of front: today about")
	var found, left int
	ok(t, p.Eval(`document.querySelectorAll('.curve svg rect.found').length`, &found))
	ok(t, p.Eval(`document.querySelectorAll('.curve svg rect.left').length`, &left))
	assert.Greater(t, found, 8, "what visits found stands on the curve")
	assert.Equal(t, found, left)
}
