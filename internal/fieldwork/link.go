package fieldwork

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// guest is somebody with a link and no account: they act for whom made it, at one site, and in no other way.
type guest struct {
	link  store.GuestLink
	actor organisation.Actor
}

// guestOf finds whose a link is; ErrNotFound for one that is unknown, ended, expired or used up.
func (s *Service) guestOf(ctx context.Context, token string, kind contract.GuestLinkKind) (guest, error) {
	link, err := s.Store.TakeGuestLink(ctx, organisation.HashToken(token), s.RealNow())
	if err != nil {
		return guest{}, err
	}
	if kind != "" && link.Kind != string(kind) {
		return guest{}, organisation.ErrNotFound
	}
	a, err := s.organisation.Actor(ctx, link.AccountID)
	if err != nil {
		return guest{}, organisation.ErrNotFound
	}
	a.Role, a.Sites = contract.RoleTechnician, []uuid.UUID{link.SiteID}
	return guest{link, a}, nil
}

// GuestLinks lists the links, the newest first.
func (s *Service) GuestLinks(ctx context.Context, a organisation.Actor) ([]contract.GuestLink, error) {
	if err := a.Only(contract.RoleManager); err != nil {
		return nil, err
	}
	t := s.Tenant(ctx, a)
	rows, err := store.All[store.GuestLink](t, "at DESC, id DESC")
	if err != nil {
		return nil, err
	}
	rows = slices.DeleteFunc(rows, func(r store.GuestLink) bool { return a.Sites != nil && !slices.Contains(a.Sites, r.SiteID) })
	return s.guestLinkViews(t, rows)
}

func (s *Service) guestLinkViews(t store.Tenant, rows []store.GuestLink) ([]contract.GuestLink, error) {
	sites, err := store.Where[store.Site](t, "id", store.Keys(rows, func(r store.GuestLink) uuid.UUID { return r.SiteID }), "id")
	if err != nil {
		return nil, err
	}
	units, err := store.Where[store.Unit](t, "id", store.Keys(rows, func(r store.GuestLink) uuid.UUID { return optional.Value(r.UnitID) }), "id")
	if err != nil {
		return nil, err
	}
	gone, err := t.OrphanedLinks(store.Keys(rows, func(r store.GuestLink) uuid.UUID { return r.ID }))
	if err != nil {
		return nil, err
	}
	site := store.Index(sites, func(x store.Site) uuid.UUID { return x.ID })
	unit := store.Index(units, func(x store.Unit) uuid.UUID { return x.ID })
	views := []contract.GuestLink{}
	for _, r := range rows {
		out := contract.GuestLink{
			ID: r.ID, Kind: contract.GuestLinkKind(r.Kind), Site: site[r.SiteID].Name, Name: r.Name, ExpiresAt: r.ExpiresAt, UsedAt: r.UsedAt,
			State: contract.GuestLinkStateOpen,
		}
		switch {
		case r.RevokedAt != nil || slices.Contains(gone, r.ID):
			out.State = contract.GuestLinkStateEnded
		case r.Kind == string(contract.GuestLinkKindContractor) && r.UsedAt != nil:
			out.State = contract.GuestLinkStateUsed
		case !r.ExpiresAt.After(s.RealNow()):
			out.State = contract.GuestLinkStateExpired
		}
		if r.UnitID != nil {
			out.Tag = new(unit[*r.UnitID].Tag)
		}
		views = append(views, out)
	}
	return views, nil
}

