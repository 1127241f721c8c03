package organisation_test

import (
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/pg/pgtest"
	"nextround/internal/rooms"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

func TestAnEmptyDatabaseIsSetUpOnce(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), pgtest.New(t))
	require.NoError(t, err)
	defer st.Close()
	svc := rooms.New(st, rooms.Options{Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64}})
	defer svc.Close()
	needed, err := svc.Organisation.SetupNeeded(t.Context())
	require.NoError(t, err)
	assert.True(t, needed)
	good := contract.NewHouse{
		Organisation: "Trust", Zone: "Europe/Oslo", Currency: "EUR", Units: "us", Person: "Manager", Login: "Boss@Example.org", Password: roomstest.GoodPassword,
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
		_, err := svc.Organisation.SetUp(t.Context(), bad)
		assert.Contains(t, roomstest.Fields(t, err), field)
	}
	through := roomstest.AtOnce(t, 4, func() error {
		_, err := svc.Organisation.SetUp(t.Context(), good)
		return err
	})
	assert.Equal(t, 1, through, "of four at once, one")
	a, err := svc.Organisation.SignIn(t.Context(), contract.SignIn{Login: "boss@example.org", Password: roomstest.GoodPassword}, organisation.Visitor{})
	require.NoError(t, err)
	assert.Equal(t, contract.RoleManager, a.Role)
	assert.Equal(t, "us", a.Units)
	cat, err := svc.Organisation.Catalogue(t.Context(), a)
	require.NoError(t, err)
	assert.NotEmpty(t, cat.Classes, "the catalogues are copied")
}

func TestInvitedResetAndShutOut(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	login := "kari"
	added, err := h.Rooms.Organisation.AddPerson(h.Ctx, h.Manager, contract.NewPerson{Name: "Kari", Login: &login, Role: new(contract.RoleTechnician)})
	require.NoError(t, err)
	token := strings.TrimPrefix(*added.Link, "/join/")
	info, err := h.Rooms.Organisation.Join(h.Ctx, token)
	require.NoError(t, err)
	assert.Equal(t, contract.JoinInfo{Organisation: "Trust", Person: "Kari", Login: "kari", Kind: "invite", ExpiresAt: info.ExpiresAt}, info)
	assert.True(t, info.ExpiresAt.Equal(*added.ExpiresAt))
	_, err = h.SignIn("kari", "")
	assert.ErrorIs(t, err, organisation.ErrSignIn, "no password was chosen yet")
	for _, weak := range []string{"short", strings.Repeat("x", 129), strings.Repeat("a", 20), "kari kari kari"} {
		_, err = h.Rooms.Organisation.UseLink(h.Ctx, token, weak)
		assert.Contains(t, roomstest.Fields(t, err), "/password", weak)
	}
	_, err = h.Rooms.Organisation.UseLink(h.Ctx, token, roomstest.GoodPassword)
	require.NoError(t, err)
	first, err := h.SignIn("Kari", roomstest.GoodPassword)
	require.NoError(t, err)
	_, err = h.Rooms.Organisation.UseLink(h.Ctx, token, roomstest.GoodPassword)
	assert.ErrorIs(t, err, organisation.ErrNotFound, "a link works once")

	reset, err := h.Rooms.Organisation.MakeLink(h.Ctx, h.Manager, added.Person.PersonID)
	require.NoError(t, err)
	newer, err := h.Rooms.Organisation.MakeLink(h.Ctx, h.Manager, added.Person.PersonID)
	require.NoError(t, err)
	_, err = h.Rooms.Organisation.Join(h.Ctx, strings.TrimPrefix(*reset.Link, "/join/"))
	assert.ErrorIs(t, err, organisation.ErrNotFound, "a newer link ends the older")
	h.Now = h.Now.Add(73 * time.Hour)
	_, err = h.Rooms.Organisation.UseLink(h.Ctx, strings.TrimPrefix(*newer.Link, "/join/"), roomstest.GoodPassword+"!")
	assert.ErrorIs(t, err, organisation.ErrNotFound, "links end after three days")
	require.NoError(t, h.Rooms.Organisation.ChangePassword(h.Ctx, first, contract.PasswordChange{Current: roomstest.GoodPassword, Password: roomstest.GoodPassword + "!"}, organisation.Visitor{}))
	assert.Contains(t, roomstest.Fields(t, h.Rooms.Organisation.ChangePassword(h.Ctx, first, contract.PasswordChange{Current: "x", Password: roomstest.GoodPassword}, organisation.Visitor{})), "/current")
	second, err := h.SignIn("kari", roomstest.GoodPassword+"!")
	require.NoError(t, err)
	assert.NotEqual(t, first.PasswordMark, second.PasswordMark, "sessions of the old password end")

	line, err := h.Rooms.Organisation.SavePerson(h.Ctx, h.Manager, added.Person.PersonID, contract.PersonChange{Version: 1, Name: "Kari", Disabled: new(true)})
	require.NoError(t, err)
	assert.True(t, line.Disabled)
	_, err = h.SignIn("kari", roomstest.GoodPassword+"!")
	assert.ErrorIs(t, err, organisation.ErrSignIn)
	_, err = h.Rooms.Organisation.SavePerson(h.Ctx, h.Manager, added.Person.PersonID, contract.PersonChange{Version: 1, Name: "Kari"})
	var stale organisation.Stale
	assert.ErrorAs(t, err, &stale)
	_, err = h.Rooms.Organisation.SavePerson(h.Ctx, h.Manager, h.Manager.Person.ID, contract.PersonChange{Version: 1, Name: "M", Role: new(contract.RoleViewer)})
	assert.Contains(t, roomstest.Fields(t, err), "/role", "nobody locks themselves out")
	_, err = h.Rooms.Organisation.AddPerson(h.Ctx, h.Manager, contract.NewPerson{Name: "Twin", Login: &login, Role: new(contract.RoleViewer)})
	assert.Contains(t, roomstest.Fields(t, err), "/login")
}

