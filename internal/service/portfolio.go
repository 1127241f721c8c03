package service

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// Portfolio lists sites with their units and coils.
func (s *Service) Portfolio(ctx context.Context, a Actor) (contract.Portfolio, error) {
	t := s.tenant(ctx, a)
	out := contract.Portfolio{Today: s.today(a.Org.Zone), Sites: []contract.SiteLine{}}
	r, err := loadRegister(t, nil)
	if err != nil {
		return out, err
	}
	rounds, err := s.roundsByTask(t, out.Today)
	if err != nil {
		return out, err
	}
	at := map[uuid.UUID]int{}
	for _, site := range r.siteRows {
		at[site.ID] = len(out.Sites)
		out.Sites = append(out.Sites, contract.SiteLine{
			ID: site.ID, Name: site.Name, Zone: site.Zone, Placements: []contract.PlacementLine{}, Units: []contract.UnitLine{},
		})
	}
	for _, p := range r.placementRows {
		line := &out.Sites[at[p.SiteID]]
		line.Placements = append(line.Placements, contract.PlacementLine{ID: p.ID, Name: p.Name})
	}
	for _, u := range r.facts.Units {
		d, err := s.dossier(r, u)
		if err != nil {
			return out, err
		}
		line := &out.Sites[at[d.site.ID]]
		line.Units = append(line.Units, d.line(rounds))
	}
	return out, nil
}

// roundsByTask maps each task on a published round from today on to the round's day.
func (s *Service) roundsByTask(t store.Tenant, today calendar.Day) (map[uuid.UUID]calendar.Day, error) {
	rows, err := t.TasksOnRounds(today)
	if err != nil {
		return nil, err
	}
	out := map[uuid.UUID]calendar.Day{}
	for _, r := range rows {
		out[r.TaskID] = r.Day.Day()
	}
	return out, nil
}

func (d dossier) line(rounds map[uuid.UUID]calendar.Day) contract.UnitLine {
	u := contract.UnitLine{
		ID: d.unit.ID, Tag: d.unit.Tag, Class: d.class.Name, Placement: d.placement.Name, Status: d.unit.Status,
		Coils: []contract.CoilLine{},
	}
	for _, c := range d.coils {
		line := contract.CoilLine{CoilID: c.ID, Role: contract.CoilRole(c.Role), State: c.state(), Tasks: []contract.TaskLine{}}
		if c.worst >= 0 {
			line.WorstSide = &c.sides[c.worst].Name
		}
		if c.method != "" {
			line.LastMethod = ptr(c.method)
		}
		for _, t := range c.tasks {
			line.Tasks = append(line.Tasks, t.line(d.today, rounds))
		}
		u.Coils = append(u.Coils, line)
	}
	return u
}

// state is that of the coil's worst side.
func (c coilDossier) state() contract.SoilState {
	if c.worst < 0 {
		return contract.SoilState{}
	}
	return stateOf(c.sides[c.worst].trace)
}

func stateOf(t soil.Trace) contract.SoilState {
	out := contract.SoilState{Known: t.Known, CoreSeen: t.CoreSeen != nil, CoreSeenOn: t.CoreSeen}
	if !t.Known {
		return out
	}
	now := t.Now
	out.FaceShare, out.CoreShare, out.BlockedShare = ptr(soil.Share(now.Face)), ptr(soil.Share(now.Core)), ptr(now.Blocked())
	out.FaceGrade, out.CoreGrade, out.Grade = ptr(int(now.FaceGrade())), ptr(int(now.CoreGrade())), ptr(int(now.Grade()))
	return out
}

func (t taskDossier) line(today calendar.Day, rounds map[uuid.UUID]calendar.Day) contract.TaskLine {
	line := contract.TaskLine{
		TaskID: t.ID, Kind: contract.TaskKind(t.Kind), EveryDays: t.EveryDays, Due: t.due.Day,
		DaysLate: today.Sub(t.due.Day), FirstLook: t.due.FirstLook, About: t.due.About, DueSide: t.due.Side,
		LastDay: t.last, LastQuality: ptr(contract.LastCleanQuality(t.quality)),
	}
	if t.open != nil {
		line.ProposedDays = &t.open.Days
	}
	if day, ok := rounds[t.ID]; ok {
		line.OnRound = &day
	}
	return line
}

func upperFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
