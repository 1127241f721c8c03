package planning

import (
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// visitFor is what a visit for a job is for, with what rides along: kinds of job as the visit knows them.
func visitFor(j contract.Job) []contract.VisitJob {
	out := []contract.VisitJob{}
	add := func(kind contract.JobKind) {
		v := contract.VisitJobCompanion
		switch kind {
		case contract.JobKindDeep:
			v = contract.VisitJobDeep
		case contract.JobKindLight:
			v = contract.VisitJobLight
			if optional.Value(j.ClosedHose) {
				v = contract.VisitJobHoseDown
			}
		case contract.JobKindInspect, contract.JobKindLook, contract.JobKindRecheck, contract.JobKindSymptom:
			v = contract.VisitJobLook
		}
		if !slices.Contains(out, v) {
			out = append(out, v)
		}
	}
	add(j.Kind)
	for _, r := range j.Riders {
		add(r.Kind)
	}
	return out
}

// progress is what became of the jobs of a round: given back, or what visits of its day to their units say.
func (s *Service) progress(t store.Tenant, row store.Round, stops []contract.Stop) ([]contract.JobProgress, error) {
	out, jobs := []contract.JobProgress{}, []contract.Job{}
	for _, stop := range stops {
		jobs = append(jobs, stop.Jobs...)
	}
	names, err := s.Names(t)
	if err != nil {
		return out, err
	}
	returned, err := s.returned(t, row.ID)
	if err != nil {
		return out, err
	}
	visits, err := t.VisitsOn(store.Keys(jobs, func(j contract.Job) uuid.UUID { return j.UnitID }), row.Day)
	if err != nil {
		return out, err
	}
	served, err := servedBy(t, visits)
	if err != nil {
		return out, err
	}
	for _, j := range jobs {
		if x, ok := returned[j.Key]; ok {
			out = append(out, contract.JobProgress{
				Key: j.Key, UnitID: j.UnitID, State: contract.JobProgressStateGivenBack, Why: wording.UpperFirst(wording.ReturnWords[x.Kind]) + ": " + x.Note,
				By: names.Of(x.AccountID), At: &x.At,
			})
		} else if p := progressOf(j, visits, served, names); p != nil {
			out = append(out, *p)
		}
	}
	return out, nil
}

// returned are the jobs of a round that its crew gave back, by their key.
func (s *Service) returned(t store.Tenant, round uuid.UUID) (map[string]store.JobReturn, error) {
	stops, err := store.Where[store.Stop](t, "round_id", []uuid.UUID{round}, "seq")
	if err != nil {
		return nil, err
	}
	rows, err := store.Where[store.JobReturn](t, "stop_id", store.Keys(stops, func(x store.Stop) uuid.UUID { return x.ID }), "at")
	return store.Index(rows, func(x store.JobReturn) string { return x.Key }), err
}

// servedBy says which clocks each visit set back or ticked, as pairs of visit and clock.
func servedBy(t store.Tenant, visits []store.Visit) (map[[2]uuid.UUID]bool, error) {
	ids := store.Keys(visits, func(v store.Visit) uuid.UUID { return v.ID })
	resets, err := store.Where[store.TaskReset](t, "visit_id", ids, "visit_id")
	if err != nil {
		return nil, err
	}
	ticks, err := store.Where[store.TaskTick](t, "visit_id", ids, "visit_id")
	out := map[[2]uuid.UUID]bool{}
	for _, r := range resets {
		out[[2]uuid.UUID{r.VisitID, r.TaskID}] = true
	}
	for _, x := range ticks {
		out[[2]uuid.UUID{optional.Value(x.VisitID), x.TaskID}] = true
	}
	return out, err
}

// progressOf is what the visits of the day say of one job; the one that did most of it counts. Nil where there was none.
func progressOf(j contract.Job, visits []store.Visit, served map[[2]uuid.UUID]bool, names organisation.Names) *contract.JobProgress {
	var out *contract.JobProgress
	tasks := tasksOf(j)
	for _, v := range visits {
		if v.UnitID != j.UnitID {
			continue
		}
		state := contract.JobProgressState(v.Outcome)
		if contract.Outcome(v.Outcome) == contract.OutcomeDone && len(tasks) > 0 &&
			!slices.ContainsFunc(tasks, func(task uuid.UUID) bool { return served[[2]uuid.UUID{v.ID, task}] }) {
			state = contract.JobProgressStatePartly // something else was done there
		}
		if out == nil || out.State != contract.JobProgressStateDone {
			out = &contract.JobProgress{Key: j.Key, UnitID: j.UnitID, State: state, Why: v.Note, By: names.Of(v.AccountID), At: v.ArrivedAt, VisitID: &v.ID}
		}
	}
	return out
}

// tasksOf are all clocks that a job serves, with those that ride along.
func tasksOf(j contract.Job) store.IDs {
	out := store.IDs{}
	if j.TaskID != nil {
		out = append(out, *j.TaskID)
	}
	for _, r := range j.Riders {
		if r.TaskID != nil {
			out = append(out, *r.TaskID)
		}
	}
	return out
}

// ReturnJob gives a job of a published round back to the office, with why; it is planned again. Sent twice, it is kept once.
func (s *Service) ReturnJob(ctx context.Context, a organisation.Actor, key, id uuid.UUID, in contract.NewJobReturn) (contract.Round, error) {
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return contract.Round{}, err
	}
	return organisation.Once(s.Base, s.Tenant(ctx, a), a, key, in, func(t store.Tenant) (contract.Round, error) {
		row, err := store.GetForUpdate[store.Round](t, id)
		if err != nil {
			return contract.Round{}, err
		}
		if row.Status != "published" {
			return contract.Round{}, organisation.Conflict{Reason: "only a job of a published round can be given back; this round is " + row.Status}
		}
		stops, err := store.Where[store.Stop](t, "round_id", []uuid.UUID{id}, "seq")
		if err != nil {
			return contract.Round{}, err
		}
		jobs, err := store.Where[store.StopJob](t, "stop_id", store.Keys(stopsSeen(t, stops), func(x store.Stop) uuid.UUID { return x.ID }), "stop_id, seq")
		if err != nil {
			return contract.Round{}, err
		}
		at := slices.IndexFunc(jobs, func(j store.StopJob) bool { return j.Key == in.Key })
		if at < 0 {
			return contract.Round{}, organisation.ErrNotFound
		}
		view, err := s.sentJob(t, jobs[at])
		if err != nil {
			return contract.Round{}, err
		}
		gone := store.JobReturn{
			OrganisationID: t.Org, ID: key, StopID: jobs[at].StopID, Key: in.Key, UnitID: view.UnitID, Kind: string(in.Kind), Note: strings.TrimSpace(in.Note),
			AccountID: &a.AccountID, At: s.Stamp(),
		}
		switch err := store.Insert(t, gone); {
		case errors.Is(err, store.ErrDuplicate):
			return contract.Round{}, organisation.Conflict{Reason: view.Tag + " was given back already"}
		case err != nil:
			return contract.Round{}, err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "round", id, "job given back", organisation.AuditDetail{Note: view.Tag + ": " + gone.Note}); err != nil {
			return contract.Round{}, err
		}
		return s.round(t, id)
	})
}
