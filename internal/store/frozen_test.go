package store_test

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

// frozen is the schema of 0.3.0.
const frozen = 13

// Migrations that were released never change, nor does their number: databases and backups out there were made by them. A new
// release adds the lines of its own.
func TestReleasedMigrationsAreFrozen(t *testing.T) {
	t.Parallel()
	list, err := os.ReadFile("testdata/frozen.sha256")
	require.NoError(t, err)
	lines := strings.Split(strings.TrimSpace(string(list)), "\n")
	assert.GreaterOrEqual(t, len(lines), frozen)
	for _, line := range lines {
		want, name, ok := strings.Cut(line, "  ")
		require.True(t, ok, line)
		text, err := os.ReadFile(filepath.Join("migrations", name))
		require.NoError(t, err)
		sum := sha256.Sum256(text)
		assert.Equal(t, want, hex.EncodeToString(sum[:]), "%s was released: write a new migration", name)
	}
}

// empty is a database of its own with nothing in it.
func empty(t *testing.T) string {
	t.Helper()
	url := pgtest.New(t)
	require.NoError(t, store.Rollback(t.Context(), url, 0))
	return url
}

// A backup of an earlier schema goes into an empty database and is brought up to date there; over data it does not go.
func TestABackupOfAnEarlierVersionIsBroughtUpToDate(t *testing.T) {
	t.Parallel()
	old := empty(t)
	require.NoError(t, store.MigrateTo(t.Context(), old, released))
	conn, err := pgx.Connect(t.Context(), old)
	require.NoError(t, err)
	data, err := os.ReadFile("testdata/released.sql")
	require.NoError(t, err)
	_, err = conn.Exec(t.Context(), string(data))
	require.NoError(t, err)
	require.NoError(t, conn.Close(t.Context()))
	var archive bytes.Buffer
	kept, err := store.Backup(t.Context(), old, &archive, archivedAt)
	require.NoError(t, err)
	pending, err := store.Pending(t.Context(), old)
	require.NoError(t, err)
	assert.True(t, pending, "making a backup changes nothing")

	to := pgtest.New(t)
	rows, err := store.Restore(t.Context(), to, bytes.NewReader(archive.Bytes()), false)
	require.NoError(t, err)
	assert.Equal(t, kept, rows)
	pending, err = store.Pending(t.Context(), to)
	require.NoError(t, err)
	assert.False(t, pending)
	holds, err := store.Holds(t.Context(), to)
	require.NoError(t, err)
	assert.False(t, holds.Empty)
	assert.Len(t, holds.Organisations, 1)

	_, err = store.Restore(t.Context(), to, bytes.NewReader(archive.Bytes()), true)
	assert.ErrorContains(t, err, "into an empty database")
	cut := empty(t)
	plain := unzipped(t, archive.Bytes())
	_, err = store.Restore(t.Context(), cut, bytes.NewReader(zipped(t, plain[:len(plain)*9/10])), false)
	require.ErrorIs(t, err, store.ErrArchive)
	holds, err = store.Holds(t.Context(), cut)
	require.NoError(t, err)
	assert.True(t, holds.Empty, "what cannot be read leaves nothing behind")
}
