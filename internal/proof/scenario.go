// Package proof lets invented portfolios with known true rates are run for years under six ways of setting intervals, so that
// what the learned intervals bring can be counted. The scenarios are data; the world that lives is in half of them not
// the one that is learned.
package proof

import (
	"bytes"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"sort"
	"strings"

	"nextround/core/heat"
	"nextround/core/soil"
	"nextround/internal/defaults"
)

//go:embed scenarios/*.json
var shipped embed.FS

// Kind is a kind of unit in a scenario: a class with its money and its two cleans.
type Kind struct {
	Class     string  `json:"class"`
	EnergyDay float64 `json:"energy_day"`
	CallCost  float64 `json:"call_cost"`
	CleanK    float64 `json:"clean_k"`
	Evaporate bool    `json:"evaporator,omitempty"`
	Soil      string  `json:"soil"`
	// Method of the clean every way but the ladder uses; Light is the ladder's light one.
	Method    string  `json:"method"`
	Cost      float64 `json:"cost"`
	Light     string  `json:"light"`
	LightCost float64 `json:"light_cost"`
}

// Truth is how the world lives, beside what is believed of it.
type Truth struct {
	// RateTimes is how much faster coils truly soil than class and factors say; 0 means 1.
	RateTimes float64 `json:"rate_times,omitempty"`
	// SiteSD and UnitSD spread the true rates, on the logarithm.
	SiteSD float64 `json:"site_sd"`
	UnitSD float64 `json:"unit_sd"`
	// ProcessSD and GraderSD scatter soiling from interval to interval and what is seen of it.
	ProcessSD float64 `json:"process_sd"`
	GraderSD  float64 `json:"grader_sd"`
	// GraderOffset is how far every grader sees too much, on ln load.
	GraderOffset float64 `json:"grader_offset,omitempty"`
	// PenetrationTimes, FaceTimes and CoreTimes tilt penetration and removals; 0 means 1.
	PenetrationTimes float64 `json:"penetration_times,omitempty"`
	FaceTimes        float64 `json:"face_removal_times,omitempty"`
	CoreTimes        float64 `json:"core_removal_times,omitempty"`
	// LevelsOffAt is the load at which growth ends, 0 where it goes on.
	LevelsOffAt float64 `json:"levels_off_at,omitempty"`
	// DriftShare of the units change their rate by DriftTimes at some time in the middle years.
	DriftShare float64 `json:"drift_share,omitempty"`
	DriftTimes float64 `json:"drift_times,omitempty"`
	// WrongFactorShare of the units stand under a site factor that is not at work, or lack one that is.
	WrongFactorShare float64 `json:"wrong_factor_share,omitempty"`
	// MissedShare of the visits do not happen and are made up four weeks later; LateSD spreads the days they come late,
	// as a share of the interval.
	MissedShare float64 `json:"missed_share,omitempty"`
	LateSD      float64 `json:"late_sd"`
	// SlipShare of the findings are any grade.
	SlipShare float64 `json:"slip_share,omitempty"`
	// Months is the soil kind whose month weights the year truly follows; empty for an even year.
	Months string `json:"months,omitempty"`
}

// Scenario is a portfolio and how it truly lives.
type Scenario struct {
	Name  string `json:"name"`
	About string `json:"about"`
	// Different says that the world is not the one that is learned.
	Different bool   `json:"another_model"`
	Sites     int    `json:"sites"`
	PerSite   int    `json:"units_per_site"`
	Kinds     []Kind `json:"kinds"`
	// Factors are the site factors' multipliers, dealt out to the sites in turn.
	Factors   []float64 `json:"factors"`
	Limit     float64   `json:"limit_share"`
	OverPrice float64   `json:"over_price"`
	Years     int       `json:"years"`
	Truth     Truth     `json:"truth"`
}

// Shipped are the scenarios that come with the product, by name of file.
func Shipped() ([]Scenario, error) { return Read(shipped) }

// Read takes every scenario of a file system, by name of file.
func Read(files fs.FS) ([]Scenario, error) {
	var names []string
	err := fs.WalkDir(files, ".", func(path string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() && strings.HasSuffix(path, ".json") {
			names = append(names, path)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	sort.Strings(names)
	out := make([]Scenario, len(names))
	for i, name := range names {
		raw, err := fs.ReadFile(files, name)
		if err != nil {
			return nil, err
		}
		dec := json.NewDecoder(bytes.NewReader(raw))
		dec.DisallowUnknownFields()
		if err := dec.Decode(&out[i]); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		if err := out[i].check(); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
	}
	if len(out) == 0 {
		return nil, errors.New("there is no scenario here")
	}
	return out, nil
}

// check says what of a scenario cannot be used.
func (s *Scenario) check() error {
	var wrong []error
	must := func(ok bool, format string, args ...any) {
		if !ok {
			wrong = append(wrong, fmt.Errorf(format, args...))
		}
	}
	must(s.Name != "", "name: is empty")
	must(s.Sites > 0 && s.PerSite > 0 && s.Sites*s.PerSite <= 1000, "sites and units_per_site: 1 to 1000 units in all")
	must(len(s.Kinds) > 0, "kinds: at least one is needed")
	must(len(s.Factors) > 0, "factors: at least one is needed; 1 for none at work")
	must(s.Limit > 0 && s.Limit < 1, "limit_share: must be between 0 and 1")
	must(s.OverPrice >= 0, "over_price: must be 0 or more")
	must(s.Years > 0 && s.Years <= 30, "years: must be 1 to 30")
	for i, k := range s.Kinds {
		_, ok := classOf(k.Class)
		must(ok, "kinds[%d].class: there is no class %q", i, k.Class)
		_, ok = soil.KindByCode(k.Soil)
		must(ok, "kinds[%d].soil: there is no soil %q", i, k.Soil)
		for field, code := range map[string]string{"method": k.Method, "light": k.Light} {
			_, ok = soil.MethodByCode(code)
			must(ok, "kinds[%d].%s: there is no method %q", i, field, code)
		}
		must(k.Cost > 0 && k.LightCost > 0, "kinds[%d]: cleans cost something", i)
		if err := k.economics().Check(); err != nil {
			wrong = append(wrong, fmt.Errorf("kinds[%d]: %w", i, err))
		}
	}
	for i, f := range s.Factors {
		must(f > 0, "factors[%d]: must be above 0", i)
	}
	if s.Truth.Months != "" {
		_, ok := soil.KindByCode(s.Truth.Months)
		must(ok, "truth.months: there is no soil %q", s.Truth.Months)
	}
	for _, p := range []*float64{&s.Truth.RateTimes, &s.Truth.PenetrationTimes, &s.Truth.FaceTimes, &s.Truth.CoreTimes, &s.Truth.DriftTimes} {
		must(*p >= 0, "truth: a multiple is never below 0")
		if *p == 0 {
			*p = 1
		}
	}
	return errors.Join(wrong...)
}

func classOf(code string) (defaults.Class, bool) {
	for _, c := range defaults.Classes {
		if c.Code == code {
			return c, true
		}
	}
	return defaults.Class{}, false
}

func (k Kind) economics() heat.Economics {
	e := heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: k.CleanK, EnergyDay: k.EnergyDay, CallCost: k.CallCost}
	if k.Evaporate {
		e.Side, e.Fan = heat.Evaporator, heat.DuctedFan
	}
	return e
}
