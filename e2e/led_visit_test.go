package e2e

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/e2e/app"
	"nextround/e2e/browser"
	"nextround/e2e/cut"
	"nextround/e2e/journey"
	"nextround/internal/contract"
	"nextround/internal/demo"
	"nextround/internal/organisation"
	"nextround/internal/pg/pgtest"
)

// phone opens a phone's window on the sample data, behind a wire that can be cut.
func phone(t *testing.T) (*browser.Page, *app.App, *cut.Proxy) {
	t.Helper()
	ctx := context.Background()
	a, err := app.Start(ctx, pgtest.Filled(t, "demo", demo.Fill))
	require.NoError(t, err)
	t.Cleanup(a.Close)
	wire, err := cut.Start(a.URL)
	require.NoError(t, err)
	t.Cleanup(func() { _ = wire.Close() })
	b, err := chromium()
	require.NoError(t, err)
	p, done, err := b.Open(wire.URL, 390, 844, true)
	require.NoError(t, err)
	t.Cleanup(done)
	return p, a, wire
}

// keptOnPhone waits until the application itself is on the phone.
func keptOnPhone(t *testing.T, p *browser.Page) {
	t.Helper()
	ok(t, p.Eval(`navigator.serviceWorker.ready.then(() => true)`, nil))
	ok(t, p.Wait("the application to be kept", `!!navigator.serviceWorker.controller`))
}

// bigEnough holds that everything to be tapped is 44 px or larger, but for links in running text.
func bigEnough(t *testing.T, p *browser.Page, screen string) {
	t.Helper()
	var small []string
	ok(t, p.Eval(`[...document.querySelectorAll('main button, main input:not([type=hidden]):not(.visually-hidden), main select, main textarea, main summary, main label:has(input.visually-hidden), main a.button')]
		.filter(e => { const r = (e.closest('.el-select__wrapper, .el-input__wrapper, .line') ?? e).getBoundingClientRect(); return r.width > 0 && r.height > 0 && (r.height < 43.5 || r.width < 40) })
		.map(e => e.tagName + ' ' + (e.innerText || e.name || e.getAttribute('aria-label') || e.className).slice(0, 40) + ' ' + Math.round(e.getBoundingClientRect().width) + '×' + Math.round(e.getBoundingClientRect().height))`, &small))
	assert.Empty(t, small, screen)
}

func fits(t *testing.T, p *browser.Page, screen string) {
	t.Helper()
	var wide int
	ok(t, p.Eval(`document.documentElement.scrollWidth - innerWidth`, &wide))
	assert.LessOrEqual(t, wide, 0, "%s is wider than the phone", screen)
}

// journeyOf is a whole visit with what it looks for on its way.
type journeyOf struct {
	tag, means, soil string
	sides            int
	missed           map[int]string
	// stands says that a cleaner stands, so that the page is left during a dwell.
	stands bool
	// advice that has to be among what is shown.
	advice string
}

var journeys = []journeyOf{
	{tag: "FN-CA-1", means: "Breaker", soil: "Biofilm, brown or slimy", sides: 1, stands: true, advice: "Ruled out, and by which rule"},
	{tag: "NL-CU-1", means: "Disconnect", soil: "Grease", sides: 4, missed: map[int]string{3: "behind the cable tray"}, advice: "No wet work outdoors below 4 °C"},
	{tag: "FN-DC-1", means: "Plug", soil: "Lint or hair", sides: 1, advice: "Ruled out, and by which rule"},
}

// Whole visits are led on the phone with the network cut in the middle, a reload while a cleaner stands, and an answer
// that is lost on the way back: nothing is lost, and the visit is stored once.
func TestVisitsAreLedToTheirEndWithoutNetwork(t *testing.T) {
	t.Parallel()
	for _, j := range journeys {
		t.Run(j.tag, func(t *testing.T) { j.walk(t) })
	}
}