func TestSignInsThatFailAreLimited(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	for range 6 {
		_, err := h.SignIn("manager", "guess")
		assert.ErrorIs(t, err, organisation.ErrSignIn)
	}
	_, err := h.SignIn("manager", "secret")
	assert.ErrorIs(t, err, organisation.ErrTooManyAttempts, "even with the right password")
	_, err = h.SignIn("viewer", "secret")
	require.NoError(t, err, "others get in")
	h.Now = h.Now.Add(16 * time.Minute)
	_, err = h.SignIn("manager", "secret")
	require.NoError(t, err, "and so does the manager, a while later")
	for i := range 40 {
		_, err = h.SignIn("nobody"+string(rune('a'+i%26))+string(rune('a'+i/26)), "guess")
		assert.ErrorIs(t, err, organisation.ErrSignIn)
	}
	_, err = h.SignIn("viewer", "secret")
	assert.ErrorIs(t, err, organisation.ErrTooManyAttempts, "one address tried too many logins")
}

// Somebody with listed sites finds nothing of the others, by whatever way they ask.
func TestListedSitesBound(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 400, 1, 2, 3, 4, 5)
	inside := h.Unit("IM-1", "ice_machine", "2026-01-01")
	h.Take("register", roomstest.Header+"Barn,Loft,B-1,Ice machine,condenser,2026-01-01\n", false)
	hall := inside.SiteID
	var outside contract.PortfolioRow
	for _, row := range h.Portfolio(h.Manager) {
		if row.Tag == "B-1" {
			outside = row
		}
	}
	there := h.Look(outside.UnitID)
	visit := h.Submit(h.Visit(there, "2026-02-01", contract.TaskKindLight, 2, 0, contract.FaceLook))
	manager, viewer := h.Invite("haldor", contract.RoleManager, hall), h.Invite("vera", contract.RoleViewer, hall)
	for _, a := range []organisation.Actor{manager, viewer} {
		require.Len(t, h.Portfolio(a), 1)
		assert.Equal(t, "IM-1", h.Portfolio(a)[0].Tag)
		sites, err := h.Rooms.Register.Sites(h.Ctx, a)
		require.NoError(t, err)
		assert.Len(t, sites, 1)
		visits, err := h.Rooms.Fieldwork.Visits(h.Ctx, a)
		require.NoError(t, err)
		assert.Empty(t, visits)
		hits, err := h.Rooms.Register.Search(h.Ctx, a, "B")
		require.NoError(t, err)
		assert.Empty(t, hits)
		assert.NotContains(t, h.Export(a, "register", "csv"), "B-1")
		assert.NotContains(t, h.Export(a, "visits", "csv"), "B-1")
		summary, err := h.Rooms.Register.PortfolioSummary(h.Ctx, a, store.CoilFilter{})
		require.NoError(t, err)
		assert.Equal(t, 1, summary.AllUnits)
		for name, ask := range map[string]func() error{
			"unit":  func() error { _, err := h.Rooms.Learning.Unit(h.Ctx, a, outside.UnitID); return err },
			"card":  func() error { _, err := h.Rooms.Register.UnitCard(h.Ctx, a, outside.UnitID); return err },
			"site":  func() error { _, err := h.Rooms.Register.Site(h.Ctx, a, outside.SiteID); return err },
			"visit": func() error { _, err := h.Rooms.Fieldwork.VisitRecord(h.Ctx, a, visit.ID); return err },
			"audit": func() error { _, err := h.Rooms.Organisation.Audit(h.Ctx, a, "unit", outside.UnitID); return err },
			"files": func() error { _, err := h.Rooms.Organisation.Attachments(h.Ctx, a, "unit", outside.UnitID); return err },
			"label": func() error {
				_, err := h.Rooms.Register.FindLabel(h.Ctx, a, h.Card(outside.UnitID).LabelCode)
				return err
			},
			"person": func() error { _, err := h.Rooms.Organisation.Audit(h.Ctx, a, "person", h.Viewer.Person.ID); return err },
		} {
			assert.ErrorIs(t, ask(), organisation.ErrNotFound, name)
		}
		_, err = h.Rooms.Organisation.People(h.Ctx, a)
		assert.ErrorIs(t, err, organisation.ErrForbidden)
	}
	n, err := h.Rooms.Planning.NextRound(h.Ctx, manager, nil, nil)
	require.NoError(t, err)
	assert.Nil(t, n.Round, "nothing is planned yet")
	_, err = h.Rooms.Learning.SetInterval(h.Ctx, manager, outside.Coil.Tasks[0].TaskID, contract.OwnInterval{Days: 9, Reason: "x"})
	assert.ErrorIs(t, err, organisation.ErrNotFound)
	_, err = h.Rooms.Register.ChangeInBulk(h.Ctx, manager, contract.NewBulkChange{UnitIds: []uuid.UUID{outside.UnitID}, What: "make", Text: new("x")})
	assert.Contains(t, roomstest.Fields(t, err), "/unit_ids")
	_, err = h.Rooms.Register.AddUnit(h.Ctx, manager, contract.NewUnit{
		Site: "Barn", Placement: "Loft", Tag: "B-2", Class: "Ice machine", CoilRoles: []contract.CoilRole{"condenser"}, LastClean: contract.LastClean{Quality: "never"},
	})
	assert.Contains(t, roomstest.Fields(t, err), "/site")
	_, err = h.Rooms.Fieldwork.SubmitVisit(h.Ctx, manager, store.NewID(), h.Visit(there, "2026-03-01", contract.TaskKindLight, 1, 0, contract.FaceLook))
	assert.Contains(t, roomstest.Fields(t, err), "/unit_id")

	// A round over both sites shows each only its own stops.
	h.Planned()
	all := h.Next()
	require.Len(t, all.Round.Stops, 2)
	n, err = h.Rooms.Planning.NextRound(h.Ctx, manager, nil, nil)
	require.NoError(t, err)
	require.Len(t, n.Round.Stops, 1)
	assert.Equal(t, "Hall", n.Round.Stops[0].Site)
	plan, err := h.Rooms.Planning.Plan(h.Ctx, viewer)
	require.NoError(t, err)
	for _, x := range plan.Rounds {
		for _, stop := range x.Stops {
			assert.Equal(t, "Hall", stop.Site)
		}
	}
	r := h.Publish(*all.Round)[0]
	part, err := h.Rooms.Planning.Round(h.Ctx, viewer, r.ID)
	require.NoError(t, err)
	assert.Len(t, part.Stops, 1)
	_, err = h.Rooms.Planning.WithdrawRound(h.Ctx, manager, r.ID)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}

// Everyone's figures and pages are as they like them; who says nothing gets the organisation's units.
func TestPreferencesAreOnesOwn(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	s, err := h.Rooms.Organisation.SetPreferences(h.Ctx, h.Viewer, contract.Preferences{Units: "us", Theme: "dark"})
	require.NoError(t, err)
	assert.Equal(t, "us", string(s.Units))
	again, err := h.Rooms.Organisation.Actor(h.Ctx, h.Viewer.AccountID)
	require.NoError(t, err)
	assert.Equal(t, s, h.Rooms.Organisation.Session(again))
	other, err := h.Rooms.Organisation.Actor(h.Ctx, h.Manager.AccountID)
	require.NoError(t, err)
	assert.Equal(t, "metric", string(h.Rooms.Organisation.Session(other).Units))
	assert.Equal(t, "auto", string(h.Rooms.Organisation.Session(other).Theme))
}
