package planning

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/exchange"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// feedBack is how many days back a calendar reaches.
const feedBack = 30

// Feed is a crew's rounds as iCalendar, for whoever holds the address: published ones, changed ones under the same name with
// the next number, and those withdrawn as such.
func (s *Service) Feed(ctx context.Context, token string) ([]byte, error) {
	row, err := s.Store.FindFeed(ctx, organisation.HashToken(token))
	if err != nil {
		return nil, err
	}
	t := s.Store.For(ctx, row.OrganisationID)
	crew, err := store.Get[store.Crew](t, row.CrewID)
	if err != nil {
		return nil, err
	}
	org, err := s.Store.Organisation(ctx, row.OrganisationID)
	if err != nil {
		return nil, err
	}
	zone, err := time.LoadLocation(org.Zone)
	if err != nil {
		return nil, err
	}
	rounds, err := t.RoundsOfCrew(row.CrewID, s.Today(org.Zone).Add(-feedBack))
	if err != nil {
		return nil, err
	}
	views := make([]contract.Round, len(rounds))
	units := []uuid.UUID{}
	for i, r := range rounds {
		if views[i], err = s.sentRound(t, r); err != nil {
			return nil, err
		}
		units = append(units, unitsOf(views[i].Stops)...)
	}
	// The units are read once for all rounds, not for each.
	loads, err := s.newLoadBook(t, units)
	if err != nil {
		return nil, err
	}
	entries := []exchange.CalendarEntry{}
	for i, r := range rounds {
		views[i].Load = loads.list(views[i].Stops)
		entries = append(entries, calendarEntry(r, views[i], zone))
	}
	return exchange.Calendar(crew.Name, entries), nil
}

func calendarEntry(r store.Round, view contract.Round, zone *time.Location) exchange.CalendarEntry {
	e := exchange.CalendarEntry{
		UID: r.UID.String() + "@nextround", Sequence: r.Sequence, Changed: r.ChangedAt, CalledOff: r.Status == "withdrawn",
		Starts: timeOn(view.Day, view.Starts, zone), Ends: timeOn(view.Day, view.Back, zone), Description: roundText(view),
	}
	if !e.Ends.After(e.Starts) {
		e.Ends = e.Starts.Add(time.Duration(view.Minutes) * time.Minute)
	}
	places := []string{}
	for _, stop := range view.Stops {
		places = append(places, stop.Site)
	}
	e.Summary = fmt.Sprintf("%s: %s", view.Crew, strings.Join(places, ", "))
	if len(view.Stops) > 0 {
		e.Location = strings.Trim(view.Stops[0].Site+", "+view.Stops[0].Address, ", ")
	}
	if e.CalledOff {
		e.Summary = "Withdrawn: " + e.Summary
	}
	return e
}

// timeOn is a clock time of a day; midnight where none is known.
func timeOn(day calendar.Day, at string, zone *time.Location) time.Time {
	y, m, d := day.Time().Date()
	c, err := time.Parse("15:04", at)
	if err != nil {
		return time.Date(y, m, d, 0, 0, 0, 0, zone)
	}
	return time.Date(y, m, d, c.Hour(), c.Minute(), 0, 0, zone)
}

// RoundSheets are the job sheets of a round as PDF.
func (s *Service) RoundSheets(ctx context.Context, a organisation.Actor, id uuid.UUID) ([]byte, error) {
	r, err := s.Round(ctx, a, id)
	if err != nil {
		return nil, err
	}
	return sheetsPDF(r)
}

func sheetsPDF(r contract.Round) ([]byte, error) {
	sheets := []exchange.Sheet{}
	for i, stop := range r.Stops {
		head := fmt.Sprintf("%s · %s · stop %d of %d · sent %d×", longDate(r.Day), r.Crew, i+1, len(r.Stops), r.Sequence)
		if r.Status == contract.RoundStatusWithdrawn {
			head = "CALLED OFF · " + head
		}
		sheet := exchange.Sheet{
			Head: head, Title: stop.Site, Cautions: r.Cautions, Deferral: r.Deferral,
			Lines: []string{fmt.Sprintf("Arrive %s, at the latest %s; done %s.", stop.Arrive, stop.Latest, stop.Leave)},
		}
		for _, l := range []string{stop.Address, stop.Contact, stop.AccessNote} {
			if l != "" {
				sheet.Lines = append(sheet.Lines, l)
			}
		}
		for _, w := range stop.Windows {
			sheet.Lines = append(sheet.Lines, strings.TrimSpace(fmt.Sprintf("%s %s to %s %s", windowWords[w.Kind], w.Starts, w.Ends, w.Note)))
		}
		for _, j := range stop.Jobs {
			job := exchange.SheetJob{Title: optional.Value(j.Starts) + "  " + jobText(j), Detail: []string{strings.Trim(j.Class+", "+j.Placement, ", ")}}
			if len(j.Sides) > 0 {
				job.Detail = append(job.Detail, "Sides to reach: "+strings.Join(j.Sides, ", "))
			}
			for _, why := range j.Reasons {
				job.Detail = append(job.Detail, why.Text)
			}
			for _, rider := range j.Riders {
				job.Detail = append(job.Detail, rider.Text)
			}
			sheet.Jobs = append(sheet.Jobs, job)
		}
		sheets = append(sheets, sheet)
	}
	load := []string{}
	for _, l := range r.Load {
		load = append(load, l.Text)
	}
	var out bytes.Buffer
	err := exchange.WriteSheets(&out, "Round of "+longDate(r.Day)+", "+r.Crew, sheets, load, r.PublishedAt)
	return out.Bytes(), err
}

var windowWords = map[contract.WindowKind]string{
	contract.WindowKindOpen: "Open", contract.WindowKindAllowed: "Work allowed", contract.WindowKindQuiet: "Quiet hours", contract.WindowKindBlackout: "No work",
}

// longDate writes a date out.
func longDate(d calendar.Day) string { return d.Time().Format("Monday 2 January 2006") }