func (j journeyOf) walk(t *testing.T) {
	p, a, wire := phone(t)
	signIn(t, p, "technician")
	var unit string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM unit WHERE tag = ?", j.tag).Scan(&unit).Error)
	work := "/units/" + unit + "/work"
	ok(t, p.Go(work))
	ok(t, p.WaitText("step by step"))
	keptOnPhone(t, p)
	l := journey.Led{Page: p, Sides: j.sides, Missed: j.missed, Means: j.means, Soil: j.soil}
	ok(t, l.Until("prove_dead"))
	accessible(t, p, "proving it dead")
	bigEnough(t, p, "proving it dead")
	fits(t, p, "proving it dead")
	ok(t, l.Until("first_look"))

	wire.Cut()
	ok(t, l.Until("opened_look"))
	accessible(t, p, "face map")
	bigEnough(t, p, "face map")
	fits(t, p, "face map")
	photo(t, p)
	ok(t, l.Until("advice"))
	ok(t, p.WaitText(j.advice))
	accessible(t, p, "advice")
	bigEnough(t, p, "advice")
	fits(t, p, "advice")
	if j.stands {
		ok(t, l.Until("apply_cleaner"))
		ok(t, p.Click("Sprayed: start the clock"))
		ok(t, p.WaitText("to its minimum"))
		accessible(t, p, "dwell")
	}
	// The page is loaded again with the wire cut: application, pack, draft and clock are all on the phone.
	ok(t, p.Go(work))
	ok(t, p.WaitText("Continuing where you stopped."))
	ok(t, p.WaitText("No network: working from what was kept"))
	if j.stands {
		ok(t, p.WaitText("FN-CA-1 has been dwelling for 0:"))
		ok(t, p.Click("Rinsing begins"))
		ok(t, p.Fill("It stood less than its minimum: why", "rain set in", 0))
		ok(t, p.Click("Done"))
	}
	rest := l
	rest.Hand = true
	ok(t, rest.Until("tell_site"))
	ok(t, rest.Do("tell_site"))
	ok(t, p.Click("Done"))
	ok(t, p.Fill("Minutes on site", "48", 0))
	ok(t, p.WaitText("Complete."))
	ok(t, p.Click("Save and send"))
	ok(t, p.WaitText("Waiting for network"))
	accessible(t, p, "outbox")

	// The visit arrives, its answer is lost; then it is sent again.
	wire.LoseAnswer("POST /api/v1/visits ")
	ok(t, p.Click("Send now"))
	require.Eventually(t, func() bool { return !wire.Whole() }, patience, step, "the answer was lost on its way")
	assert.Equal(t, int64(1), countVisits(t, a, unit), "it arrived")
	ok(t, p.WaitText("Waiting for network"))
	wire.Join() // it may send itself before anybody taps
	ok(t, p.Eval(`[...document.querySelectorAll('button')].find(b => b.innerText === 'Send now' && !b.disabled)?.click()`, nil))
	ok(t, p.WaitText("Sent"))
	ok(t, p.WaitText("next due"))
	assert.Equal(t, int64(1), countVisits(t, a, unit), "sent twice, stored once")
	var photos int64
	require.NoError(t, a.Store.DB.Raw("SELECT count(*) FROM attachment WHERE entity = 'visit' AND step = 'opened_look' AND phase = 'before'").Scan(&photos).Error)
	assert.Equal(t, int64(1), photos, "the photo followed")
	if len(j.missed) > 0 {
		ok(t, p.WaitText("stays due"))
	}
	ok(t, p.Click("Report to the site"))
	ok(t, p.WaitText("Told on the spot: the desk."))
	accessible(t, p, "report")
	ok(t, p.Fill("Mail to", "desk@hallvik.example", 0))
	ok(t, p.Click("Mail it"))
	ok(t, p.WaitText("Sent to desk@hallvik.example."))
	letters := a.Outside.Mailbox.Letters()
	require.Len(t, letters, 1)
	assert.Contains(t, letters[0].Subject, j.tag)
	ok(t, p.Go("/visits/"+visitID(t, a, unit)))
	ok(t, p.WaitText("Isolation"))
	if j.means == "Plug" {
		ok(t, p.WaitText("plug in the hand"))
	} else {
		ok(t, p.WaitText("meter tried on a live source before and after"))
	}
	if j.tag == "FN-CA-1" { // from the tap to the record, and back to the unit's screen
		ok(t, p.WaitText("Blower wheel: found 2 Coat"))
		ok(t, p.WaitText("For: Deep clean."))
	}
	accessible(t, p, "record")
	if j.tag == "FN-CA-1" {
		ok(t, p.Go("/units/"+unit))
		ok(t, p.WaitText("Wheel, pan and filter"))
		ok(t, p.WaitText("Blower wheel"))
	}
}

// photo takes a picture at the step that is open.
func photo(t *testing.T, p *browser.Page) {
	t.Helper()
	file := filepath.Join(t.TempDir(), "front.png")
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 40, 30))))
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
	ok(t, p.Upload(file))
	ok(t, p.WaitText("take out"))
}

func countVisits(t *testing.T, a *app.App, unit string) int64 {
	t.Helper()
	var n int64
	require.NoError(t, a.Store.DB.Raw("SELECT count(*) FROM visit WHERE unit_id = ? AND source = 'phone'", unit).Scan(&n).Error)
	return n
}

func visitID(t *testing.T, a *app.App, unit string) string {
	t.Helper()
	var id string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM visit WHERE unit_id = ? AND source = 'phone'", unit).Scan(&id).Error)
	return id
}

