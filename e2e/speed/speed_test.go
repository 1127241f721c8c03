// Package speed measures the program with a hundred thousand units. Nothing here passes or fails by time; the figures
// go into docs/performance.md. Run by make bench.
package speed

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/pg"
	"nextround/internal/register"
	"nextround/internal/rooms"
	"nextround/internal/store"
)

const password = "three old herring nets"

// rows of the register: a hundred thousand unless NEXTROUND_SPEED_ROWS says otherwise.
var rows = func() int {
	if n, err := strconv.Atoi(os.Getenv("NEXTROUND_SPEED_ROWS")); err == nil && n > 0 {
		return n
	}
	return 100_000
}()

// ground is a database with a hundred thousand units, made once by the program's own import.
type ground struct {
	cluster *pg.Cluster
	binary  string
	file    string
	boss    organisation.Actor
	svc     *rooms.Rooms
	store   *store.Store
	// Of the import: how long it took, its largest memory, and how long psql took for the same rows.
	took, bare time.Duration
	peakKiB    int64
	failed     error
}

var made = sync.OnceValue(prepare)

func prepare() *ground {
	g := &ground{}
	g.failed = g.make()
	return g
}

func (g *ground) make() error {
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "nextround-speed-")
	if err != nil {
		return err
	}
	if err := os.Chmod(dir, 0o755); err != nil {
		return err
	}
	if g.cluster, err = pg.Start(ctx, pg.Options{Dir: filepath.Join(dir, "pg")}); err != nil {
		return err
	}
	g.binary = filepath.Join(dir, "nextround")
	if out, err := exec.Command("go", "build", "-o", g.binary, "nextround/cmd/nextround").CombinedOutput(); err != nil {
		return fmt.Errorf("%s", out)
	}
	if err := store.Migrate(ctx, g.cluster.URL("postgres")); err != nil {
		return err
	}
	if g.store, err = store.Open(ctx, g.cluster.URL("postgres")); err != nil {
		return err
	}
	g.svc = rooms.New(g.store, rooms.Options{})
	g.boss, err = g.svc.Organisation.SetUp(ctx, contract.NewHouse{
		Organisation: "Trust", Zone: "UTC", Currency: "EUR", Units: "metric", Person: "Boss", Login: "boss", Password: password,
	})
	if err != nil {
		return err
	}
	g.file = filepath.Join(dir, "register.csv")
	if err := os.WriteFile(g.file, registerFile(), 0o644); err != nil {
		return err
	}
	if err := g.measureBare(); err != nil {
		return err
	}
	return g.measureImport()
}

// registerFile is a file of so many rows: two hundred sites, ten placements each, all classes with one coil.
func registerFile() []byte {
	var out bytes.Buffer
	out.WriteString("site,placement,tag,class,coil role,last clean,make,year\n")
	classes := [][2]string{
		{"Ice machine", "condenser"},
		{"Under-counter cooler", "condenser"},
		{"Glass-door display cooler", "condenser"},
		{"Outdoor condensing unit", "condenser"},
		{"Ceiling cassette", "evaporator"},
		{"Ducted indoor unit", "evaporator"},
	}
	for i := range rows {
		c := classes[i%len(classes)]
		fmt.Fprintf(&out, "Site %03d,Place %d,U-%06d,%s,%s,2025-%02d-%02d,Kuldvik,%d\n", i%200, i/200%10, i, c[0], c[1], 1+i%12, 1+i%28, 2005+i%20)
	}
	return out.Bytes()
}

// measureBare has psql copy the same rows into a table without keys or indexes.
func (g *ground) measureBare() error {
	sql := "CREATE TABLE bare (site text, placement text, tag text, class text, role text, last text, make text, year text);\n" +
		"\\copy bare FROM '" + g.file + "' CSV HEADER\n"
	cmd := exec.Command("psql", "-q", "-v", "ON_ERROR_STOP=1", g.cluster.URL("postgres"))
	cmd.Stdin = strings.NewReader(sql)
	start := time.Now()
	out, err := cmd.CombinedOutput()
	g.bare = time.Since(start)
	if err != nil {
		return fmt.Errorf("psql: %s", out)
	}
	_, err = g.store.Pool.Exec(context.Background(), "DROP TABLE bare")
	return err
}

func (g *ground) measureImport() error {
	cmd := exec.Command(g.binary, "import", "--as", "boss", "--database", g.cluster.URL("postgres"), g.file)
	start := time.Now()
	out, err := cmd.CombinedOutput()
	g.took = time.Since(start)
	if err != nil {
		return fmt.Errorf("import: %s", out)
	}
	g.peakKiB = cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss
	_, err = g.store.Pool.Exec(context.Background(), "ANALYZE")
	return err
}

func TestMain(m *testing.M) {
	code := m.Run()
	if g := made; g != nil && os.Getenv("NEXTROUND_SPEED") != "" {
		if x := g(); x.cluster != nil {
			_ = x.cluster.Stop()
		}
	}
	os.Exit(code)
}

func ready(b *testing.B) *ground {
	b.Helper()
	if os.Getenv("NEXTROUND_SPEED") == "" {
		b.Skip("set NEXTROUND_SPEED=1; it takes a few minutes")
	}
	g := made()
	require.NoError(b, g.failed)
	return g
}

