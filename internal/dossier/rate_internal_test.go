package dossier

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"

	"nextround/core/calendar"
	"nextround/core/learn"
	"nextround/core/soil"
	"nextround/internal/store"
)

// Growth that ends is said to end only where it clearly does.
func TestLevelsOff(t *testing.T) {
	t.Parallel()
	began := calendar.MustParse("2024-01-01")
	history := func(grades map[int]soil.Grade, days ...int) []soil.Visit {
		at := began
		visits := []soil.Visit{{Day: at, Cleans: []soil.Removal{{Face: 1, Core: 1}}}}
		for _, d := range days {
			at = at.Add(d)
			visits = append(visits, soil.Visit{Day: at, Found: &soil.Finding{Grade: grades[d], Seen: soil.LightThrough}, Cleans: []soil.Removal{{Face: 1, Core: 1}}})
		}
		return visits
	}
	level := map[int]soil.Grade{20: soil.Coat, 60: soil.Felt, 120: soil.Felt, 240: soil.Felt, 300: soil.Felt}
	r, ok := levelsOff(history(level, 20, 60, 120, 240, 300, 240, 120, 300))
	assert.True(t, ok)
	assert.InDelta(t, .4, r.Numbers["share"], .05)
	growing := map[int]soil.Grade{20: soil.Bare, 60: soil.Film, 120: soil.Coat, 240: soil.Felt, 300: soil.Blanket}
	_, ok = levelsOff(history(growing, 20, 60, 120, 240, 300, 240, 120))
	assert.False(t, ok)
	_, ok = levelsOff(history(level, 20, 60, 120))
	assert.False(t, ok, "too few to tell")
}

// A side leaves itself out of its peers, wherever it stood when they were summed up.
func TestPriorsLeaveTheSideOut(t *testing.T) {
	t.Parallel()
	side, class, site := uuid.New(), uuid.New(), uuid.New()
	mean, variance := .9, .05
	mine := store.RateEstimate{SurfaceID: side, ClassID: class, SiteID: site, Role: "condenser", Telling: 2, OwnMean: &mean, OwnVariance: &variance}
	other := learn.Normal{Mean: -.4, Variance: .1}
	own := learn.Normal{Mean: mean, Variance: variance}
	key := peerKey{class, "condenser", site}
	p := Peers{
		here:  map[peerKey]learn.Group{key: learn.Group{}.Add(own)},
		house: map[peerKey]learn.Group{key.house(): learn.Group{}.Add(own).Add(other)},
		own:   map[uuid.UUID]store.RateEstimate{side: mine},
	}
	prior, because, from := p.priorOf(side, key)
	assert.True(t, from)
	assert.Equal(t, "house", because.Names["where"], "nobody else is at the site")
	assert.InDelta(t, learn.Group{}.Add(other).Prior().Mean, prior.Mean, 1e-9)
	stranger, because, _ := p.priorOf(uuid.New(), key)
	assert.Equal(t, "site", because.Names["where"])
	assert.InDelta(t, learn.Group{}.Add(own).Prior().Mean, stranger.Mean, 1e-9)
	none, _, from := p.priorOf(uuid.New(), peerKey{uuid.New(), "condenser", site})
	assert.False(t, from)
	assert.Equal(t, learn.Trade, none)
}

// Peers are told only of what matters to them.
func TestWhatMoves(t *testing.T) {
	t.Parallel()
	m, v, near, far := .5, .1, .51, 1.5
	told := func(mean *float64) store.RateEstimate {
		return store.RateEstimate{Telling: 1, OwnMean: mean, OwnVariance: &v, Role: "condenser"}
	}
	nobody := Peers{}
	assert.False(t, nobody.Moved(store.RateEstimate{}), "it tells nothing")
	assert.True(t, nobody.Moved(told(&m)), "a new voice")
	group := learn.Group{}.Add(learn.Normal{Mean: m, Variance: v})
	p := Peers{here: map[peerKey]learn.Group{{role: "condenser"}: group}, own: map[uuid.UUID]store.RateEstimate{uuid.Nil: told(&m)}}
	assert.False(t, p.Moved(told(&m)))
	assert.False(t, p.Moved(told(&near)), "hardly")
	assert.True(t, p.Moved(told(&far)))
	assert.True(t, p.Moved(store.RateEstimate{}), "one voice fewer")
}
