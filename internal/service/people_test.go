package service_test

import (
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/pg/pgtest"
	"nextround/internal/service"
	"nextround/internal/store"
)

const goodPassword = "three old herring nets"

func (h *house) signIn(login, password string) (service.Actor, error) {
	return h.svc.SignIn(h.ctx, contract.SignIn{Login: login, Password: password}, "192.0.2.7")
}

// invite adds somebody and has them choose a password by the link.
func (h *house) invite(login string, role contract.Role, sites ...uuid.UUID) service.Actor {
	h.t.Helper()
	in := contract.NewPerson{Name: "The " + login, Login: &login, Role: &role}
	if len(sites) > 0 {
		in.AllSites, in.SiteIds = ptr(false), &sites
	}
	added, err := h.svc.AddPerson(h.ctx, h.manager, in)
	require.NoError(h.t, err)
	a, err := h.svc.UseLink(h.ctx, strings.TrimPrefix(*added.Link, "/join/"), goodPassword)
	require.NoError(h.t, err)
	return a
}

func TestAnEmptyDatabaseIsSetUpOnce(t *testing.T) {
	st, err := store.Open(t.Context(), pgtest.New(t))
	require.NoError(t, err)
	defer st.Close()
	svc := service.New(st, service.Options{Hash: service.HashCost{Passes: 1, MemoryKiB: 64}})
	defer svc.Close()
	needed, err := svc.SetupNeeded(t.Context())
	require.NoError(t, err)
	assert.True(t, needed)
	good := contract.NewHouse{
		Organisation: "Trust", Zone: "Europe/Oslo", Currency: "EUR", Units: "us", Person: "Manager", Login: "Boss@Example.org", Password: goodPassword,
	}
	for field, change := range map[string]func(*contract.NewHouse){
		"/organisation": func(n *contract.NewHouse) { n.Organisation = " " },
		"/zone":         func(n *contract.NewHouse) { n.Zone = "Atlantis" },
		"/currency":     func(n *contract.NewHouse) { n.Currency = "SHL" },
		"/login":        func(n *contract.NewHouse) { n.Login = "a b" },
		"/password":     func(n *contract.NewHouse) { n.Password = "short" },
	} {
		bad := good
		change(&bad)
		_, err := svc.SetUp(t.Context(), bad)
		assert.Contains(t, fields(t, err), field)
	}
	through := at(t, 4, func() error {
		_, err := svc.SetUp(t.Context(), good)
		return err
	})
	assert.Equal(t, 1, through, "of four at once, one")
	a, err := svc.SignIn(t.Context(), contract.SignIn{Login: "boss@example.org", Password: goodPassword}, "")
	require.NoError(t, err)
	assert.Equal(t, contract.RoleManager, a.Role)
	assert.Equal(t, "us", a.Units)
	cat, err := svc.Catalogue(t.Context(), a)
	require.NoError(t, err)
	assert.NotEmpty(t, cat.Classes, "the catalogues are copied")
}

