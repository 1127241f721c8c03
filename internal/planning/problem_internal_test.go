package planning

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// inside reports whether a minute lies in spans.
func inside(spans []round.Span, minute float64) bool {
	for _, s := range spans {
		if minute >= s.From && minute < s.To {
			return true
		}
	}
	return false
}

func drawSpans(t *rapid.T, name string) []round.Span {
	out := []round.Span{}
	for range rapid.IntRange(0, 5).Draw(t, name) {
		from := rapid.IntRange(0, 1380).Draw(t, "from")
		out = append(out, round.Span{From: float64(from), To: float64(rapid.IntRange(from+1, 1440).Draw(t, "to"))})
	}
	return out
}

// Joined and cut spans hold just the minutes they should, in order, without touching.
func TestSpansHoldTheMinutesTheyShould(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		open, shut := drawSpans(t, "open"), drawSpans(t, "shut")
		before := append([]round.Span{}, open...)
		joined := union(append([]round.Span{}, open...))
		rest := without(joined, shut)
		for minute := 0.5; minute < 1440; minute += 7 {
			assert.Equal(t, inside(before, minute), inside(joined, minute))
			assert.Equal(t, inside(before, minute) && !inside(shut, minute), inside(rest, minute))
		}
		for i := 1; i < len(joined); i++ {
			assert.Greater(t, joined[i].From, joined[i-1].To)
		}
		for i := 1; i < len(rest); i++ {
			assert.GreaterOrEqual(t, rest[i].From, rest[i-1].To)
		}
	})
}

// hoursBook is a book with one site and its windows.
func hoursBook(t *testing.T, zone string, windows ...store.SiteWindow) (*planBook, store.Site) {
	t.Helper()
	loc, err := time.LoadLocation(zone)
	require.NoError(t, err)
	site := store.Site{ID: uuid.New(), Zone: zone, Status: "open"}
	jobs := &jobBook{
		Facts:   &dossier.Facts{Catalogue: organisation.Catalogue{Rates: []store.Rate{{Code: "hand_back", Amount: 10}}}},
		windows: map[uuid.UUID][]store.SiteWindow{site.ID: windows}, holidays: map[uuid.UUID][]store.Holiday{},
	}
	return &planBook{jobBook: jobs, zone: loc, start: calendar.MustParse("2026-03-05"), days: 30, calendar: map[string]bool{}}, site
}

func everyDay(kind, starts, ends string) store.SiteWindow {
	return store.SiteWindow{Kind: kind, Weekdays: store.Array[int]{0, 1, 2, 3, 4, 5, 6}, Starts: starts, Ends: ends}
}

func TestWindowsBecomeHours(t *testing.T) {
	t.Parallel()
	day := calendar.MustParse("2026-03-05")
	for name, c := range map[string]struct {
		windows []store.SiteWindow
		noisy   bool
		want    []round.Span
	}{
		"nothing said: all day":         {nil, true, []round.Span{{From: 0, To: 1440}}},
		"while it is open":              {[]store.SiteWindow{everyDay("open", "08:00", "16:00")}, true, []round.Span{{From: 480, To: 960}}},
		"allowed wins over open":        {[]store.SiteWindow{everyDay("open", "08:00", "16:00"), everyDay("allowed", "11:40", "13:10")}, true, []round.Span{{From: 700, To: 780}}},
		"quiet keeps noise out":         {[]store.SiteWindow{everyDay("open", "07:00", "17:00"), everyDay("quiet", "10:00", "16:00")}, true, []round.Span{{From: 420, To: 600}, {From: 960, To: 1020}}},
		"quiet lets quiet work in":      {[]store.SiteWindow{everyDay("open", "07:00", "17:00"), everyDay("quiet", "10:00", "16:00")}, false, []round.Span{{From: 420, To: 1020}}},
		"a blackout keeps all work out": {[]store.SiteWindow{everyDay("blackout", "12:00", "13:00")}, false, []round.Span{{From: 0, To: 720}, {From: 780, To: 1440}}},
		"not that weekday":              {[]store.SiteWindow{{Kind: "allowed", Weekdays: store.Array[int]{1}, Starts: "08:00", Ends: "09:00"}}, true, []round.Span{}},
		"a window shorter than handing back": {
			[]store.SiteWindow{everyDay("allowed", "08:00", "08:10")}, true, []round.Span{},
		},
		"not in force yet": {
			[]store.SiteWindow{{Kind: "open", Weekdays: store.Array[int]{4}, Starts: "08:00", Ends: "09:00", Valid: store.DateRange{From: new(day.Add(1))}}},
			true,
			[]round.Span{{From: 0, To: 1440}},
		},
	} {
		t.Run(name, func(t *testing.T) {
			b, site := hoursBook(t, "Europe/Oslo", c.windows...)
			got := b.spans(site, uuid.Nil, c.noisy, day, b.zone)
			assert.Equal(t, c.want, got)
		})
	}
}

