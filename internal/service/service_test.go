package service_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/pg/pgtest"
	"nextround/internal/service"
	"nextround/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

var now = time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC)

// house is an organisation with a manager, a technician and a viewer, on a clock that the test sets.
type house struct {
	t                           testing.TB
	ctx                         context.Context
	svc                         *service.Service
	store                       *store.Store
	org                         store.Organisation
	manager, technician, viewer service.Actor
	now                         time.Time
	cat                         contract.Catalogue
}

func newHouse(t testing.TB) *house {
	t.Helper()
	h := &house{t: t, ctx: context.Background(), now: now}
	st, err := store.Open(h.ctx, pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(st.Close)
	h.store = st
	h.svc = service.New(st, service.Options{Now: func() time.Time { return h.now }, Hash: service.HashCost{Passes: 1, MemoryKiB: 64}})
	t.Cleanup(h.svc.Close)
	h.org, err = h.svc.CreateOrganisation(h.ctx, service.NewOrganisation{Name: "Trust", Zone: "UTC", Currency: "EUR", Units: "metric"})
	require.NoError(t, err)
	h.manager = h.member("manager", contract.RoleManager)
	h.technician = h.member("technician", contract.RoleTechnician)
	h.viewer = h.member("viewer", contract.RoleViewer)
	h.cat, err = h.svc.Catalogue(h.ctx, h.manager)
	require.NoError(t, err)
	return h
}

func (h *house) member(login string, role contract.Role) service.Actor {
	a, err := h.svc.CreateMember(h.ctx, h.org, "The "+login, login, "secret", role)
	require.NoError(h.t, err)
	return a
}

// unit adds a unit cleaned on a day, or never known to be cleaned when the day is empty.
func (h *house) unit(tag, class, cleaned string) contract.Unit {
	h.t.Helper()
	in := contract.NewUnit{Site: "Hall", Placement: "Yard", Tag: tag, Class: class, LastClean: contract.LastClean{Quality: "unknown"}}
	for _, c := range h.cat.Classes {
		if c.Code == class {
			in.CoilRoles = c.CoilRoles
		}
	}
	if cleaned != "" {
		day := calendar.MustParse(cleaned)
		in.LastClean = contract.LastClean{Quality: "exact", Day: &day}
	}
	made, err := h.svc.AddUnit(h.ctx, h.manager, in)
	require.NoError(h.t, err)
	return h.look(made.ID)
}

// crew adds a crew that works some minutes on some weekdays.
func (h *house) crew(name string, minutes int, weekdays ...int) {
	h.t.Helper()
	card := contract.CrewCard{Name: name}
	for _, d := range weekdays {
		card.Hours = append(card.Hours, contract.CrewHours{Weekday: d, Starts: "07:30", Minutes: minutes})
	}
	_, err := h.svc.SaveCrew(h.ctx, h.manager, nil, card)
	require.NoError(h.t, err)
}

// portfolio is the first page that somebody sees.
func (h *house) portfolio(a service.Actor) []contract.PortfolioRow {
	h.t.Helper()
	p, err := h.svc.Portfolio(h.ctx, a, service.PortfolioQuery{})
	require.NoError(h.t, err)
	return p.Rows
}

// take imports a file of the kind, or only checks it.
func (h *house) take(kind, file string, dryRun bool) contract.ImportRun {
	h.t.Helper()
	run, err := h.svc.Import(h.ctx, h.manager, service.ImportRequest{Kind: kind, FileName: "x.csv", File: []byte(file), DryRun: dryRun})
	require.NoError(h.t, err)
	return run
}

// export writes what somebody may see as a file.
func (h *house) export(a service.Actor, kind, format string) string {
	h.t.Helper()
	var out strings.Builder
	require.NoError(h.t, h.svc.Export(h.ctx, a, kind, format, &out))
	return out.String()
}

func (h *house) look(id uuid.UUID) contract.Unit {
	h.t.Helper()
	u, err := h.svc.Unit(h.ctx, h.manager, id)
	require.NoError(h.t, err)
	return u
}

func (h *house) method(code string) uuid.UUID {
	for _, m := range h.cat.Methods {
		if m.Code == code {
			return m.ID
		}
	}
	h.t.Fatalf("no method %s", code)
	return uuid.Nil
}

// visit is a visit to a unit's first coil that found and left every side alike.
func (h *house) visit(u contract.Unit, day string, work contract.TaskKind, found, left int, seen contract.Seen) contract.NewVisit {
	coil := contract.VisitCoil{CoilID: u.Coils[0].ID}
	t := contract.VisitTreatment{Work: work, MethodID: h.method("brush_vacuum"), Direction: contract.AlongFins}
	for _, s := range u.Coils[0].Sides {
		coil.Sides = append(coil.Sides, contract.VisitSide{
			SurfaceID: s.ID, Reached: true, Found: &contract.Look{Grade: found, Seen: seen}, Left: &contract.Look{Grade: left, Seen: seen},
		})
		t.SurfaceIds = append(t.SurfaceIds, s.ID)
	}
	coil.Treatments = []contract.VisitTreatment{t}
	return contract.NewVisit{
		UnitID: u.ID, Day: calendar.MustParse(day), Outcome: contract.OutcomeDone, CautionsRead: true,
		People: []contract.VisitPerson{{PersonID: h.technician.Person.ID, Minutes: 30}}, Coils: []contract.VisitCoil{coil},
	}
}

func (h *house) submit(v contract.NewVisit) contract.VisitOutcome {
	h.t.Helper()
	out, err := h.svc.SubmitVisit(h.ctx, h.technician, store.NewID(), v)
	require.NoError(h.t, err)
	return out
}

func task(u contract.Unit, kind contract.TaskKind) contract.Task {
	for _, t := range u.Coils[0].Tasks {
		if t.Kind == kind {
			return t
		}
	}
	return contract.Task{}
}

func fields(t *testing.T, err error) map[string]string {
	t.Helper()
	var bad invalid.Error
	require.True(t, errors.As(err, &bad), "%v", err)
	out := map[string]string{}
	for _, f := range bad {
		out[f.Path] = f.Reason
	}
	return out
}

func TestSignIn(t *testing.T) {
	h := newHouse(t)
	a, err := h.svc.SignIn(h.ctx, contract.SignIn{Login: " Manager", Password: "secret"}, "127.0.0.1")
	require.NoError(t, err)
	assert.Equal(t, contract.RoleManager, a.Role)
	for _, in := range []contract.SignIn{{Login: "manager", Password: "Secret"}, {Login: "nobody", Password: "secret"}} {
		_, err = h.svc.SignIn(h.ctx, in, "127.0.0.1")
		assert.ErrorIs(t, err, service.ErrSignIn)
	}
	require.NoError(t, h.store.DB.Exec("UPDATE account SET disabled = true WHERE login = 'manager'").Error)
	_, err = h.svc.SignIn(h.ctx, contract.SignIn{Login: "manager", Password: "secret"}, "127.0.0.1")
	assert.ErrorIs(t, err, service.ErrSignIn, "a disabled account")
	_, err = h.svc.Actor(h.ctx, a.AccountID)
	assert.ErrorIs(t, err, service.ErrSignIn, "a session of an account disabled meanwhile")
}

func TestPasswordHashesDiffer(t *testing.T) {
	cost := service.HashCost{Passes: 1, MemoryKiB: 64}
	a, err := service.HashPassword("secret", cost)
	require.NoError(t, err)
	b, err := service.HashPassword("secret", cost)
	require.NoError(t, err)
	assert.NotEqual(t, a, b, "each hash has its own salt")
	assert.Contains(t, a, "$argon2id$v=19$m=64,t=1,p=1$")
}

func TestRolesBound(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	id := task(u, contract.TaskKindLight).TaskID
	for _, a := range []service.Actor{h.technician, h.viewer} {
		_, err := h.svc.AddUnit(h.ctx, a, contract.NewUnit{})
		assert.ErrorIs(t, err, service.ErrForbidden)
		_, err = h.svc.Import(h.ctx, a, service.ImportRequest{Kind: "register", DryRun: true})
		assert.ErrorIs(t, err, service.ErrForbidden)
		_, err = h.svc.AddSiteFactor(h.ctx, a, contract.NewSiteFactor{})
		assert.ErrorIs(t, err, service.ErrForbidden)
		_, err = h.svc.SetInterval(h.ctx, a, id, contract.OwnInterval{Days: 20, Reason: "x"})
		assert.ErrorIs(t, err, service.ErrForbidden)
		_, err = h.svc.PublishRounds(h.ctx, a, store.NewID(), contract.Publication{})
		assert.ErrorIs(t, err, service.ErrForbidden)
	}
	_, err := h.svc.SubmitVisit(h.ctx, h.viewer, store.NewID(), contract.NewVisit{})
	assert.ErrorIs(t, err, service.ErrForbidden)
}

func TestAnotherOrganisationSeesNothing(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	other, err := h.svc.CreateOrganisation(h.ctx, service.NewOrganisation{Name: "Other", Zone: "UTC", Currency: "EUR", Units: "us"})
	require.NoError(t, err)
	stranger, err := h.svc.CreateMember(h.ctx, other, "Stranger", "stranger", "secret", contract.RoleManager)
	require.NoError(t, err)

	_, err = h.svc.Unit(h.ctx, stranger, u.ID)
	assert.ErrorIs(t, err, service.ErrNotFound)
	assert.Empty(t, h.portfolio(stranger))
	_, err = h.svc.SetInterval(h.ctx, stranger, task(u, contract.TaskKindLight).TaskID, contract.OwnInterval{Days: 20, Reason: "mine"})
	assert.ErrorIs(t, err, service.ErrNotFound)
	_, err = h.svc.SubmitVisit(h.ctx, stranger, store.NewID(), h.visit(u, "2026-03-01", contract.TaskKindLight, 1, 0, contract.FaceLook))
	assert.Contains(t, fields(t, err), "/unit_id")
	_, err = h.svc.AddSiteFactor(h.ctx, stranger, contract.NewSiteFactor{
		FactorID: h.cat.Factors[0].ID, Scope: contract.FactorScopeSite, ScopeID: u.SiteID, From: calendar.MustParse("2026-01-01"),
	})
	assert.Contains(t, fields(t, err), "/factor_id")
	_, err = h.svc.AddSiteFactor(h.ctx, h.manager, contract.NewSiteFactor{
		FactorID: h.cat.Factors[0].ID, Scope: contract.FactorScopeUnit, ScopeID: store.NewID(), From: calendar.MustParse("2026-01-01"),
	})
	assert.Contains(t, fields(t, err), "/scope_id")
}

func TestDefaultsSayWhatTheyRestOn(t *testing.T) {
	h := newHouse(t)
	require.NotEmpty(t, h.cat.Classes)
	for _, c := range h.cat.Classes {
		assert.NotEmpty(t, value(c.Evidence), c.Code)
		assert.NotEmpty(t, value(c.Source), c.Code)
		assert.NotEmpty(t, c.CoilRoles, c.Code)
	}
	for _, f := range h.cat.Factors {
		assert.NotEmpty(t, value(f.Evidence), f.Code)
	}
	assert.Len(t, h.cat.Grades, 6)
	assert.Contains(t, h.cat.Deferral, "Local codes")
}

func value[T any](p *T) T {
	var zero T
	if p == nil {
		return zero
	}
	return *p
}
