package wording

import (
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/reason"
)

// Every code of the core is given by somebody and has a sentence, and there is no sentence for anything else.
func TestEveryReasonHasASentence(t *testing.T) {
	t.Parallel()
	declared := regexp.MustCompile(`(?m)^\t(\w+)\s+Code = "([a-z_]+)"`)
	list, err := os.ReadFile("../../core/reason/code.go")
	require.NoError(t, err)
	codes := map[reason.Code]string{}
	for _, m := range declared.FindAllStringSubmatch(string(list), -1) {
		codes[reason.Code(m[2])] = m[1]
	}
	given := map[string]bool{}
	for _, pattern := range []string{"../../core/*/*.go", "../*/*.go"} {
		files, err := filepath.Glob(pattern)
		require.NoError(t, err)
		for _, f := range files {
			if strings.HasSuffix(f, "_test.go") || strings.Contains(f, "wording") {
				continue
			}
			src, err := os.ReadFile(f)
			require.NoError(t, err)
			for _, m := range regexp.MustCompile(`reason\.([A-Z]\w+)`).FindAllStringSubmatch(string(src), -1) {
				given[m[1]] = true
			}
		}
	}
	assert.Greater(t, len(codes), 100, "the list was read")
	for _, name := range codes {
		assert.True(t, given[name], "%s: nobody gives this reason", name)
	}
	// Said in other words: readings by Judgement, proofs by Proof, a rate and its core by the unit's page, the terms of a way by the calculation alone.
	elsewhere := []reason.Code{
		reason.Rate, reason.CoreLikely, reason.Removal, reason.Time, reason.ContextMissing, reason.AmbientApart, reason.AmpsApart, reason.EvaporatingApart, reason.EvaporatingUnknown,
		reason.CondensingFell, reason.CapacitorMarking, reason.ContactorCoil, reason.NameplateVolts, reason.NameplateAmps, reason.Isolation, reason.ColdHolding, reason.FrozenHolding,
		reason.CondensingOverAmbient, reason.CondensingTooCool, reason.EvaporatingUnderAir, reason.HeadControl, reason.LiquidBelowAmbient,
		reason.PressureImpossible, reason.NoLimit,
	}
	for code := range codes {
		_, said := sentences[code]
		assert.NotEqual(t, slices.Contains(elsewhere, code), said, "%s: one sentence, in one place", code)
	}
	for code := range sentences {
		assert.Contains(t, codes, code, "a sentence nobody says")
	}
}

func TestSentencesReadWell(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		reason reason.Reason
		want   string
	}{
		{
			reason.Reason{Code: reason.Habit, Numbers: reason.Numbers{"class_days": 182, "factor": 1.3, "days": 140}},
			"Class interval 182 d ÷ site factor 1.3 = 140 d.",
		},
		{reason.Reason{Code: reason.Habit, Numbers: reason.Numbers{"class_days": 365, "factor": 1, "days": 365}}, "Class interval 365 d; no site factor applies."},
		{
			reason.Reason{Code: reason.Due, Numbers: reason.Numbers{"days_late": 3, "every_days": 30}, Names: reason.Names{"last": "2026-01-31"}},
			"3 d late: every 30 d, last on 31 Jan 2026.",
		},
		{reason.Reason{Code: reason.NoRoom, Numbers: reason.Numbers{"minutes": 130, "days": 1}}, "No crew has 2 h 10 min left with the drive on any of 1 possible day."},
		{reason.Reason{Code: reason.PlanRides, Numbers: reason.Numbers{"others": 2, "saves": 24.5}, Names: reason.Names{"with": "CU-1"}}, "Rides with CU-1 (and 1 other): a stop of its own would cost 24.50."},
		{reason.Reason{Code: reason.PlanLate, Numbers: reason.Numbers{"days": 3, "cost": 6.2, "week": 14}}, "3 d past its due date, which costs 6.20; a week more would cost 14.00."},
		{reason.Reason{Code: reason.StartRate, Numbers: reason.Numbers{"rate": .02932, "reference_days": 365, "factor": 1}, Names: reason.Names{"class": "Cassette"}}, "Rate of class and factors: 0.0293 load in 30 days (Cassette: 30 % blocked after 365 d if never cleaned, × site factor 1)."},
		{reason.Reason{Code: reason.RailClassMax, Numbers: reason.Numbers{"days": 1095}}, "At most the class maximum, 1095 d."},
	} {
		assert.Equal(t, c.want, Sentence(c.reason))
	}
	assert.Equal(t, "new_code", Sentence(reason.Reason{Code: "new_code"}), "an unknown code shows itself")
}
