package e2e

import (
	"context"
	"io"
	"net/http"
	"strings"
	"testing"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/e2e/browser"
	"nextround/internal/contract"
	"nextround/internal/demo"
	"nextround/internal/organisation"
)

// text of what a script says.
func said(t *testing.T, p *browser.Page, script string) (out string) {
	t.Helper()
	ok(t, p.Eval(script, &out))
	return out
}

const (
	draftLine = `document.querySelector('.draft')?.innerText ?? ''`
	stripRow  = `[...document.querySelectorAll('.strips .coil')].find(c => c.innerText.startsWith('FA-UC-3')).nextElementSibling.innerText`
	loadRow   = `document.querySelector('.strips .load').innerText`
)

// A notch is dragged: colour, money and crew hours follow before it is let go; it is undone, moved by keys, and kept.
func TestANotchIsDraggedAndKept(t *testing.T) {
	t.Parallel()
	p, _ := window(t, 1280, 900, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/"))
	ok(t, p.WaitText("Soil forecast"))
	accessible(t, p, "forecast strips")
	// The last of that name is the strip's: the stop above leads to the site.
	var named int
	ok(t, p.Eval(`[...document.querySelectorAll('a, button')].filter(b => b.innerText.trim() === 'Fish Auction Hall').length`, &named))
	ok(t, p.ClickNth("Fish Auction Hall", named-1))
	ok(t, p.WaitText("FA-UC-3"))
	colours, load := said(t, p, stripRow), said(t, p, loadRow)
	notch := said(t, p, `[...document.querySelectorAll('.strips button.notch')].map(b => b.getAttribute('aria-label')).find(l => l.startsWith('FA-UC-3'))`)
	require.Contains(t, notch, "due")

	// Two weeks later, while it is still held. The crew does not work on every day, so the drag ends where it does.
	var week float64
	ok(t, p.Eval(`document.querySelector('.strips .row').clientWidth / document.querySelector('.strips .row').querySelectorAll('.cell').length`, &week))
	ok(t, p.Drag("FA-UC-3", 2*week, `document.querySelector('.draft strong') !== null && document.querySelector('.notch.moving') !== null`))
	ok(t, p.WaitText("for 1 notch moved, not kept yet."))
	assert.Contains(t, said(t, p, draftLine), "EUR")
	assert.NotEqual(t, colours, said(t, p, stripRow), "its soil runs on for two weeks more")
	assert.NotEqual(t, load, said(t, p, loadRow), "and the hours go with it")
	ok(t, p.Click("Undo"))
	ok(t, p.WaitGone("not kept yet"))
	assert.Equal(t, colours, said(t, p, stripRow))
	assert.Equal(t, load, said(t, p, loadRow))

	// By keys: a day later, then one that is not possible, which is refused in words, then a week later.
	ok(t, p.Eval(`[...document.querySelectorAll('.strips button.notch')].find(b => b.getAttribute('aria-label').startsWith('FA-UC-3')).focus()`, nil))
	ok(t, p.Press("ArrowRight"))
	ok(t, p.WaitText("for 1 notch moved, not kept yet."))
	ok(t, p.Press("ArrowRight"))
	ok(t, p.Wait("the refusal in words", `/the place is not free that day|no crew has the time that day/.test(document.body.innerText)`))
	ok(t, p.Eval(`(() => { const b = [...document.querySelectorAll('.strips button.notch')].find(b => b.getAttribute('aria-label').startsWith('FA-UC-3'));
		b.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight', shiftKey: true, bubbles: true})) })()`, nil))
	ok(t, p.WaitText("for 1 notch moved, not kept yet."))
	ok(t, p.Click("Keep the moves"))
	ok(t, p.WaitGone("not kept yet"))
	ok(t, p.Wait("the notch where it was put", `[...document.querySelectorAll('.strips button.notch')].some(b => b.getAttribute('aria-label').startsWith('FA-UC-3') && b.getAttribute('aria-label') !== `+quoted(notch)+`)`))
	unbroken(t, p)
}

func quoted(s string) string { return "'" + strings.ReplaceAll(s, "'", `\'`) + "'" }

// The week is published, a crew falls ill, the weeks are planned again with the least disturbance, the change goes out, and
// the crew's calendar tells it.
func TestPublishedThenASickDay(t *testing.T) {
	t.Parallel()
	p, a := window(t, 1280, 900, false)
	signIn(t, p, "manager")

	// The crew's calendar, by an address shown once.
	ok(t, p.Go("/people"))
	ok(t, p.Click("Calendar address of Crew Eider"))
	ok(t, p.WaitText("Shown this once"))
	address := said(t, p, `document.querySelector('code').innerText`)
	calendar := func() *ics.Calendar {
		t.Helper()
		res, err := http.Get(address) //nolint:noctx,gosec // a calendar program asks like this
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		assert.Equal(t, http.StatusOK, res.StatusCode)
		assert.Contains(t, res.Header.Get("Content-Type"), "text/calendar")
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		c, err := ics.ParseCalendar(strings.NewReader(string(body)))
		require.NoError(t, err)
		return c
	}
	assert.Empty(t, calendar().Events())

	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("cheaper than by due date"))
	accessible(t, p, "rounds")
	ok(t, p.Click("Choose the next week"))
	ok(t, p.Check("mail to the crews", 0))
	ok(t, p.Eval(`[...document.querySelectorAll('button')].find(b => b.innerText.startsWith('Publish ')).click()`, nil))
	ok(t, p.WaitText("rounds sent out."))
	ok(t, p.Go("/links"))
	ok(t, p.WaitText("crew-eider@hallvik.example"))
	events := calendar().Events()
	require.NotEmpty(t, events)
	first := events[0]
	assert.Equal(t, "1", first.GetProperty(ics.ComponentPropertySequence).Value)
	assert.Contains(t, first.GetProperty(ics.ComponentPropertySummary).Value, "Crew Eider")

	// Crew Eider is ill on its first day.
	ok(t, p.Go("/people"))
	ok(t, p.Click("Absence of Crew Eider"))
	ok(t, p.Fill("Away from", "2026-03-05", 0))
	ok(t, p.Fill("Last day", "2026-03-05", 0))
	ok(t, p.Fill("Reason", "flu", 0))
	ok(t, p.Click("Save the absence"))
	ok(t, p.WaitText("Away: 1 of 1, 5 Mar 2026, flu"))
	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("Something has changed since this plan was made"))
	ok(t, p.Fill("Seconds to search", "1", 0))
	ok(t, p.Click("Plan again"))
	ok(t, p.WaitText("What moved since the last plan"))
	// To another day, or to another crew on the same one.
	ok(t, p.Wait("what moved from the crew that is ill", `/5 Mar 2026.*Crew Eider.* to /.test(document.querySelector('.changes')?.innerText ?? '')`))
	ok(t, p.WaitText("published, to be withdrawn"))
	ok(t, p.Check("Publish Crew Eider, 2026-03-05", 0))
	ok(t, p.Eval(`[...document.querySelectorAll('button')].find(b => b.innerText.startsWith('Publish ')).click()`, nil))
	ok(t, p.WaitText("1 round sent out."))
	after := calendar().Events()
	var cancelled *ics.VEvent
	for _, e := range after {
		if e.Id() == first.Id() {
			cancelled = e
		}
	}
	require.NotNil(t, cancelled, "the same name")
	assert.Equal(t, "CANCELLED", cancelled.GetProperty(ics.ComponentPropertyStatus).Value)
	assert.Equal(t, "2", cancelled.GetProperty(ics.ComponentPropertySequence).Value)

	// Two managers at once: what was seen is no longer what stands.
	ctx := context.Background()
	manager, err := a.Service.Organisation.SignIn(ctx, contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(t, err)
	plan, err := a.Service.Planning.Plan(ctx, manager)
	require.NoError(t, err)
	last := plan.Rounds[len(plan.Rounds)-1]
	_, err = a.Service.Planning.LockPlan(ctx, manager, contract.PlanLock{Version: plan.Version, CrewID: last.CrewID, Day: last.Day, Locked: true})
	require.NoError(t, err)
	ok(t, p.Eval(`document.querySelector('button[aria-label^="Lock "]').click()`, nil))
	ok(t, p.WaitText("somebody else changed the plan meanwhile"))
	unbroken(t, p)
}

// A complaint that comes in is planned at once, and the plan says that it is new.
func TestASymptomComesOntoThePlan(t *testing.T) {
	t.Parallel()
	p, a := window(t, 1280, 900, false)
	ctx := context.Background()
	manager, err := a.Service.Organisation.SignIn(ctx, contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(t, err)
	hits, err := a.Service.Register.Search(ctx, manager, "LG-RF-1")
	require.NoError(t, err)
	require.NotEmpty(t, hits)
	signIn(t, p, "manager")
	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("cheaper than by due date"))
	_, err = a.Service.Fieldwork.AddSymptom(ctx, manager, contract.NewSymptom{Kind: contract.SymptomKindWarmGoods, UnitID: &hits[0].ID})
	require.NoError(t, err)
	ok(t, p.Go("/rounds"))
	ok(t, p.WaitText("Something has changed since this plan was made"))
	ok(t, p.Fill("Seconds to search", "1", 0))
	ok(t, p.Click("Plan again"))
	ok(t, p.WaitText("look at a symptom: New: 5 Mar 2026"))
	ok(t, p.Go("/?day=2026-03-05"))
	ok(t, p.WaitText("Waiting one more week would cost"))
	unbroken(t, p)
}
