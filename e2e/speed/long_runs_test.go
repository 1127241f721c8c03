package speed

import (
	"context"
	"os/exec"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/dossier/load"
	"nextround/internal/store"
)

// A batch of 500 units' facts, as a recalculation reads it, among all there are.
func BenchmarkFacts(b *testing.B) {
	g := ready(b)
	t := g.store.For(context.Background(), g.boss.Org.ID)
	var ids []uuid.UUID
	require.NoError(b, g.store.DB.Raw("SELECT id FROM unit WHERE organisation_id = ? ORDER BY id LIMIT 500", g.boss.Org.ID).Scan(&ids).Error)
	for b.Loop() {
		facts, err := load.Units(t, ids)
		require.NoError(b, err)
		require.Len(b, facts.Rows.Units, len(ids))
	}
}

// How long a plan of everything reads before it searches, and the longest it is silent meanwhile: after 30 s without a word
// its server counts as gone.
func BenchmarkPlanReads(b *testing.B) {
	g := ready(b)
	ctx := context.Background()
	card := contract.CrewCard{Name: "Crew", People: new(2)}
	for d := 1; d <= 5; d++ {
		card.Hours = append(card.Hours, contract.CrewHours{Weekday: d, Starts: "07:30", Minutes: 480})
	}
	_, err := g.svc.Planning.SaveCrew(ctx, g.boss, nil, card)
	require.NoError(b, err)
	require.NoError(b, g.svc.StartQueue(ctx))
	for b.Loop() {
		began, heard, silent := time.Now(), time.Now(), time.Duration(0)
		_, err := g.svc.Planning.StartPlan(ctx, g.boss, contract.NewPlan{Seconds: new(5.0)})
		require.NoError(b, err)
		var alive time.Time
		reading := time.Duration(0)
		for {
			var row store.Plan
			require.NoError(b, g.store.DB.Where("organisation_id = ?", g.boss.Org.ID).Order("made_at DESC").First(&row).Error)
			if row.AliveAt != alive {
				alive, heard = row.AliveAt, time.Now()
			}
			silent = max(silent, time.Since(heard))
			if row.Iterations > 0 && reading == 0 {
				reading = time.Since(began)
			}
			if row.Status != "running" {
				require.Equal(b, "done", row.Status, row.Note)
				break
			}
			time.Sleep(50 * time.Millisecond)
		}
		b.ReportMetric(reading.Seconds(), "s/reading")
		b.ReportMetric(silent.Seconds(), "s/longest-silence")
		b.ReportMetric(time.Since(began).Seconds(), "s/run")
	}
}

// A rebuild of everything, and the fewest lines the portfolio showed meanwhile.
func BenchmarkRebuildIsSeenThrough(b *testing.B) {
	g := ready(b)
	for b.Loop() {
		cmd := exec.Command(g.binary, "rebuild", "--database", g.cluster.URL("postgres"))
		start := time.Now()
		require.NoError(b, cmd.Start())
		done := make(chan error, 1)
		go func() { done <- cmd.Wait() }()
		fewest := int64(rows)
		for running := true; running; {
			select {
			case err := <-done:
				require.NoError(b, err)
				running = false
			case <-time.After(200 * time.Millisecond):
				var n int64
				require.NoError(b, g.store.DB.Table("coil_line").Where("organisation_id = ?", g.boss.Org.ID).Count(&n).Error)
				fewest = min(fewest, n)
			}
		}
		b.ReportMetric(time.Since(start).Seconds(), "s/rebuild")
		b.ReportMetric(float64(fewest), "fewest-lines")
	}
}
