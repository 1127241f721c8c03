package register

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Sites lists the sites that may be seen, with how many units stand there and what is due.
func (s *Service) Sites(ctx context.Context, a organisation.Actor) ([]contract.SiteLine, error) {
	t := s.Tenant(ctx, a)
	sites, err := t.SitesSeen()
	if err != nil {
		return nil, err
	}
	places, err := t.PlacementsSeen()
	if err != nil {
		return nil, err
	}
	totals, err := t.SiteTotals(s.Today(a.Org.Zone))
	if err != nil {
		return nil, err
	}
	at := store.By(places, func(p store.Placement) uuid.UUID { return p.SiteID })
	out := []contract.SiteLine{}
	for _, x := range sites {
		line := contract.SiteLine{
			ID: x.ID, Name: x.Name, Code: x.Code, Status: x.Status, Zone: x.Zone, Lat: x.Lat, Lon: x.Lon,
			Units: totals[x.ID].Units, Due: totals[x.ID].Due, Placements: []contract.PlacementLine{},
		}
		if worst := totals[x.ID].Worst; worst >= 0 {
			line.WorstShare = &worst
		}
		for _, p := range at[x.ID] {
			line.Placements = append(line.Placements, contract.PlacementLine{ID: p.ID, Name: p.Name})
		}
		out = append(out, line)
	}
	return out, nil
}

// siteRows are the rows a site's card is made of.
type siteRows struct {
	site       store.Site
	placements []store.Placement
	windows    []store.SiteWindow
	holidays   []store.Holiday
}

func loadSite(t store.Tenant, id uuid.UUID) (siteRows, error) {
	var r siteRows
	if err := organisation.SeesSite(t, id); err != nil {
		return r, err
	}
	var err error
	if r.site, err = store.GetForUpdate[store.Site](t, id); err != nil {
		return r, err
	}
	one := []uuid.UUID{id}
	if r.placements, err = store.Where[store.Placement](t, "site_id", one, "lower(name)"); err != nil {
		return r, err
	}
	if r.windows, err = store.Where[store.SiteWindow](t, "site_id", one, "starts, id"); err != nil {
		return r, err
	}
	r.holidays, err = store.Where[store.Holiday](t, "site_id", one, "day")
	return r, err
}

// unknown is the answer nobody has given yet.
const unknown = string(contract.YesNoUnknown)

func (r siteRows) card() contract.SiteCard {
	x := r.site
	c := contract.SiteCard{
		Name: x.Name, Zone: x.Zone, Code: &x.Code, Status: new(contract.SiteCardStatus(x.Status)), Address: &x.Address, Contact: &x.Contact,
		Phone: &x.Phone, Keys: &x.Keys, Water: new(contract.YesNo(x.Water)), WaterNote: &x.WaterNote, Power: &x.Power, Mail: &x.Mail, AccessNote: &x.AccessNote, Lat: x.Lat, Lon: x.Lon, AltitudeM: x.AltitudeM, OverPrice: x.OverPrice, Climate: (*contract.Climate)(x.Climate), AnchorMonth: x.AnchorMonth,
		Placements: &[]contract.PlacementCard{}, Windows: &[]contract.WindowCard{}, Holidays: &[]contract.Holiday{},
	}
	if len(x.LoadMonths) == 12 {
		c.LoadMonths = new([]float64(x.LoadMonths))
	}
	for _, p := range r.placements {
		*c.Placements = append(*c.Placements, contract.PlacementCard{
			ID: new(p.ID), Name: p.Name, Setting: contract.Setting(p.Setting), NearFood: p.NearFood, Occupied: p.Occupied,
			WallBacked: p.WallBacked, HeightM: p.HeightM, Drain: new(contract.YesNo(p.Drain)), DrainNote: &p.DrainNote, Water: new(contract.YesNo(p.Water)),
		})
	}
	name := store.Index(r.placements, func(p store.Placement) uuid.UUID { return p.ID })
	for _, w := range r.windows {
		card := contract.WindowCard{
			ID: new(w.ID), Kind: contract.WindowCardKind(w.Kind), Weekdays: w.Weekdays, Starts: dossier.Clock(w.Starts), Ends: dossier.Clock(w.Ends),
			From: w.Valid.From, To: w.Valid.To, Note: w.Note,
		}
		if w.PlacementID != nil {
			card.Placement = new(name[*w.PlacementID].Name)
		}
		*c.Windows = append(*c.Windows, card)
	}
	for _, h := range r.holidays {
		*c.Holidays = append(*c.Holidays, contract.Holiday{ID: new(h.ID), Day: h.Day.Day(), Name: h.Name, Access: new(contract.HolidayAccess(h.Access))})
	}
	return c
}

