package dossier

import (
	"cmp"
	"slices"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/learn"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// logged are the times in which every call-out of a unit was put down: those declared for its sites, while it stood there.
func (r *Facts) logged(d Unit) []learn.LogSpan {
	var out []learn.LogSpan
	for _, stay := range r.stays[d.Unit.ID] {
		for _, log := range r.callLogs[r.Placements[stay.PlacementID].SiteID] {
			if both, ok := log.During.Overlap(stay.During); ok {
				out = append(out, learn.LogSpan{From: *both.From, To: *both.To})
			}
		}
	}
	slices.SortFunc(out, func(a, b learn.LogSpan) int { return a.From.Sub(b.From) })
	return out
}

// callLog is what the log of call-outs says of a side; nil where none was declared complete.
func (r *Facts) callLog(d Unit, c store.Coil, side *Side) *learn.CallLog {
	spans := r.logged(d)
	if len(spans) == 0 {
		return nil
	}
	out := learn.CallLog{Complete: spans, Economics: r.Economics(d, c), AreaShare: side.AreaShare}
	for _, x := range r.callOuts[d.Unit.ID] {
		if x.CoilToBlame != string(contract.YesNoNo) {
			out.Tripped = append(out.Tripped, x.Day.Day())
		}
	}
	side.callsFactor = cmp.Or(out.Economics.CallsFactor, 1)
	return &out
}

// risePairs are the cleans of a condenser with the high side read before and after, that can be judged: by how much condensing over
// ambient was to fall, by the grades found and left on all of its sides, and by how much it fell.
func (r *Facts) risePairs(d Unit, c store.Coil) []heat.RisePair {
	if c.Role != string(heat.Condenser) {
		return nil
	}
	e := r.Economics(d, c)
	e.RiseFactor = 0
	var out []heat.RisePair
	for _, v := range r.Visits[d.Unit.ID] {
		proof := Proof(r.readingsOf(c, v))
		if proof == nil || !proof.Judged {
			continue
		}
		found, left, all := 0.0, 0.0, 0.0
		for _, s := range r.Surfaces[c.ID] {
			var grades [2]*soil.Grade
			for _, f := range r.Findings[[2]uuid.UUID{v.ID, s.ID}] {
				switch f.Phase {
				case PhaseOpenedUp:
					grades[0] = new(soil.Grade(f.Grade))
				case PhaseAsLeft:
					grades[1] = new(soil.Grade(f.Grade))
				}
			}
			if grades[0] == nil || grades[1] == nil {
				all = 0
				break
			}
			all += s.AreaShare
			found += s.AreaShare * soil.Share(grades[0].MiddleLoad())
			left += s.AreaShare * soil.Share(grades[1].MiddleLoad())
		}
		if all == 0 {
			continue
		}
		fall := e.At(soil.Load(found/all)).RiseK - e.At(soil.Load(left/all)).RiseK
		const least = .5 // K; less says nothing
		if fall >= least {
			out = append(out, heat.RisePair{PredictedK: fall, FellK: proof.FellK})
		}
	}
	return out
}

// readingsOf a coil at a visit.
func (r *Facts) readingsOf(c store.Coil, v store.Visit) []store.Reading {
	return slices.DeleteFunc(slices.Clone(r.pressures[v.ID]), func(x store.Reading) bool { return x.CoilID != nil && *x.CoilID != c.ID })
}
