package register_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
)

// Each thing that is wrong with a site's card is named at its place, and the card stays as it was.
func TestASiteRefusesWhatCannotBe(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	made, err := h.Rooms.Register.AddSite(h.Ctx, h.Manager, contract.SiteCard{Name: "Hall", Zone: "Europe/Oslo"})
	require.NoError(t, err)
	before, err := h.Rooms.Register.Site(h.Ctx, h.Viewer, made.ID)
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
		"/card/lat":               func(c *contract.SiteCard) { c.Lat = new(61.4) },
		"/card/lon":               func(c *contract.SiteCard) { c.Lat, c.Lon = new(61.4), new(181.0) },
		"/card/altitude_m":        func(c *contract.SiteCard) { c.AltitudeM = new(9001.0) },
		"/card/placements/0/name": func(c *contract.SiteCard) { c.Placements = &[]contract.PlacementCard{{Setting: "roof"}} },
		"/card/placements/0/height_m": func(c *contract.SiteCard) {
			c.Placements = &[]contract.PlacementCard{{Name: "Roof", Setting: "roof", HeightM: new(-1.0)}}
		},
		"/card/windows/0/starts": window(func(w *contract.WindowCard) { w.Starts = "8 o'clock" }),
		"/card/windows/0/ends":   window(func(w *contract.WindowCard) { w.Ends = "08:00" }),
		"/card/windows/0/to": window(func(w *contract.WindowCard) {
			w.From, w.To = new(roomstest.On("2026-05-01")), new(roomstest.On("2026-05-01"))
		}),
	} {
		card := before.Card
		change(&card)
		_, err := h.Rooms.Register.SaveSite(h.Ctx, h.Manager, made.ID, contract.SiteChange{Version: before.Version, Card: card})
		assert.Contains(t, roomstest.Fields(t, err), pointer)
		after, err := h.Rooms.Register.Site(h.Ctx, h.Viewer, made.ID)
		require.NoError(t, err)
		assert.Equal(t, before, after, pointer)
	}
}
