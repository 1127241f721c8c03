package register_test

import (
	"cmp"
	"context"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/internal/contract"
	"nextround/internal/demo"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/pg/pgtest"
	"nextround/internal/register"
	"nextround/internal/rooms"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// Filters, sorting and pages of the portfolio together give every coil once.
func TestThePortfolioFiltersSortsAndPages(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Take("register", many(90)+"Hall,Yard,Z-1,Under-counter cooler,condenser,2024-01-01\nHall,Yard,Z-2,Reach-in fridge or freezer,condenser,unknown\n", false)
	for _, sort := range []string{"site", "class", "tag", "due", "soil"} {
		seen := map[string]bool{}
		q := register.PortfolioQuery{Sort: sort, Limit: 25}
		pages := 0
		for {
			p, err := h.Rooms.Register.Portfolio(h.Ctx, h.Viewer, q)
			require.NoError(t, err)
			for _, row := range p.Rows {
				assert.False(t, seen[row.Tag], "%s twice by %s", row.Tag, sort)
				seen[row.Tag] = true
			}
			pages++
			if p.Next == nil {
				break
			}
			q.After = *p.Next
		}
		assert.Len(t, seen, 92, sort)
		assert.Equal(t, 4, pages)
	}
	for name, c := range map[string]struct {
		filter store.CoilFilter
		rows   int
	}{
		"text":       {store.CoilFilter{Text: "z-"}, 2},
		"percent":    {store.CoilFilter{Text: "%"}, 0},
		"class name": {store.CoilFilter{Text: "under-counter"}, 1},
		"due":        {store.CoilFilter{Due: true, Text: "Z-"}, 2},
		"grade":      {store.CoilFilter{MinGrade: 3, Text: "Z-"}, 1},
		"status":     {store.CoilFilter{Status: "retired"}, 0},
		"site":       {store.CoilFilter{SiteID: new(h.Sites()[0].ID)}, 2},
	} {
		p, err := h.Rooms.Register.Portfolio(h.Ctx, h.Viewer, register.PortfolioQuery{CoilFilter: c.filter})
		require.NoError(t, err)
		assert.Len(t, p.Rows, c.rows, name)
		n, err := h.Rooms.Register.PortfolioSummary(h.Ctx, h.Viewer, c.filter)
		require.NoError(t, err)
		assert.Equal(t, c.rows, n.Coils, name)
		assert.Equal(t, 92, n.AllUnits)
	}
	_, err := h.Rooms.Register.Portfolio(h.Ctx, h.Viewer, register.PortfolioQuery{After: "nonsense"})
	assert.Contains(t, roomstest.Fields(t, err), "after")
	hits, err := h.Rooms.Register.Search(h.Ctx, h.Viewer, "z")
	require.NoError(t, err)
	assert.Equal(t, "Z-1", hits[0].Label)

	saved, err := h.Rooms.Register.SaveFilter(h.Ctx, h.Viewer, contract.NewSavedFilter{Name: "Late", Query: "due=1"})
	require.NoError(t, err)
	_, err = h.Rooms.Register.SaveFilter(h.Ctx, h.Viewer, contract.NewSavedFilter{Name: "Late", Query: "due=1"})
	assert.Contains(t, roomstest.Fields(t, err), "/name")
	assert.ErrorIs(t, h.Rooms.Register.RemoveFilter(h.Ctx, h.Manager, saved.ID), organisation.ErrNotFound, "each has their own")
	require.NoError(t, h.Rooms.Register.RemoveFilter(h.Ctx, h.Viewer, saved.ID))
}

// However many units there are, a page takes the same number of statements; so does a unit.
func TestStatementsDoNotGrow(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	count := func(do func()) int64 {
		before := h.Store.Statements()
		do()
		return h.Store.Statements() - before
	}
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	page := func() { h.Portfolio(h.Manager) }
	unit := func() { h.Look(u.ID) }
	fewPage, fewUnit := count(page), count(unit)
	h.Take("register", many(300), false)
	assert.Equal(t, fewPage, count(page))
	assert.Equal(t, fewUnit, count(unit))
	assert.Equal(t, int64(2), fewPage)
}

// Whatever is asked of the portfolio, the database gives the rows that the rows themselves say it should, in order,
// and counts them the same.
func TestFiltersAgreeWithWhatTheRowsShow(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	st, err := store.Open(ctx, pgtest.Filled(t, "demo", demo.Fill))
	require.NoError(t, err)
	defer st.Close()
	svc := rooms.New(st, rooms.Options{Now: func() time.Time { return demo.Clock }})
	defer svc.Close()
	m, err := st.MemberByLogin(ctx, "manager")
	require.NoError(t, err)
	a, err := svc.Organisation.Actor(ctx, m.Account.ID)
	require.NoError(t, err)

	var all []contract.PortfolioRow
	statuses := []string{"in_service", "out_of_service", "retired"}
	for _, status := range statuses {
		page, err := svc.Register.Portfolio(ctx, a, register.PortfolioQuery{CoilFilter: store.CoilFilter{Status: status}, Limit: 500})
		require.NoError(t, err)
		require.Nil(t, page.Next)
		all = append(all, page.Rows...)
	}
	require.Greater(t, len(all), 80)
	sites := []*uuid.UUID{nil, nil}
	classes := []*uuid.UUID{nil, nil}
	for _, row := range all[:20] {
		sites, classes = append(sites, &row.SiteID), append(classes, &row.ClassID)
	}
	rapid.Check(t, func(t *rapid.T) {
		q := register.PortfolioQuery{Limit: 500, Sort: rapid.SampledFrom([]string{"site", "class", "tag", "due", "soil"}).Draw(t, "sort")}
		q.SiteID = rapid.SampledFrom(sites).Draw(t, "site")
		q.ClassID = rapid.SampledFrom(classes).Draw(t, "class")
		q.Status = rapid.SampledFrom(append(statuses, "", "", "")).Draw(t, "status")
		q.Due, q.Proposed = rapid.Bool().Draw(t, "due"), rapid.Bool().Draw(t, "proposed")
		q.MinGrade = rapid.SampledFrom([]int{0, 0, 0, 1, 2, 3, 4, 5}).Draw(t, "grade")
		q.Text = rapid.SampledFrom([]string{"", "", "", "ro", "ROOF", " cassette ", "-1", "%", "_", `\`, "é", "nothing like it"}).Draw(t, "text")
		var want []string
		units := map[uuid.UUID]bool{}
		for _, row := range all {
			if lets(q.CoilFilter, row) {
				want = append(want, row.Tag+" "+string(row.Coil.Role))
				units[row.UnitID] = true
			}
		}
		page, err := svc.Register.Portfolio(ctx, a, q)
		require.NoError(t, err)
		var got []string
		for _, row := range page.Rows {
			got = append(got, row.Tag+" "+string(row.Coil.Role))
		}
		assert.ElementsMatch(t, want, got)
		order := map[string]func(a, b contract.PortfolioRow) int{
			"site": func(a, b contract.PortfolioRow) int {
				return cmp.Or(cmp.Compare(a.Site, b.Site), cmp.Compare(a.Tag, b.Tag))
			},
			"class": func(a, b contract.PortfolioRow) int {
				return cmp.Or(cmp.Compare(a.Class, b.Class), cmp.Compare(a.Tag, b.Tag))
			},
			"tag": func(a, b contract.PortfolioRow) int { return cmp.Compare(a.Tag, b.Tag) },
			"due": func(a, b contract.PortfolioRow) int { return cmp.Compare(firstDue(a), firstDue(b)) },
			"soil": func(a, b contract.PortfolioRow) int {
				return cmp.Compare(optional.Value(b.Coil.State.BlockedShare), optional.Value(a.Coil.State.BlockedShare))
			},
		}[q.Sort]
		assert.True(t, slices.IsSortedFunc(page.Rows, order), q.Sort)

		sum, err := svc.Register.PortfolioSummary(ctx, a, q.CoilFilter)
		require.NoError(t, err)
		assert.Equal(t, len(want), sum.Coils)
		assert.Equal(t, len(units), sum.Units)
		if q.Due {
			assert.Equal(t, len(want), sum.Due)
		}
	})
}