// AddGuestLink makes a link for a site's staff, or for a contractor to return one unit's visit. Its token is given this
// once; only its hash is kept.
func (s *Service) AddGuestLink(ctx context.Context, a organisation.Actor, in contract.NewGuestLink) (contract.NewGuestLinkAnswer, error) {
	var out contract.NewGuestLinkAnswer
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	name := strings.TrimSpace(in.Name)
	if name == "" {
		return out, invalid.At("/name", "say whom the link is for")
	}
	raw := make([]byte, 24)
	if _, err := rand.Read(raw); err != nil {
		return out, fmt.Errorf("making a link: %w", err)
	}
	out.Token = base64.RawURLEncoding.EncodeToString(raw)
	now := s.RealNow()
	row := store.GuestLink{
		ID: store.NewID(), Kind: string(in.Kind), Name: name, TokenHash: organisation.HashToken(out.Token),
		ExpiresAt: now.Add(time.Duration(in.Days) * 24 * time.Hour), AccountID: a.AccountID, At: now,
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row.OrganisationID = t.Org
		var err error
		if in.Kind == contract.NewGuestLinkKindContractor {
			err = s.contractorLink(t, in, &row)
		} else {
			if in.SiteID == nil {
				return invalid.At("/site_id", "say which site the link is for")
			}
			row.SiteID = *in.SiteID
			err = organisation.SeesSite(t, row.SiteID)
		}
		if errors.Is(err, organisation.ErrNotFound) {
			return invalid.At("/site_id", "is not one of your sites or units")
		}
		if err != nil {
			return err
		}
		if err := store.Insert(t, row); err != nil {
			return err
		}
		if err := store.Insert(t, linkUnits(row, in)...); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "site", row.SiteID, "link made", organisation.AuditDetail{Note: row.Kind + ": " + name}); err != nil {
			return err
		}
		views, err := s.guestLinkViews(t, []store.GuestLink{row})
		if err == nil {
			out.Link = views[0]
		}
		return err
	})
	return out, err
}

// contractorLink ties a link to a unit, and makes sure that the contractor is among the people whose work is recorded.
func (s *Service) contractorLink(t store.Tenant, in contract.NewGuestLink, row *store.GuestLink) error {
	if in.UnitID == nil {
		return invalid.At("/unit_id", "say which unit the contractor visits")
	}
	u, err := t.UnitSeen(*in.UnitID)
	if err != nil {
		return err
	}
	p, err := store.Get[store.Placement](t, u.PlacementID)
	if err != nil {
		return err
	}
	row.UnitID, row.SiteID = in.UnitID, p.SiteID
	for i, id := range optional.Value(in.UnitIds) {
		more, err := t.UnitSeen(id)
		if err != nil {
			return invalid.At(fmt.Sprintf("/unit_ids/%d", i), "is not one of your units")
		}
		place, err := store.Get[store.Placement](t, more.PlacementID)
		if err != nil {
			return err
		}
		if place.SiteID != p.SiteID {
			return invalid.At(fmt.Sprintf("/unit_ids/%d", i), "%s is at another site: a link reaches one site", more.Tag)
		}
	}
	people, err := store.All[store.Person](t, "name")
	if err != nil {
		return err
	}
	for _, x := range people {
		if strings.EqualFold(x.Name, row.Name) {
			return nil
		}
	}
	return store.Insert(t, store.Person{OrganisationID: t.Org, ID: store.NewID(), Name: row.Name})
}

// linkUnits are the units of a contractor's link, each once.
func linkUnits(row store.GuestLink, in contract.NewGuestLink) []store.GuestLinkUnit {
	out := []store.GuestLinkUnit{}
	if row.UnitID == nil {
		return out
	}
	for _, id := range append([]uuid.UUID{*row.UnitID}, optional.Value(in.UnitIds)...) {
		if !slices.ContainsFunc(out, func(x store.GuestLinkUnit) bool { return x.UnitID == id }) {
			out = append(out, store.GuestLinkUnit{OrganisationID: row.OrganisationID, LinkID: row.ID, UnitID: id})
		}
	}
	return out
}

// unitsOf are the units that a contractor's link reaches.
func (g guest) unitsOf(t store.Tenant) (map[uuid.UUID]store.GuestLinkUnit, error) {
	rows, err := store.Where[store.GuestLinkUnit](t, "link_id", []uuid.UUID{g.link.ID}, "unit_id")
	return store.Index(rows, func(x store.GuestLinkUnit) uuid.UUID { return x.UnitID }), err
}

// EndGuestLink ends a link at once.
func (s *Service) EndGuestLink(ctx context.Context, a organisation.Actor, id uuid.UUID) error {
	if err := a.Only(contract.RoleManager); err != nil {
		return err
	}
	return s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.GuestLink](t, id)
		if err != nil {
			return err
		}
		if err := organisation.SeesSite(t, row.SiteID); err != nil {
			return err
		}
		if row.RevokedAt != nil {
			return nil
		}
		row.RevokedAt = new(s.RealNow())
		if err := store.Save(t, id, &row); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, "site", row.SiteID, "link ended", organisation.AuditDetail{Note: row.Name})
	})
}

