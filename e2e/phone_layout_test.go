package e2e

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/e2e/app"
	"nextround/internal/demo"
	"nextround/internal/pg/pgtest"
)

// Nothing on a phone's screens is wider than the phone: upright, lying, and with everything twice as large.
func TestPhoneScreensFit(t *testing.T) {
	t.Parallel()
	a, err := app.Start(context.Background(), pgtest.Filled(t, "demo", demo.Fill))
	require.NoError(t, err)
	t.Cleanup(a.Close)
	b, err := chromium()
	require.NoError(t, err)
	var round string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM round WHERE status = 'published' ORDER BY day LIMIT 1").Scan(&round).Error)
	unit := unitID(t, a, "FA-IM-3")
	for _, size := range [][2]int{{390, 844}, {844, 390}, {195, 422}} {
		p, done, err := b.Open(a.URL, int64(size[0]), int64(size[1]), true)
		require.NoError(t, err)
		signIn(t, p, "technician")
		for _, s := range [][2]string{
			{"/today", "Kept on this phone: all 9 units."},
			{"/scan", "Find a unit"},
			{"/bench", "Bench"},
			{"/outbox", "Room on this phone"},
			{"/units/" + unit + "/work?job=light", "step by step"},
			{"/rounds/" + round, "FA-IM-3"},
			{"/units/" + unit, "FA-IM-3"},
			{"/settings", "Your settings"},
		} {
			ok(t, p.Go(s[0]))
			ok(t, p.WaitText(s[1]))
			name := s[0]
			fits(t, p, name)
			if size[0] == 390 {
				accessible(t, p, name)
				var levels []int
				ok(t, p.Eval(`[...document.querySelectorAll('h1, h2, h3, h4, h5')].filter(h => h.offsetParent).map(h => +h.tagName[1])`, &levels))
				for i := 1; i < len(levels); i++ {
					assert.LessOrEqual(t, levels[i], levels[i-1]+1, "%s: headings follow one another: %v", name, levels)
				}
			}
			if size[0] == 390 && name != "/units/"+unit && name != "/rounds/"+round {
				bigEnough(t, p, name)
			}
		}
		done()
	}
}
