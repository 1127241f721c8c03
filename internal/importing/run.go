package importing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"sort"
	"sync"
	"time"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/exchange"
	"nextround/internal/organisation"
	"nextround/internal/queue"
	"nextround/internal/store"
)

// stepReading is the first step of a run.
const stepReading = "reading"

// How an import tells of itself and is told to stop.
const (
	tellEvery    = 250 * time.Millisecond
	silentAfter  = 30 * time.Second // a run silent for so long has lost its server
	patience     = 30 * time.Second // how long an import waits for another to be read
	importsShown = 50
)

var (
	errCancelled = errors.New("the import was cancelled; nothing was stored")
	// errEnded means that the run was told as ended meanwhile: what it would store must not come after that.
	errEnded = errors.New("this run was taken for dead and ended; nothing was stored")
	errBusy  = errors.New("other files are being read at this moment; try again in a minute")
)

// Request is a file to take in, or with DryRun to try out.
type Request struct {
	Kind, FileName string
	File           []byte
	DryRun         bool
	// Columns names foreign columns and which of ours they are, as JSON; it is remembered.
	Columns string
}

// Taker takes in files of one kind.
type Taker interface {
	// Columns are those that a file may have.
	Columns() []exchange.Column
	// Take reads, checks and stores the job's file and says whether anything changed. It stores nothing where the job has
	// problems or is a trial.
	Take(ctx context.Context, t store.Tenant, j *Job) (changed bool, err error)
}

// Job is one import at work.
type Job struct {
	s      *Service
	taker  Taker
	A      organisation.Actor
	req    Request
	run    store.ImportRun
	Report contract.ImportReport
	Told   map[string]string
	// outside is the connection on which progress is told: what the import writes is not seen until it is done.
	outside store.Tenant
	mu      sync.Mutex
	at      progress
}

// progress is how far a job is.
type progress struct {
	step        string
	done, total int
}

// StartImport puts a file down to be taken in and answers at once; Import says how far it is. A server takes it up from the
// queue, and another where that one stops or dies.
func (s *Service) StartImport(ctx context.Context, a organisation.Actor, req Request) (contract.ImportRun, error) {
	j, err := s.newImport(ctx, a, req)
	if err != nil {
		return contract.ImportRun{}, err
	}
	j.run.Step = store.StepWaiting
	file := store.ImportFile{OrganisationID: a.Org.ID, RunID: j.run.ID, File: req.File}
	err = s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		return insertWaiting(ctx, t, j.run, file)
	})
	return j.view(), err
}

func insertWaiting(ctx context.Context, t store.Tenant, run store.ImportRun, file store.ImportFile) error {
	if err := store.Insert(t, run); err != nil {
		return err
	}
	if err := store.Insert(t, file); err != nil {
		return err
	}
	return queue.Put(ctx, t, Taking{run.OrganisationID, run.ID, run.Attempt}, nil)
}

// Import takes in a file and waits until that is done.
func (s *Service) Import(ctx context.Context, a organisation.Actor, req Request) (contract.ImportRun, error) {
	j, err := s.newImport(ctx, a, req)
	if err != nil {
		return contract.ImportRun{}, err
	}
	if err := store.Insert(j.outside, j.run); err != nil {
		return contract.ImportRun{}, err
	}
	j.work(ctx)
	return j.view(), nil
}

func (s *Service) newImport(ctx context.Context, a organisation.Actor, req Request) (*Job, error) {
	j, err := s.jobOf(ctx, a, req)
	if err != nil {
		return nil, err
	}
	if req.Columns != "" {
		var told map[string]string
		if err := json.Unmarshal([]byte(req.Columns), &told); err != nil {
			return nil, invalid.At("columns", "must be a JSON object of foreign names and ours")
		}
		if err := j.remember(told); err != nil {
			return nil, err
		}
	}
	now := time.Now()
	j.run = store.ImportRun{
		OrganisationID: a.Org.ID, ID: store.NewID(), At: s.Stamp(), AccountID: a.AccountID, FileName: req.FileName, FileHash: organisation.HashFile(req.File),
		Kind: req.Kind, Status: "running", Step: stepReading, AliveAt: &now, Report: store.ToJSON(j.stored()), Attempt: 1,
	}
	j.at.step = j.run.Step
	return j, nil
}

// jobOf is the work of a request, with the columns that were told before.
func (s *Service) jobOf(ctx context.Context, a organisation.Actor, req Request) (*Job, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	taker, ok := s.takers[req.Kind]
	if !ok {
		return nil, invalid.At("kind", "%q is not a kind of file that can be imported", req.Kind)
	}
	j := &Job{s: s, taker: taker, A: a, req: req, Told: map[string]string{}}
	j.Report = contract.ImportReport{NewSites: []string{}, Problems: []contract.FieldError{}, Columns: []contract.ImportColumn{}, Missing: []string{}}
	j.outside = s.Tenant(context.WithoutCancel(ctx), a)
	mappings, err := store.All[store.ImportMapping](j.outside, "foreign_name")
	for _, m := range mappings {
		if m.Kind == req.Kind {
			j.Told[m.ForeignName] = m.ColumnName
		}
	}
	return j, err
}

