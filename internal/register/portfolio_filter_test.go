package register_test

import (
	"strings"

	"nextround/core/calendar"
	"nextround/internal/contract"
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
