package planning

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/outbox"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// SendDigest mails the digest now and keeps the address: from then on it goes out every week.
func (s *Service) SendDigest(ctx context.Context, a organisation.Actor, in contract.MailTo) (contract.Mail, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.Mail{}, err
	}
	t := s.Tenant(ctx, a)
	org, err := s.Store.Organisation(ctx, a.Org.ID)
	if err != nil {
		return contract.Mail{}, err
	}
	to := optional.Trim(in.To)
	if to == "" {
		to = org.DigestMail
	}
	if to == "" {
		return contract.Mail{}, invalid.At("/to", "say where the digest goes")
	}
	if to, err = outbox.MailAddress(to); err != nil {
		return contract.Mail{}, err
	}
	err = t.InTransaction(func(t store.Tenant) error {
		if err := t.SetDigestMail(to); err != nil {
			return err
		}
		was, is := map[string]string{"digest_mail": org.DigestMail}, map[string]string{"digest_mail": to}
		return organisation.RecordChange(t, s.Stamp(), a, "organisation", a.Org.ID, "changed", was, is)
	})
	if err != nil {
		return contract.Mail{}, err
	}
	return s.sendDigest(ctx, a, to)
}

func (s *Service) sendDigest(ctx context.Context, a organisation.Actor, to string, sent ...store.NoticeSent) (contract.Mail, error) {
	text, err := s.digest(ctx, a)
	if err != nil {
		return contract.Mail{}, err
	}
	return s.mail(ctx, s.Tenant(ctx, a), a, store.MailOut{Recipient: to, Subject: "The week of " + longDate(s.Today(a.Org.Zone)), Body: text}, sent...)
}

// digest is the coming week in words: the rounds, what is not carried, what to decide and to buy.
func (s *Service) digest(ctx context.Context, a organisation.Actor) (string, error) {
	plan, err := s.Plan(ctx, a)
	if err != nil {
		return "", err
	}
	t := s.Tenant(ctx, a)
	waiting, err := s.waiting(t)
	if err != nil {
		return "", err
	}
	buys, err := s.Purchases(ctx, a)
	if err != nil {
		return "", err
	}
	today := s.Today(a.Org.Zone)
	week := today.Add(7)
	var b strings.Builder
	if plan.ID == nil {
		b.WriteString("No plan has been made yet.\n")
	}
	b.WriteString("Rounds until " + longDate(week) + ":\n")
	none := true
	for _, r := range plan.Rounds {
		if r.Day > week || r.Day <= today || len(r.Stops) == 0 {
			continue
		}
		none = false
		jobs := 0
		for _, stop := range r.Stops {
			jobs += len(stop.Jobs)
		}
		fmt.Fprintf(&b, "- %s, %s: %s at %s, %s to %s (%s)\n", longDate(r.Day), r.Crew, wording.Count(jobs, "job"), wording.Count(len(r.Stops), "site"), r.Leaves, r.Back, r.Status)
	}
	if none {
		b.WriteString("- none\n")
	}
	if plan.Stale {
		b.WriteString("\nSomething the plan rests on has changed since it was made: plan again.\n")
	}
	if n := len(plan.LeftOut); n > 0 {
		fmt.Fprintf(&b, "\n%s on no round:\n", wording.Counted(n, "job is", "jobs are"))
		for _, l := range plan.LeftOut[:min(n, 10)] {
			fmt.Fprintf(&b, "- %s, %s: %s\n", l.Job.Tag, wording.JobKindWords[string(l.Job.Kind)], l.Text)
		}
	}
	if len(waiting) > 0 {
		fmt.Fprintf(&b, "\n%s for your answer.\n", wording.Counted(len(waiting), "interval waits", "intervals wait"))
	}
	if len(buys) > 0 {
		b.WriteString("\nTo buy:\n")
		for _, x := range buys {
			fmt.Fprintf(&b, "- %s, needed by %s\n", x.Text, longDate(x.NeededBy))
		}
	}
	return b.String(), nil
}

// SendReminders reminds the staff of sites of what they do themselves in the coming week; each site once a week.
func (s *Service) SendReminders(ctx context.Context, a organisation.Actor) ([]contract.Mail, error) {
	out := []contract.Mail{}
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	plan, err := s.Plan(ctx, a)
	if err != nil {
		return out, err
	}
	t := s.Tenant(ctx, a)
	sites, err := store.All[store.Site](t, "lower(name)")
	if err != nil {
		return out, err
	}
	week := mondayOf(s.Today(a.Org.Zone))
	until := s.Today(a.Org.Zone).Add(7)
	for _, site := range sites {
		if site.Mail == "" {
			continue
		}
		lines := []string{}
		for _, j := range plan.StaffJobs {
			if j.Site == site.Name && j.Due <= until {
				lines = append(lines, fmt.Sprintf("- %s: %s, due %s", j.Tag, wording.JobKindWords[string(j.Kind)], longDate(j.Due)))
			}
		}
		if len(lines) == 0 {
			continue
		}
		body := "Due this week at " + site.Name + ", by your own staff:\n" + strings.Join(lines, "\n") +
			"\n\nPlease tick it by the link you were given. Grille edges cut: wear gloves. If something smells hot, drips or does not cool, report it there too.\n"
		m, err := s.mail(ctx, t, a, store.MailOut{Recipient: site.Mail, Subject: "This week at " + site.Name, Body: body},
			store.NoticeSent{Kind: "reminder", Key: site.ID.String() + " " + week.String()})
		if errors.Is(err, store.ErrDuplicate) {
			continue
		}
		if err != nil {
			return out, err
		}
		out = append(out, m)
	}
	return out, nil
}

func mondayOf(day calendar.Day) calendar.Day { return day.Add(-(int(day.Weekday()) + 6) % 7) }

// managerOfAll is who the organisation's own mails go out for: a manager who sees all sites.
func (s *Service) managerOfAll(ctx context.Context, id uuid.UUID) (organisation.Actor, error) {
	account, err := s.Store.HouseManager(ctx, id)
	if err != nil {
		return organisation.Actor{}, err
	}
	return s.organisation.Actor(ctx, account)
}
