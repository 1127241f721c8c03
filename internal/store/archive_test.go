package store_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

var archivedAt = time.Date(2026, 3, 4, 9, 0, 0, 0, time.UTC)

// kept makes a database with a file larger than a piece in it, and its archive.
func kept(t *testing.T) (url string, org uuid.UUID, archive, content []byte) {
	t.Helper()
	url = pgtest.New(t)
	_, tenant, _ := houseAt(t, url)
	class, place := furnish(t, tenant)
	list := units(tenant, class, place, "A", 40)
	require.NoError(t, store.Insert(tenant, list...))
	content = make([]byte, 5<<18)
	source := rand.New(rand.NewPCG(1, 2))
	for i := range content {
		content[i] = byte(source.Uint32())
	}
	require.NoError(t, store.Insert(tenant, store.Attachment{
		OrganisationID: tenant.Org, ID: store.NewID(), Entity: "unit", EntityID: list[0].ID, Kind: "photo", Name: "core.jpg", MediaType: "image/jpeg",
		Bytes: len(content), Content: content, At: archivedAt,
	}))
	var file bytes.Buffer
	rows, err := store.Backup(t.Context(), url, &file, archivedAt)
	require.NoError(t, err)
	assert.Greater(t, rows, int64(44), "the organisation, class, site, placement, file and units")
	return url, tenant.Org, file.Bytes(), content
}

func unzipped(t *testing.T, archive []byte) []byte {
	t.Helper()
	zip, err := gzip.NewReader(bytes.NewReader(archive))
	require.NoError(t, err)
	b, err := io.ReadAll(zip)
	require.NoError(t, err)
	return b
}

func zipped(t *testing.T, b []byte) []byte {
	t.Helper()
	var out bytes.Buffer
	zip := gzip.NewWriter(&out)
	_, err := zip.Write(b)
	require.NoError(t, err)
	require.NoError(t, zip.Close())
	return out.Bytes()
}

// What goes into an archive comes out again byte for byte, also what is larger than a piece, and the second archive is
// the first but for its moment.
func TestAnArchiveComesBackTheSame(t *testing.T) {
	t.Parallel()
	_, org, archive, content := kept(t)
	other := pgtest.New(t)
	rows, err := store.Restore(t.Context(), other, bytes.NewReader(archive), false)
	require.NoError(t, err)
	var again bytes.Buffer
	written, err := store.Backup(t.Context(), other, &again, archivedAt)
	require.NoError(t, err)
	assert.Equal(t, rows, written)
	assert.Equal(t, unzipped(t, archive), unzipped(t, again.Bytes()))

	st, err := store.Open(t.Context(), other)
	require.NoError(t, err)
	defer st.Close()
	files, err := store.All[store.Attachment](st.For(t.Context(), org), "at")
	require.NoError(t, err)
	require.Len(t, files, 1)
	assert.Equal(t, content, files[0].Content)
	holds, err := store.Holds(t.Context(), other)
	require.NoError(t, err)
	assert.Equal(t, store.Holding{Organisations: []string{"Trust"}}, holds)
}

// Wherever an archive is cut or changed, it is refused and what was in the database stays.
func TestADamagedArchiveChangesNothing(t *testing.T) {
	t.Parallel()
	_, _, archive, _ := kept(t)
	plain := unzipped(t, archive)
	to := pgtest.New(t)
	_, err := store.Restore(t.Context(), to, bytes.NewReader(archive), false)
	require.NoError(t, err)

	changed := func(at int) []byte {
		b := bytes.Clone(plain)
		b[at] ^= 1
		return zipped(t, b)
	}
	name := bytes.Index(plain, []byte("Trust"))
	require.Positive(t, name)
	last := bytes.LastIndex(plain[:len(plain)-1], []byte("\n")) + 1
	cases := map[string][]byte{
		"no gzip":              []byte("not a backup"),
		"empty":                zipped(t, nil),
		"another kind of file": zipped(t, []byte("{\"format\":\"other\"}\n")),
		"a letter changed":     changed(name),
		"without its end":      zipped(t, plain[:last]),
		"with a table twice":   zipped(t, append(bytes.Clone(plain[:last]), plain[bytes.IndexByte(plain, '\n')+1:]...)),
		"another hash":         zipped(t, append(bytes.Clone(plain[:last]), []byte("{\"hash\":\"00\"}\n")...)),
	}
	for _, share := range []int{10, 35, 60, 85, 99} {
		cases[fmt.Sprintf("cut at %d %%", share)] = zipped(t, plain[:len(plain)*share/100])
		cases[fmt.Sprintf("gzip cut at %d %%", share)] = archive[:len(archive)*share/100]
	}
	for what, bad := range cases {
		_, err := store.Restore(t.Context(), to, bytes.NewReader(bad), true)
		if what != "with a table twice" {
			require.ErrorIs(t, err, store.ErrArchive, what)
		}
		require.Error(t, err, what)
		var after bytes.Buffer
		_, err = store.Backup(t.Context(), to, &after, archivedAt)
		require.NoError(t, err)
		assert.True(t, bytes.Equal(plain, unzipped(t, after.Bytes())), what)
	}
}

func TestAnArchiveGoesWhereItMay(t *testing.T) {
	t.Parallel()
	url, _, archive, _ := kept(t)
	_, err := store.Restore(t.Context(), url, bytes.NewReader(archive), false)
	require.ErrorIs(t, err, store.ErrNotEmpty)

	older := bytes.Replace(unzipped(t, archive), []byte(store.MigrationsHash()), []byte(strings.Repeat("0", len(store.MigrationsHash()))), 1)
	_, err = store.Restore(t.Context(), pgtest.New(t), bytes.NewReader(zipped(t, older)), false)
	assert.ErrorContains(t, err, "this one does not know")

	// A database with somebody else's tables is not ours to fill, nor is it empty.
	foreign := pgtest.New(t)
	st, err := store.Open(t.Context(), foreign)
	require.NoError(t, err)
	require.NoError(t, st.DB.Exec("DROP SCHEMA public CASCADE; CREATE SCHEMA public; CREATE TABLE ledger (sum int)").Error)
	st.Close()
	holds, err := store.Holds(t.Context(), foreign)
	require.NoError(t, err)
	assert.False(t, holds.Empty)
	_, err = store.Restore(t.Context(), foreign, bytes.NewReader(archive), false)
	require.ErrorIs(t, err, store.ErrNotEmpty)

	fresh := pgtest.New(t)
	st, err = store.Open(t.Context(), fresh)
	require.NoError(t, err)
	require.NoError(t, st.DB.Exec("DROP SCHEMA public CASCADE; CREATE SCHEMA public").Error)
	st.Close()
	holds, err = store.Holds(t.Context(), fresh)
	require.NoError(t, err)
	assert.True(t, holds.Empty)
	_, err = store.Restore(t.Context(), fresh, bytes.NewReader(archive), false)
	require.NoError(t, err, "the tables are made on the way")

	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = store.Backup(ctx, url, io.Discard, archivedAt)
	assert.ErrorIs(t, err, context.Canceled)
}
