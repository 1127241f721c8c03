package organisation

import (
	"context"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// choice of a stored answer.
func choiceOf(r store.HouseRule) string {
	var c string
	if err := r.Choice.Into(&c); err != nil {
		return ""
	}
	return c
}

// Practice gives the answers in force for a unit at a site: the unit's own before the site's before the organisation's.
func (c Catalogue) Practice(site, unit uuid.UUID) method.Rules {
	out := method.Rules{}
	for _, q := range method.Questions {
		out[q.Code] = q.Default
	}
	for _, scope := range []func(store.HouseRule) bool{
		func(r store.HouseRule) bool { return r.SiteID == nil && r.UnitID == nil },
		func(r store.HouseRule) bool { return r.SiteID != nil && *r.SiteID == site },
		func(r store.HouseRule) bool { return r.UnitID != nil && *r.UnitID == unit },
	} {
		for _, r := range c.answers {
			if scope(r) {
				if q, ok := method.QuestionByCode(r.Question); ok && q.Has(choiceOf(r)) {
					out[r.Question] = choiceOf(r)
				}
			}
		}
	}
	return out
}

// Answering is the catalogue as it would be with another answer for a unit.
func (c Catalogue) Answering(question, choice string, unit uuid.UUID) Catalogue {
	c.answers = append(slices.Clone(c.answers), store.HouseRule{Question: question, Choice: store.ToJSON(choice), UnitID: &unit})
	return c
}

// Practice shows every question with the answers in force, and the newest exceptions.
func (s *Service) Practice(ctx context.Context, a Actor) (contract.Practice, error) {
	t := s.Tenant(ctx, a)
	out := contract.Practice{Lines: []contract.PracticeLine{}, Exceptions: []contract.PracticeException{}, Deferral: defaults.Deferral}
	names, err := s.practiceNames(t)
	if err != nil {
		return out, err
	}
	for _, q := range method.Questions {
		out.Lines = append(out.Lines, names.line(q))
	}
	out.Exceptions, err = s.exceptions(t, names.accounts)
	return out, err
}

// newestExceptions is how many the screen shows.
const newestExceptions = 50

func (s *Service) exceptions(t store.Tenant, names Names) ([]contract.PracticeException, error) {
	out := []contract.PracticeException{}
	rows, err := t.Exceptions(newestExceptions)
	for _, r := range rows {
		b, _ := method.BanByCode(r.Ban)
		out = append(out, contract.PracticeException{
			VisitID: r.VisitID, UnitID: r.UnitID, Tag: r.Tag, Day: r.Day.Day(), Question: r.Question, Ban: r.Ban, Text: b.Text,
			Reason: r.Reason, By: names.Of(r.AccountID),
		})
	}
	return out, err
}

// practiceNames are the answers in force with the names of where they hold.
type practiceNames struct {
	answers  []store.HouseRule
	sites    map[uuid.UUID]string
	units    map[uuid.UUID]string
	accounts Names
}

func (s *Service) practiceNames(t store.Tenant) (practiceNames, error) {
	out := practiceNames{sites: map[uuid.UUID]string{}, units: map[uuid.UUID]string{}}
	rows, err := store.All[store.HouseRule](t, "lower(valid) NULLS FIRST, id")
	if err != nil {
		return out, err
	}
	units := []uuid.UUID{}
	for _, r := range rows {
		if r.UnitID != nil {
			units = append(units, *r.UnitID)
		}
	}
	sites, err := t.SitesSeen()
	if err != nil {
		return out, err
	}
	for _, x := range sites {
		out.sites[x.ID] = x.Name
	}
	tagged, err := t.UnitsSeen(units)
	if err != nil {
		return out, err
	}
	for _, u := range tagged {
		out.units[u.ID] = u.Tag
	}
	for _, r := range rows {
		if slices.Contains(limitQuestions, r.Question) || r.Valid.To != nil {
			continue
		}
		// An answer for a site or unit that may not be seen is nobody else's matter.
		if (r.SiteID != nil && out.sites[*r.SiteID] == "") || (r.UnitID != nil && out.units[*r.UnitID] == "") {
			continue
		}
		out.answers = append(out.answers, r)
	}
	out.accounts, err = s.Names(t)
	return out, err
}

func (n practiceNames) line(q method.Question) contract.PracticeLine {
	line := contract.PracticeLine{Question: q, Answers: []contract.PracticeAnswer{}}
	house := contract.PracticeAnswer{Scope: contract.PracticeAnswerScopeHouse, Choice: q.Default, Reason: q.Why, By: "standard"}
	for _, r := range n.answers {
		if r.Question != q.Code {
			continue
		}
		answer := contract.PracticeAnswer{Scope: contract.PracticeAnswerScopeHouse, Choice: choiceOf(r), Reason: r.Reason, By: n.accounts.Of(r.AccountID)}
		if r.Valid.From != nil {
			answer.Since = *r.Valid.From
		}
		switch {
		case r.SiteID != nil:
			answer.Scope, answer.ScopeID, answer.Name = contract.PracticeAnswerScopeSite, r.SiteID, n.sites[*r.SiteID]
		case r.UnitID != nil:
			answer.Scope, answer.ScopeID, answer.Name = contract.PracticeAnswerScopeUnit, r.UnitID, n.units[*r.UnitID]
		default:
			house = answer
			continue
		}
		line.Answers = append(line.Answers, answer)
	}
	line.Answers = append([]contract.PracticeAnswer{house}, line.Answers...)
	return line
}

// IntervalQuestion is the question of practice that moves proposals.
const IntervalQuestion = "interval"

// SeasonQuestion is the question of practice on when outdoor deep cleans fall due.
const SeasonQuestion = "season"

// SavePractice answers a question for the organisation, a site or a unit, or takes the answer back. The old answer ends, and
// can still be read.
func (s *Service) SavePractice(ctx context.Context, a Actor, question string, in contract.PracticeChange) (contract.PracticeLine, error) {
	var out contract.PracticeLine
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	q, ok := method.QuestionByCode(question)
	if !ok {
		return out, ErrNotFound
	}
	why := strings.TrimSpace(in.Reason)
	switch {
	case in.Choice != nil && !q.Has(*in.Choice):
		return out, invalid.At("/choice", "is not an answer to this question")
	case in.SiteID != nil && in.UnitID != nil:
		return out, invalid.At("/unit_id", "an answer holds for a site or for a unit, not for both")
	case why == "":
		return out, invalid.At("/reason", "say why, so that others can follow it later")
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if in.SiteID != nil {
			if _, err := store.Get[store.Site](t, *in.SiteID); err != nil {
				return invalid.At("/site_id", "is not one of your sites")
			}
		}
		if in.UnitID != nil {
			if _, err := store.Get[store.Unit](t, *in.UnitID); err != nil {
				return invalid.At("/unit_id", "is not one of your units")
			}
		}
		today := s.Today(a.Org.Zone)
		was, err := t.EndAnswers(question, in.SiteID, in.UnitID, today)
		if err != nil {
			return err
		}
		if in.Choice != nil {
			err := store.Insert(t, store.HouseRule{
				OrganisationID: t.Org, ID: store.NewID(), Question: question, Choice: store.ToJSON(*in.Choice), Reason: why,
				Valid: store.DateRange{From: &today}, SiteID: in.SiteID, UnitID: in.UnitID, AccountID: &a.AccountID, At: new(s.Stamp()), Revision: 1,
			})
			if err != nil {
				return err
			}
		}
		names, err := s.practiceNames(t)
		if err != nil {
			return err
		}
		out = names.line(q)
		target := t.Org
		if in.SiteID != nil {
			target = *in.SiteID
		} else if in.UnitID != nil {
			target = *in.UnitID
		}
		change := contract.AuditChange{Path: question, After: optional.Value(in.Choice)}
		for _, w := range was {
			if err := w.Choice.Into(&change.Before); err != nil {
				return err
			}
		}
		note := why
		if in.Choice == nil {
			note = "back to the answer above it: " + why
		}
		if question == IntervalQuestion || question == SeasonQuestion {
			if err := t.AgeCoilLines(); err != nil {
				return err
			}
		}
		return t.Record(s.Stamp(), a.AccountID, "rule", target, "practice, "+question, AuditDetail{Note: note, Changes: []contract.AuditChange{change}})
	})
	if err == nil && (question == IntervalQuestion || question == SeasonQuestion) {
		s.catcher.CatchUp()
	}
	return out, err
}

// Template is the procedure in force for a class.
func (c Catalogue) Template(class store.EquipmentClass) (contract.ProcedureTemplate, error) {
	out := contract.ProcedureTemplate{ClassID: class.ID, Class: class.Name, Steps: defaults.Procedure(class.Code), Reason: defaults.ProcedureReason, By: "standard"}
	if row, ok := c.procedures[class.ID]; ok {
		out.Version, out.Reason, out.At, out.By = row.Version, row.Reason, &row.At, ""
		return out, row.Steps.Into(&out.Steps)
	}
	return out, nil
}