// GuestPage is what a link shows: the light tasks of the site's staff, or the one unit of a contractor.
func (s *Service) GuestPage(ctx context.Context, token string) (contract.GuestPage, error) {
	g, err := s.guestOf(ctx, token, "")
	if err != nil {
		return contract.GuestPage{}, err
	}
	t := s.Tenant(ctx, g.actor)
	site, err := store.Get[store.Site](t, g.link.SiteID)
	if err != nil {
		return contract.GuestPage{}, err
	}
	out := contract.GuestPage{
		Kind: contract.GuestPageKind(g.link.Kind), Name: g.link.Name, Site: site.Name, ExpiresAt: g.link.ExpiresAt, Today: s.Today(site.Zone),
		Tasks: []contract.GuestTask{}, Units: []contract.GuestUnit{}, Cautions: defaults.GuestCautions, Deferral: defaults.Deferral,
	}
	mine, err := g.unitsOf(t)
	if err != nil {
		return out, err
	}
	units := slices.Collect(maps.Keys(mine))
	if g.link.UnitID == nil {
		if units, err = t.UnitsAt(site.ID); err != nil {
			return out, err
		}
		if err := s.guestReports(t, g, &out); err != nil {
			return out, err
		}
	} else {
		out.Cautions = defaults.ContractorCautions
	}
	ticked, err := s.tickedToday(t, g, out.Today)
	if err != nil {
		return out, err
	}
	r, err := load.Units(t, units)
	if err != nil {
		return out, err
	}
	for _, u := range r.Rows.Units {
		if u.Status == dossier.Retired {
			continue
		}
		d := dossier.Unit{Unit: u, Today: out.Today, Pauses: r.Pauses[u.ID]}
		_, place := r.Standing(u.ID, out.Today)
		if g.link.UnitID != nil {
			if u.ID == *g.link.UnitID {
				out.Tag = new(u.Tag)
			}
			out.Units = append(out.Units, contract.GuestUnit{UnitID: u.ID, Tag: u.Tag, Placement: place.Name, Returned: new(mine[u.ID].UsedAt != nil)})
			continue
		}
		out.Units = append(out.Units, contract.GuestUnit{UnitID: u.ID, Tag: u.Tag, Placement: place.Name})
		for _, task := range r.Companions[u.ID] {
			if task.Doer != string(contract.DoerSiteStaff) || task.Paused {
				continue
			}
			c := r.Companion(d, task)
			out.Tasks = append(out.Tasks, contract.GuestTask{
				Kind: &task.Kind, Ticked: ticked[task.ID], TaskID: task.ID, Tag: u.Tag, Placement: place.Name, What: companionWork[task.Kind], EveryDays: task.EveryDays, Due: c.Due,
				DaysLate: c.DaysLate, Last: c.LastDay,
			})
		}
	}
	slices.SortFunc(out.Units, func(a, b contract.GuestUnit) int { return strings.Compare(a.Tag, b.Tag) })
	slices.SortStableFunc(out.Tasks, func(a, b contract.GuestTask) int { return b.DaysLate - a.DaysLate })
	return out, nil
}

// mostReports is how many complaints a link shows again.
const mostReports = 8

// guestReports are the complaints that came by the link, and what became of them.
func (s *Service) guestReports(t store.Tenant, g guest, out *contract.GuestPage) error {
	rows, err := t.SymptomsByLink(g.link.ID, mostReports)
	if err != nil {
		return err
	}
	units, err := store.Where[store.Unit](t, "id", store.Keys(rows, func(x store.SymptomReport) uuid.UUID { return optional.Value(x.UnitID) }), "id")
	if err != nil {
		return err
	}
	unit := store.Index(units, func(x store.Unit) uuid.UUID { return x.ID })
	list := []contract.GuestReport{}
	for _, x := range rows {
		list = append(list, contract.GuestReport{Day: x.Day.Day(), Kind: contract.SymptomKind(x.Kind), Tag: unit[optional.Value(x.UnitID)].Tag, Status: contract.GuestReportStatus(x.Status)})
	}
	out.Reports = &list
	return nil
}

// tickedToday are the ticks of the day that came by the link, by their task.
func (s *Service) tickedToday(t store.Tenant, g guest, today calendar.Day) (map[uuid.UUID]*uuid.UUID, error) {
	rows, err := store.Where[store.TaskTick](t, "link_id", []uuid.UUID{g.link.ID}, "at")
	out := map[uuid.UUID]*uuid.UUID{}
	for _, x := range rows {
		if x.Day.Day() == today {
			out[x.TaskID] = &x.ID
		}
	}
	return out, err
}