// remember keeps which of our columns the foreign names stand for; an empty name of ours means it is not used.
func (j *Job) remember(told map[string]string) error {
	ours := map[string]bool{"": true}
	for _, c := range j.taker.Columns() {
		ours[c.Name] = true
	}
	for foreign, name := range told {
		if !ours[name] {
			return invalid.At("columns", "%q is not one of our columns", name)
		}
		key := exchange.PlainName(foreign)
		j.Told[key] = name
		row := store.ImportMapping{OrganisationID: j.A.Org.ID, Kind: j.req.Kind, ForeignName: key, ColumnName: name}
		if err := j.outside.KeepMapping(row); err != nil {
			return err
		}
	}
	return nil
}

// storedReport is what a run keeps of its report.
type storedReport struct {
	DryRun bool                  `json:"dry_run"`
	Report contract.ImportReport `json:"report"`
}

func (j *Job) stored() storedReport {
	return storedReport{DryRun: j.req.DryRun, Report: j.Report}
}

// Tell says how far the work is; the error says that it must stop.
func (j *Job) Tell(ctx context.Context, step string, done, total int) error {
	j.mu.Lock()
	j.at = progress{step, done, total}
	j.mu.Unlock()
	return context.Cause(ctx)
}

// watch keeps telling how far the work is, by a clock of its own however long a step takes, and ends the work's context when
// somebody wants it cancelled, or when it was told as ended. The function it returns stops it.
func (j *Job) watch(ctx context.Context, end context.CancelCauseFunc) (stop func()) {
	ctx, cancel := context.WithCancel(ctx)
	var watching sync.WaitGroup
	watching.Go(func() {
		organisation.Every(ctx, tellEvery, func() {
			j.mu.Lock()
			at := j.at
			j.mu.Unlock()
			wanted, running, err := j.outside.TellImport(j.run.ID, j.run.Attempt, at.step, at.done, at.total)
			switch {
			case err != nil:
				slog.WarnContext(ctx, "an import's progress could not be kept", "run", j.run.ID, "error", err)
			case !running:
				end(errEnded)
			case wanted:
				end(errCancelled)
			}
		})
	})
	return func() {
		cancel()
		watching.Wait()
	}
}

// Telling tells how many units have been recalculated.
func (j *Job) Telling(ctx context.Context, total int) func(done int) error {
	return func(done int) error { return j.Tell(ctx, "working out", done, total) }
}

func (j *Job) work(ctx context.Context) {
	ctx, end := context.WithCancelCause(ctx)
	defer end(nil)
	stop := j.watch(ctx, end)
	err := organisation.Rescued(func() error { return j.take(ctx) })
	stop()
	cause := context.Cause(ctx)
	switch {
	case err == nil:
		return // ended with what it stored
	case errors.Is(err, errDryRun):
		j.run.Status = "checked"
	case errors.Is(cause, errEnded), errors.Is(err, errEnded):
		j.run.Status = "failed"
		slog.WarnContext(ctx, "an import that was told as ended stops without storing anything", "run", j.run.ID)
		return
	case cause != nil && !errors.Is(cause, errCancelled):
		j.run.Status = "cancelled" // for whoever waited for it
		if err := j.s.giveBack(context.WithoutCancel(ctx), store.Lost{OrganisationID: j.run.OrganisationID, ID: j.run.ID, Attempt: j.run.Attempt}); err != nil {
			slog.ErrorContext(ctx, "an import that this server could not end could not be given back", "run", j.run.ID, "error", err)
		}
		return
	case cause != nil:
		j.run.Status = "cancelled"
	default:
		j.run.Status = "failed"
		slog.ErrorContext(ctx, "import failed", "run", j.run.ID, "error", err)
		if errors.Is(err, errBusy) {
			j.Report.Problems = []contract.FieldError{{Pointer: "file", Reason: err.Error()}}
		}
	}
	if err := j.end(j.outside); err != nil {
		slog.ErrorContext(ctx, "import's end could not be kept", "run", j.run.ID, "error", err)
	}
}

// end keeps how the run ended, unless it was told as ended before.
func (j *Job) end(t store.Tenant) error {
	j.run.Rows = j.Report.Rows
	j.run.Report, j.run.Step = store.ToJSON(j.stored()), ""
	j.run.Done, j.run.Total = j.at.done, j.at.total
	ended, err := t.EndImport(j.run)
	if err == nil && !ended {
		err = errEnded
	}
	return err
}