// A gate is not passed in silence: the steps behind it stay shut, and skipping it asks why.
func TestAGateKeepsWhatIsBehindItShut(t *testing.T) {
	t.Parallel()
	p, a, _ := phone(t)
	signIn(t, p, "technician")
	var unit string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM unit WHERE tag = 'FN-CA-1'").Scan(&unit).Error)
	ok(t, p.Go("/units/"+unit+"/work"))
	l := journey.Led{Page: p, Sides: 1, Means: "Breaker"}
	ok(t, l.Until("tell_occupants"))
	ok(t, p.Click("Open up: panels, guards, fixings in the order they come off"))
	ok(t, p.WaitText("First: Tell the people here."))
	var disabled bool
	ok(t, p.Eval(`[...document.querySelectorAll('li.now button')].find(b => b.innerText === 'Done').disabled`, &disabled))
	assert.True(t, disabled)
	ok(t, p.Click("Tell the people here gate"))
	ok(t, p.Click("Skip …"))
	ok(t, p.Eval(`[...document.querySelectorAll('li.now button')].find(b => b.innerText === 'Skip it').disabled`, &disabled))
	assert.True(t, disabled, "without a reason")
	ok(t, p.Fill("Why it is skipped; the manager will see it", "nobody here at night", 0))
	ok(t, p.Click("Skip it"))
	ok(t, l.Until("isolate"))
	ok(t, p.Fill("Which point", "breaker 9", 0))
	ok(t, p.Eval(fmt.Sprintf(`location.assign('/units/%s/work')`, unit), nil))
	ok(t, p.WaitText("Continuing where you stopped."))
	var kept string
	ok(t, p.Eval(`document.querySelector('li.now input').value`, &kept))
	assert.Equal(t, "breaker 9", kept, "a closed tab loses at most the last tap")
}

// The clock of a dwell rings before its minimum and before its maximum, and says what is over once it is past.
func TestClocksRing(t *testing.T) {
	t.Parallel()
	p, a, _ := phone(t)
	signIn(t, p, "technician")
	var unit string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM unit WHERE tag = 'FN-CA-1'").Scan(&unit).Error)
	ok(t, p.Go("/units/"+unit+"/work"))
	l := journey.Led{Page: p, Sides: 1, Means: "Breaker", Soil: "Biofilm, brown or slimy", Hand: true}
	ok(t, l.Until("apply_cleaner"))
	ok(t, p.Click("Sprayed: start the clock"))
	ok(t, p.WaitText("to its minimum"))
	later := func(seconds int) { // the phone's clock moves on
		ok(t, p.Eval(fmt.Sprintf(`(real => { window.realNow ??= real; Date.now = () => window.realNow.call(Date) + %d * 1000 })(window.realNow ?? Date.now)`, seconds), nil))
	}
	later(45)
	ok(t, p.WaitText("its minimum is near. Look at the foam."))
	ok(t, p.Click("Seen"))
	later(65)
	ok(t, p.WaitText("to its maximum"))
	later(130)
	ok(t, p.WaitText("past its maximum. Rinse now."))
	ok(t, p.WaitText("over its maximum by 0:1"))
	ok(t, p.Click("Rinsing begins"))
	ok(t, p.WaitText("It stood past its maximum: what was done about it"))
	accessible(t, p, "over-dwell")
}

