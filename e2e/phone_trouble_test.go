package e2e

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/e2e/app"
	"nextround/e2e/browser"
	"nextround/e2e/journey"
)

func unitID(t *testing.T, a *app.App, tag string) string {
	t.Helper()
	var id string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM unit WHERE tag = ?", tag).Scan(&id).Error)
	require.NotEmpty(t, id, tag)
	return id
}

// Each gate stays shut until its own record is there; what is live keeps it shut.
func TestGatesOpenByTheirOwnRecordOnThePhone(t *testing.T) {
	t.Parallel()
	p, a, _ := phone(t)
	signIn(t, p, "technician")
	ok(t, p.Go("/units/"+unitID(t, a, "NL-CU-1")+"/work"))
	l := journey.Led{Page: p, Sides: 4, Means: "Disconnect", Hand: true}
	shut := func(why string) {
		t.Helper()
		ok(t, p.WaitText(why))
		ok(t, p.Wait("Done to be shut", `[...document.querySelectorAll('li.now button')].find(b => b.innerText === 'Done').disabled`))
	}
	ok(t, l.Until("isolate"))
	shut("Say which breaker, disconnect or plug")
	ok(t, l.Until("discharge"))
	shut("confirm that the capacitors were discharged")
	ok(t, p.Check("Not discharged", 0))
	shut("confirm that the capacitors were discharged")
	ok(t, l.Until("prove_dead"))
	shut("Say what the meter showed on L1–L2")
	ok(t, p.Fill("L1 to L2", "231", 0))
	ok(t, p.Fill("L1 to ground", "0", 0))
	ok(t, p.Fill("L2 to ground", "0", 0))
	ok(t, p.Check("Yes, both times", 0))
	shut("it is live, and must not be opened")
	ok(t, p.WaitText("It is live. Stop, and do not open it."))
	ok(t, p.Fill("L1 to L2", "0,0.1", 0))
	ok(t, p.WaitText("“0,0.1” is not a number."))
	shut("Say what the meter showed on L1–L2")
	ok(t, p.Fill("L1 to L2", "0", 0))
	ok(t, l.Until("photo_wiring"))
	// What the end still needs leads to its step.
	ok(t, p.Click("Finish the visit"))
	ok(t, p.WaitText("At least one coil is needed, with a side that was reached"))
	ok(t, p.Eval(`[...document.querySelectorAll('.needed li')].find(li => li.innerText.includes('At least one coil')).querySelector('button').click()`, nil))
	ok(t, p.Wait("the step to open", `document.querySelector('li.now')?.id === 'step-opened_look'`))
}

// The clocks of two coils run side by side, show on another screen and after a reload; one started by mistake is undone.
func TestTwoCoilsStandSideBySide(t *testing.T) {
	t.Parallel()
	p, a, _ := phone(t)
	signIn(t, p, "technician")
	var tag string
	require.NoError(t, a.Store.DB.Raw(`SELECT u.tag FROM unit u JOIN coil c ON c.unit_id = u.id JOIN placement p ON p.id = u.placement_id
		WHERE u.tag LIKE '%-PU-%' AND p.setting IN ('roof', 'outdoor') AND p.water = 'yes' GROUP BY u.tag HAVING count(*) = 2 ORDER BY u.tag LIMIT 1`).Scan(&tag).Error)
	require.NotEmpty(t, tag)
	unit := unitID(t, a, tag)
	ok(t, p.Go("/units/"+unit+"/work?job=deep"))
	ok(t, p.WaitText(tag+", step by step"))
	w := &tapper{t: t, p: p, found: "3 Felt", left: "1 Film", stop: "advice"}
	w.work()
	ok(t, p.Fill("Coldest during the work", "12", 0))
	// For each coil the first plan whose cleaner stands.
	for n := range 2 {
		ok(t, p.Wait("a plan with a cleaner that stands", fmt.Sprintf(`(s => [...s?.querySelectorAll('li') ?? []].some(li => li.innerText.includes('; stands ')))(document.querySelectorAll('li.now section, #step-advice section')[%d])`, n)))
		ok(t, p.Eval(fmt.Sprintf(`[...document.querySelectorAll('#step-advice section')[%d].querySelectorAll('li')].find(li => li.innerText.includes('; stands ')).querySelector('button[aria-pressed]').click()`, n), nil))
	}
	ok(t, p.Click("Done"))
	w.stop = "apply_cleaner"
	w.work()
	ok(t, p.Wait("two clocks", `document.querySelectorAll('li.now .timer').length === 2`))
	ok(t, p.WaitText("min in all:"))
	ok(t, p.WaitText("Flush the sprayer:"))
	ok(t, p.ClickNth("Sprayed: start the clock", 0))
	ok(t, p.Click("Started by mistake: undo"))
	ok(t, p.Wait("no clock", `!document.querySelector('aside.dwell')`))
	ok(t, p.ClickNth("Sprayed: start the clock", 0))
	ok(t, p.ClickNth("Sprayed: start the clock", 0))
	running := func(n int) {
		t.Helper()
		ok(t, p.Wait(fmt.Sprintf("%d clocks", n), fmt.Sprintf(`document.querySelectorAll('aside.dwell .run').length === %d`, n)))
	}
	running(2)
	ok(t, p.Go("/bench"))
	running(2)
	ok(t, p.WaitText("has been dwelling for"))
	accessible(t, p, "a clock on another screen")
	ok(t, p.Click("Seen"))
	// On whatever screen, it rings.
	ok(t, p.Eval(`(real => { Date.now = () => real.call(Date) + 290_000 })(Date.now)`, nil))
	ok(t, p.WaitText("its minimum is near. Look at the foam."))
	ok(t, p.Go("/units/"+unit+"/work?step=apply_cleaner"))
	ok(t, p.ClickNth("Rinsing begins", 0))
	running(1)
}

