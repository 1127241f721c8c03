package planning

import (
	"context"
	"math"
	"reflect"
	"slices"
	"sort"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/wording"
)

const (
	dayMinutes = 1440.0
	// leastC is the temperature below which no wet work is done outdoors; a day counts by the middle of its low and high,
	// since the work is done by day (the limit is common practice, the middle an assumption).
	leastC = 4.0
	// forecastFar is how far ahead the planner asks for the weather.
	forecastFar = 16
)

// planBook is a planning problem in the making.
type planBook struct {
	*jobBook
	start    calendar.Day
	days     int
	zone     *time.Location
	crews    []store.Crew
	hours    map[uuid.UUID][]store.CrewHours
	absences map[uuid.UUID][]store.CrewAbsence
	locks    map[string]bool // crew and day
	problem  round.Problem
	calendar map[string]bool
	notes    []string
}

// newPlanBook reads all that a plan is made from.
func (s *Service) newPlanBook(ctx context.Context, t store.Tenant, a organisation.Actor, start calendar.Day, days int) (*planBook, error) {
	jobs, err := s.newJobBook(t, start, days-1)
	if err != nil {
		return nil, err
	}
	b := &planBook{jobBook: jobs, start: start, days: days, locks: map[string]bool{}, calendar: map[string]bool{}, notes: []string{}}
	if b.zone, err = time.LoadLocation(a.Org.Zone); err != nil {
		return nil, err
	}
	if b.crews, err = store.All[store.Crew](t, "name"); err != nil {
		return nil, err
	}
	hours, err := store.All[store.CrewHours](t, "crew_id, weekday")
	if err != nil {
		return nil, err
	}
	absences, err := store.All[store.CrewAbsence](t, "lower(during)")
	if err != nil {
		return nil, err
	}
	b.hours = store.By(hours, func(h store.CrewHours) uuid.UUID { return h.CrewID })
	b.absences = store.By(absences, func(x store.CrewAbsence) uuid.UUID { return x.CrewID })
	stop := b.Price("stop")
	b.problem = round.Problem{
		Start: start, Days: days, StopMinutes: &stop, MovePrice: b.Price("move_published"), Places: []round.Place{}, Hours: []round.Hours{}, Jobs: []round.Job{}, Crews: []round.Crew{},
		Travel: round.Travel{SpeedKMH: b.Price("speed"), RoadFactor: math.Max(1, b.Price("road_factor"))},
	}
	b.places(s, ctx)
	b.crewsOf()
	b.leaveToday()
	for _, j := range b.jobs {
		b.add(j)
	}
	b.fix()
	return b, nil
}

// minuteOf is a clock time at a place on a day, in minutes that really pass from the crew's midnight: where the clocks
// change, or the place lies in another zone, it is not what the clock says.
func (b *planBook) minuteOf(day calendar.Day, at string, zone *time.Location) float64 {
	clock, err := time.Parse("15:04", at[:min(5, len(at))])
	if err != nil {
		return 0
	}
	y, m, d := day.Time().Date()
	midnight := time.Date(y, m, d, 0, 0, 0, 0, b.zone)
	return time.Date(y, m, d, clock.Hour(), clock.Minute(), 0, 0, zone).Sub(midnight).Minutes()
}

// clockIn is the clock at a place at a minute of a day.
func clockIn(zone *time.Location, day calendar.Day, minute float64) string {
	y, m, d := day.Time().Date()
	return time.Date(y, m, d, 0, 0, 0, 0, zone).Add(time.Duration(math.Round(minute)) * time.Minute).Format("15:04")
}

// places are the sites; where coordinates are missing, driving there counts as nothing and is said.
func (b *planBook) places(s *Service, ctx context.Context) {
	wet := map[uuid.UUID]bool{}
	for _, j := range b.jobs {
		if j.wet && j.d.Outdoors() {
			wet[j.d.Site.ID] = true
		}
	}
	var middle [2]float64
	known := 0.0
	for _, x := range b.SiteRows {
		if x.Lat != nil && x.Lon != nil {
			middle[0], middle[1], known = middle[0]+*x.Lat, middle[1]+*x.Lon, known+1
		}
	}
	if known > 0 {
		middle[0], middle[1] = middle[0]/known, middle[1]/known
	}
	unknown, silent := 0, false
	for _, x := range b.SiteRows {
		p := round.Place{ID: x.ID.String(), Lat: middle[0], Lon: middle[1], Water: b.tapAt(x)}
		if x.Lat != nil && x.Lon != nil {
			p.Lat, p.Lon = *x.Lat, *x.Lon
		} else {
			unknown++
		}
		if wet[x.ID] && !silent {
			days, ok := b.tooCold(s, ctx, x)
			p.TooCold, silent = days, !ok
		}
		b.problem.Places = append(b.problem.Places, p)
	}
	if unknown > 0 {
		b.notes = append(b.notes, wording.Counted(unknown, "site has no coordinates; driving", "sites have no coordinates; driving")+" there is counted from the middle of the others.")
	}
	if silent {
		b.notes = append(b.notes, "No weather forecast could be had: wet work outdoors is planned as if it were warm enough.")
	}
}