// GuestUntick takes a tick of the same day back.
func (s *Service) GuestUntick(ctx context.Context, token string, id uuid.UUID) error {
	g, err := s.guestOf(ctx, token, contract.GuestLinkKindSiteStaff)
	if err != nil {
		return err
	}
	return s.Tenant(ctx, g.actor).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.TaskTick](t, id)
		if err != nil {
			return err
		}
		site, err := store.Get[store.Site](t, g.link.SiteID)
		if err != nil {
			return err
		}
		if optional.Value(row.LinkID) != g.link.ID {
			return organisation.ErrNotFound
		}
		if row.Day.Day() != s.Today(site.Zone) {
			return organisation.Conflict{Reason: "only a tick of today can be taken back; tell whoever gave you the link"}
		}
		task, err := store.Get[store.Task](t, row.TaskID)
		if err != nil {
			return err
		}
		if err := store.Delete[store.TaskTick](t, id); err != nil {
			return err
		}
		return t.Record(s.Stamp(), g.actor.AccountID, "unit", task.UnitID, task.Kind+" taken back", organisation.AuditDetail{Note: "by link, " + g.link.Name})
	})
}

// companionWork says a companion task to those who do it.
var companionWork = map[string]string{
	"inspect": "Look it over", "filter": "Wash the filter, let it dry fully, put it back", "grille": "Wipe the grille", "tablet": "Put a new tablet in the pan",
	"drain": "See that the drain runs", "pump": "See that the pump empties its tray",
}

// GuestTick notes that a site's staff did a light task.
func (s *Service) GuestTick(ctx context.Context, token string, in contract.GuestTick) (contract.GuestDone, error) {
	var out contract.GuestDone
	g, err := s.guestOf(ctx, token, contract.GuestLinkKindSiteStaff)
	if err != nil {
		return out, err
	}
	return out, s.Tenant(ctx, g.actor).InTransaction(func(t store.Tenant) error {
		task, err := store.Get[store.Task](t, in.TaskID)
		if err != nil || task.CoilID != nil || task.Doer != string(contract.DoerSiteStaff) {
			return invalid.At("/task_id", "is not a task of this link")
		}
		u, err := t.UnitSeen(task.UnitID)
		if err != nil {
			return invalid.At("/task_id", "is not a task of this link")
		}
		today, err := s.SiteToday(t, u.PlacementID)
		if err != nil {
			return err
		}
		row := store.TaskTick{
			OrganisationID: t.Org, ID: store.NewID(), TaskID: task.ID, Day: store.Date(today), Note: strings.TrimSpace(g.link.Name + " " + optional.Trim(in.Note)),
			LinkID: &g.link.ID, At: s.Stamp(),
		}
		out.ID = row.ID
		if err := store.Insert(t, row); err != nil {
			return err
		}
		return t.Record(s.Stamp(), g.actor.AccountID, "unit", task.UnitID, task.Kind+" done", organisation.AuditDetail{Note: "by link, " + g.link.Name})
	})
}

// GuestSymptom takes a complaint in from a site's staff.
func (s *Service) GuestSymptom(ctx context.Context, token string, in contract.NewSymptom) (contract.GuestDone, error) {
	g, err := s.guestOf(ctx, token, contract.GuestLinkKindSiteStaff)
	if err != nil {
		return contract.GuestDone{}, err
	}
	in.SiteID = &g.link.SiteID
	row, err := s.addSymptom(ctx, g.actor, in, &g.link.ID)
	return contract.GuestDone{ID: row.ID}, err
}