func TestInvitedResetAndShutOut(t *testing.T) {
	h := newHouse(t)
	login := "kari"
	added, err := h.svc.AddPerson(h.ctx, h.manager, contract.NewPerson{Name: "Kari", Login: &login, Role: ptr(contract.RoleTechnician)})
	require.NoError(t, err)
	token := strings.TrimPrefix(*added.Link, "/join/")
	info, err := h.svc.Join(h.ctx, token)
	require.NoError(t, err)
	assert.Equal(t, contract.JoinInfo{Organisation: "Trust", Person: "Kari", Login: "kari", Kind: "invite", ExpiresAt: info.ExpiresAt}, info)
	assert.True(t, info.ExpiresAt.Equal(*added.ExpiresAt))
	_, err = h.signIn("kari", "")
	assert.ErrorIs(t, err, service.ErrSignIn, "no password was chosen yet")
	for _, weak := range []string{"short", strings.Repeat("x", 129), strings.Repeat("a", 20), "kari kari kari"} {
		_, err = h.svc.UseLink(h.ctx, token, weak)
		assert.Contains(t, fields(t, err), "/password", weak)
	}
	_, err = h.svc.UseLink(h.ctx, token, goodPassword)
	require.NoError(t, err)
	first, err := h.signIn("Kari", goodPassword)
	require.NoError(t, err)
	_, err = h.svc.UseLink(h.ctx, token, goodPassword)
	assert.ErrorIs(t, err, service.ErrNotFound, "a link works once")

	reset, err := h.svc.MakeLink(h.ctx, h.manager, added.Person.PersonID)
	require.NoError(t, err)
	newer, err := h.svc.MakeLink(h.ctx, h.manager, added.Person.PersonID)
	require.NoError(t, err)
	_, err = h.svc.Join(h.ctx, strings.TrimPrefix(*reset.Link, "/join/"))
	assert.ErrorIs(t, err, service.ErrNotFound, "a newer link ends the older")
	h.now = h.now.Add(73 * time.Hour)
	_, err = h.svc.UseLink(h.ctx, strings.TrimPrefix(*newer.Link, "/join/"), goodPassword+"!")
	assert.ErrorIs(t, err, service.ErrNotFound, "links end after three days")
	require.NoError(t, h.svc.ChangePassword(h.ctx, first, contract.PasswordChange{Current: goodPassword, Password: goodPassword + "!"}))
	assert.Contains(t, fields(t, h.svc.ChangePassword(h.ctx, first, contract.PasswordChange{Current: "x", Password: goodPassword})), "/current")
	second, err := h.signIn("kari", goodPassword+"!")
	require.NoError(t, err)
	assert.NotEqual(t, first.PasswordMark, second.PasswordMark, "sessions of the old password end")

	line, err := h.svc.SavePerson(h.ctx, h.manager, added.Person.PersonID, contract.PersonChange{Version: 1, Name: "Kari", Disabled: ptr(true)})
	require.NoError(t, err)
	assert.True(t, line.Disabled)
	_, err = h.signIn("kari", goodPassword+"!")
	assert.ErrorIs(t, err, service.ErrSignIn)
	_, err = h.svc.SavePerson(h.ctx, h.manager, added.Person.PersonID, contract.PersonChange{Version: 1, Name: "Kari"})
	var stale service.Stale
	assert.ErrorAs(t, err, &stale)
	_, err = h.svc.SavePerson(h.ctx, h.manager, h.manager.Person.ID, contract.PersonChange{Version: 1, Name: "M", Role: ptr(contract.RoleViewer)})
	assert.Contains(t, fields(t, err), "/role", "nobody locks themselves out")
	_, err = h.svc.AddPerson(h.ctx, h.manager, contract.NewPerson{Name: "Twin", Login: &login, Role: ptr(contract.RoleViewer)})
	assert.Contains(t, fields(t, err), "/login")
}

func TestSignInsThatFailAreLimited(t *testing.T) {
	h := newHouse(t)
	for range 6 {
		_, err := h.signIn("manager", "guess")
		assert.ErrorIs(t, err, service.ErrSignIn)
	}
	_, err := h.signIn("manager", "secret")
	assert.ErrorIs(t, err, service.ErrTooManyAttempts, "even with the right password")
	_, err = h.signIn("viewer", "secret")
	require.NoError(t, err, "others get in")
	h.now = h.now.Add(16 * time.Minute)
	_, err = h.signIn("manager", "secret")
	require.NoError(t, err, "and so does the manager, a while later")
	for i := range 40 {
		_, err = h.signIn("nobody"+string(rune('a'+i%26))+string(rune('a'+i/26)), "guess")
		assert.ErrorIs(t, err, service.ErrSignIn)
	}
	_, err = h.signIn("viewer", "secret")
	assert.ErrorIs(t, err, service.ErrTooManyAttempts, "one address tried too many logins")
}

