package dossier

import (
	"sort"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/learn"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// Side is one side of a coil: its history, what was learned of its rate, and the soil expected today.
type Side struct {
	store.Surface
	Soil    store.SoilKind
	History soil.History
	Trace   soil.Trace
	Looks   []Look
	k       float64
	passing float64 // what its filter lets through, against the class's usual one
	leading *store.FactorDef
	// rate learned, and where it comes from.
	Rate       learn.Rate
	From       string
	fromPeers  bool
	peerReason reason.Reason
	// callsFactor is the factor on call-outs its log was read with; risePairs are its coil's cleans with readings before and after, kept with
	// the first side.
	callsFactor float64
	risePairs   []heat.RisePair
}

// Look is an observation with its date.
type Look struct {
	Day   calendar.Day
	Phase string
	soil.Finding
}

// Side assembles a side and learns its rate.
func (r *Facts) Side(d Unit, c store.Coil, surface store.Surface) (Side, error) {
	side := Side{Surface: surface, passing: 1}
	if c.Role == string(heat.Evaporator) {
		side.passing = d.Passing()
	}
	start := d.start(c)
	side.Soil = r.mainSoil(d, surface.ID)
	from := d.Today
	if start.Quality != soil.StartUnknown {
		from = start.Day
	}
	var visits []soil.Visit
	for _, v := range r.Visits[d.Unit.ID] {
		day := v.Day.Day()
		if !r.Reached[[2]uuid.UUID{v.ID, surface.ID}].Reached || (start.Quality != soil.StartUnknown && day < start.Day) || day > d.Today {
			continue
		}
		from = min(from, day)
		visit := soil.Visit{Day: day, GraderSigma: r.graderOf(v.ID), ReadingShare: r.readingShare(d, c, v.ID)}
		for _, f := range r.Findings[[2]uuid.UUID{v.ID, surface.ID}] {
			look := soil.Finding{Grade: soil.Grade(f.Grade), Seen: soil.Seen(f.Seen)}
			switch f.Phase {
			case PhaseOpenedUp:
				visit.Found = &look
			case PhaseAsLeft:
				visit.Left = &look
			default:
				continue
			}
			side.Looks = append(side.Looks, Look{Day: day, Phase: f.Phase, Finding: look})
		}
		family := r.familyFound(v.ID, surface.ID, side.Soil)
		for _, t := range r.Treatments[v.ID] {
			if r.Treated[t.ID][surface.ID] {
				visit.Cleans = append(visit.Cleans, r.Removal[t.MethodID].Removal(family, soil.Direction(t.Direction)))
			}
		}
		visits = append(visits, visit)
	}
	sort.SliceStable(side.Looks, func(i, j int) bool {
		a, b := side.Looks[i], side.Looks[j]
		return a.Day < b.Day || (a.Day == b.Day && a.Phase == PhaseOpenedUp && b.Phase == PhaseAsLeft)
	})
	side.History = soil.History{Start: start, Conditions: r.conditions(d, side.passing, from, side.Soil), Visits: visits, Until: max(d.Today, from)}
	side.k, side.leading = d.FactorOn(d.Today)
	if surface.ID == r.Surfaces[c.ID][0].ID {
		side.risePairs = r.risePairs(d, c)
	}
	return side, r.learnSide(d, c, &side)
}

// conditions are the rates and months in force since a day, changing as dated factors begin and end.
func (r *Facts) conditions(d Unit, passing float64, from calendar.Day, kind store.SoilKind) []soil.Condition {
	var out []soil.Condition
	for _, day := range d.changeDays(from) {
		k, leading := d.FactorOn(day)
		months := kind.MonthWeights
		if leading != nil && leading.MonthWeights != nil {
			months = leading.MonthWeights
		}
		c := soil.Condition{
			From: day, Penetration: kind.Penetration, FanShare: d.Class.ReferenceFanShare,
			Rate: soil.StartRate(d.Class.ReferenceDays, d.Class.ReferenceFanShare, k) * passing,
		}
		if d.pausedOn(day) {
			c.FanShare = 0 // out of service: exposure stands still
		}
		copy(c.Months[:], months)
		if d.Site.Lat != nil && *d.Site.Lat < 0 {
			c.Months = c.Months.Mirrored()
		}
		out = append(out, c)
	}
	return out
}

// mainSoil is the soil most often found on a side, the newest of equals; else that of the leading factor; else
// the class's usual one.
func (r *Facts) mainSoil(d Unit, surface uuid.UUID) store.SoilKind {
	count := map[uuid.UUID]int{}
	var best uuid.UUID
	for _, v := range r.Visits[d.Unit.ID] {
		for _, f := range r.Findings[[2]uuid.UUID{v.ID, surface}] {
			for _, fs := range r.FindingSoils[f.ID] {
				count[fs.SoilID]++
				if count[fs.SoilID] >= count[best] {
					best = fs.SoilID
				}
			}
		}
	}
	if kind, ok := r.SoilByID[best]; ok {
		return kind
	}
	if _, leading := d.FactorOn(d.Today); leading != nil && leading.SoilCode != nil {
		if kind, ok := r.SoilCode[*leading.SoilCode]; ok {
			return kind
		}
	}
	if kind, ok := r.SoilCode[d.Class.UsualSoil]; ok {
		return kind
	}
	return r.SoilCode["mixed"]
}

// familyFound is the family of the soils a visit found on a side; Mixed where they differ.
func (r *Facts) familyFound(visit, surface uuid.UUID, main store.SoilKind) soil.Family {
	family := soil.Family("")
	for _, f := range r.Findings[[2]uuid.UUID{visit, surface}] {
		for _, fs := range r.FindingSoils[f.ID] {
			k := soil.Family(r.SoilByID[fs.SoilID].Family)
			if family != "" && family != k {
				return soil.Mixed
			}
			family = k
		}
	}
	if family == "" {
		return soil.Family(main.Family)
	}
	return family
}

// RateReasons say what made the rate and the state.
func (side Side) RateReasons(class store.EquipmentClass) []reason.Reason {
	out := []reason.Reason{}
	if side.From == rateOwn {
		out = append(out, reason.Reason{
			Code: reason.RateOwn, Evidence: reason.Assumption,
			Numbers: reason.Numbers{
				"rate": side.Rate.Rate.P50, "low": side.Rate.Rate.P10, "high": side.Rate.Rate.P90, "findings": float64(side.Rate.Counted),
				"times": side.Rate.Rate.P50 / side.Rate.Assumed,
			},
		})
	}
	if side.fromPeers {
		r := side.peerReason
		if side.From == ratePeers {
			r.Code = reason.PeersOnly
		}
		out = append(out, r)
	}
	out = append(out, reason.Reason{
		Code: reason.StartRate, Evidence: reason.Assumption,
		Numbers: reason.Numbers{"rate": side.Rate.Assumed, "reference_days": class.ReferenceDays, "factor": side.k},
		Names:   reason.Names{"class": class.Name},
	})
	if side.leading != nil {
		out = append(out, reason.Reason{
			Code: reason.LeadingFactor, Evidence: reason.CommonPractice,
			Numbers: reason.Numbers{"multiplier": side.leading.Multiplier}, Names: reason.Names{"factor": side.leading.Name},
		})
	}
	if times := side.passing; times != 1 {
		out = append(out, reason.Reason{Code: reason.Filtered, Evidence: reason.Assumption, Numbers: reason.Numbers{"times": times}})
	}
	out = append(out, reason.Reason{
		Code: reason.Penetration, Evidence: reason.Assumption,
		Numbers: reason.Numbers{"penetration": side.Soil.Penetration, "learned": side.Rate.Penetration}, Names: reason.Names{"soil": side.Soil.Name},
	})
	for _, r := range side.Rate.Reasons {
		switch r.Code {
		case reason.Rate, reason.FirstFinding, reason.CoreLikely:
		default:
			out = append(out, r)
		}
	}
	if r, ok := levelsOff(side.History.Visits); ok {
		out = append(out, r)
	}
	for _, r := range side.Trace.Reasons {
		if r.Code != reason.CoreUnseen {
			out = append(out, r)
		}
	}
	if side.Rate.Known && side.Rate.CoreSeen == nil {
		out = append(out, reason.Reason{
			Code: reason.CoreUnseen, Evidence: reason.Assumption,
			Numbers: reason.Numbers{
				"core_blocked_share": soil.Share(side.Rate.State.Core), "low": soil.Share(side.Rate.Core.P10), "high": soil.Share(side.Rate.Core.P90),
			},
		})
	}
	return out
}

// State of a side with the range of its core.
func (side Side) State() contract.SoilState {
	out := stateOf(side.Trace)
	if out.Known {
		out.CoreLowShare, out.CoreHighShare = new(soil.Share(side.Rate.Core.P10)), new(soil.Share(side.Rate.Core.P90))
	}
	return out
}

func stateOf(t soil.Trace) contract.SoilState {
	out := contract.SoilState{Known: t.Known, CoreSeen: t.CoreSeen != nil, CoreSeenOn: t.CoreSeen}
	if !t.Known {
		return out
	}
	now := t.Now
	out.FaceShare, out.CoreShare, out.BlockedShare = new(soil.Share(now.Face)), new(soil.Share(now.Core)), new(now.Blocked())
	out.FaceGrade, out.CoreGrade, out.Grade = new(int(now.FaceGrade())), new(int(now.CoreGrade())), new(int(now.Grade()))
	return out
}
