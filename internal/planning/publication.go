package planning

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/outbox"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// PublishRounds sends crew-days of the plan out, frozen as they are. One that is out already goes out again under the same
// name with the next number where the plan has changed it; one of which the plan keeps nothing is withdrawn.
func (s *Service) PublishRounds(ctx context.Context, a organisation.Actor, key uuid.UUID, in contract.Publication) ([]contract.RoundSummary, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	out, err := organisation.Once(s.Base, s.Tenant(ctx, a), a, key, in, func(t store.Tenant) ([]contract.RoundSummary, error) {
		plan, err := s.planAt(t, in.Version)
		if err != nil {
			return nil, err
		}
		p, err := s.planPage(t, a, plan.row)
		if err != nil {
			return nil, err
		}
		var sent []store.Round
		for i, day := range in.Rounds {
			row, err := s.publish(t, a, p, day, fmt.Sprintf("/rounds/%d", i))
			if err != nil {
				return nil, err
			}
			sent = append(sent, row)
		}
		p.problem.Fixed = p.fixedNow(in.Rounds)
		if err := s.keepPlan(t, a, &p.readPlan, "published"); err != nil {
			return nil, err
		}
		return s.roundSummaries(t, sent)
	})
	if err != nil || !optional.Value(in.Mail) {
		return out, err
	}
	for _, r := range out {
		if _, err := s.MailRound(ctx, a, r.ID, contract.MailTo{}); err != nil {
			return out, err
		}
	}
	return out, nil
}

// fixedNow ties down what is out, the rounds just sent among it.
func (p *planPage) fixedNow(sent []contract.CrewDay) []round.Fixed {
	is := func(crew string, day contract.CrewDay) bool { return day.CrewID.String() == crew }
	fixed := slices.DeleteFunc(slices.Clone(p.problem.Fixed), func(f round.Fixed) bool {
		return slices.ContainsFunc(sent, func(d contract.CrewDay) bool { return is(f.Crew, d) && f.Day == d.Day })
	})
	for _, r := range p.result.Rounds {
		if !slices.ContainsFunc(sent, func(d contract.CrewDay) bool { return is(r.Crew, d) && r.Day == d.Day }) {
			continue
		}
		for _, stop := range r.Stops {
			for _, j := range stop.Jobs {
				fixed = slices.DeleteFunc(fixed, func(f round.Fixed) bool { return f.Job == j.Job })
				fixed = append(fixed, round.Fixed{Job: j.Job, Crew: r.Crew, Day: r.Day})
			}
		}
	}
	return fixed
}

func (s *Service) publish(t store.Tenant, a organisation.Actor, p *planPage, day contract.CrewDay, at string) (store.Round, error) {
	if day.Day < s.Today(a.Org.Zone) {
		return store.Round{}, invalid.At(at+"/day", "has passed")
	}
	var before *publishedRound
	for i, x := range p.out {
		if x.CrewID == day.CrewID && x.Day.Day() == day.Day {
			before = &p.out[i]
		}
	}
	n := slices.IndexFunc(p.result.Rounds, func(r round.Round) bool { return r.Crew == day.CrewID.String() && r.Day == day.Day })
	switch {
	case n < 0 && before == nil:
		return store.Round{}, invalid.At(at+"/day", "has no round of that crew in the plan")
	case n < 0:
		before.Status = "withdrawn"
		return before.Round, s.withdraw(t, a, before.Round)
	}
	view := p.planned(p.result.Rounds[n])
	if view.Status == contract.PlannedRoundStatusPublished {
		return store.Round{}, organisation.Conflict{Reason: fmt.Sprintf("the round of %s on %s is out already, and nothing of it has changed", view.Crew, view.Day)}
	}
	for _, x := range p.out {
		for _, stop := range view.Stops {
			for _, j := range stop.Jobs {
				if x.ID != idOf(before) && slices.Contains(x.keys, j.Key) && !p.leaves(x, j.Key) {
					return store.Round{}, organisation.Conflict{Reason: fmt.Sprintf("%s is already on the round of %s", j.Tag, x.Day.Day())}
				}
			}
		}
	}
	row := store.Round{
		OrganisationID: t.Org, ID: store.NewID(), PlanID: p.row.ID, CrewID: day.CrewID, Day: store.Date(day.Day), Status: "published", Sequence: 1,
		Minutes: view.Minutes, HoursMinutes: view.ShiftMinutes, PublishedAt: s.Stamp(), AccountID: &a.AccountID, Version: 1, Starts: view.Leaves, Back: view.Back,
		DrivingMinutes: view.DrivingMinutes, ChangedAt: s.Stamp(),
	}
	row.UID = row.ID
	if before != nil {
		row.UID, row.Sequence = before.UID, before.Sequence+1
		if err := t.SetRoundStatus(before.ID, "superseded", s.Stamp()); err != nil {
			return row, err
		}
	}
	return row, s.storeRound(t, a, row, view)
}

// leaves reports whether the plan takes a job off a round that is out.
func (p *planPage) leaves(x publishedRound, key string) bool {
	for _, r := range p.result.Rounds {
		if r.Crew != x.CrewID.String() || r.Day != x.Day.Day() {
			continue
		}
		for _, stop := range r.Stops {
			if slices.ContainsFunc(stop.Jobs, func(j round.Timed) bool { return j.Job == key }) {
				return false
			}
		}
	}
	return true
}

func idOf(x *publishedRound) uuid.UUID {
	if x == nil {
		return uuid.Nil
	}
	return x.ID
}

