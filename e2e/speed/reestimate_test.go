package speed

import (
	"context"
	"os/exec"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// visited gives every coil twelve visits, two months apart, with a finding and a clean of each side.
const visited = `
INSERT INTO visit (organisation_id, id, unit_id, day, outcome, cautions_read, submitted_at)
	SELECT u.organisation_id, gen_random_uuid(), u.id, current_date - 60 * n - 3, 'done', true, now() FROM unit u, generate_series(0, 11) n;
UPDATE coil SET start_day = current_date - 800, start_quality = 'exact';
INSERT INTO visit_surface (organisation_id, visit_id, surface_id, reached)
	SELECT v.organisation_id, v.id, s.id, true FROM visit v JOIN coil c ON c.organisation_id = v.organisation_id AND c.unit_id = v.unit_id
	JOIN surface s ON s.organisation_id = c.organisation_id AND s.coil_id = c.id;
INSERT INTO finding (organisation_id, id, visit_id, surface_id, phase, seen, grade)
	SELECT organisation_id, gen_random_uuid(), visit_id, surface_id, 'opened_up', CASE WHEN random() < .3 THEN 'light_through' ELSE 'face_look' END, floor(random() * 4)::int
	FROM visit_surface;
INSERT INTO treatment (organisation_id, id, visit_id, coil_id, seq, work, method_id, direction)
	SELECT v.organisation_id, gen_random_uuid(), v.id, c.id, 1, 'deep', (SELECT m.id FROM method m WHERE m.organisation_id = v.organisation_id AND m.code = 'foam_rinse'), 'against_airflow'
	FROM visit v JOIN coil c ON c.organisation_id = v.organisation_id AND c.unit_id = v.unit_id;
INSERT INTO treatment_surface (organisation_id, treatment_id, surface_id)
	SELECT t.organisation_id, t.id, s.id FROM treatment t JOIN surface s ON s.organisation_id = t.organisation_id AND s.coil_id = t.coil_id;
INSERT INTO task_reset (organisation_id, task_id, surface_id, visit_id)
	SELECT ts.organisation_id, ts.task_id, ts.surface_id, v.id FROM task_surface ts JOIN task t ON t.organisation_id = ts.organisation_id AND t.id = ts.task_id
	JOIN visit v ON v.organisation_id = t.organisation_id AND v.unit_id = t.unit_id;
ANALYZE`

// Everything recalculated: posterior, state and proposal of every coil with twelve visits, database and all.
func BenchmarkReestimation(b *testing.B) {
	g := ready(b)
	if _, err := g.store.Pool.Exec(context.Background(), visited); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		cmd := exec.Command(g.binary, "rebuild", "--database", g.cluster.URL("postgres"))
		start := time.Now()
		out, err := cmd.CombinedOutput()
		require.NoError(b, err, string(out))
		usage := cmd.ProcessState.SysUsage().(*syscall.Rusage)
		b.ReportMetric(time.Since(start).Seconds(), "s")
		b.ReportMetric(float64(usage.Maxrss)/1024, "MB-peak")
		b.ReportMetric(float64(time.Duration(usage.Utime.Nano()+usage.Stime.Nano()).Milliseconds())/float64(rows), "cpu-ms/coil")
	}
}
