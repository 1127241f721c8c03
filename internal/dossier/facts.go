// Package dossier turns the facts of a unit into what the core needs, and has the core work on it: what its sides are thought
// to hold, when it is due, what is proposed, what things cost, what its class asks for.
// It takes rows and gives values: it reads and writes no database and keeps no clock.
package dossier

import (
	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Facts is the facts of some units together with the places they stand at, indexed for assembling dossiers.
type Facts struct {
	organisation.Catalogue
	SiteRows      []store.Site // by name
	PlacementRows []store.Placement

	Sites      map[uuid.UUID]store.Site
	Placements map[uuid.UUID]store.Placement
	factorsAt  map[uuid.UUID][]store.SiteFactor // by site, placement or unit

	Rows         store.Facts
	stays        map[uuid.UUID][]store.UnitStay
	Pauses       map[uuid.UUID][]store.UnitPause
	Companions   map[uuid.UUID][]store.Task // by unit
	Ticks        map[uuid.UUID][]store.TaskTick
	Coils        map[uuid.UUID][]store.Coil
	Surfaces     map[uuid.UUID][]store.Surface
	tasks        map[uuid.UUID][]store.Task // by coil
	taskSurfaces map[uuid.UUID][]store.TaskSurface
	Changes      map[uuid.UUID][]store.IntervalChange
	open         map[uuid.UUID]store.Proposal
	Visits       map[uuid.UUID][]store.Visit
	VisitPeople  map[uuid.UUID][]store.VisitPerson
	Reached      map[[2]uuid.UUID]store.VisitSurface
	Findings     map[[2]uuid.UUID][]store.Finding // visit, surface
	FindingSoils map[uuid.UUID][]store.FindingSoil
	Treatments   map[uuid.UUID][]store.Treatment
	Treated      map[uuid.UUID]map[uuid.UUID]bool // treatment → surface
	resets       map[[2]uuid.UUID][]store.TaskReset
	Caps         map[uuid.UUID][]store.TaskCap  // by task
	PartLooks    map[uuid.UUID][]store.PartLook // by visit
	pressures    map[uuid.UUID][]store.Reading  // pressures and currents, by visit
	callOuts     map[uuid.UUID][]store.CallOut  // by unit
	callLogs     map[uuid.UUID][]store.CallLog  // by site
	Peers        Peers
	// bulk leaves out what only one unit's screen shows.
	Bulk bool
	// details of visits, where they were asked for.
	Details map[uuid.UUID]store.VisitDetails
}

// New indexes facts for assembling dossiers. A bulk of units leaves out what only one unit's screen shows.
func New(c organisation.Catalogue, f store.Facts, bulk bool) *Facts {
	r := &Facts{Catalogue: c, Rows: f, Bulk: bulk}
	r.SiteRows, r.PlacementRows = f.Sites, f.Placements
	r.Sites = store.Index(r.SiteRows, func(x store.Site) uuid.UUID { return x.ID })
	r.Placements = store.Index(r.PlacementRows, func(x store.Placement) uuid.UUID { return x.ID })
	r.placeFactors(f.Factors)
	r.index()
	r.applyRules()
	r.sumPeers()
	return r
}

// applyRules gives the light tasks of the site's staff to technicians where the rule of the organisation has technicians do all of it, and
// lets the clock of pan tablets rest where pans are treated another way.
func (r *Facts) applyRules() {
	for _, u := range r.Rows.Units {
		rules := r.Practice(r.Placements[u.PlacementID].SiteID, u.ID)
		for i, t := range r.Companions[u.ID] {
			if t.Doer == string(contract.DoerSiteStaff) && rules["who"] == "all_technician" {
				r.Companions[u.ID][i].Doer = string(contract.DoerTechnician)
			}
			if t.Kind == "tablet" && rules["pan"] != "tablets" && rules["pan"] != "both" {
				r.Companions[u.ID][i].Paused = true
			}
		}
	}
}

// index sorts the facts by what they belong to.
func (r *Facts) index() {
	f := r.Rows
	r.stays = store.By(f.Stays, func(x store.UnitStay) uuid.UUID { return x.UnitID })
	r.Pauses = store.By(f.Pauses, func(x store.UnitPause) uuid.UUID { return x.UnitID })
	r.Companions = store.By(f.Companions, func(x store.Task) uuid.UUID { return x.UnitID })
	r.Ticks = store.By(f.Ticks, func(x store.TaskTick) uuid.UUID { return x.TaskID })
	r.Coils = store.By(f.Coils, func(x store.Coil) uuid.UUID { return x.UnitID })
	r.Surfaces = store.By(f.Surfaces, func(x store.Surface) uuid.UUID { return optional.Value(x.CoilID) })
	r.tasks = store.By(f.Tasks, func(x store.Task) uuid.UUID { return optional.Value(x.CoilID) })
	r.taskSurfaces = store.By(f.TaskSurfaces, func(x store.TaskSurface) uuid.UUID { return x.TaskID })
	r.Changes = store.By(f.Changes, func(x store.IntervalChange) uuid.UUID { return x.TaskID })
	r.open = store.Index(f.Proposals, func(x store.Proposal) uuid.UUID { return x.TaskID })
	r.Visits = store.By(f.Visits, func(x store.Visit) uuid.UUID { return x.UnitID })
	r.VisitPeople = store.By(f.People, func(x store.VisitPerson) uuid.UUID { return x.VisitID })
	r.Reached = store.Index(f.Reached, func(x store.VisitSurface) [2]uuid.UUID { return [2]uuid.UUID{x.VisitID, x.SurfaceID} })
	r.Findings = store.By(f.Findings, func(x store.Finding) [2]uuid.UUID { return [2]uuid.UUID{x.VisitID, x.SurfaceID} })
	r.FindingSoils = store.By(f.FindingSoils, func(x store.FindingSoil) uuid.UUID { return x.FindingID })
	r.Treatments = store.By(f.Treatments, func(x store.Treatment) uuid.UUID { return x.VisitID })
	r.resets = store.By(f.Resets, func(x store.TaskReset) [2]uuid.UUID { return [2]uuid.UUID{x.TaskID, x.SurfaceID} })
	r.PartLooks = store.By(f.PartLooks, func(x store.PartLook) uuid.UUID { return x.VisitID })
	r.Caps = store.By(f.Caps, func(x store.TaskCap) uuid.UUID { return x.TaskID })
	r.pressures = store.By(f.Pressures, func(x store.Reading) uuid.UUID { return x.VisitID })
	r.callOuts = store.By(f.CallOuts, func(x store.CallOut) uuid.UUID { return x.UnitID })
	r.callLogs = store.By(f.CallLogs, func(x store.CallLog) uuid.UUID { return x.SiteID })
	r.Treated = map[uuid.UUID]map[uuid.UUID]bool{}
	for _, x := range f.TreatmentSide {
		if r.Treated[x.TreatmentID] == nil {
			r.Treated[x.TreatmentID] = map[uuid.UUID]bool{}
		}
		r.Treated[x.TreatmentID][x.SurfaceID] = true
	}
}

// placeFactors sorts factors by where they are at work.
func (r *Facts) placeFactors(factors []store.SiteFactor) {
	r.factorsAt = map[uuid.UUID][]store.SiteFactor{}
	for _, f := range factors {
		for _, at := range []*uuid.UUID{f.SiteID, f.PlacementID, f.UnitID} {
			if at != nil {
				r.factorsAt[*at] = append(r.factorsAt[*at], f)
			}
		}
	}
}
