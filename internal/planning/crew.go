package planning

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/outbox"
	"nextround/internal/store"
)

// Crews lists the crews with their hours and absences.
func (s *Service) Crews(ctx context.Context, a organisation.Actor) ([]contract.CrewRecord, error) {
	all, err := s.crewRecords(s.Tenant(ctx, a))
	for i := range all {
		c := &all[i].Card
		if a.Role != contract.RoleManager || a.Sites != nil { // what they cost and where they are written to is for who plans them
			c.DayFee, c.Mail, c.Members = nil, nil, nil
		}
		if a.Sites != nil && c.BaseSiteID != nil && !slices.Contains(a.Sites, *c.BaseSiteID) {
			c.BaseSiteID = nil
		}
		if a.Role == contract.RoleViewer {
			for k := range all[i].Absences {
				all[i].Absences[k].Reason = ""
			}
		}
	}
	return all, err
}

func (s *Service) crewRecords(t store.Tenant) ([]contract.CrewRecord, error) {
	crews, err := store.All[store.Crew](t, "name")
	if err != nil {
		return nil, err
	}
	hours, err := store.All[store.CrewHours](t, "crew_id, weekday")
	if err != nil {
		return nil, err
	}
	absences, err := store.All[store.CrewAbsence](t, "lower(during), id")
	if err != nil {
		return nil, err
	}
	members, err := store.All[store.CrewMember](t, "lower(during), person_id")
	if err != nil {
		return nil, err
	}
	in := store.By(members, func(m store.CrewMember) uuid.UUID { return m.CrewID })
	feeds, err := t.OpenFeeds()
	if err != nil {
		return nil, err
	}
	of := store.By(hours, func(h store.CrewHours) uuid.UUID { return h.CrewID })
	away := store.By(absences, func(x store.CrewAbsence) uuid.UUID { return x.CrewID })
	out := []contract.CrewRecord{}
	for _, c := range crews {
		r := contract.CrewRecord{ID: c.ID, Card: crewCard(c), Absences: []contract.Absence{}}
		for _, h := range of[c.ID] {
			r.Card.Hours = append(r.Card.Hours, contract.CrewHours{Weekday: h.Weekday, Starts: dossier.Clock(h.Starts), Minutes: h.Minutes})
		}
		r.Card.Members = &[]contract.CrewMember{}
		for _, m := range in[c.ID] {
			one := contract.CrewMember{PersonID: m.PersonID, From: m.During.From}
			if m.During.To != nil {
				one.To = new(m.During.To.Add(-1))
			}
			*r.Card.Members = append(*r.Card.Members, one)
		}
		for _, x := range away[c.ID] {
			one := contract.Absence{ID: x.ID, From: *x.During.From, People: x.People, Reason: x.Reason}
			if x.During.To != nil {
				one.To = new(x.During.To.Add(-1))
			}
			r.Absences = append(r.Absences, one)
		}
		r.HasFeed = slices.ContainsFunc(feeds, func(f store.FeedToken) bool { return f.CrewID == c.ID })
		out = append(out, r)
	}
	return out, nil
}

func crewCard(c store.Crew) contract.CrewCard {
	skills, kit := []string(c.Skills), []string(c.Kit)
	return contract.CrewCard{
		Name: c.Name, Hours: []contract.CrewHours{}, Kind: new(contract.CrewCardKind(c.Kind)), BaseSiteID: c.BaseSiteID, People: &c.People, Skills: &skills,
		Kit: &kit, TankL: &c.TankL, OvertimeMinutes: &c.OvertimeMinutes, DayFee: &c.DayFee, Mail: &c.Mail, Version: &c.Version,
	}
}

func (s *Service) oneCrew(t store.Tenant, id uuid.UUID) (contract.CrewRecord, error) {
	all, err := s.crewRecords(t)
	if err != nil {
		return contract.CrewRecord{}, err
	}
	at := slices.IndexFunc(all, func(c contract.CrewRecord) bool { return c.ID == id })
	if at < 0 {
		return contract.CrewRecord{}, organisation.ErrNotFound
	}
	return all[at], nil
}

