package service_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

// Each thing that is wrong with a site's card is named at its place, and the card stays as it was.
func TestASiteRefusesWhatCannotBe(t *testing.T) {
	h := newHouse(t)
	made, err := h.svc.AddSite(h.ctx, h.manager, contract.SiteCard{Name: "Hall", Zone: "Europe/Oslo"})
	require.NoError(t, err)
	before, err := h.svc.Site(h.ctx, h.viewer, made.ID)
	require.NoError(t, err)
	window := func(change func(*contract.WindowCard)) func(*contract.SiteCard) {
		return func(c *contract.SiteCard) {
			w := contract.WindowCard{Kind: "open", Weekdays: []int{1}, Starts: "08:00", Ends: "16:00"}
			change(&w)
			c.Windows = &[]contract.WindowCard{w}
		}
	}
	for pointer, change := range map[string]func(*contract.SiteCard){
		"/card/name":              func(c *contract.SiteCard) { c.Name = "  " },
		"/card/zone":              func(c *contract.SiteCard) { c.Zone = "" },
		"/card/lat":               func(c *contract.SiteCard) { c.Lat = ptr(61.4) },
		"/card/lon":               func(c *contract.SiteCard) { c.Lat, c.Lon = ptr(61.4), ptr(181.0) },
		"/card/altitude_m":        func(c *contract.SiteCard) { c.AltitudeM = ptr(9001.0) },
		"/card/placements/0/name": func(c *contract.SiteCard) { c.Placements = &[]contract.PlacementCard{{Setting: "roof"}} },
		"/card/placements/0/height_m": func(c *contract.SiteCard) {
			c.Placements = &[]contract.PlacementCard{{Name: "Roof", Setting: "roof", HeightM: ptr(-1.0)}}
		},
		"/card/windows/0/starts": window(func(w *contract.WindowCard) { w.Starts = "8 o'clock" }),
		"/card/windows/0/ends":   window(func(w *contract.WindowCard) { w.Ends = "08:00" }),
		"/card/windows/0/to":     window(func(w *contract.WindowCard) { w.From, w.To = ptr(on("2026-05-01")), ptr(on("2026-05-01")) }),
	} {
		card := before.Card
		change(&card)
		_, err := h.svc.SaveSite(h.ctx, h.manager, made.ID, contract.SiteChange{Version: before.Version, Card: card})
		assert.Contains(t, fields(t, err), pointer)
		after, err := h.svc.Site(h.ctx, h.viewer, made.ID)
		require.NoError(t, err)
		assert.Equal(t, before, after, pointer)
	}
}

// Who may sign in, and with what, is checked before anything is stored.
func TestPeopleWhoCannotBeAdded(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-03")
	before, err := h.svc.People(h.ctx, h.manager)
	require.NoError(t, err)
	role := ptr(contract.RoleTechnician)
	for name, c := range map[string]struct {
		in      contract.NewPerson
		pointer string
	}{
		"no name":          {contract.NewPerson{Name: " "}, "/name"},
		"a short login":    {contract.NewPerson{Name: "A", Login: ptr("a"), Role: role}, "/login"},
		"a login of words": {contract.NewPerson{Name: "A", Login: ptr("two words"), Role: role}, "/login"},
		"a login taken":    {contract.NewPerson{Name: "A", Login: ptr(" MANAGER "), Role: role}, "/login"},
		"no role":          {contract.NewPerson{Name: "A", Login: ptr("anna")}, "/role"},
		"no sites":         {contract.NewPerson{Name: "A", Login: ptr("anna"), Role: role, AllSites: ptr(false)}, "/site_ids"},
		"a site unknown": {contract.NewPerson{
			Name: "A", Login: ptr("anna"), Role: role, AllSites: ptr(false), SiteIds: &[]uuid.UUID{store.NewID()},
		}, "/site_ids"},
		"a site twice": {contract.NewPerson{
			Name: "A", Login: ptr("anna"), Role: role, AllSites: ptr(false), SiteIds: &[]uuid.UUID{u.SiteID, u.SiteID},
		}, "/site_ids"},
	} {
		_, err := h.svc.AddPerson(h.ctx, h.manager, c.in)
		assert.Contains(t, fields(t, err), c.pointer, name)
	}
	after, err := h.svc.People(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Equal(t, before, after)
	_, err = h.svc.AddPerson(h.ctx, h.technician, contract.NewPerson{Name: "A"})
	assert.ErrorIs(t, err, service.ErrForbidden)
}

func TestCrewsThatCannotBe(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 400, 1)
	before, err := h.svc.Crews(h.ctx, h.manager)
	require.NoError(t, err)
	for pointer, in := range map[string]contract.CrewCard{
		"/name":            {Name: "Crew A"},
		"/hours/0/starts":  {Name: "Crew B", Hours: []contract.CrewHours{{Weekday: 1, Starts: "7", Minutes: 60}}},
		"/hours/1/weekday": {Name: "Crew B", Hours: []contract.CrewHours{{Weekday: 1, Starts: "07:00", Minutes: 60}, {Weekday: 1, Starts: "12:00", Minutes: 60}}},
	} {
		_, err := h.svc.SaveCrew(h.ctx, h.manager, nil, in)
		assert.Contains(t, fields(t, err), pointer)
	}
	gone := store.NewID()
	_, err = h.svc.SaveCrew(h.ctx, h.manager, &gone, contract.CrewCard{Name: "Crew C"})
	require.ErrorIs(t, err, service.ErrNotFound)
	after, err := h.svc.Crews(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Equal(t, before, after)
}

// The first page names every field that is wrong at once, and stores nothing.
func TestAHouseThatCannotBeSetUp(t *testing.T) {
	h := newHouse(t)
	good := contract.NewHouse{
		Organisation: "Harbour", Zone: "Europe/Oslo", Currency: "EUR", Units: "metric", Person: "Manager", Login: "m.anager", Password: "a long pass phrase",
	}
	_, err := h.svc.SetUp(h.ctx, contract.NewHouse{Organisation: " ", Zone: "Nowhere", Currency: "XYZW", Person: "", Login: "?", Password: "short"})
	found := fields(t, err)
	for _, pointer := range []string{"/organisation", "/zone", "/currency", "/person", "/login", "/password"} {
		assert.Contains(t, found, pointer)
	}
	for password, want := range map[string]string{
		"short":                  "at least 12",
		strings.Repeat("å", 129): "at most 128",
		"aaaaaaaaaaaaaaaa":       "",
		"xx m.anager xx":         "must not contain the login",
	} {
		in := good
		in.Password = password
		_, err := h.svc.SetUp(h.ctx, in)
		assert.Contains(t, fields(t, err)["/password"], want, password)
	}
	_, err = h.svc.SetUp(h.ctx, good)
	require.Error(t, err, "a house is there already")
	n, err := h.store.Organisations(h.ctx)
	require.NoError(t, err)
	assert.Equal(t, int64(1), n)
}