// tapAt reports whether a tank can be filled at a site: the site says so, or one of its placements.
func (b *planBook) tapAt(x store.Site) bool {
	return x.Water == string(contract.YesNoYes) || slices.ContainsFunc(b.PlacementRows, func(p store.Placement) bool {
		return p.SiteID == x.ID && p.Water == string(contract.YesNoYes)
	})
}

// tooCold are the days on which wet work outdoors is ruled out at a site by the forecast.
func (b *planBook) tooCold(s *Service, ctx context.Context, site store.Site) (days []calendar.Day, ok bool) {
	if s.forecasts == nil || site.Lat == nil || site.Lon == nil {
		return nil, s.forecasts != nil
	}
	in, err := s.forecasts.Forecast(ctx, *site.Lat, *site.Lon, b.start, forecastFar)
	if err != nil {
		return nil, false
	}
	for _, d := range in.Days {
		if (d.LowC+d.HighC)/2 < leastC {
			days = append(days, d.Day)
		}
	}
	return days, true
}

// crewsOf are the crews with their days; one without a base starts from the site with the most units.
func (b *planBook) crewsOf() {
	units := map[uuid.UUID]int{}
	for _, u := range b.Rows.Units {
		units[b.Placements[u.PlacementID].SiteID]++
	}
	var most uuid.UUID
	for _, x := range b.SiteRows {
		if most == uuid.Nil || units[x.ID] > units[most] {
			most = x.ID
		}
	}
	for _, c := range b.crews {
		base := most
		if c.BaseSiteID != nil {
			base = *c.BaseSiteID
		}
		if base == uuid.Nil || len(b.problem.Crews) == 64 {
			continue
		}
		labour := b.Price("labour")
		crew := round.Crew{
			ID: c.ID.String(), Base: base.String(), Skills: c.Skills, Kit: c.Kit, TankL: c.TankL, Overtime: float64(c.OvertimeMinutes),
			Hour: labour*float64(c.People) + b.Price("vehicle"), OvertimeHour: b.Price("overtime") * float64(c.People), DayFee: c.DayFee,
		}
		if c.Kind == "contractor" {
			crew.Contractor = true
			crew.Hour = b.Price("contractor") * float64(c.People)
			crew.WorkHour = math.Max(0, b.Price("contractor")-labour) * float64(c.People)
		}
		for d := range b.days {
			day := b.start.Add(d)
			shift := b.shift(c, day)
			usual := crew.Weekly[day.Weekday()]
			switch {
			case d < 7:
				crew.Weekly[day.Weekday()] = shift
			case shift != usual:
				crew.Dated = append(crew.Dated, round.DayShift{Day: day, Shift: shift})
			}
		}
		b.problem.Crews = append(b.problem.Crews, crew)
	}
	if len(b.crews) == 0 {
		b.notes = append(b.notes, "There is no crew yet: add one with its hours under People.")
	}
}

// shift is what is left of a crew on a day.
func (b *planBook) shift(c store.Crew, day calendar.Day) round.Shift {
	people := c.People
	for _, x := range b.absences[c.ID] {
		if x.During.Holds(day) {
			people -= x.People
		}
	}
	for _, h := range b.hours[c.ID] {
		if h.Weekday == int(day.Weekday()) && people > 0 {
			return round.Shift{Starts: b.minuteOf(day, h.Starts, b.zone), Minutes: float64(h.Minutes), People: people}
		}
	}
	return round.Shift{}
}

// hoursFor are when work may go on at a placement; noisy work keeps out of quiet hours.
func (b *planBook) hoursFor(j *clockJob) string {
	site, placement := j.d.Site, j.d.Placement
	id := site.ID.String() + "/" + placement.ID.String()
	if j.noisy {
		id += "/noisy"
	}
	if b.calendar[id] {
		return id
	}
	zone, err := time.LoadLocation(site.Zone)
	if err != nil {
		zone = b.zone
	}
	h := round.Hours{ID: id}
	for d := range b.days {
		day := b.start.Add(d)
		spans := b.spans(site, placement.ID, j.noisy, day, zone)
		switch {
		case d < 7:
			h.Weekly[day.Weekday()] = spans
		case !reflect.DeepEqual(spans, h.Weekly[day.Weekday()]):
			h.Dated = append(h.Dated, round.DaySpans{Day: day, Spans: spans})
		}
	}
	b.calendar[id] = true
	b.problem.Hours = append(b.problem.Hours, h)
	return id
}