func checkCrew(in contract.CrewCard) (store.Crew, error) {
	var bad invalid.Error
	row := store.Crew{
		Name: strings.TrimSpace(in.Name), Kind: optional.Or(in.Kind, "own"), BaseSiteID: in.BaseSiteID, People: 1, Skills: tidyWords(in.Skills), Kit: store.Array[string]{"ladder"},
		TankL: optional.Value(in.TankL), OvertimeMinutes: optional.Value(in.OvertimeMinutes), DayFee: optional.Value(in.DayFee), Mail: optional.Trim(in.Mail),
	}
	if in.People != nil {
		row.People = *in.People
	}
	if in.Kit != nil {
		row.Kit = tidyWords(in.Kit)
	}
	if row.Name == "" {
		bad.Addf("/name", "is empty")
	}
	if row.Mail != "" {
		if _, err := outbox.MailAddress(row.Mail); err != nil {
			bad.Addf("/mail", "is not a mail address")
		}
	}
	seen := map[int]bool{}
	for i, h := range in.Hours {
		if _, err := time.Parse("15:04", h.Starts); err != nil {
			bad.Addf(fmt.Sprintf("/hours/%d/starts", i), "must be a time of day such as 07:30")
		}
		if seen[h.Weekday] {
			bad.Addf(fmt.Sprintf("/hours/%d/weekday", i), "is given twice")
		}
		seen[h.Weekday] = true
	}
	return row, bad.Err()
}

// tidyWords are words as they are kept: trimmed, in lower case, each once.
func tidyWords(in *[]string) store.Array[string] {
	out := store.Array[string]{}
	for _, w := range optional.Value(in) {
		if w = strings.ToLower(strings.TrimSpace(w)); w != "" && !slices.Contains(out, w) {
			out = append(out, w)
		}
	}
	return out
}

// SaveCrew adds a crew, or with an id changes it.
func (s *Service) SaveCrew(ctx context.Context, a organisation.Actor, id *uuid.UUID, in contract.CrewCard) (contract.CrewRecord, error) {
	var out contract.CrewRecord
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	row, err := checkCrew(in)
	if err != nil {
		return out, err
	}
	err = s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row.OrganisationID, row.ID = t.Org, store.NewID()
		if row.BaseSiteID != nil {
			if _, err := store.Get[store.Site](t, *row.BaseSiteID); err != nil {
				return invalid.At("/base_site_id", "is not one of your sites")
			}
		}
		var before contract.CrewRecord
		var err error
		row.Version = 1
		if id == nil {
			err = store.Insert(t, row)
		} else {
			if before, err = s.oneCrew(t, *id); err != nil {
				return err
			}
			read := optional.Value(in.Version)
			row.ID, row.Version = *id, read+1
			if err = store.SaveVersion(t, *id, read, &row); errors.Is(err, store.ErrStale) {
				return organisation.Stale{Current: before}
			}
		}
		switch {
		case errors.Is(err, store.ErrDuplicate):
			return invalid.At("/name", "is another crew's name")
		case err != nil:
			return err
		}
		var hours []store.CrewHours
		for _, h := range in.Hours {
			hours = append(hours, store.CrewHours{OrganisationID: t.Org, CrewID: row.ID, Weekday: h.Weekday, Starts: h.Starts, Minutes: h.Minutes})
		}
		sort.Slice(hours, func(i, j int) bool { return hours[i].Weekday < hours[j].Weekday })
		if err := t.ClearCrewHours(row.ID); err != nil {
			return err
		}
		if err := store.Insert(t, hours...); err != nil {
			return err
		}
		if err := s.saveMembers(t, row.ID, in.Members); err != nil {
			return err
		}
		if out, err = s.oneCrew(t, row.ID); err != nil {
			return err
		}
		action := "changed"
		if id == nil {
			action = "added"
		}
		return organisation.RecordChange(t, s.Stamp(), a, "crew", row.ID, action, before.Card, out.Card)
	})
	return out, err
}

