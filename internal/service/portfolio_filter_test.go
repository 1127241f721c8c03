package service_test

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/demo"
	"nextround/internal/pg/pgtest"
	"nextround/internal/service"
	"nextround/internal/store"
)

// lets says by what the rows show whether a filter should let one through.
func lets(f store.CoilFilter, row contract.PortfolioRow) bool {
	due, proposed := false, false
	for _, task := range row.Coil.Tasks {
		due = due || task.DaysLate >= 0
		proposed = proposed || task.ProposedDays != nil
	}
	status := row.Status == f.Status || (f.Status == "" && row.Status != "retired")
	grade := row.Coil.State.BlockedShare != nil && *row.Coil.State.BlockedShare >= []float64{0, .05, .15, .3, .5, .75}[f.MinGrade]
	text := strings.ToLower(strings.Join([]string{row.Tag, row.Site, row.Class, row.Placement}, "\n"))
	return status &&
		(f.SiteID == nil || row.SiteID == *f.SiteID) &&
		(f.ClassID == nil || row.ClassID == *f.ClassID) &&
		(!f.Due || (due && row.Status == "in_service")) &&
		(!f.Proposed || proposed) &&
		(f.MinGrade == 0 || grade) &&
		strings.Contains(text, strings.ToLower(strings.TrimSpace(f.Text)))
}

func firstDue(row contract.PortfolioRow) calendar.Day {
	day := calendar.MustParse("9999-12-31")
	for _, task := range row.Coil.Tasks {
		day = min(day, task.Due)
	}
	return day
}

// Whatever is asked of the portfolio, the database gives the rows that the rows themselves say it should, in order,
// and counts them the same.
func TestFiltersAgreeWithWhatTheRowsShow(t *testing.T) {
	ctx := context.Background()
	st, err := store.Open(ctx, pgtest.Filled(t, "demo", demo.Fill))
	require.NoError(t, err)
	defer st.Close()
	svc := service.New(st, service.Options{Now: func() time.Time { return demo.Clock }})
	defer svc.Close()
	m, err := st.MemberByLogin(ctx, "manager")
	require.NoError(t, err)
	a, err := svc.Actor(ctx, m.Account.ID)
	require.NoError(t, err)

	var all []contract.PortfolioRow
	statuses := []string{"in_service", "out_of_service", "retired"}
	for _, status := range statuses {
		page, err := svc.Portfolio(ctx, a, service.PortfolioQuery{CoilFilter: store.CoilFilter{Status: status}, Limit: 500})
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
		q := service.PortfolioQuery{Limit: 500, Sort: rapid.SampledFrom([]string{"site", "class", "tag", "due", "soil"}).Draw(t, "sort")}
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
		page, err := svc.Portfolio(ctx, a, q)
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
				return cmp.Compare(value(b.Coil.State.BlockedShare), value(a.Coil.State.BlockedShare))
			},
		}[q.Sort]
		assert.True(t, slices.IsSortedFunc(page.Rows, order), q.Sort)

		sum, err := svc.PortfolioSummary(ctx, a, q.CoilFilter)
		require.NoError(t, err)
		assert.Equal(t, len(want), sum.Coils)
		assert.Equal(t, len(units), sum.Units)
		if q.Due {
			assert.Equal(t, len(want), sum.Due)
		}
	})
}