// Import of a hundred thousand rows beside psql's copy of them into a bare table.
func BenchmarkImport(b *testing.B) {
	g := ready(b)
	for b.Loop() {
	}
	b.ReportMetric(0, "ns/op")
	b.ReportMetric(g.took.Seconds(), "s/import")
	b.ReportMetric(g.bare.Seconds(), "s/bare-copy")
	b.ReportMetric(g.took.Seconds()/g.bare.Seconds(), "ratio")
	b.ReportMetric(float64(g.peakKiB)/1024, "MiB-peak")
}

// A page of the portfolio: the whole use case beside the bare query of the same rows.
func BenchmarkPortfolioPage(b *testing.B) {
	g := ready(b)
	ctx := context.Background()
	bare := map[string]string{
		"site": "site_name, tag, coil_id", "class": "class_name, tag, coil_id", "tag": "tag, coil_id", "due": "due, coil_id", "soil": "blocked DESC, coil_id",
	}
	conn, err := pgx.Connect(ctx, g.cluster.URL("postgres"))
	require.NoError(b, err)
	defer func() { _ = conn.Close(ctx) }()
	for _, sort := range []string{"site", "class", "tag", "due", "soil"} {
		b.Run("sql/"+sort, func(b *testing.B) {
			for b.Loop() {
				rows, err := g.store.For(ctx, g.boss.Org.ID).CoilLines(store.CoilFilter{}, store.CoilPage{Sort: sort, Limit: 100})
				require.NoError(b, err)
				require.Len(b, rows, 101)
			}
		})
		b.Run("bare/"+sort, func(b *testing.B) {
			query := "SELECT * FROM coil_line WHERE organisation_id = $1 AND status <> 'retired' ORDER BY " + bare[sort] + " LIMIT 101"
			for b.Loop() {
				rows, err := conn.Query(ctx, query, g.boss.Org.ID)
				require.NoError(b, err)
				n := 0
				for rows.Next() {
					_, err := rows.Values()
					require.NoError(b, err)
					n++
				}
				require.Equal(b, 101, n)
			}
		})
		b.Run("use-case/"+sort, func(b *testing.B) {
			for b.Loop() {
				p, err := g.svc.Register.Portfolio(ctx, g.boss, register.PortfolioQuery{Sort: sort})
				require.NoError(b, err)
				require.Len(b, p.Rows, 100)
			}
		})
	}
	b.Run("summary", func(b *testing.B) {
		for b.Loop() {
			n, err := g.svc.Register.PortfolioSummary(ctx, g.boss, store.CoilFilter{})
			require.NoError(b, err)
			require.Equal(b, rows, n.Units)
		}
	})
	b.Run("search", func(b *testing.B) {
		for b.Loop() {
			hits, err := g.svc.Register.Search(ctx, g.boss, "U-0999")
			require.NoError(b, err)
			require.NotEmpty(b, hits)
		}
	})
}

// What the server holds in memory after it has served the screens of a large house, and read it all for an export.
func BenchmarkServerMemory(b *testing.B) {
	g := ready(b)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(b, err)
	address := l.Addr().String()
	require.NoError(b, l.Close())
	cmd := exec.Command(g.binary, "serve", "--listen", address, "--database", g.cluster.URL("postgres"))
	cmd.Stdout, cmd.Stderr = io.Discard, io.Discard
	require.NoError(b, cmd.Start())
	defer func() {
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
	}()
	jar, err := cookiejar.New(nil)
	require.NoError(b, err)
	client := &http.Client{Jar: jar}
	get := func(path string) {
		res, err := client.Get("http://" + address + path)
		require.NoError(b, err)
		_, err = io.Copy(io.Discard, res.Body)
		require.NoError(b, err)
		_ = res.Body.Close()
		require.Equal(b, http.StatusOK, res.StatusCode, path)
	}
	require.Eventually(b, func() bool {
		res, err := client.Get("http://" + address + "/readyz")
		if err == nil {
			_ = res.Body.Close()
		}
		return err == nil
	}, time.Minute, 20*time.Millisecond)
	res, err := client.Post("http://"+address+"/api/v1/session", "application/json", strings.NewReader(`{"login":"boss","password":"`+password+`"}`))
	require.NoError(b, err)
	_ = res.Body.Close()
	for b.Loop() {
		for _, path := range []string{"/portfolio", "/portfolio?sort=soil&limit=500", "/portfolio/summary", "/sites", "/search?q=U-05", "/visits", "/catalogue"} {
			get("/api/v1" + path)
		}
	}
	peak := func() float64 {
		text, err := os.ReadFile("/proc/" + strconv.Itoa(cmd.Process.Pid) + "/status")
		require.NoError(b, err)
		for _, line := range strings.Split(string(text), "\n") {
			if rest, ok := strings.CutPrefix(line, "VmHWM:"); ok {
				kib, err := strconv.ParseFloat(strings.Fields(rest)[0], 64)
				require.NoError(b, err)
				return kib / 1024
			}
		}
		return 0
	}
	b.ReportMetric(peak(), "MiB-screens")
	get("/api/v1/exports/register")
	b.ReportMetric(peak(), "MiB-with-export")
}