// A phone whose clock is wrong is told so where there is network, and the times of its visit are mended with a note.
func TestAWrongClockIsMended(t *testing.T) {
	t.Parallel()
	p, a, _ := phone(t)
	signIn(t, p, "technician")
	unit := unitID(t, a, "CC-WU-2")
	ok(t, p.Go("/units/"+unit+"/work?job=companion"))
	ok(t, p.WaitText("CC-WU-2, step by step"))
	ok(t, p.Eval(`(real => { Date.now = () => real.call(Date) + 12 * 60_000; const D = Date; window.Date = class extends D { constructor(...x) { x.length ? super(...x) : super(Date.now()) } }; })(Date.now)`, nil))
	w := &tapper{t: t, p: p}
	w.work()
	// The next answer of the server tells.
	ok(t, p.Eval(`document.querySelector('.thumb a[href="/scan"]').click()`, nil))
	ok(t, p.Fill("Tag, or the code on the label", "CC", 0))
	ok(t, p.WaitText("12 min ahead of"))
	ok(t, p.Eval(`history.back()`, nil))
	ok(t, p.Click("Mend the times of this visit"))
	w.send()
	require.Eventually(t, func() bool { return phoneVisits(t, a) == 1 }, patience, step)
	var off float64
	var note string
	require.NoError(t, a.Store.DB.Raw("SELECT abs(extract(epoch FROM now() - finished_at)), note FROM visit WHERE source = 'phone'").Row().Scan(&off, &note))
	assert.Less(t, off, 180.0, "its end is told by the server's clock")
	assert.Contains(t, note, "The phone’s clock was 12 min ahead of the server’s; the times were mended.")
}

// A phone that is full says so at the tap that was not kept, and offers what can go.
func TestAFullPhoneOffersWhatCanGo(t *testing.T) {
	t.Parallel()
	p, a, _ := phone(t)
	signIn(t, p, "technician")
	ok(t, p.Go("/units/"+unitID(t, a, "NL-CU-1")+"/work"))
	ok(t, p.WaitText("NL-CU-1, step by step"))
	ok(t, p.Eval(`Storage.prototype.setItem = () => { throw new DOMException('full', 'QuotaExceededError') }`, nil))
	ok(t, p.Click("Done"))
	ok(t, p.WaitText("This phone is full: what you do here is not kept."))
	today(t, p)
	ok(t, p.Go("/outbox"))
	ok(t, p.WaitText("Room on this phone"))
	ok(t, p.Click("Remove 1 unit not on today’s round"))
	ok(t, p.Wait("it to be gone", `!document.body.innerText.includes('NL-CU-1')`))
	accessible(t, p, "what is kept")
	bigEnough(t, p, "what is kept")
}