// checkSite turns a card into rows and lists what is wrong with it.
func checkSite(in contract.SiteCard, org, id uuid.UUID, bad *invalid.Error) siteRows {
	r := siteRows{site: store.Site{
		OrganisationID: org, ID: id, Name: strings.TrimSpace(in.Name), Zone: in.Zone, Code: optional.Trim(in.Code), Status: "open",
		Address: optional.Trim(in.Address), Contact: optional.Trim(in.Contact), Phone: optional.Trim(in.Phone), Keys: optional.Trim(in.Keys), Water: optional.Or(in.Water, unknown),
		WaterNote: optional.Trim(in.WaterNote),
		Power:     optional.Trim(in.Power), Mail: optional.Trim(in.Mail), AccessNote: optional.Trim(in.AccessNote), Lat: in.Lat, Lon: in.Lon, AltitudeM: in.AltitudeM, OverPrice: in.OverPrice, Climate: (*string)(in.Climate), AnchorMonth: in.AnchorMonth, LoadMonths: optional.Value(in.LoadMonths),
	}}
	if in.Status != nil {
		r.site.Status = string(*in.Status)
	}
	if months := optional.Value(in.LoadMonths); len(months) > 0 && slices.Max(months) <= 0 {
		bad.Addf("/card/load_months", "at least one month must be above 0")
	}
	if r.site.Name == "" {
		bad.Addf("/card/name", "is empty")
	}
	if _, err := time.LoadLocation(in.Zone); err != nil || in.Zone == "" {
		bad.Addf("/card/zone", "is not a time zone, such as Europe/Oslo")
	}
	organisation.Within(bad, "/card/lat", in.Lat, -90, 90, "degrees")
	organisation.Within(bad, "/card/lon", in.Lon, -180, 180, "degrees")
	organisation.Within(bad, "/card/altitude_m", in.AltitudeM, -430, 9000, "m")
	if (in.Lat == nil) != (in.Lon == nil) {
		bad.Addf("/card/lat", "latitude and longitude belong together")
	}
	for i, p := range optional.Value(in.Placements) {
		at := fmt.Sprintf("/card/placements/%d", i)
		if strings.TrimSpace(p.Name) == "" {
			bad.Addf(at+"/name", "is empty")
		}
		organisation.Within(bad, at+"/height_m", p.HeightM, 0, 200, "m")
		r.placements = append(r.placements, store.Placement{
			OrganisationID: org, ID: optional.Value(p.ID), SiteID: id, Name: strings.TrimSpace(p.Name), Setting: string(p.Setting), NearFood: p.NearFood,
			Occupied: p.Occupied, WallBacked: p.WallBacked, HeightM: p.HeightM, Drain: optional.Or(p.Drain, unknown), DrainNote: optional.Trim(p.DrainNote),
			Water: optional.Or(p.Water, unknown),
		})
	}
	for i, w := range optional.Value(in.Windows) {
		at := fmt.Sprintf("/card/windows/%d", i)
		from, err := time.Parse("15:04", w.Starts)
		if err != nil {
			bad.Addf(at+"/starts", "must be a time of day such as 07:30")
		}
		to, err2 := time.Parse("15:04", w.Ends)
		if err2 != nil {
			bad.Addf(at+"/ends", "must be a time of day such as 16:00")
		}
		if err == nil && err2 == nil && !to.After(from) {
			bad.Addf(at+"/ends", "must be later than it starts; write a night as two windows")
		}
		if w.From != nil && w.To != nil && *w.To <= *w.From {
			bad.Addf(at+"/to", "must be later than the first day")
		}
		r.windows = append(r.windows, store.SiteWindow{
			OrganisationID: org, ID: optional.Value(w.ID), SiteID: id, Kind: string(w.Kind), Weekdays: w.Weekdays, Starts: w.Starts, Ends: w.Ends,
			Valid: store.DateRange{From: w.From, To: w.To}, Note: strings.TrimSpace(w.Note),
		})
	}
	for _, h := range optional.Value(in.Holidays) {
		r.holidays = append(r.holidays, store.Holiday{
			OrganisationID: org, ID: optional.Value(h.ID), SiteID: id, Day: store.Date(h.Day), Name: strings.TrimSpace(h.Name), Access: optional.Or(h.Access, "closed"),
		})
	}
	return r
}

