// Package pgtest gives each test a database of its own, migrated, in a cluster shared by the test run.
package pgtest

import (
	"context"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"nextround/internal/pg"
	"nextround/internal/store"
)

// Variable names the environment variable that holds the address of the run's cluster.
const Variable = "NEXTROUND_TEST_CLUSTER"

var (
	once    sync.Once
	cluster string
	failed  error
	serial  atomic.Int64
)

// StartCluster starts a throwaway cluster, in memory where the machine has a folder for that.
func StartCluster(ctx context.Context) (string, func(), error) {
	base, err := os.MkdirTemp("/dev/shm", "nextround-test-")
	if err != nil {
		base, err = os.MkdirTemp("", "nextround-test-")
	}
	if err != nil {
		return "", nil, fmt.Errorf("making a folder for the test database: %w", err)
	}
	if err := os.Chmod(base, 0o755); err != nil { //nolint:gosec // the server's own user must pass through
		return "", nil, fmt.Errorf("opening the test folder: %w", err)
	}
	c, err := pg.Start(ctx, pg.Options{Dir: filepath.Join(base, "pg"), Throwaway: true})
	if err != nil {
		_ = os.RemoveAll(base)
		return "", nil, err
	}
	return c.URL("postgres"), func() {
		_ = c.Stop()
		_ = os.RemoveAll(base)
	}, nil
}

// Main runs a package's tests, then what is to be put away after them, and stops the cluster that New may have started.
func Main(m *testing.M, after ...func()) {
	end := func() {}
	if os.Getenv(Variable) == "" {
		once.Do(func() { cluster, end, failed = StartCluster(context.Background()) })
	}
	code := m.Run()
	for _, f := range after {
		f()
	}
	end()
	os.Exit(code)
}

// New returns the address of a fresh, migrated database that is dropped when the test ends.
func New(t testing.TB) string {
	t.Helper()
	ctx := context.Background()
	once.Do(func() { cluster = os.Getenv(Variable) })
	require.NoError(t, failed)
	require.NotEmpty(t, cluster, "call pgtest.Main from TestMain, or run under withpostgres")
	admin, err := pgx.Connect(ctx, cluster)
	require.NoError(t, err)
	defer func() { _ = admin.Close(ctx) }()
	return copied(ctx, t, admin, makeTemplate(ctx, t, admin, "", nil))
}

// Filled is New for a database that fill has put something in; fill runs once for each name in a test run.
func Filled(t testing.TB, name string, fill func(url string) error) string {
	t.Helper()
	ctx := context.Background()
	once.Do(func() { cluster = os.Getenv(Variable) })
	require.NoError(t, failed)
	admin, err := pgx.Connect(ctx, cluster)
	require.NoError(t, err)
	defer func() { _ = admin.Close(ctx) }()
	return copied(ctx, t, admin, makeTemplate(ctx, t, admin, name, fill))
}

// copied makes a database from a template and drops it when the test ends.
func copied(ctx context.Context, t testing.TB, admin *pgx.Conn, template string) string {
	t.Helper()
	name := fmt.Sprintf("t_%d_%d", os.Getpid(), serial.Add(1))
	_, err := admin.Exec(ctx, "CREATE DATABASE "+name+" TEMPLATE "+template+" STRATEGY FILE_COPY")
	require.NoError(t, err)
	t.Cleanup(func() {
		c, err := pgx.Connect(context.Background(), cluster)
		if err != nil {
			return
		}
		defer func() { _ = c.Close(context.Background()) }()
		_, _ = c.Exec(context.Background(), "DROP DATABASE IF EXISTS "+name+" WITH (FORCE)")
	})
	return address(t, name)
}

func address(t testing.TB, database string) string {
	u, err := url.Parse(cluster)
	require.NoError(t, err)
	u.Path = "/" + database
	return u.String()
}

// makeTemplate migrates and fills one database per set of migrations and name; packages under test may ask at the
// same time.
func makeTemplate(ctx context.Context, t testing.TB, admin *pgx.Conn, filled string, fill func(string) error) string {
	name := "template_" + strings.ToLower(store.MigrationsHash()[:12]) + filled
	_, err := admin.Exec(ctx, "SELECT pg_advisory_lock(741)")
	require.NoError(t, err)
	defer func() { _, _ = admin.Exec(ctx, "SELECT pg_advisory_unlock(741)") }()
	var there bool
	require.NoError(t, admin.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", name).Scan(&there))
	if there {
		return name
	}
	_, err = admin.Exec(ctx, "CREATE DATABASE "+name)
	require.NoError(t, err)
	require.NoError(t, store.Migrate(ctx, address(t, name)))
	if fill != nil {
		if err := fill(address(t, name)); err != nil {
			_, _ = admin.Exec(ctx, "DROP DATABASE "+name+" WITH (FORCE)")
			require.NoError(t, err)
		}
	}
	return name
}