// spans of a day. Where a place has hours in which work is allowed, only these count, less the time to hand it back; else
// the hours it is open; else all day. No work goes on in a blackout or while it is closed, and no noisy work in quiet hours.
func (b *planBook) spans(site store.Site, placement uuid.UUID, noisy bool, day calendar.Day, zone *time.Location) []round.Span {
	for _, x := range b.holidays[site.ID] {
		if x.Day.Day() == day && x.Access == "closed" {
			return []round.Span{}
		}
	}
	if site.Status == "closed" {
		return []round.Span{}
	}
	var allowed, open, shut []round.Span
	hasAllowed, hasOpen := false, false
	for _, w := range b.windows[site.ID] {
		if w.PlacementID != nil && *w.PlacementID != placement || !w.Valid.Holds(day) {
			continue
		}
		today := slices.Contains(w.Weekdays, int(day.Weekday()))
		span := round.Span{From: b.minuteOf(day, w.Starts, zone), To: b.minuteOf(day, w.Ends, zone)}
		switch w.Kind {
		case "allowed":
			hasAllowed = true
			if span.To -= b.Price("hand_back"); today && span.To > span.From {
				allowed = append(allowed, span)
			}
		case "open":
			hasOpen = true
			if today {
				open = append(open, span)
			}
		case "blackout":
			if today {
				shut = append(shut, span)
			}
		case "quiet":
			if today && noisy {
				shut = append(shut, span)
			}
		}
	}
	spans := []round.Span{{From: 0, To: dayMinutes}}
	switch {
	case hasAllowed:
		spans = allowed
	case hasOpen:
		spans = open
	}
	return without(union(spans), shut)
}

// union joins spans that touch, in their order.
func union(spans []round.Span) []round.Span {
	out := []round.Span{}
	sort.Slice(spans, func(i, j int) bool { return spans[i].From < spans[j].From })
	for _, s := range spans {
		if s.From < 0 {
			s.From = 0
		}
		if n := len(out); n > 0 && s.From <= out[n-1].To {
			out[n-1].To = math.Max(out[n-1].To, s.To)
		} else if s.To > s.From {
			out = append(out, s)
		}
	}
	return out
}

// without takes spans away.
func without(spans, shut []round.Span) []round.Span {
	for _, x := range shut {
		rest := []round.Span{}
		for _, s := range spans {
			if x.To <= s.From || x.From >= s.To {
				rest = append(rest, s)
				continue
			}
			if x.From > s.From {
				rest = append(rest, round.Span{From: s.From, To: x.From})
			}
			if x.To < s.To {
				rest = append(rest, round.Span{From: x.To, To: s.To})
			}
		}
		spans = rest
	}
	return spans
}

// leaveToday leaves out what is on a round of a day before the plan begins: its crew is at it, and what it does not do comes
// back as its visits and returns say.
func (b *planBook) leaveToday() {
	gone := map[string]bool{}
	b.jobs = slices.DeleteFunc(b.jobs, func(j *clockJob) bool {
		at, ok := b.onRound[j.view.Key]
		gone[j.view.Key] = ok && at.day < b.start
		return gone[j.view.Key]
	})
	for _, j := range b.jobs {
		if gone[j.after] {
			j.after, j.gap = "", 0
		}
	}
}

// add puts a job into the problem.
func (b *planBook) add(j *clockJob) {
	skills, kit, litres, outdoorWet := b.needs(j)
	job := round.Job{
		ID: j.view.Key, Place: j.d.Site.ID.String(), Hours: b.hoursFor(j), Due: j.view.Due, Minutes: j.view.Minutes, People: j.view.People, Contractor: j.contracted,
		Skills: skills, Kit: kit, WaterL: litres, OutdoorWet: outdoorWet, Waiting: j.waiting, After: j.after, Gap: j.gap,
	}
	b.problem.Jobs = append(b.problem.Jobs, job)
}

// fix ties down what is on rounds that went out.
func (b *planBook) fix() {
	known := map[string]bool{}
	for _, j := range b.problem.Jobs {
		known[j.ID] = true
	}
	crews := map[uuid.UUID]bool{}
	for _, c := range b.problem.Crews {
		crews[uuid.MustParse(c.ID)] = true
	}
	keys := []string{}
	for key := range b.onRound {
		keys = append(keys, key)
	}
	sort.Strings(keys)
	for _, key := range keys {
		at := b.onRound[key]
		if off := at.day.Sub(b.start); known[key] && crews[at.crew] && off >= 0 && off < b.days {
			b.problem.Fixed = append(b.problem.Fixed, round.Fixed{Job: key, Crew: at.crew.String(), Day: at.day})
		}
	}
}
