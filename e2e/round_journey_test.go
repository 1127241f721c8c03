package e2e

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The whole path: import → visit → proposal → accept → round → publish → print.
func TestFromRegisterToPrintedRound(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")

	// A file with a mistake names its line and column and stores nothing; the mended one goes in.
	file := filepath.Join(t.TempDir(), "units.csv")
	write := func(class string) {
		text := "site,placement,tag,class,coil role,last clean\nPrint House,Print room,PH-IM-1," + class + ",condenser,2026-01-14\n"
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
	}
	ok(t, p.Go("/portfolio"))
	ok(t, p.Click("Import"))
	ok(t, p.WaitText("One row per coil."))
	write("Ice cream machine")
	ok(t, p.Upload(file))
	ok(t, p.WaitText(`"Ice cream machine" is not a class of your organisation`))
	ok(t, p.WaitText("1 problem; nothing is taken in"))
	accessible(t, p, "import")
	write("Ice machine")
	ok(t, p.Upload(file))
	ok(t, p.WaitText("New site: Print House"))
	ok(t, p.Click("Import 1 unit"))
	ok(t, p.WaitText("Imported: 1 unit with 1 coil."))

	// The unit is found in the portfolio and visited.
	ok(t, p.Click("Portfolio"))
	ok(t, p.WaitText("74 units with 88 coils at 10 sites"))
	ok(t, p.Fill("Find a unit", "PH-", 0))
	ok(t, p.WaitGone("FA-IM-1"))
	ok(t, p.Click("PH-IM-1"))
	ok(t, p.WaitText("No visit recorded yet."))
	ok(t, p.Click("Record a past visit"))
	ok(t, p.WaitText("Local codes, the maker's manual"))
	ok(t, p.Check("Reached", 0))
	ok(t, p.Check("4 Blanket", 0))
	ok(t, p.Choose("Method", "Brush and vacuum", 0))
	ok(t, p.Choose("Direction", "along the fins", 0))
	ok(t, p.Check("0 Bare", 1))
	ok(t, p.Fill("Minutes on site", "35", 0))
	ok(t, p.Click("Send the visit"))
	ok(t, p.WaitText("cautions: confirm that the cautions were read and followed"))
	ok(t, p.Check("I read the cautions and followed them.", 0))
	ok(t, p.Click("Send the visit"))
	ok(t, p.WaitText("Recorded: PH-IM-1."))
	ok(t, p.WaitText("Condenser, light clean: next due 3 Apr 2026"))
	ok(t, p.WaitText("Due date unchanged."))
	ok(t, p.WaitText("Proposed from what was found: every 21 d."))

	// The proposal is shown with its arithmetic and accepted.
	ok(t, p.Click("See the unit"))
	ok(t, p.WaitText("Front: found Blanket after 49 d. Two or more grades over the limit: 49 d × 0.5 = 24.5 d."))
	ok(t, p.WaitText("every 21 d (3 weeks) instead of 30 d"))
	accessible(t, p, "unit")
	ok(t, p.Click("Accept 21 d"))
	ok(t, p.WaitText("Light clean: every 21 d"))
	ok(t, p.WaitText("30 → 21 d Staircase, Maintenance manager"))

	// The weeks are planned again with the new unit in them; the next round is published and printed.
	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("Something has changed since this plan was made"))
	ok(t, p.Fill("Seconds to search", "1", 0))
	ok(t, p.Click("Plan again"))
	ok(t, p.WaitText("What moved since the last plan"))
	ok(t, p.WaitText("Print House"))
	ok(t, p.Go("/"))
	ok(t, p.WaitText("Thursday 5 March: Crew"))
	accessible(t, p, "next round")
	ok(t, p.Click("Publish round"))
	ok(t, p.WaitText("Print sheets"))
	ok(t, p.WaitText("Published by Maintenance manager"))
	ok(t, p.WaitText("Local codes, the maker's manual"))
	accessible(t, p, "round")
	pdf, err := p.PDF()
	ok(t, err)
	pages := bytes.Count(pdf, []byte("/Type /Page\n")) + bytes.Count(pdf, []byte("/Type /Page ")) + bytes.Count(pdf, []byte("/Type /Page/"))
	var stops int
	ok(t, p.Eval(`document.querySelectorAll('article.sheet').length`, &stops))
	assert.GreaterOrEqual(t, pages, stops, "each stop has a sheet of its own")

	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("published"))
	unbroken(t, p)
}