// saveMembers puts people into a crew in place of those who were in it; nil changes nothing.
func (s *Service) saveMembers(t store.Tenant, crew uuid.UUID, in *[]contract.CrewMember) error {
	if in == nil {
		return nil
	}
	if err := t.ClearMembers(crew); err != nil {
		return err
	}
	others, err := store.All[store.CrewMember](t, "id")
	if err != nil {
		return err
	}
	people, err := store.All[store.Person](t, "id")
	if err != nil {
		return err
	}
	known := store.Index(people, func(p store.Person) uuid.UUID { return p.ID })
	var bad invalid.Error
	for i, m := range *in {
		at := fmt.Sprintf("/members/%d", i)
		row := store.CrewMember{OrganisationID: t.Org, ID: store.NewID(), CrewID: crew, PersonID: m.PersonID, During: store.DateRange{From: m.From}}
		if m.To != nil {
			row.During.To = new(m.To.Add(1))
		}
		if m.From != nil && m.To != nil && *m.To < *m.From {
			bad.Addf(at+"/to", "must not be before the first day")
			continue
		}
		if _, ok := known[m.PersonID]; !ok {
			bad.Addf(at+"/person_id", "is not a person of the organisation")
			continue
		}
		if slices.ContainsFunc(others, func(o store.CrewMember) bool { return o.PersonID == m.PersonID && meet(o.During, row.During) }) {
			bad.Addf(at+"/person_id", "%s is in a crew already at that time", known[m.PersonID].Name)
			continue
		}
		others = append(others, row)
		if err := store.Insert(t, row); err != nil {
			return err
		}
	}
	return bad.Err()
}

// meet reports whether two spans have a day in common.
func meet(a, b store.DateRange) bool {
	return (a.To == nil || b.From == nil || *b.From < *a.To) && (b.To == nil || a.From == nil || *a.From < *b.To)
}

// AddAbsence notes that some or all of a crew are away.
func (s *Service) AddAbsence(ctx context.Context, a organisation.Actor, crew uuid.UUID, in contract.NewAbsence) (contract.CrewRecord, error) {
	var out contract.CrewRecord
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	if in.To < in.From {
		return out, invalid.At("/to", "must not be before the first day")
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		c, err := store.GetForUpdate[store.Crew](t, crew)
		if err != nil {
			return err
		}
		row := store.CrewAbsence{
			OrganisationID: t.Org, ID: store.NewID(), CrewID: crew, During: store.DateRange{From: &in.From, To: new(in.To.Add(1))}, People: c.People,
			Reason: optional.Trim(in.Reason), AccountID: &a.AccountID, At: s.Stamp(),
		}
		if in.People != nil {
			row.People = *in.People
		}
		if row.People > c.People {
			return invalid.At("/people", "the crew has only %d", c.People)
		}
		if err := store.Insert(t, row); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "crew", crew, "absence", organisation.AuditDetail{Note: in.From.String() + " to " + in.To.String()}); err != nil {
			return err
		}
		out, err = s.oneCrew(t, crew)
		return err
	})
	return out, err
}

// EndAbsence takes an absence back.
func (s *Service) EndAbsence(ctx context.Context, a organisation.Actor, crew, id uuid.UUID) (contract.CrewRecord, error) {
	var out contract.CrewRecord
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.CrewAbsence](t, id)
		if err != nil {
			return err
		}
		if row.CrewID != crew {
			return organisation.ErrNotFound
		}
		if err := store.Delete[store.CrewAbsence](t, id); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "crew", crew, "absence taken back", nil); err != nil {
			return err
		}
		out, err = s.oneCrew(t, crew)
		return err
	})
	return out, err
}

// MakeFeed opens a crew's calendar under a new address; an older one ends.
func (s *Service) MakeFeed(ctx context.Context, a organisation.Actor, crew uuid.UUID) (contract.FeedAddress, error) {
	var out contract.FeedAddress
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	raw := make([]byte, 24)
	if _, err := rand.Read(raw); err != nil {
		return out, fmt.Errorf("making an address: %w", err)
	}
	token := base64.RawURLEncoding.EncodeToString(raw)
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if _, err := store.GetForUpdate[store.Crew](t, crew); err != nil {
			return err
		}
		now := s.RealNow()
		if err := t.CloseFeed(crew, now); err != nil {
			return err
		}
		if err := store.Insert(t, store.FeedToken{OrganisationID: t.Org, ID: store.NewID(), CrewID: crew, TokenHash: organisation.HashToken(token), AccountID: &a.AccountID, At: now}); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, "crew", crew, "calendar opened", nil)
	})
	out.Path = "/api/v1/feeds/" + token
	return out, err
}

// EndFeed closes a crew's calendar.
func (s *Service) EndFeed(ctx context.Context, a organisation.Actor, crew uuid.UUID) (contract.CrewRecord, error) {
	var out contract.CrewRecord
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if err := t.CloseFeed(crew, s.RealNow()); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "crew", crew, "calendar closed", nil); err != nil {
			return err
		}
		var err error
		out, err = s.oneCrew(t, crew)
		return err
	})
	return out, err
}