func TestAnotherPlacementsWindowDoesNotBind(t *testing.T) {
	t.Parallel()
	mine, other := uuid.New(), uuid.New()
	w := everyDay("allowed", "11:40", "13:10")
	w.PlacementID = &mine
	b, site := hoursBook(t, "Europe/Oslo", w, everyDay("open", "06:00", "22:00"))
	day := calendar.MustParse("2026-03-05")
	assert.Equal(t, []round.Span{{From: 700, To: 780}}, b.spans(site, mine, true, day, b.zone))
	assert.Equal(t, []round.Span{{From: 360, To: 1320}}, b.spans(site, other, true, day, b.zone))
}

func TestHolidaysAndClosedSites(t *testing.T) {
	t.Parallel()
	b, site := hoursBook(t, "Europe/Oslo")
	day := calendar.MustParse("2026-03-05")
	b.holidays[site.ID] = []store.Holiday{{Day: store.Date(day), Access: "closed"}, {Day: store.Date(day.Add(1)), Access: "staff_away"}}
	assert.Empty(t, b.spans(site, uuid.Nil, true, day, b.zone))
	assert.NotEmpty(t, b.spans(site, uuid.Nil, true, day.Add(1), b.zone), "only the staff are away")
	site.Status = "closed"
	assert.Empty(t, b.spans(site, uuid.Nil, true, day.Add(2), b.zone))
}

// The night on which clocks go forward has an hour less between midnight and eight, and one more when they go back; a site in
// another zone opens when its own clock says so.
func TestMinutesAreThoseThatPass(t *testing.T) {
	t.Parallel()
	b, _ := hoursBook(t, "Europe/Oslo")
	at := func(day, clock, zone string) float64 {
		loc, err := time.LoadLocation(zone)
		require.NoError(t, err)
		return b.minuteOf(calendar.MustParse(day), clock, loc)
	}
	assert.Equal(t, 480.0, at("2026-03-28", "08:00", "Europe/Oslo"))
	assert.Equal(t, 420.0, at("2026-03-29", "08:00", "Europe/Oslo"))
	assert.Equal(t, 540.0, at("2026-10-25", "08:00", "Europe/Oslo"))
	assert.Equal(t, 540.0, at("2026-03-28", "08:00:00", "Europe/London"), "an hour later where the crew is")
	assert.Equal(t, "08:00", clockIn(b.zone, calendar.MustParse("2026-03-29"), 420), "and back to what the clock shows")
	assert.Zero(t, at("2026-03-28", "soon", "Europe/Oslo"))
}

func TestLoadsAreSummedInTheirOrder(t *testing.T) {
	t.Parallel()
	id := uuid.New()
	out := summed([]use{
		{"battery", "set of batteries", "pieces", nil, .05},
		{"cleaner", "Medium universal", "l", &id, .6},
		{"water", "water", "l", nil, 20},
		{"cleaner", "Medium universal", "l", &id, .7},
		{"battery", "set of batteries", "pieces", nil, .05},
		{"cleaner", "Foam", "l", nil, 1},
	})
	require.Len(t, out, 4)
	assert.Equal(t, []string{"Foam", "Medium universal", "water", "set of batteries"}, []string{out[0].what, out[1].what, out[2].what, out[3].what})
	assert.InDelta(t, 1.3, out[1].amount, 1e-12)
	assert.InDelta(t, .1, out[3].amount, 1e-12)
}

func TestTextsOfRounds(t *testing.T) {
	t.Parallel()
	role := contract.CoilRoleCondenser
	j := contract.Job{Tag: "HO-PU-1", Kind: contract.JobKindDeep, CoilRole: &role, Minutes: 89, Needs: []string{"2 people"}, Riders: []contract.Rider{{Kind: contract.JobKindFilter}}}
	assert.Equal(t, "HO-PU-1, deep clean of the condenser, with filters, 89 min (2 people)", jobText(j))
	text := roundText(contract.Round{
		Crew: "Crew Tern", Day: calendar.MustParse("2026-03-05"), Starts: "07:40", Back: "12:09", Deferral: "Local codes come first.",
		Stops: []contract.Stop{{Site: "Harbour Office", Arrive: "07:40", Latest: "10:31", Leave: "12:09", Address: "1 Harbour Street", Jobs: []contract.Job{j}}},
		Load:  []contract.LoadLine{{Text: "water 20.0 L"}},
	})
	for _, want := range []string{"Thursday 5 March 2026, Crew Tern. Leave at 07:40, back at 12:09.", "1. Harbour Office, arrive 07:40 (at the latest 10:31)", "water 20.0 L", "Local codes"} {
		assert.Contains(t, text, want)
	}
	assert.Equal(t, calendar.MustParse("2026-03-02"), mondayOf(calendar.MustParse("2026-03-02")))
	assert.Equal(t, calendar.MustParse("2026-03-02"), mondayOf(calendar.MustParse("2026-03-08")))
}