// placeWindows ties windows to the placements they name; the placements have their keys by now.
func placeWindows(bad *invalid.Error, in contract.SiteCard, r siteRows) {
	for i, w := range optional.Value(in.Windows) {
		name := optional.Trim(w.Placement)
		if name == "" {
			continue
		}
		for _, p := range r.placements {
			if p.Name == name {
				r.windows[i].PlacementID = new(p.ID)
			}
		}
		if r.windows[i].PlacementID == nil {
			bad.Addf(fmt.Sprintf("/card/windows/%d/placement", i), "is not a placement of the site")
		}
	}
}

// Site is a site with its card, the factors at work there and what happened there.
func (s *Service) Site(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.SiteRecord, error) {
	return s.siteRecord(s.Tenant(ctx, a), id)
}

func (s *Service) siteRecord(t store.Tenant, id uuid.UUID) (contract.SiteRecord, error) {
	out := contract.SiteRecord{ID: id, Factors: []contract.FactorLine{}, Events: []contract.FactorEvent{}}
	r, err := loadSite(t, id)
	if err != nil {
		return out, err
	}
	out.Version, out.Card = r.site.Version, r.card()
	units, err := t.UnitsAt(id)
	if err != nil {
		return out, err
	}
	out.Units = len(units)
	names, err := s.Names(t)
	if err != nil {
		return out, err
	}
	if out.Factors, err = s.factorsAt(t, r); err != nil {
		return out, err
	}
	events, err := store.Where[store.FactorEvent](t, "site_id", []uuid.UUID{id}, "day DESC, id DESC")
	for _, e := range events {
		out.Events = append(out.Events, contract.FactorEvent{ID: e.ID, Kind: e.Kind, Day: e.Day.Day(), Note: e.Note, By: names.Of(e.AccountID)})
	}
	return out, err
}

// factorsAt lists the factors at work, or once at work, at a site and its placements.
func (s *Service) factorsAt(t store.Tenant, r siteRows) ([]contract.FactorLine, error) {
	at := []uuid.UUID{r.site.ID}
	name := map[uuid.UUID]string{}
	for _, p := range r.placements {
		at, name[p.ID] = append(at, p.ID), p.Name
	}
	rows, err := t.FactorsAt(at)
	if err != nil {
		return nil, err
	}
	defs, err := store.All[store.FactorDef](t, "position")
	if err != nil {
		return nil, err
	}
	def := store.Index(defs, func(d store.FactorDef) uuid.UUID { return d.ID })
	out := []contract.FactorLine{}
	for _, f := range rows {
		line := contract.FactorLine{
			ID: f.ID, Name: def[f.FactorID].Name, Multiplier: def[f.FactorID].Multiplier, Scope: contract.FactorScopeSite,
			From: f.Valid.From, To: f.Valid.To, Note: &f.Note, InForce: new(f.Valid.Holds(s.Today(r.site.Zone))),
		}
		if f.PlacementID != nil {
			line.Scope, line.Place = contract.FactorScopePlacement, new(name[*f.PlacementID])
		}
		out = append(out, line)
	}
	return out, nil
}

// AddSite adds a site with its placements, windows and holidays.
func (s *Service) AddSite(ctx context.Context, a organisation.Actor, in contract.SiteCard) (contract.Created, error) {
	out := contract.Created{ID: store.NewID()}
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		return s.storeSite(t, a, siteRows{site: store.Site{ID: out.ID}}, in, "added")
	})
	return out, err
}

// SaveSite writes a site's card; Stale when somebody else saved it since it was read.
func (s *Service) SaveSite(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.SiteChange) (contract.SiteRecord, error) {
	var out contract.SiteRecord
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		before, err := loadSite(t, id)
		if err != nil {
			return err
		}
		if before.site.Version != in.Version {
			current, err := s.siteRecord(t, id)
			return errors.Join(err, organisation.Stale{Current: current})
		}
		if err := s.storeSite(t, a, before, in.Card, "changed"); err != nil {
			return err
		}
		out, err = s.siteRecord(t, id)
		return err
	})
	return out, err
}

