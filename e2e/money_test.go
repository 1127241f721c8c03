package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/e2e/browser"
)

// pick chooses in a list of the browser's own.
func pick(p *browser.Page, name, value string) error {
	return p.Eval(fmt.Sprintf(`(s => { s.value = %q; s.dispatchEvent(new Event('change', { bubbles: true })) })(document.querySelector('[name=%q]'))`, value, name), nil)
}

// A call-out is put down, a log declared complete, and the unit believes in less soil; a wrong one is told at its field.
func TestTheLogOfCallOuts(t *testing.T) {
	t.Parallel()
	p, a := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/symptoms"))
	ok(t, p.Click("Call-outs"))
	ok(t, p.WaitText("10 call-outs in the log, complete at 2 sites"))
	ok(t, p.WaitText("not counted: the log of that day is not complete"))
	accessible(t, p, "call-outs")
	ok(t, p.Fill("Unit (tag)", "FS-BC-1", 0))
	ok(t, p.Wait("the unit to be known", `![...document.querySelectorAll('.soft')].some(e => e.innerText.includes('No unit has this tag'))`))
	ok(t, pick(p, "call-out-cause", "soiled_coil"))
	ok(t, pick(p, "call-out-coil_to_blame", "no"))
	ok(t, p.Click("Put it down"))
	ok(t, p.WaitText("cannot be no where a soiled coil was the cause"))
	ok(t, pick(p, "call-out-coil_to_blame", "yes"))
	ok(t, p.Fill("Cost, EUR", "210", 0))
	ok(t, p.Click("Put it down"))
	ok(t, p.WaitText("11 call-outs in the log"))
	var blame string
	require.NoError(t, a.Store.DB.Raw("SELECT coil_to_blame FROM call_out c JOIN unit u ON u.id = c.unit_id WHERE u.tag = 'FS-BC-1' AND c.cost = 210").Scan(&blame).Error)
	assert.Equal(t, "yes", blame)

	blocked := func() (share float64) {
		require.NoError(t, a.Store.DB.Raw("SELECT blocked FROM coil_line WHERE tag = 'FA-IM-1'").Scan(&share).Error)
		return share
	}
	before := blocked()
	var site string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM site WHERE name = 'Fish Auction Hall'").Scan(&site).Error)
	ok(t, pick(p, "log-site", site))
	ok(t, p.Eval(`(e => { e.value = '2023-10-01'; e.dispatchEvent(new Event('input')) })(document.querySelector('[name=log-from]'))`, nil))
	ok(t, p.Eval(`(e => { e.value = '2026-02-28'; e.dispatchEvent(new Event('input')) })(document.querySelector('[name=log-to]'))`, nil))
	ok(t, p.Click("Declare it complete"))
	ok(t, p.WaitText("complete at 3 sites"))
	assert.Less(t, blocked(), before, "two quiet years speak for less")
	open(t, p, "FA-IM-1")
	ok(t, p.WaitText("of which assumed"))
	unbroken(t, p)
}

// What a look is worth and what an hour more would bring stand where they are asked for.
func TestWorthALook(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/portfolio"))
	ok(t, p.Click("Worth a look"))
	ok(t, p.WaitText("worth a look before"))
	ok(t, p.WaitText("Trip of its own, less its cost"))
	accessible(t, p, "looks")
	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("Deep cleans take"))
	unbroken(t, p)
}

// Degree-days of two years as a file set a site's months; what is no such file is told. A month asked for at a task is kept.
func TestTheSeasonFromAFile(t *testing.T) {
	t.Parallel()
	p, a := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	var site string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM site WHERE name = 'Maritime Museum'").Scan(&site).Error)
	ok(t, p.Go("/sites/"+site))
	ok(t, p.WaitText("or a file of degree-days"))
	file := filepath.Join(t.TempDir(), "days.csv")
	require.NoError(t, os.WriteFile(file, []byte("2025-01,5\n2025-03,7\n"), 0o600))
	ok(t, p.Upload(file))
	ok(t, p.WaitText("Nothing is said of month 2."))
	var rows strings.Builder
	rows.WriteString("day,degree-days\n")
	for _, year := range []string{"2024", "2025"} {
		for m, days := range []string{"0", "0", "2", "10", "40", "90", "140", "120", "50", "8", "0", "0"} {
			rows.WriteString(year + "-" + []string{"01", "02", "03", "04", "05", "06", "07", "08", "09", "10", "11", "12"}[m] + "-15," + days + "\n")
		}
	}
	require.NoError(t, os.WriteFile(file, []byte(rows.String()), 0o600))
	ok(t, p.Upload(file))
	ok(t, p.Wait("the figures", `document.querySelector('[aria-label="Cooling in Jul"]').value === '140'`))
	ok(t, p.Click("Save the site"))
	ok(t, p.WaitText("Saved."))
	var july float64
	require.NoError(t, a.Store.DB.Raw("SELECT load_months[7] FROM site WHERE id = ?", site).Scan(&july).Error)
	assert.InDelta(t, 140, july, 1e-9)

	open(t, p, "MM-CU-1")
	ok(t, p.WaitText("how hard it works by month"))
	ok(t, pick(p, "anchor-month", "5"))
	ok(t, p.Wait("the month", `document.querySelector('[name=anchor-month]').value === '5'`))
	var month int
	require.NoError(t, a.Store.DB.Raw("SELECT anchor_month FROM task t JOIN unit u ON u.id = t.unit_id WHERE u.tag = 'MM-CU-1' AND t.kind = 'deep'").Scan(&month).Error)
	assert.Equal(t, 5, month)
	unbroken(t, p)
}