func (s *Service) storeRound(t store.Tenant, a organisation.Actor, row store.Round, view contract.PlannedRound) error {
	var stops []store.Stop
	var jobs []store.StopJob
	for i, v := range view.Stops {
		stop := store.Stop{
			OrganisationID: t.Org, ID: store.NewID(), RoundID: row.ID, SiteID: v.SiteID, Seq: i + 1, Minutes: v.Minutes, Windows: store.ToJSON(v.Windows),
			Arrive: v.Arrive, Leave: v.Leave, Latest: v.Latest, DriveMinutes: v.DriveMinutes,
		}
		for k, j := range v.Jobs {
			jobs = append(jobs, store.StopJob{
				OrganisationID: t.Org, StopID: stop.ID, Seq: k + 1, TaskID: j.TaskID, Due: store.Date(j.Due), Minutes: j.Minutes, State: store.ToJSON(j.State),
				Reasons: store.ToJSON(j.Reasons), Key: j.Key, Tasks: tasksOf(j), Job: store.ToJSON(j),
			})
		}
		stops = append(stops, stop)
	}
	if err := store.Insert(t, row); err != nil {
		return err
	}
	if err := store.Insert(t, stops...); err != nil {
		return err
	}
	if err := store.Insert(t, jobs...); err != nil {
		return err
	}
	return t.Record(s.Stamp(), a.AccountID, "round", row.ID, "published", map[string]any{"day": view.Day, "jobs": len(jobs), "sequence": row.Sequence})
}

// MailRound mails a round to its crew, or to a given address: what it does where, with the sheets. A withdrawn one says so.
func (s *Service) MailRound(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.MailTo) (contract.Mail, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.Mail{}, err
	}
	t := s.Tenant(ctx, a)
	row, err := store.Get[store.Round](t, id)
	if err != nil {
		return contract.Mail{}, err
	}
	crew, err := store.Get[store.Crew](t, row.CrewID)
	if err != nil {
		return contract.Mail{}, err
	}
	to := optional.Trim(in.To)
	if to == "" {
		to = crew.Mail
	}
	if to == "" {
		return contract.Mail{}, invalid.At("/to", "%s has no mail address yet", crew.Name)
	}
	if to, err = outbox.MailAddress(to); err != nil {
		return contract.Mail{}, err
	}
	r, err := s.round(t, id)
	if err != nil {
		return contract.Mail{}, err
	}
	mail := store.MailOut{Recipient: to, Subject: fmt.Sprintf("Round of %s, %s", longDate(r.Day), r.Crew), Body: roundText(r), FileName: "round-" + r.Day.String() + ".pdf"}
	switch {
	case row.Status == "withdrawn":
		mail.Subject, mail.FileName = "Withdrawn: "+strings.ToLower(mail.Subject[:1])+mail.Subject[1:], ""
		mail.Body = "This round is withdrawn. Its work is planned again.\n\n" + mail.Body
	case row.Sequence > 1:
		mail.Subject = "Changed: " + strings.ToLower(mail.Subject[:1]) + mail.Subject[1:]
	}
	if mail.FileName != "" {
		if mail.File, err = sheetsPDF(r); err != nil {
			return contract.Mail{}, err
		}
	}
	return s.mail(ctx, t, a, mail)
}

// mail sends a mail; with an entry in sent, only where that has not gone out before.
func (s *Service) mail(ctx context.Context, t store.Tenant, a organisation.Actor, m store.MailOut, sent ...store.NoticeSent) (contract.Mail, error) {
	m.AccountID, m.At = &a.AccountID, s.RealNow()
	return s.outbox.Send(ctx, t, m, func(t store.Tenant) error {
		for _, n := range sent {
			if err := t.SendOnce(n.Kind, n.Key, s.Stamp()); err != nil {
				return err
			}
		}
		return nil
	})
}

// roundText is a round in a few lines.
func roundText(r contract.Round) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s, %s. Leave at %s, back at %s.\n", longDate(r.Day), r.Crew, r.Starts, r.Back)
	for i, stop := range r.Stops {
		fmt.Fprintf(&b, "\n%d. %s, arrive %s (at the latest %s), done %s\n", i+1, stop.Site, stop.Arrive, stop.Latest, stop.Leave)
		for _, line := range []string{stop.Address, stop.Contact, stop.AccessNote} {
			if line != "" {
				fmt.Fprintf(&b, "   %s\n", line)
			}
		}
		for _, j := range stop.Jobs {
			fmt.Fprintf(&b, "   - %s\n", jobText(j))
		}
	}
	if len(r.Load) > 0 {
		b.WriteString("\nLoad:\n")
		for _, l := range r.Load {
			fmt.Fprintf(&b, "   - %s\n", l.Text)
		}
	}
	b.WriteString("\n" + r.Deferral + "\n")
	return b.String()
}

// jobText is a job in a line.
func jobText(j contract.Job) string {
	text := fmt.Sprintf("%s, %s", j.Tag, wording.JobKindWords[string(j.Kind)])
	if j.CoilRole != nil {
		text += " of the " + strings.ReplaceAll(string(*j.CoilRole), "_", " ")
	}
	for _, r := range j.Riders {
		text += ", with " + wording.JobKindWords[string(r.Kind)]
	}
	text += fmt.Sprintf(", %.0f min", j.Minutes)
	if len(j.Needs) > 0 {
		text += " (" + strings.Join(j.Needs, ", ") + ")"
	}
	return text
}
