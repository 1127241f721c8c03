package organisation_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/importing"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

func TestSignIn(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	a, err := h.Rooms.Organisation.SignIn(h.Ctx, contract.SignIn{Login: " Manager", Password: "secret"}, organisation.Visitor{Address: "127.0.0.1"})
	require.NoError(t, err)
	assert.Equal(t, contract.RoleManager, a.Role)
	for _, in := range []contract.SignIn{{Login: "manager", Password: "Secret"}, {Login: "nobody", Password: "secret"}} {
		_, err = h.Rooms.Organisation.SignIn(h.Ctx, in, organisation.Visitor{Address: "127.0.0.1"})
		assert.ErrorIs(t, err, organisation.ErrSignIn)
	}
	require.NoError(t, h.Store.DB.Exec("UPDATE account SET disabled = true WHERE login = 'manager'").Error)
	_, err = h.Rooms.Organisation.SignIn(h.Ctx, contract.SignIn{Login: "manager", Password: "secret"}, organisation.Visitor{Address: "127.0.0.1"})
	assert.ErrorIs(t, err, organisation.ErrSignIn, "a disabled account")
	_, err = h.Rooms.Organisation.Actor(h.Ctx, a.AccountID)
	assert.ErrorIs(t, err, organisation.ErrSignIn, "a session of an account disabled meanwhile")
}

func TestPasswordHashesDiffer(t *testing.T) {
	t.Parallel()
	cost := organisation.HashCost{Passes: 1, MemoryKiB: 64}
	a, err := organisation.HashPassword("secret", cost)
	require.NoError(t, err)
	b, err := organisation.HashPassword("secret", cost)
	require.NoError(t, err)
	assert.NotEqual(t, a, b, "each hash has its own salt")
	assert.Contains(t, a, "$argon2id$v=19$m=64,t=1,p=1$")
}

func TestRolesBound(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	id := roomstest.Task(u, contract.TaskKindLight).TaskID
	for _, a := range []organisation.Actor{h.Technician, h.Viewer} {
		_, err := h.Rooms.Register.AddUnit(h.Ctx, a, contract.NewUnit{})
		assert.ErrorIs(t, err, organisation.ErrForbidden)
		_, err = h.Rooms.Importing.Import(h.Ctx, a, importing.Request{Kind: "register", DryRun: true})
		assert.ErrorIs(t, err, organisation.ErrForbidden)
		_, err = h.Rooms.Register.AddSiteFactor(h.Ctx, a, contract.NewSiteFactor{})
		assert.ErrorIs(t, err, organisation.ErrForbidden)
		_, err = h.Rooms.Learning.SetInterval(h.Ctx, a, id, contract.OwnInterval{Days: 20, Reason: "x"})
		assert.ErrorIs(t, err, organisation.ErrForbidden)
		_, err = h.Rooms.Planning.PublishRounds(h.Ctx, a, store.NewID(), contract.Publication{})
		assert.ErrorIs(t, err, organisation.ErrForbidden)
	}
	_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Viewer, store.NewID(), contract.NewVisit{})
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}

func TestAnotherOrganisationSeesNothing(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	other, err := h.Rooms.Organisation.CreateOrganisation(h.Ctx, organisation.NewOrganisation{Name: "Other", Zone: "UTC", Currency: "EUR", Units: "us"})
	require.NoError(t, err)
	stranger, err := h.Rooms.Organisation.CreateMember(h.Ctx, other, "Stranger", "stranger", "secret", contract.RoleManager)
	require.NoError(t, err)

	_, err = h.Rooms.Learning.Unit(h.Ctx, stranger, u.ID)
	assert.ErrorIs(t, err, organisation.ErrNotFound)
	assert.Empty(t, h.Portfolio(stranger))
	_, err = h.Rooms.Learning.SetInterval(h.Ctx, stranger, roomstest.Task(u, contract.TaskKindLight).TaskID, contract.OwnInterval{Days: 20, Reason: "mine"})
	assert.ErrorIs(t, err, organisation.ErrNotFound)
	_, err = h.Rooms.Fieldwork.SubmitVisit(h.Ctx, stranger, store.NewID(), h.Visit(u, "2026-03-01", contract.TaskKindLight, 1, 0, contract.FaceLook))
	assert.Contains(t, roomstest.Fields(t, err), "/unit_id")
	_, err = h.Rooms.Register.AddSiteFactor(h.Ctx, stranger, contract.NewSiteFactor{
		FactorID: h.Cat.Factors[0].ID, Scope: contract.FactorScopeSite, ScopeID: u.SiteID, From: calendar.MustParse("2026-01-01"),
	})
	assert.Contains(t, roomstest.Fields(t, err), "/factor_id")
	_, err = h.Rooms.Register.AddSiteFactor(h.Ctx, h.Manager, contract.NewSiteFactor{
		FactorID: h.Cat.Factors[0].ID, Scope: contract.FactorScopeUnit, ScopeID: store.NewID(), From: calendar.MustParse("2026-01-01"),
	})
	assert.Contains(t, roomstest.Fields(t, err), "/scope_id")
}

func TestDefaultsSayWhatTheyRestOn(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	require.NotEmpty(t, h.Cat.Classes)
	for _, c := range h.Cat.Classes {
		assert.NotEmpty(t, optional.Value(c.Evidence), c.Code)
		assert.NotEmpty(t, optional.Value(c.Source), c.Code)
		assert.NotEmpty(t, c.CoilRoles, c.Code)
	}
	for _, f := range h.Cat.Factors {
		assert.NotEmpty(t, optional.Value(f.Evidence), f.Code)
	}
	assert.Len(t, h.Cat.Grades, 6)
	assert.Contains(t, h.Cat.Deferral, "Local codes")
}