// A contractor returns one visit through a link; what the server does not take is put right on the phone.
func TestAContractorReturnsAVisit(t *testing.T) {
	t.Parallel()
	p, a, _ := phone(t)
	ctx := context.Background()
	manager, err := a.Service.Organisation.SignIn(ctx, contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(t, err)
	var id string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM unit WHERE tag = 'CC-BC-1'").Scan(&id).Error)
	unit := uuid.MustParse(id)
	link, err := a.Service.Fieldwork.AddGuestLink(ctx, manager, contract.NewGuestLink{Kind: contract.NewGuestLinkKindContractor, Name: "Coil contractor", Days: 3, UnitID: &unit})
	require.NoError(t, err)
	ok(t, p.Go("/g/"+link.Token))
	ok(t, p.WaitText("The visit to CC-BC-1 is led step by step"))
	accessible(t, p, "contractor's link")
	ok(t, p.Click("Start the visit"))
	ok(t, p.WaitText("Find the unit and read its tag"))
	fits(t, p, "contractor's visit")
	ok(t, p.Check("No access", 0))
	ok(t, p.Fill("Minutes on site", "5000", 0))
	ok(t, p.Fill("note", "the bar was shut", 0))
	ok(t, p.Click("Finish the visit"))
	ok(t, p.WaitText("Must be between 1 and 1440 min"))
	ok(t, p.Fill("Minutes on site", "5", 0))
	// Meanwhile the register says something that the phone could not know.
	require.NoError(t, a.Store.DB.Exec("UPDATE unit SET commissioned = '2030-01-01' WHERE id = ?", unit).Error)
	ok(t, p.Click("Save and send"))
	ok(t, p.WaitText("Not accepted yet"))
	ok(t, p.WaitText("is before the unit was commissioned"))
	require.NoError(t, a.Store.DB.Exec("UPDATE unit SET commissioned = NULL WHERE id = ?", unit).Error)
	ok(t, p.Click("Correct it"))
	ok(t, p.WaitText("step by step"))
	ok(t, p.Click("Save and send"))
	ok(t, p.WaitText("Visit received"))
	var stored string
	require.NoError(t, a.Store.DB.Raw("SELECT note FROM visit WHERE source = 'contractor'").Scan(&stored).Error)
	assert.Equal(t, "the bar was shut", stored)
	ok(t, p.Go("/g/"+link.Token))
	ok(t, p.WaitText("This link does not work any more."))
}

// A whole round is kept on the phone with one button; each of its visits then opens without network, with advice.
func TestARoundIsKeptOnThePhone(t *testing.T) {
	t.Parallel()
	p, a, wire := phone(t)
	ctx := context.Background()
	manager, err := a.Service.Organisation.SignIn(ctx, contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(t, err)
	next, err := a.Service.Planning.NextRound(ctx, manager, nil, nil)
	require.NoError(t, err)
	units := map[uuid.UUID]string{}
	for _, stop := range next.Round.Stops {
		for _, j := range stop.Jobs {
			units[j.UnitID] = j.Tag
		}
	}
	sent, err := a.Service.Planning.PublishRounds(ctx, manager, uuid.New(), contract.Publication{
		Version: next.Version, Rounds: []contract.CrewDay{{CrewID: next.Round.CrewID, Day: next.Round.Day}},
	})
	require.NoError(t, err)
	round := sent[0]
	signIn(t, p, "technician")
	ok(t, p.Go("/rounds/"+round.ID.String()))
	ok(t, p.Click("Keep it on this phone"))
	ok(t, p.WaitText(fmt.Sprintf("All %d units are kept on this phone.", len(units))))
	keptOnPhone(t, p)
	wire.Cut()
	ok(t, p.Go("/outbox"))
	ok(t, p.WaitText("Units kept on this phone, also usable without network"))
	for _, tag := range units {
		ok(t, p.WaitText(tag))
	}
	accessible(t, p, "kept units")
	for id, tag := range units {
		ok(t, p.Go("/units/"+id.String()+"/work"))
		ok(t, p.WaitText(tag+", step by step"))
		ok(t, p.WaitText("No network: working from what was kept"))
		break
	}
	var unkept string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM unit WHERE tag NOT IN ? ORDER BY tag DESC LIMIT 1", slices.Collect(maps.Values(units))).Scan(&unkept).Error)
	ok(t, p.Go("/units/"+unkept+"/work"))
	ok(t, p.WaitText("this unit was not kept on the phone"))
}

// BenchmarkVisitOpens is the time from the tap on Sign in to the first step of a visit being there to tick, on a phone that
// holds nothing yet; and from opening the visit again, with everything kept.
func BenchmarkVisitOpens(b *testing.B) {
	ctx := context.Background()
	a, err := app.Start(ctx, pgtest.Filled(b, "demo", demo.Fill))
	require.NoError(b, err)
	defer a.Close()
	var unit string
	require.NoError(b, a.Store.DB.Raw("SELECT id FROM unit WHERE tag = 'NL-CU-1'").Scan(&unit).Error)
	br, err := chromium()
	require.NoError(b, err)
	work := "/units/" + unit + "/work"
	usable := `!!document.querySelector('li.now button.big')`
	for _, again := range []bool{false, true} {
		b.Run(map[bool]string{false: "first", true: "again"}[again], func(b *testing.B) {
			for range b.N {
				b.StopTimer()
				p, done, err := br.Open(a.URL, 390, 844, true)
				require.NoError(b, err)
				require.NoError(b, p.Go("/sign-in?to="+work))
				require.NoError(b, p.Fill("Login", "technician", 0))
				require.NoError(b, p.Fill("Password", demo.Password, 0))
				if !again {
					b.StartTimer()
				}
				require.NoError(b, p.Click("Sign in"))
				require.NoError(b, p.Wait("the first step", usable))
				if again {
					require.NoError(b, p.Wait("the application to be kept", `!!navigator.serviceWorker.controller`))
					b.StartTimer()
					require.NoError(b, p.Go(work))
					require.NoError(b, p.Wait("the first step", usable))
				}
				b.StopTimer()
				done()
				b.StartTimer()
			}
		})
	}
}