// GuestPhoto keeps a picture with what the link itself has sent.
func (s *Service) GuestPhoto(ctx context.Context, token, entity string, id uuid.UUID, content []byte) error {
	g, err := s.guestOf(ctx, token, "")
	if err != nil {
		return err
	}
	t := s.Tenant(ctx, g.actor)
	mine := false
	switch entity {
	case "tick":
		row, err := store.Get[store.TaskTick](t, id)
		mine = err == nil && optional.Value(row.LinkID) == g.link.ID
	case "symptom":
		row, err := store.Get[store.SymptomReport](t, id)
		mine = err == nil && optional.Value(row.LinkID) == g.link.ID
	case "visit":
		row, err := store.Get[store.Visit](t, id)
		reaches, failed := g.unitsOf(t)
		if failed != nil {
			return failed
		}
		_, ours := reaches[row.UnitID]
		mine = err == nil && ours && row.Source == "contractor"
	}
	if !mine {
		return organisation.ErrNotFound
	}
	_, err = s.organisation.AddAttachment(ctx, g.actor, organisation.NewAttachment{Entity: entity, EntityID: id, Kind: "photo", Name: "by link, " + g.link.Name, Content: content, ByLink: true})
	return err
}

// GuestVisitPack is the pack of a contractor's unit, the link's first where none is named; of the organisation's people it names only the contractor.
func (s *Service) GuestVisitPack(ctx context.Context, token string, unit *uuid.UUID) (contract.VisitPack, error) {
	g, err := s.guestOf(ctx, token, contract.GuestLinkKindContractor)
	if err != nil {
		return contract.VisitPack{}, err
	}
	if unit == nil {
		unit = g.link.UnitID
	}
	if mine, err := g.unitsOf(s.Tenant(ctx, g.actor)); err != nil {
		return contract.VisitPack{}, err
	} else if _, ok := mine[*unit]; !ok {
		return contract.VisitPack{}, organisation.ErrNotFound
	}
	out, err := s.VisitPack(ctx, g.actor, *unit)
	out.Catalogue.People = slices.DeleteFunc(out.Catalogue.People, func(c contract.Choice) bool { return !strings.EqualFold(c.Name, g.link.Name) })
	out.Kits = []contract.CrewKit{}
	out.Catalogue.Crews, out.Neighbours, out.Unit.Visits = []contract.Choice{}, []contract.Neighbour{}, []contract.VisitSummary{}
	return out, err
}

// GuestVisit takes in a visit of a contractor; the link is used up with the last of its units.
func (s *Service) GuestVisit(ctx context.Context, token string, key uuid.UUID, in contract.NewVisit) (contract.VisitOutcome, error) {
	g, err := s.guestOf(ctx, token, contract.GuestLinkKindContractor)
	if errors.Is(err, organisation.ErrNotFound) {
		// The same visit sent again after the link was used up still gets its answer.
		if g, err = s.usedGuest(ctx, token); err != nil {
			return contract.VisitOutcome{}, err
		}
	}
	if err != nil {
		return contract.VisitOutcome{}, err
	}
	mine, err := g.unitsOf(s.Tenant(ctx, g.actor))
	if err != nil {
		return contract.VisitOutcome{}, err
	}
	unit, ok := mine[in.UnitID]
	if !ok {
		return contract.VisitOutcome{}, invalid.At("/unit_id", "is not a unit of this link")
	}
	in.Source = new(contract.NewVisitSourceContractor)
	return organisation.Once(s.Base, s.Tenant(ctx, g.actor), g.actor, key, in, func(t store.Tenant) (contract.VisitOutcome, error) {
		if g.link.UsedAt != nil || unit.UsedAt != nil {
			return contract.VisitOutcome{}, organisation.ErrNotFound
		}
		if _, err := t.LockUnits([]uuid.UUID{in.UnitID}); err != nil {
			return contract.VisitOutcome{}, err
		}
		link, err := store.GetForUpdate[store.GuestLink](t, g.link.ID)
		if err != nil {
			return contract.VisitOutcome{}, err
		}
		left, err := t.UseGuestUnit(link.ID, in.UnitID, s.RealNow())
		if err != nil {
			return contract.VisitOutcome{}, err
		}
		if left == 0 {
			link.UsedAt = new(s.RealNow())
			if err := store.Save(t, link.ID, &link); err != nil {
				return contract.VisitOutcome{}, err
			}
		}
		return s.storeVisit(t, g.actor, key, in, nil)
	})
}

func (s *Service) usedGuest(ctx context.Context, token string) (guest, error) {
	link, err := s.Store.UsedGuestLink(ctx, organisation.HashToken(token), s.RealNow())
	if err != nil {
		return guest{}, err
	}
	a, err := s.organisation.Actor(ctx, link.AccountID)
	a.Role, a.Sites = contract.RoleTechnician, []uuid.UUID{link.SiteID}
	return guest{link, a}, err
}