// Somebody with listed sites finds nothing of the others, by whatever way they ask.
func TestListedSitesBound(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 400, 1, 2, 3, 4, 5)
	inside := h.unit("IM-1", "ice_machine", "2026-01-01")
	h.take("register", header+"Barn,Loft,B-1,Ice machine,condenser,2026-01-01\n", false)
	hall := inside.SiteID
	var outside contract.PortfolioRow
	for _, row := range h.portfolio(h.manager) {
		if row.Tag == "B-1" {
			outside = row
		}
	}
	there := h.look(outside.UnitID)
	visit := h.submit(h.visit(there, "2026-02-01", contract.TaskKindLight, 2, 0, contract.FaceLook))
	manager, viewer := h.invite("haldor", contract.RoleManager, hall), h.invite("vera", contract.RoleViewer, hall)
	for _, a := range []service.Actor{manager, viewer} {
		require.Len(t, h.portfolio(a), 1)
		assert.Equal(t, "IM-1", h.portfolio(a)[0].Tag)
		sites, err := h.svc.Sites(h.ctx, a)
		require.NoError(t, err)
		assert.Len(t, sites, 1)
		visits, err := h.svc.Visits(h.ctx, a)
		require.NoError(t, err)
		assert.Empty(t, visits)
		hits, err := h.svc.Search(h.ctx, a, "B")
		require.NoError(t, err)
		assert.Empty(t, hits)
		assert.NotContains(t, h.export(a, "register", "csv"), "B-1")
		assert.NotContains(t, h.export(a, "visits", "csv"), "B-1")
		summary, err := h.svc.PortfolioSummary(h.ctx, a, store.CoilFilter{})
		require.NoError(t, err)
		assert.Equal(t, 1, summary.AllUnits)
		for name, ask := range map[string]func() error{
			"unit":   func() error { _, err := h.svc.Unit(h.ctx, a, outside.UnitID); return err },
			"card":   func() error { _, err := h.svc.UnitCard(h.ctx, a, outside.UnitID); return err },
			"site":   func() error { _, err := h.svc.Site(h.ctx, a, outside.SiteID); return err },
			"visit":  func() error { _, err := h.svc.VisitRecord(h.ctx, a, visit.ID); return err },
			"audit":  func() error { _, err := h.svc.Audit(h.ctx, a, "unit", outside.UnitID); return err },
			"files":  func() error { _, err := h.svc.Attachments(h.ctx, a, "unit", outside.UnitID); return err },
			"label":  func() error { _, err := h.svc.FindLabel(h.ctx, a, h.card(outside.UnitID).LabelCode); return err },
			"person": func() error { _, err := h.svc.Audit(h.ctx, a, "person", h.viewer.Person.ID); return err },
		} {
			assert.ErrorIs(t, ask(), service.ErrNotFound, name)
		}
		_, err = h.svc.People(h.ctx, a)
		assert.ErrorIs(t, err, service.ErrForbidden)
	}
	n, err := h.svc.NextRound(h.ctx, manager, nil, nil)
	require.NoError(t, err)
	assert.Nil(t, n.Round, "nothing is planned yet")
	_, err = h.svc.SetInterval(h.ctx, manager, outside.Coil.Tasks[0].TaskID, contract.OwnInterval{Days: 9, Reason: "x"})
	assert.ErrorIs(t, err, service.ErrNotFound)
	_, err = h.svc.ChangeInBulk(h.ctx, manager, contract.NewBulkChange{UnitIds: []uuid.UUID{outside.UnitID}, What: "make", Text: ptr("x")})
	assert.Contains(t, fields(t, err), "/unit_ids")
	_, err = h.svc.AddUnit(h.ctx, manager, contract.NewUnit{
		Site: "Barn", Placement: "Loft", Tag: "B-2", Class: "Ice machine", CoilRoles: []contract.CoilRole{"condenser"}, LastClean: contract.LastClean{Quality: "never"},
	})
	assert.Contains(t, fields(t, err), "/site")
	_, err = h.svc.SubmitVisit(h.ctx, manager, store.NewID(), h.visit(there, "2026-03-01", contract.TaskKindLight, 1, 0, contract.FaceLook))
	assert.Contains(t, fields(t, err), "/unit_id")

	// A round over both sites shows each only its own stops.
	h.planned()
	all := h.next()
	require.Len(t, all.Round.Stops, 2)
	n, err = h.svc.NextRound(h.ctx, manager, nil, nil)
	require.NoError(t, err)
	require.Len(t, n.Round.Stops, 1)
	assert.Equal(t, "Hall", n.Round.Stops[0].Site)
	plan, err := h.svc.Plan(h.ctx, viewer)
	require.NoError(t, err)
	for _, x := range plan.Rounds {
		for _, stop := range x.Stops {
			assert.Equal(t, "Hall", stop.Site)
		}
	}
	r := h.publish(*all.Round)[0]
	part, err := h.svc.Round(h.ctx, viewer, r.ID)
	require.NoError(t, err)
	assert.Len(t, part.Stops, 1)
	_, err = h.svc.WithdrawRound(h.ctx, manager, r.ID)
	assert.ErrorIs(t, err, service.ErrForbidden)
}
