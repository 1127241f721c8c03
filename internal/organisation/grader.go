package organisation

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"nextround/core/soil"
	"nextround/core/teach"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// mostScores is how many of a grader's newest faces count.
const mostScores = 200

// Graders are those who practised, and how they see.
func (s *Service) Graders(ctx context.Context, a Actor) ([]contract.GraderLine, error) {
	t := s.Tenant(ctx, a)
	rows, err := store.All[store.Grader](t, "at DESC, person_id")
	if err != nil {
		return nil, err
	}
	people, err := t.PeopleSeen()
	if err != nil {
		return nil, err
	}
	name := store.Index(people, func(p store.Person) uuid.UUID { return p.ID })
	out := []contract.GraderLine{}
	for _, r := range rows {
		// How somebody sees is told to them and to managers.
		if a.Role != contract.RoleManager && r.PersonID != a.Person.ID {
			continue
		}
		if name[r.PersonID].Name == "" {
			continue // at other sites only
		}
		line := contract.GraderLine{PersonID: r.PersonID, Person: name[r.PersonID].Name, At: r.At}
		if err := r.Estimate.Into(&line.Estimate); err != nil {
			return nil, err
		}
		out = append(out, line)
	}
	return out, nil
}

// ScoreGrader adds faces that were graded to what is known of the one who asks. The faces are drawn again from their
// seed: what they truly were is not taken from outside.
func (s *Service) ScoreGrader(ctx context.Context, a Actor, in contract.GraderScores) (contract.GraderLine, error) {
	out := contract.GraderLine{PersonID: a.Person.ID, Person: a.Person.Name, At: s.Stamp()}
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := t.GraderOf(a.Person.ID)
		fresh := errors.Is(err, ErrNotFound)
		if err != nil && !fresh {
			return err
		}
		var scores []teach.Score
		if !fresh {
			if err := row.Scores.Into(&scores); err != nil {
				return err
			}
		}
		for i, said := range in.Said {
			scores = append(scores, teach.Score{Share: teach.Draw(uint64(in.Seed), i).Share, Said: soil.Grade(said)}) //nolint:gosec // bounded by the contract
		}
		scores = scores[max(0, len(scores)-mostScores):]
		if out.Estimate, err = teach.Estimate(scores); err != nil {
			return Pointers(err)
		}
		return t.KeepGrader(store.Grader{
			OrganisationID: t.Org, PersonID: a.Person.ID, Scores: store.ToJSON(scores), Estimate: store.ToJSON(out.Estimate), At: out.At,
		})
	})
	return out, err
}

// graderSigmas are the scatters of those who practised enough, by person.
func graderSigmas(rows []store.Grader) (map[uuid.UUID]float64, error) {
	out := map[uuid.UUID]float64{}
	for _, row := range rows {
		var g teach.Grader
		if err := row.Estimate.Into(&g); err != nil {
			return nil, err
		}
		if g.Enough {
			out[row.PersonID] = g.Sigma
		}
	}
	return out, nil
}
