package pg_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/pg"
)

// closedFolder is a folder that only its owner may enter.
func closedFolder(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "nextround-pg-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o700)) //nolint:gosec // the point of the test
	return filepath.Join(dir, "pg")
}

func start(t *testing.T, dir string) *pg.Cluster {
	t.Helper()
	c, err := pg.Start(context.Background(), pg.Options{Dir: dir, Throwaway: true})
	require.NoError(t, err)
	return c
}

func answers(t *testing.T, c *pg.Cluster) {
	t.Helper()
	conn, err := pgx.Connect(context.Background(), c.URL("postgres"))
	require.NoError(t, err)
	defer func() { _ = conn.Close(context.Background()) }()
	var one int
	require.NoError(t, conn.QueryRow(context.Background(), "SELECT 1").Scan(&one))
}

func pidOf(t *testing.T, dir string) int {
	t.Helper()
	raw, err := os.ReadFile(filepath.Join(dir, "postmaster.pid"))
	require.NoError(t, err)
	pid, err := strconv.Atoi(strings.SplitN(string(raw), "\n", 2)[0])
	require.NoError(t, err)
	return pid
}

func TestStartsUnderAClosedFolderAndRefusesASecond(t *testing.T) {
	dir := closedFolder(t)
	c := start(t, dir)
	answers(t, c)
	_, err := pg.Start(context.Background(), pg.Options{Dir: dir})
	assert.ErrorIs(t, err, pg.ErrRunning)
	answers(t, c)
	require.NoError(t, c.Stop())

	again := start(t, dir)
	answers(t, again)
	require.NoError(t, again.Stop())
}

func TestAStaleLockAfterACrashIsCleared(t *testing.T) {
	dir := closedFolder(t)
	c := start(t, dir)
	pid := pidOf(t, dir)
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	require.Eventually(t, func() bool { return syscall.Kill(pid, 0) != nil || zombie(pid) }, 3*time.Minute, 10*time.Millisecond)
	_, err := os.Stat(filepath.Join(dir, "postmaster.pid"))
	require.NoError(t, err, "the crash left its lock")
	// The server's children let go of its memory only when they notice.
	var again *pg.Cluster
	require.Eventually(t, func() bool {
		var err error
		again, err = pg.Start(context.Background(), pg.Options{Dir: dir, Throwaway: true})
		return err == nil
	}, 3*time.Minute, 50*time.Millisecond)
	answers(t, again)
	require.NoError(t, again.Stop())
	_ = c.Stop()
}

func zombie(pid int) bool {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	return err != nil || strings.Contains(string(raw), ") Z ")
}

// A process number that now belongs to another program is no lock.
func TestALockWithAReusedProcessNumberIsCleared(t *testing.T) {
	dir := closedFolder(t)
	require.NoError(t, start(t, dir).Stop())
	lock := fmt.Sprintf("%d\n%s\n0\n0\n\n127.0.0.1\n0\nready\n", os.Getpid(), dir)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "postmaster.pid"), []byte(lock), 0o600))
	c := start(t, dir)
	answers(t, c)
	require.NoError(t, c.Stop())
}