// Two phones visit a unit on the same day: both are told, and the office too. What is begun is handed over knowingly.
func TestTwoPhonesAtOneUnit(t *testing.T) {
	t.Parallel()
	p, a, _ := phone(t)
	signIn(t, p, "technician")
	unit := unitID(t, a, "CC-WU-2")
	visit := func(p *browser.Page) {
		ok(t, p.Go("/units/"+unit+"/work?job=companion"))
		ok(t, p.WaitText("CC-WU-2, step by step"))
		w := &tapper{t: t, p: p}
		w.work()
		w.send()
		ok(t, p.WaitText("Sent"))
	}
	visit(p)
	b, err := chromium()
	require.NoError(t, err)
	other, done, err := b.Open(a.URL, 390, 844, true)
	require.NoError(t, err)
	t.Cleanup(done)
	signIn(t, other, "eider")
	ok(t, other.Go("/units/"+unit+"/work?job=companion"))
	ok(t, other.WaitText("Somebody was here today already:"))
	visit(other)
	ok(t, other.WaitText("Another visit to this unit came in on the same day"))

	ok(t, other.Go("/units/"+unitID(t, a, "NL-CU-1")+"/work"))
	ok(t, other.Click("Done"))
	ok(t, other.Eval(`[...document.querySelectorAll('summary')].find(s => s.innerText.startsWith('Hand it over')).click()`, nil))
	var tern string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM person WHERE name = 'Technician, Crew Tern'").Scan(&tern).Error)
	ok(t, other.Eval(fmt.Sprintf(`(s => { s.value = %q; s.dispatchEvent(new Event('change')) })(document.querySelector('select[name=heir]'))`, tern), nil))
	ok(t, other.Click("Hand it over"))
	ok(t, other.WaitText("No round is out for Crew Eider."))
	signIn(t, other, "technician")
	ok(t, other.Go("/today"))
	ok(t, other.WaitText("Begun and not sent: NL-CU-1."))
	ok(t, other.Click("Continue"))
	ok(t, other.WaitText("Begun by Technician, Crew Eider, handed over to you."))
	ok(t, other.Click("Start again"))
	ok(t, other.WaitText("Erase what was recorded of this visit?"))
	ok(t, other.Click("No"))
	ok(t, other.WaitText("1 of"))

	signIn(t, p, "manager")
	ok(t, p.Go("/"))
	ok(t, p.WaitText("Two visits to it on that day"))
}

// A label or tag leads to the work planned there; of another unit it is said that it is the wrong one; what is not in the register
// goes to the office with a picture, and is added from there.
func TestAUnitIsFoundOnSite(t *testing.T) {
	t.Parallel()
	p, a, wire := phone(t)
	signIn(t, p, "technician")
	today(t, p)
	keptOnPhone(t, p)
	var code string
	require.NoError(t, a.Store.DB.Raw("SELECT label_code FROM unit WHERE tag = 'FA-IM-3'").Scan(&code).Error)
	ok(t, p.Go("/u/"+code))
	ok(t, p.WaitText("FA-IM-3, step by step"))
	wire.Cut()
	ok(t, p.Go("/scan"))
	ok(t, p.Fill("Tag, or the code on the label", code, 0))
	ok(t, p.Press("Enter"))
	ok(t, p.WaitText("For: light clean, look with light"))
	ok(t, p.Click("Is this the unit?"))
	ok(t, p.WaitText("Is this the unit?"))
	ok(t, p.Fill("Tag, or the code on the label", "FA-RC-1", 0))
	ok(t, p.Click("FA-RC-1 Fish Auction Hall, Quay roof"))
	ok(t, p.WaitText("This is FA-RC-1, not FA-IM-3. Do not begin here."))
	ok(t, p.Go("/scan"))
	ok(t, p.Click("A unit that is not in the register"))
	ok(t, p.Wait("the sites of the day", `document.querySelectorAll('select[name=site] option').length === 3`))
	ok(t, p.Eval(`(s => { s.value = s.options[1].value; s.dispatchEvent(new Event('change')) })(document.querySelector('select[name=site]'))`, nil))
	ok(t, p.Fill("Where on the site", "loading ramp, behind the ice", 0))
	ok(t, p.Click("Send to the office"))
	ok(t, p.WaitText("Kept for the office"))
	wire.Join()
	ok(t, p.Go("/outbox"))
	var met int64
	require.Eventually(t, func() bool {
		require.NoError(t, a.Store.DB.Raw("SELECT count(*) FROM found_unit").Scan(&met).Error)
		return met == 1
	}, patience, step)
	signIn(t, p, "manager")
	ok(t, p.Go("/"))
	ok(t, p.WaitText("Found on site, not in the register"))
	ok(t, p.WaitText("loading ramp, behind the ice"))
	accessible(t, p, "found units")
}