// take reads, checks and stores the file in one transaction, the run's own end with it: either all of it is there or none.
func (j *Job) take(ctx context.Context) error {
	t := j.s.Tenant(ctx, j.A)
	return t.InBulk(func(t store.Tenant) error {
		change, err := j.taker.Take(ctx, t, j)
		switch {
		case err != nil:
			return err
		case len(j.Report.Problems) > 0:
			j.run.Status = "refused"
			return j.end(t)
		case j.req.DryRun:
			return errDryRun
		case !change:
			j.run.Status = "unchanged"
			return j.end(t)
		}
		j.run.Status = "stored"
		if err := t.Record(j.s.Stamp(), j.A.AccountID, "import_run", j.run.ID, "imported", organisation.AuditDetail{Note: j.req.FileName}); err != nil {
			return err
		}
		return j.end(t)
	}, nil)
}

// errDryRun takes back what a trial has written.
var errDryRun = errors.New("only tried")

// Problems takes what is wrong with the file into the report.
func (j *Job) Problems(p exchange.Problems) {
	sort.SliceStable(p.Listed, func(a, b int) bool { return p.Listed[a].Line < p.Listed[b].Line })
	for _, x := range p.Listed {
		j.Report.Problems = append(j.Report.Problems, contract.FieldError{
			Pointer: fmt.Sprintf("line %d, %s", x.Line, x.Column), Reason: x.Reason, Line: new(x.Line), Column: new(x.Column),
		})
	}
	j.Report.MoreProblems = p.More
}

// Columns takes into the report how the columns of the file were understood.
func (j *Job) Columns(found []exchange.Found, missing []string) {
	j.Report.Missing = append(j.Report.Missing, missing...)
	for _, f := range found {
		c := contract.ImportColumn{Name: f.Name}
		if f.Column != "" {
			c.Column = new(f.Column)
		}
		j.Report.Columns = append(j.Report.Columns, c)
	}
}

// Table reads the file; false when it cannot be read as a table.
func (j *Job) Table(ctx context.Context) (exchange.Table, bool, error) {
	wait := time.NewTimer(patience)
	defer wait.Stop()
	select { // one at a time: a small file can take much memory to read
	case j.s.reading <- struct{}{}:
	case <-wait.C:
		return exchange.Table{}, false, errBusy
	case <-ctx.Done():
		return exchange.Table{}, false, context.Cause(ctx)
	}
	table, problems := exchange.ReadTable(ctx, j.req.File)
	<-j.s.reading
	if err := context.Cause(ctx); err != nil {
		return table, false, err
	}
	if problems.Any() {
		j.Problems(problems)
		return table, false, nil
	}
	err := j.Tell(ctx, "checking", 0, len(table.Rows))
	return table, err == nil, err
}

func (j *Job) view() contract.ImportRun {
	return importView(j.run, organisation.Names{j.A.AccountID: j.A.Person.Name})
}

func importView(r store.ImportRun, names organisation.Names) contract.ImportRun {
	out := contract.ImportRun{
		ID: r.ID, Kind: r.Kind, FileName: r.FileName, At: r.At, Status: contract.ImportRunStatus(r.Status), Step: r.Step, Done: r.Done,
		Total: r.Total, By: new(names.Of(&r.AccountID)),
	}
	var kept storedReport
	if r.Report.Into(&kept) == nil {
		out.Report, out.DryRun = kept.Report, kept.DryRun
	}
	for _, list := range []*[]string{&out.Report.NewSites, &out.Report.Missing} {
		if *list == nil {
			*list = []string{}
		}
	}
	if out.Report.Problems == nil {
		out.Report.Problems = []contract.FieldError{}
	}
	if out.Report.Columns == nil {
		out.Report.Columns = []contract.ImportColumn{}
	}
	return out
}

// ImportRun says how far an import is, or what came of it.
func (s *Service) ImportRun(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.ImportRun, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.ImportRun{}, err
	}
	t := s.Tenant(ctx, a)
	row, err := store.Get[store.ImportRun](t, id)
	if err != nil {
		return contract.ImportRun{}, err
	}
	names, err := s.Names(t)
	return importView(row, names), err
}

// Imports lists the newest imports.
func (s *Service) Imports(ctx context.Context, a organisation.Actor) ([]contract.ImportRun, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	t := s.Tenant(ctx, a)
	rows, err := t.NewestImports(importsShown)
	if err != nil {
		return nil, err
	}
	names, err := s.Names(t)
	out := []contract.ImportRun{}
	for _, r := range rows {
		out = append(out, importView(r, names))
	}
	return out, err
}

// CancelImport asks a running import to stop.
func (s *Service) CancelImport(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.ImportRun, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.ImportRun{}, err
	}
	if err := s.Tenant(ctx, a).WantImportCancelled(id); err != nil {
		return contract.ImportRun{}, err
	}
	return s.ImportRun(ctx, a, id)
}

// Trial reports whether nothing may be stored.
func (j *Job) Trial() bool { return j.req.DryRun || len(j.Report.Problems) > 0 }