func (s *Service) storeSite(t store.Tenant, a organisation.Actor, before siteRows, in contract.SiteCard, action string) error {
	var bad invalid.Error
	id := before.site.ID
	r := checkSite(in, t.Org, id, &bad)
	places := organisation.Compare(&bad, "/card/placements", before.placements, r.placements, func(x *store.Placement) *uuid.UUID { return &x.ID })
	placeWindows(&bad, in, r)
	windows := organisation.Compare(&bad, "/card/windows", before.windows, r.windows, func(x *store.SiteWindow) *uuid.UUID { return &x.ID })
	holidays := organisation.Compare(&bad, "/card/holidays", before.holidays, r.holidays, func(x *store.Holiday) *uuid.UUID { return &x.ID })
	if err := bad.Err(); err != nil {
		return err
	}
	r.site.Version = before.site.Version + 1
	var err error
	if before.site.Version == 0 {
		err = store.Insert(t, r.site)
	} else {
		err = store.SaveVersion(t, id, before.site.Version, &r.site)
	}
	if errors.Is(err, store.ErrDuplicate) {
		return invalid.At("/card/name", "is another site's name")
	}
	if err != nil {
		return err
	}
	for _, err := range []error{
		places.Store(t, "/card/placements", "one that was taken out has units or once had; it stays"),
		windows.Store(t, "/card/windows", "is in use"), holidays.Store(t, "/card/holidays", "is in use"),
	} {
		if err != nil {
			return err
		}
	}
	after, err := loadSite(t, id)
	if err != nil {
		return err
	}
	var was any
	if before.site.Version > 0 {
		was = before.card()
	}
	if err := organisation.RecordChange(t, s.Stamp(), a, "site", id, action, was, after.card()); err != nil {
		return err
	}
	units, err := t.UnitsAt(id)
	if err != nil {
		return err
	}
	return s.learner.Refresh(t, units)
}

// AddFactorEvent notes something that happened at a site and asks for a look: the units there that stand outdoors
// are best looked at, whatever the calendar says.
func (s *Service) AddFactorEvent(ctx context.Context, a organisation.Actor, site uuid.UUID, in contract.NewFactorEvent) (contract.Created, error) {
	row := store.FactorEvent{
		OrganisationID: a.Org.ID, ID: store.NewID(), SiteID: site, Kind: strings.TrimSpace(in.Kind), Day: store.Date(in.Day),
		Note: optional.Trim(in.Note), AccountID: &a.AccountID,
	}
	out := contract.Created{ID: row.ID}
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	if in.Day > s.Today(a.Org.Zone) {
		return out, invalid.At("/day", "is in the future")
	}
	t := s.Tenant(ctx, a)
	if err := organisation.SeesSite(t, site); err != nil {
		return out, err
	}
	return out, t.InTransaction(func(t store.Tenant) error {
		if err := store.Insert(t, row); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, "site", site, "event noted", organisation.AuditDetail{Note: row.Kind})
	})
}

// EndSiteFactor sets or corrects the end and note of a factor at work.
func (s *Service) EndSiteFactor(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.FactorChange) (contract.FactorLine, error) {
	var out contract.FactorLine
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.SiteFactor](t, id)
		if err != nil {
			return err
		}
		units, entity, record, err := s.bearsOn(t, row)
		if err != nil {
			return err
		}
		before := row
		if in.To != nil && row.Valid.From != nil && *in.To <= *row.Valid.From {
			return invalid.At("/to", "must be later than the first day, %s", row.Valid.From)
		}
		row.Valid.To = in.To
		if in.Note != nil {
			row.Note = optional.Trim(in.Note)
		}
		if err := factorTaken(store.Save(t, id, &row)); err != nil {
			return err
		}
		def, err := store.Get[store.FactorDef](t, row.FactorID)
		if err != nil {
			return err
		}
		out = contract.FactorLine{
			ID: id, Name: def.Name, Multiplier: def.Multiplier, From: row.Valid.From, To: row.Valid.To, Note: &row.Note,
			InForce: new(row.Valid.Holds(s.Today(a.Org.Zone))), Scope: contract.FactorScope(entity),
		}
		shown := func(f store.SiteFactor) any {
			return map[string]any{def.Name: map[string]any{"to": f.Valid.To, "note": f.Note}}
		}
		if err := organisation.RecordChange(t, s.Stamp(), a, entity, record, "factor changed", shown(before), shown(row)); err != nil {
			return err
		}
		return s.learner.Refresh(t, units)
	})
	return out, err
}

// bearsOn lists the units a factor bears on and the record whose history should tell of it.
func (s *Service) bearsOn(t store.Tenant, f store.SiteFactor) (units []uuid.UUID, entity string, record uuid.UUID, err error) {
	switch {
	case f.UnitID != nil:
		return []uuid.UUID{*f.UnitID}, "unit", *f.UnitID, organisation.SeesUnit(t, *f.UnitID)
	case f.PlacementID != nil:
		place, err := store.Get[store.Placement](t, *f.PlacementID)
		if err != nil {
			return nil, "", uuid.Nil, err
		}
		record = place.SiteID
	default:
		record = *f.SiteID
	}
	if err := organisation.SeesSite(t, record); err != nil {
		return nil, "", uuid.Nil, err
	}
	units, err = t.UnitsOnceAt(record)
	return units, "site", record, err
}
