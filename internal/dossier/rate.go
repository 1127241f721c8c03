package dossier

import (
	"math"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/learn"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Peers are the groups from which sides borrow: by class and role at a site, and by class and role in the organisation.
type Peers struct {
	here  map[peerKey]learn.Group
	house map[peerKey]learn.Group
	own   map[uuid.UUID]store.RateEstimate // by side, as it went into the groups
}

type peerKey struct {
	class uuid.UUID
	role  string
	site  uuid.UUID // nil in the organisation's
}

func (k peerKey) house() peerKey { return peerKey{class: k.class, role: k.role} }

// sumPeers sums up the peers of the units at hand.
func (r *Facts) sumPeers() {
	r.Peers = Peers{here: map[peerKey]learn.Group{}, house: map[peerKey]learn.Group{}, own: store.Index(r.Rows.Estimates, func(x store.RateEstimate) uuid.UUID { return x.SurfaceID })}
	for _, g := range r.Rows.Groups {
		key := peerKey{g.ClassID, g.Role, g.SiteID}
		r.Peers.here[key] = learn.Group{Members: g.Members, Weight: g.Weight, Weighted: g.Weighted}
		all := r.Peers.house[key.house()]
		r.Peers.house[key.house()] = learn.Group{Members: all.Members + g.Members, Weight: all.Weight + g.Weight, Weighted: all.Weighted + g.Weighted}
	}
}

// priorOf is what the peers of a side say of it, the side itself left out, with the reason and whether any said something.
func (p Peers) priorOf(side uuid.UUID, key peerKey) (learn.Normal, reason.Reason, bool) {
	mine, known := p.own[side]
	here, house := p.here[key], p.house[key.house()]
	if known && mine.Telling > 0 && mine.OwnMean != nil {
		own := learn.Normal{Mean: *mine.OwnMean, Variance: *mine.OwnVariance}
		at := peerKey{mine.ClassID, mine.Role, mine.SiteID}
		if at == key {
			here = here.Without(own)
		}
		if at.house() == key.house() {
			house = house.Without(own)
		}
	}
	group, where := here, "site"
	if here.Members == 0 {
		group, where = house, "house"
	}
	because := learn.PeerReason(group, group.Mean())
	because.Names = reason.Names{"where": where}
	return group.Prior(), because, group.Members > 0
}

// learnSide learns the rate of a side from its history and its peers.
func (r *Facts) learnSide(d Unit, c store.Coil, side *Side) error {
	prior, because, fromPeers := r.Peers.priorOf(side.ID, peerKey{d.Class.ID, c.Role, d.Site.ID})
	rate, err := learn.Learn(learn.Question{History: side.History, Prior: &prior, FollowDrift: true, CallLog: r.callLog(d, c, side)})
	if err != nil {
		return err
	}
	side.Rate = rate
	switch {
	case rate.Counted > 0:
		side.From = rateOwn
	case fromPeers:
		side.From = ratePeers
	default:
		side.From = rateAssumed
	}
	side.fromPeers = fromPeers
	side.peerReason = because
	side.Trace = soil.Trace{Known: rate.Known, Now: rate.State, CoreSeen: rate.CoreSeen}
	if !r.Bulk {
		return side.draw()
	}
	return nil
}

// Where a rate comes from.
const (
	rateAssumed = "assumed"
	ratePeers   = "peers"
	rateOwn     = "own"
)

// draw replays the side's past at the rate learned, for the curve; its end is what is expected today.
func (s *Side) draw() error {
	h := s.LearnedHistory()
	trace, err := soil.Replay(h)
	if err != nil {
		return err
	}
	trace.Known, trace.CoreSeen = s.Rate.Known, s.Rate.CoreSeen
	if trace.Known {
		trace.Now = s.Rate.State
		last := &trace.Points[len(trace.Points)-1]
		last.State, last.Blocked = trace.Now, trace.Now.Blocked()
	}
	s.Trace = trace
	return nil
}

// LearnedHistory is the side's history with the rate and penetration that are expected in place of those assumed.
func (s *Side) LearnedHistory() soil.History {
	h := s.History
	times := s.Rate.Expected() / s.Rate.Assumed
	h.Conditions = append([]soil.Condition{}, h.Conditions...)
	for i := range h.Conditions {
		h.Conditions[i].Rate *= times
		h.Conditions[i].Penetration = s.Rate.Penetration
	}
	return h
}

// EstimateRow is what is kept of a side for its peers.
func EstimateRow(org uuid.UUID, d Unit, c store.Coil, side Side, at time.Time) store.RateEstimate {
	row := store.RateEstimate{
		OrganisationID: org, SurfaceID: side.ID, CoilID: c.ID, UnitID: d.Unit.ID, ClassID: d.Class.ID, SiteID: d.Site.ID, Role: c.Role,
		Telling: side.Rate.Telling, Counted: side.Rate.Counted, Rate: side.Rate.Rate.P50, Assumed: side.Rate.Assumed,
		ModelVersion: organisation.ModelVersion, InputsHash: organisation.HashOf(side.History.Visits), ComputedAt: at,
	}
	if calls := side.Rate.Calls; calls != nil {
		row.CallsExpected, row.LoggedDays = calls.Expected/side.callsFactor, calls.LoggedDays
	}
	if len(side.risePairs) > 0 {
		row.RisePairs = store.ToJSON(side.risePairs)
	}
	if own := side.Rate.Own; own != nil {
		row.OwnMean, row.OwnVariance = &own.Mean, &own.Variance
	}
	return row
}

// movedBy is how far the mean of a group has to move before its members are recalculated, on ln λ.
const movedBy = .02

// Taught reports whether what a side tells now is anything else than what it told before.
func (p Peers) Taught(after store.RateEstimate) bool {
	const hair = 1e-9
	before := p.own[after.SurfaceID]
	if before.Telling != after.Telling || (before.OwnMean == nil) != (after.OwnMean == nil) {
		return true
	}
	return after.OwnMean != nil && math.Abs(*after.OwnMean-*before.OwnMean)+math.Abs(*after.OwnVariance-*before.OwnVariance) > hair
}

// Moved reports whether what a side tells now moves its group, at the site or in the organisation.
func (p Peers) Moved(after store.RateEstimate) bool {
	before := p.own[after.SurfaceID]
	told := func(r store.RateEstimate) *learn.Normal {
		if r.Telling == 0 || r.OwnMean == nil {
			return nil
		}
		return &learn.Normal{Mean: *r.OwnMean, Variance: *r.OwnVariance}
	}
	old, now := told(before), told(after)
	if old == nil && now == nil {
		return false
	}
	if old == nil || now == nil {
		return true
	}
	group := p.here[peerKey{before.ClassID, before.Role, before.SiteID}]
	return math.Abs(group.Without(*old).Add(*now).Mean().Mean-group.Mean().Mean) > movedBy
}

// graderOf is the scatter of whoever graded at a visit; 0 where nobody there practised enough.
func (r *Facts) graderOf(visit uuid.UUID) float64 {
	for _, p := range r.VisitPeople[visit] {
		if s, ok := r.Graders[p.PersonID]; ok {
			return s
		}
	}
	return 0
}

// readingShare is the blocked share that the high pressure read before the work of a visit speaks for, nil where it
// cannot be judged.
func (r *Facts) readingShare(d Unit, c store.Coil, visit uuid.UUID) *float64 {
	if c.Role != string(heat.Condenser) {
		return nil
	}
	for _, x := range r.pressures[visit] {
		var judged heat.Judgement
		var context heat.Context
		if x.Phase != "before" || heat.Kind(x.Kind) != heat.HighPressure || (x.CoilID != nil && *x.CoilID != c.ID) || x.Verdict == string(heat.CannotJudge) || x.Judgement.Into(&judged) != nil || x.Context.Into(&context) != nil {
			continue
		}
		if judged.OverAmbientK == nil || context.HeadControl {
			continue
		}
		e := r.Economics(d, c)
		if load, ok := e.LoadFromRise(*judged.OverAmbientK - e.CleanK); ok {
			return new(soil.Share(load))
		}
	}
	return nil
}

// levelsOff tests whether what was found after cleans levels off rather than grows on: the growth that ends fits the pairs
// of days run and load found better, by Akaike's criterion, and its end lies near what was found.
func levelsOff(visits []soil.Visit) (reason.Reason, bool) {
	var points []learn.Point
	var last calendar.Day
	cleaned := false
	for _, v := range visits {
		if v.Found != nil && cleaned && v.Day > last {
			points = append(points, learn.Point{X: float64(v.Day.Sub(last)), Y: v.Found.Grade.MiddleLoad()})
		}
		if len(v.Cleans) > 0 {
			last, cleaned = v.Day, true
		}
	}
	const enough, better = 6, 4
	if len(points) < enough {
		return reason.Reason{}, false
	}
	fit, err := learn.FitAsymptote(points)
	if err != nil {
		return reason.Reason{}, false
	}
	var xx, xy, yy, most float64
	for _, p := range points {
		xx, xy, yy, most = xx+p.X*p.X, xy+p.X*p.Y, yy+p.Y*p.Y, math.Max(most, p.Y)
	}
	straight := yy - xy*xy/xx
	n := float64(len(points))
	if n*math.Log(straight/fit.SumOfSquares)-2 < better || fit.B1 > 1.5*most {
		return reason.Reason{}, false
	}
	return reason.Reason{Code: reason.LevelsOff, Evidence: reason.Published, Numbers: reason.Numbers{"share": soil.Share(fit.B1), "findings": n}}, true
}
