package service

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"sort"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/exchange"
	"nextround/internal/store"
)

// How an import tells of itself and is told to stop.
const (
	tellEvery    = 250 * time.Millisecond
	silentAfter  = time.Minute // a run not heard of for so long has lost its server
	importsShown = 50
)

var errCancelled = errors.New("the import was cancelled; nothing was stored")

// ImportRequest is a file to take in, or with DryRun to try out.
type ImportRequest struct {
	Kind, FileName string
	File           []byte
	DryRun         bool
	// Columns names foreign columns and which of ours they are, as JSON; it is remembered.
	Columns string
}

// importJob is one import at work.
type importJob struct {
	s      *Service
	a      Actor
	req    ImportRequest
	run    store.ImportRun
	report contract.ImportReport
	told   map[string]string
	// outside is the connection on which progress is told: what the import writes is not seen until it is done.
	outside store.Tenant
	heard   time.Time
}

// StartImport begins to take in a file and answers at once; Import says how far it is. Work that is under way when
// the service closes ends without having stored anything.
func (s *Service) StartImport(ctx context.Context, a Actor, req ImportRequest) (contract.ImportRun, error) {
	j, err := s.newImport(ctx, a, req)
	if err != nil {
		return contract.ImportRun{}, err
	}
	s.background.Go(func() { j.work(s.life) })
	return j.view(), nil
}

// Import takes in a file and waits until that is done.
func (s *Service) Import(ctx context.Context, a Actor, req ImportRequest) (contract.ImportRun, error) {
	j, err := s.newImport(ctx, a, req)
	if err != nil {
		return contract.ImportRun{}, err
	}
	j.work(ctx)
	return j.view(), nil
}

func (s *Service) newImport(ctx context.Context, a Actor, req ImportRequest) (*importJob, error) {
	if err := a.onlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	j := &importJob{s: s, a: a, req: req, told: map[string]string{}}
	j.report = contract.ImportReport{NewSites: []string{}, Problems: []contract.FieldError{}, Columns: []contract.ImportColumn{}, Missing: []string{}}
	j.outside = s.tenant(context.WithoutCancel(ctx), a)
	mappings, err := store.All[store.ImportMapping](j.outside, "foreign_name")
	if err != nil {
		return nil, err
	}
	for _, m := range mappings {
		if m.Kind == req.Kind {
			j.told[m.ForeignName] = m.ColumnName
		}
	}
	if req.Columns != "" {
		var told map[string]string
		if err := json.Unmarshal([]byte(req.Columns), &told); err != nil {
			return nil, field("columns", "must be a JSON object of foreign names and ours")
		}
		if err := j.remember(told); err != nil {
			return nil, err
		}
	}
	now := s.realNow()
	j.run = store.ImportRun{
		OrganisationID: a.Org.ID, ID: store.NewID(), At: s.stamp(), AccountID: a.AccountID, FileName: req.FileName, FileHash: hashFile(req.File),
		Kind: req.Kind, Status: "running", Step: "reading", HeardAt: &now, Report: store.ToJSON(j.stored()),
	}
	j.heard = now
	return j, store.Insert(j.outside, j.run)
}

func hashFile(file []byte) string {
	sum := sha256.Sum256(file)
	return hex.EncodeToString(sum[:])
}

