package wording

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/interval"
	"nextround/core/reason"
)

// Every reason code that the core or this package can give has a sentence, and every sentence is used.
func TestEveryReasonHasASentence(t *testing.T) {
	t.Parallel()
	codes := map[string]bool{}
	patterns := []*regexp.Regexp{
		regexp.MustCompile(`Code:\s+"([a-z_]*[a-z])"`), regexp.MustCompile(`r\.Code, days = "([a-z_]+)"`), regexp.MustCompile(`r\.Code = "([a-z_]+)"`),
		regexp.MustCompile(`because\("([a-z_]+)"`), regexp.MustCompile(`code(?:, kwh)? :?= "([a-z_]+)"`), regexp.MustCompile(`p\.leave\(.*?"([a-z_]+)"`),
	}
	rails := []*regexp.Regexp{regexp.MustCompile(`bind\("([a-z_]+)"`), regexp.MustCompile(`return "([a-z_]+)"`)}
	for _, dir := range []string{"../../core/soil", "../../core/interval", "../../core/learn", "../../core/round", "../dossier", "../learning", "../planning", "."} {
		files, err := filepath.Glob(filepath.Join(dir, "*.go"))
		require.NoError(t, err)
		for _, f := range files {
			if strings.HasSuffix(f, "_test.go") {
				continue
			}
			src, err := os.ReadFile(f)
			require.NoError(t, err)
			for _, p := range patterns {
				for _, m := range p.FindAllStringSubmatch(string(src), -1) {
					codes[m[1]] = true
				}
			}
			if strings.HasSuffix(f, "propose.go") && strings.Contains(f, "interval") {
				for _, p := range rails {
					for _, m := range p.FindAllStringSubmatch(string(src), -1) {
						codes["rail_"+m[1]] = true
					}
				}
			}
		}
	}
	for _, why := range []string{"closed", "too_cold", "not_before"} {
		codes["no_day_"+why] = true
	}
	for _, kind := range []interval.CapKind{interval.Contract, interval.Maker, interval.Hygiene, interval.Chemistry} {
		codes["rail_cap_"+string(kind)] = true
	}
	// Said in other words by this package, or put together from others.
	for _, code := range []string{"rate", "core_likely", "cap", "rail_", "rail_cap", "rail_cap_", "aerosol_rinse", "closed", "no_day_"} {
		delete(codes, code)
	}
	assert.Greater(t, len(codes), 20, "the sources were read")
	for code := range codes {
		assert.Contains(t, sentences, code, "no sentence for this reason")
	}
	for code := range sentences {
		assert.True(t, codes[code], "%s: a sentence nobody says", code)
	}
}

func TestSentencesReadWell(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		reason reason.Reason
		want   string
	}{
		{
			reason.Reason{Code: "habit", Numbers: reason.Numbers{"class_days": 182, "factor": 1.3, "days": 140}},
			"Class interval 182 d ÷ site factor 1.3 = 140 d.",
		},
		{reason.Reason{Code: "habit", Numbers: reason.Numbers{"class_days": 365, "factor": 1, "days": 365}}, "Class interval 365 d; no site factor applies."},
		{
			reason.Reason{Code: "due", Numbers: reason.Numbers{"days_late": 3, "every_days": 30}, Names: reason.Names{"last": "2026-01-31"}},
			"3 d late: every 30 d, last on 31 Jan 2026.",
		},
		{reason.Reason{Code: "no_room", Numbers: reason.Numbers{"minutes": 130, "days": 1}}, "No crew has 2 h 10 min left with the drive on any of 1 possible day."},
		{reason.Reason{Code: "plan_rides", Numbers: reason.Numbers{"others": 2, "saves": 24.5}, Names: reason.Names{"with": "CU-1"}}, "Rides with CU-1 (and 1 other): a stop of its own would cost 24.50."},
		{reason.Reason{Code: "plan_late", Numbers: reason.Numbers{"days": 3, "cost": 6.2, "week": 14}}, "3 d past its due date, which costs 6.20; a week more would cost 14.00."},
		{reason.Reason{Code: "start_rate", Numbers: reason.Numbers{"rate": .02932, "reference_days": 365, "factor": 1}, Names: reason.Names{"class": "Cassette"}}, "Rate of class and factors: 0.0293 load in 30 days (Cassette: 30 % blocked after 365 d if never cleaned, × site factor 1)."},
		{reason.Reason{Code: "rail_class_max", Numbers: reason.Numbers{"days": 1095}}, "At most the class maximum, 1095 d."},
	} {
		assert.Equal(t, c.want, Sentence(c.reason))
	}
	assert.Equal(t, "new_code", Sentence(reason.Reason{Code: "new_code"}), "an unknown code shows itself")
}