// remember keeps which of our columns the foreign names stand for; an empty name of ours means it is not used.
func (j *importJob) remember(told map[string]string) error {
	columns := exchange.RegisterColumns
	if j.req.Kind == "visits" {
		columns = exchange.VisitColumns
	}
	ours := map[string]bool{"": true}
	for _, c := range columns {
		ours[c.Name] = true
	}
	for foreign, name := range told {
		if !ours[name] {
			return field("columns", "%q is not one of our columns", name)
		}
		key := exchange.PlainName(foreign)
		j.told[key] = name
		row := store.ImportMapping{OrganisationID: j.a.Org.ID, Kind: j.req.Kind, ForeignName: key, ColumnName: name}
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

func (j *importJob) stored() storedReport {
	return storedReport{DryRun: j.req.DryRun, Report: j.report}
}

// tell says how far the work is and looks whether it should stop. It writes at most every tellEvery.
func (j *importJob) tell(ctx context.Context, step string, done, total int) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	now := j.s.realNow()
	if step == j.run.Step && now.Sub(j.heard) < tellEvery {
		return nil
	}
	j.run.Step, j.run.Done, j.run.Total, j.heard = step, done, total, now
	wanted, err := j.outside.TellImport(j.run.ID, step, done, total, now)
	if err == nil && wanted {
		err = errCancelled
	}
	return err
}

func (j *importJob) work(ctx context.Context) {
	err := j.take(ctx)
	switch {
	case err == nil:
	case errors.Is(err, errCancelled), ctx.Err() != nil:
		j.run.Status = "cancelled"
	default:
		j.run.Status = "failed"
		slog.ErrorContext(ctx, "import failed", "file", j.req.FileName, "error", err)
	}
	j.run.Rows = j.report.Rows
	j.run.Report = store.ToJSON(j.stored())
	j.run.Step = ""
	now := j.s.realNow()
	j.run.HeardAt = &now
	if err := store.Save(j.outside, j.run.ID, &j.run); err != nil {
		slog.ErrorContext(ctx, "import's end could not be kept", "run", j.run.ID, "error", err)
	}
}

// take reads, checks and stores the file in one transaction.
func (j *importJob) take(ctx context.Context) error {
	t := j.s.tenant(ctx, j.a)
	return t.InBulk(func(t store.Tenant) error {
		var change bool
		var err error
		if j.req.Kind == "visits" {
			change, err = j.visits(ctx, t)
		} else {
			change, err = j.register(ctx, t)
		}
		switch {
		case err != nil:
			return err
		case len(j.report.Problems) > 0:
			j.run.Status = "refused"
			return nil
		case j.req.DryRun:
			j.run.Status = "checked"
			return errDryRun
		case !change:
			j.run.Status = "unchanged"
			return nil
		}
		j.run.Status = "stored"
		return t.Record(j.s.stamp(), j.a.AccountID, "import_run", j.run.ID, "imported", auditDetail{Note: j.req.FileName})
	}, errDryRun)
}

// errDryRun takes back what a trial has written.
var errDryRun = errors.New("only tried")

func (j *importJob) problems(p exchange.Problems) {
	sort.SliceStable(p.Listed, func(a, b int) bool { return p.Listed[a].Line < p.Listed[b].Line })
	for _, x := range p.Listed {
		j.report.Problems = append(j.report.Problems, contract.FieldError{
			Pointer: fmt.Sprintf("line %d, %s", x.Line, x.Column), Reason: x.Reason, Line: ptr(x.Line), Column: ptr(x.Column),
		})
	}
	j.report.MoreProblems = p.More
}

func (j *importJob) columns(found []exchange.Found, missing []string) {
	j.report.Missing = append(j.report.Missing, missing...)
	for _, f := range found {
		c := contract.ImportColumn{Name: f.Name}
		if f.Column != "" {
			c.Column = ptr(f.Column)
		}
		j.report.Columns = append(j.report.Columns, c)
	}
}

// table reads the file; false when it cannot be read as a table.
func (j *importJob) table(ctx context.Context) (exchange.Table, bool, error) {
	table, problems := exchange.ReadTable(j.req.File)
	if problems.Any() {
		j.problems(problems)
		return table, false, nil
	}
	err := j.tell(ctx, "checking", 0, len(table.Rows))
	return table, err == nil, err
}

// register takes in a register file.
func (j *importJob) register(ctx context.Context, t store.Tenant) (bool, error) {
	table, ok, err := j.table(ctx)
	if !ok {
		return false, err
	}
	file := exchange.ReadRegister(table, j.told)
	j.report.Rows = len(file.Rows)
	j.columns(file.Columns, file.Missing)
	in, err := j.s.newIntake(t, j.a)
	if err != nil {
		return false, err
	}
	known, err := knownUnits(t)
	if err != nil {
		return false, err
	}
	g := gathering{intake: in, known: known, problems: &file.Problems, at: map[string]int{}, first: map[string]int{}}
	for i, row := range file.Rows {
		if i%500 == 0 {
			if err := j.tell(ctx, "checking", i, len(file.Rows)); err != nil {
				return false, err
			}
		}
		g.row(row)
	}
	table.Rows, file.Rows = nil, nil // what was read is in g now
	for _, u := range g.units {
		j.report.NewCoils += len(u.coils)
		if _, err := in.place(u); err != nil {
			return false, err
		}
	}
	j.problems(file.Problems)
	j.report.NewUnits, j.report.NewPlacements = len(g.units), in.newPlaces
	j.report.NewSites = append(j.report.NewSites, in.newSites...)
	j.report.ChangedUnits = len(g.changed)
	if len(j.report.Problems) > 0 || j.req.DryRun {
		return false, nil
	}
	return len(g.units)+len(g.changed) > 0, j.storeRegister(ctx, t, in, g)
}

// chunk is how many new units are stored at once: enough for COPY to pay, few enough for little memory.
const chunk = 4000

func (j *importJob) storeRegister(ctx context.Context, t store.Tenant, in *intake, g gathering) error {
	fresh, err := j.s.newcomers(in)
	if err != nil {
		return err
	}
	for from := 0; from < len(g.units); from += chunk {
		if err := j.tell(ctx, "storing", from, len(g.units)); err != nil {
			return err
		}
		for _, u := range g.units[from:min(from+chunk, len(g.units))] {
			if _, err := in.add(u); err != nil {
				return err
			}
		}
		if err := in.store(); err != nil {
			return err
		}
		if err := fresh.derive(j.s, in.rows); err != nil {
			return err
		}
		in.rows = intakeRows{}
	}
	touched := make([]uuid.UUID, 0, len(g.changed))
	for _, c := range g.changed {
		c.after.Version++
		if err := store.SaveVersion(t, c.after.ID, c.before.Version, &c.after); err != nil {
			return err
		}
		if err := recordChange(t, j.s.stamp(), j.a, "unit", c.after.ID, "changed by import", unitFields(c.before), unitFields(c.after)); err != nil {
			return err
		}
		touched = append(touched, c.after.ID)
	}
	return j.refresh(ctx, t, touched)
}

func (j *importJob) refresh(ctx context.Context, t store.Tenant, units []uuid.UUID) error {
	return j.s.refreshTelling(t, units, func(done int) error { return j.tell(ctx, "working out", done, len(units)) })
}

// knownUnit is a unit of the register as a file would have it.
type knownUnit struct {
	unit store.Unit
	rows map[string]exchange.RegisterRow // by coil role
}

func knownUnits(t store.Tenant) (map[string]knownUnit, error) {
	out := map[string]knownUnit{}
	err := eachRegisterRow(t, func(u store.Unit, row exchange.RegisterRow) error {
		key := strings.ToLower(u.Tag)
		k, ok := out[key]
		if !ok {
			k = knownUnit{unit: u, rows: map[string]exchange.RegisterRow{}}
			out[key] = k
		}
		k.rows[row.CoilRole] = row
		return nil
	})
	return out, err
}

// gathering joins the rows of each tag into units and finds what is wrong with them.
type gathering struct {
	*intake
	known    map[string]knownUnit
	problems *exchange.Problems
	units    []newUnit
	changed  []changedUnit
	at       map[string]int // by tag, in units
	first    map[string]int // line of a tag's first row
}

type changedUnit struct{ before, after store.Unit }

func (g *gathering) row(row exchange.RegisterRow) {
	bad := func(column, format string, args ...any) { g.problems.Addf(row.Line, column, format, args...) }
	class, ok := g.class(row.Class)
	if !ok {
		if row.Class != "" {
			bad("class", "%q %v", row.Class, errNoClass)
		}
		return
	}
	coil := newCoil{
		role: row.CoilRole, quality: row.LastClean, day: row.LastDay, construction: row.Construction, slabs: row.Slabs,
		lightDays: row.LightDays, deepDays: row.DeepDays,
	}
	if column, why := g.checkCoil(class, coil); why != "" && row.CoilRole != "" {
		bad(column, "%s", why)
		return
	}
	switch {
	case row.LightDays != nil && class.LightDays == nil:
		bad("light days", "%s has no light clean", class.Name)
	case row.Commissioned != nil && *row.Commissioned > g.today:
		bad("commissioned", "%s is in the future", row.Commissioned)
	case row.Commissioned != nil && row.LastDay != nil && *row.LastDay < *row.Commissioned:
		bad("last clean", "%s is before the unit was commissioned", row.LastDay)
	}
	if row.Bad {
		return
	}
	tag := strings.ToLower(row.Tag)
	if k, ok := g.known[tag]; ok {
		g.compare(row, class, k, bad)
		return
	}
	i, seen := g.at[tag]
	if !seen {
		g.at[tag], g.first[tag] = len(g.units), row.Line
		g.units = append(g.units, newUnit{
			site: row.Site, placement: row.Placement, setting: row.Setting, tag: row.Tag, class: class, make: row.Make, model: row.Model,
			serial: row.Serial, note: row.Note, refrigerant: row.Refrigerant, year: row.Year, chargeKg: row.ChargeKg, capacityKw: row.CapacityKw,
			energyKwh: row.EnergyKwhDay, consequence: row.ConsequenceCost, commissioned: row.Commissioned, coils: []newCoil{coil},
		})
		return
	}
	u := &g.units[i]
	switch {
	case !strings.EqualFold(u.site, row.Site):
		bad("site", "%s stands at %s in line %d", row.Tag, u.site, g.first[tag])
	case !strings.EqualFold(u.placement, row.Placement):
		bad("placement", "%s stands at %s in line %d", row.Tag, u.placement, g.first[tag])
	case u.class.ID != class.ID:
		bad("class", "%s is a %s in line %d", row.Tag, u.class.Name, g.first[tag])
	}
	for _, c := range u.coils {
		if c.role == coil.role {
			bad("coil role", "%s has its %s in line %d already", row.Tag, coil.role, g.first[tag])
		}
	}
	u.coils = append(u.coils, coil)
}

// compare holds a row against the unit that is there: what a file may change is changed, the rest must agree. An
// empty cell says nothing.
func (g *gathering) compare(row exchange.RegisterRow, class store.EquipmentClass, k knownUnit, bad func(string, string, ...any)) {
	there, ok := k.rows[row.CoilRole]
	if !ok {
		bad("coil role", "%s is in the register without a %s; take the unit out of the file or the coil", row.Tag, row.CoilRole)
		return
	}
	if line, twice := g.first["coil/"+strings.ToLower(row.Tag)+"/"+row.CoilRole]; twice {
		bad("tag", "%s has its %s in line %d already", row.Tag, row.CoilRole, line)
		return
	}
	g.first["coil/"+strings.ToLower(row.Tag)+"/"+row.CoilRole] = row.Line
	const move = "%s is in the register at %s; move it there on its page"
	switch {
	case k.unit.Status == retired:
		bad("tag", "%s is in the register, retired", row.Tag)
	case !strings.EqualFold(there.Site, row.Site):
		bad("site", move, row.Tag, there.Site)
	case !strings.EqualFold(there.Placement, row.Placement):
		bad("placement", move, row.Tag, there.Placement)
	case k.unit.ClassID != class.ID:
		bad("class", "%s is in the register as a %s", row.Tag, there.Class)
	case row.LastDay != nil && (there.LastDay == nil || *there.LastDay != *row.LastDay || there.LastClean != row.LastClean):
		bad("last clean", "%s is in the register already with another one; record a visit instead", row.Tag)
	case differs(row.LightDays, there.LightDays) || differs(row.DeepDays, there.DeepDays):
		bad("deep days", "%s is in the register with other intervals; change them on its page or in bulk", row.Tag)
	default:
		before := k.unit
		after := before
		if i, seen := g.at["known/"+strings.ToLower(row.Tag)]; seen {
			after = g.changed[i].after
		}
		text := func(into *string, from string) {
			if from != "" {
				*into = from
			}
		}
		text(&after.Make, row.Make)
		text(&after.Model, row.Model)
		text(&after.Serial, row.Serial)
		text(&after.Refrigerant, row.Refrigerant)
		text(&after.Note, row.Note)
		take(&after.Year, row.Year)
		take(&after.ChargeKg, row.ChargeKg)
		take(&after.CapacityKw, row.CapacityKw)
		take(&after.EnergyKwhDay, row.EnergyKwhDay)
		take(&after.ConsequenceCost, row.ConsequenceCost)
		if row.Commissioned != nil {
			after.Commissioned = store.DateOf(row.Commissioned)
		}
		if len(differences(unitFields(before), unitFields(after))) == 0 {
			return
		}
		if i, seen := g.at["known/"+strings.ToLower(row.Tag)]; seen {
			g.changed[i].after = after
			return
		}
		g.at["known/"+strings.ToLower(row.Tag)] = len(g.changed)
		g.changed = append(g.changed, changedUnit{before: before, after: after})
	}
}

func differs(file, there *int) bool { return file != nil && (there == nil || *file != *there) }

func take[T any](into **T, from *T) {
	if from != nil {
		*into = from
	}
}

// unitFields are the fields of a unit that a file may change, under the names the audit trail shows.
func unitFields(u store.Unit) map[string]any {
	return map[string]any{
		"make": u.Make, "model": u.Model, "serial": u.Serial, "refrigerant": u.Refrigerant, "note": u.Note, "year": u.Year,
		"charge_kg": u.ChargeKg, "capacity_kw": u.CapacityKw, "energy_kwh_day": u.EnergyKwhDay, "consequence_cost": u.ConsequenceCost,
		"commissioned": store.DayOf(u.Commissioned),
	}
}

func (j *importJob) view() contract.ImportRun {
	return importView(j.run, accountNames{j.a.AccountID: j.a.Person.Name}, j.s.realNow())
}

func importView(r store.ImportRun, names accountNames, now time.Time) contract.ImportRun {
	out := contract.ImportRun{
		ID: r.ID, Kind: r.Kind, FileName: r.FileName, At: r.At, Status: contract.ImportRunStatus(r.Status), Step: r.Step, Done: r.Done,
		Total: r.Total, By: ptr(names.of(&r.AccountID)),
	}
	if r.Status == "running" && r.HeardAt != nil && now.Sub(*r.HeardAt) > silentAfter {
		out.Status = "failed" // its server is gone, and its transaction with it
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
func (s *Service) ImportRun(ctx context.Context, a Actor, id uuid.UUID) (contract.ImportRun, error) {
	if err := a.onlyHouse(contract.RoleManager); err != nil {
		return contract.ImportRun{}, err
	}
	t := s.tenant(ctx, a)
	row, err := store.Get[store.ImportRun](t, id)
	if err != nil {
		return contract.ImportRun{}, err
	}
	names, err := s.accountNames(t)
	return importView(row, names, s.realNow()), err
}

// Imports lists the newest imports.
func (s *Service) Imports(ctx context.Context, a Actor) ([]contract.ImportRun, error) {
	if err := a.onlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	t := s.tenant(ctx, a)
	rows, err := t.NewestImports(importsShown)
	if err != nil {
		return nil, err
	}
	names, err := s.accountNames(t)
	out := []contract.ImportRun{}
	for _, r := range rows {
		out = append(out, importView(r, names, s.realNow()))
	}
	return out, err
}

// CancelImport asks a running import to stop.
func (s *Service) CancelImport(ctx context.Context, a Actor, id uuid.UUID) (contract.ImportRun, error) {
	if err := a.onlyHouse(contract.RoleManager); err != nil {
		return contract.ImportRun{}, err
	}
	if err := s.tenant(ctx, a).WantImportCancelled(id); err != nil {
		return contract.ImportRun{}, err
	}
	return s.ImportRun(ctx, a, id)
}
