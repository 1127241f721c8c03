package store_test

import (
	"context"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

// house is a store with one organisation and one account.
func house(t *testing.T) (*store.Store, store.Tenant, store.Member) {
	t.Helper()
	return houseAt(t, pgtest.New(t))
}

func houseAt(t *testing.T, url string) (*store.Store, store.Tenant, store.Member) {
	t.Helper()
	ctx := context.Background()
	st, err := store.Open(ctx, url)
	require.NoError(t, err)
	t.Cleanup(st.Close)
	org := store.Organisation{ID: store.NewID(), Name: "Trust", Zone: "UTC", Currency: "EUR", Units: "metric", CreatedAt: st.DB.NowFunc()}
	require.NoError(t, st.CreateOrganisation(ctx, &org))
	m, err := st.CreateMember(ctx, org.ID, "Manager", "manager", "x", "manager", st.DB.NowFunc())
	require.NoError(t, err)
	return st, st.For(ctx, org.ID), m
}

func TestMembersAreFound(t *testing.T) {
	t.Parallel()
	st, tenant, m := house(t)
	ctx := context.Background()
	byLogin, err := st.MemberByLogin(ctx, "manager")
	require.NoError(t, err)
	assert.Equal(t, tenant.Org, byLogin.Organisation.ID)
	assert.Equal(t, "Manager", byLogin.Person.Name)
	byID, err := st.MemberByAccount(ctx, m.Account.ID)
	require.NoError(t, err)
	assert.Equal(t, byLogin, byID)
	_, err = st.MemberByLogin(ctx, "nobody")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = st.CreateMember(ctx, tenant.Org, "Twin", "manager", "x", "viewer", st.DB.NowFunc())
	assert.Error(t, err, "a login is one person's")
	people, err := store.All[store.Person](tenant, "name")
	require.NoError(t, err)
	assert.Len(t, people, 1, "the failed one left nothing behind")
}

// Of many senders of one key at the same moment exactly one is first; the others wait for it and get its answer.
func TestOneKeyIsTakenOnce(t *testing.T) {
	t.Parallel()
	_, tenant, m := house(t)
	key := uuid.New()
	var group sync.WaitGroup
	var lock sync.Mutex
	firsts, answers := 0, map[string]int{}
	for range 8 {
		group.Go(func() {
			err := tenant.InTransaction(func(t store.Tenant) error {
				row := store.Idempotency{OrganisationID: t.Org, AccountID: m.Account.ID, Key: key, RequestHash: "h", Answer: store.JSON("{}"), CreatedAt: time.Now()}
				first, earlier, err := t.TakeKey(row)
				if err != nil {
					return err
				}
				lock.Lock()
				defer lock.Unlock()
				if first {
					firsts++
					return t.KeepAnswer(m.Account.ID, key, map[string]int{"n": 7})
				}
				answers[string(earlier.Answer)]++
				return nil
			})
			assert.NoError(t, err)
		})
	}
	group.Wait()
	assert.Equal(t, 1, firsts)
	assert.Equal(t, map[string]int{`{"n": 7}`: 7}, answers)
}

// A key whose request failed is free again.
func TestAFailedRequestGivesItsKeyBack(t *testing.T) {
	t.Parallel()
	_, tenant, m := house(t)
	row := store.Idempotency{OrganisationID: tenant.Org, AccountID: m.Account.ID, Key: uuid.New(), RequestHash: "h", Answer: store.JSON("{}"), CreatedAt: time.Now()}
	failure := errors.New("no")
	err := tenant.InTransaction(func(t store.Tenant) error {
		if _, _, err := t.TakeKey(row); err != nil {
			return err
		}
		return failure
	})
	require.ErrorIs(t, err, failure)
	require.NoError(t, tenant.InTransaction(func(t2 store.Tenant) error {
		first, _, err := t2.TakeKey(row)
		assert.True(t, first)
		return err
	}))
}

func TestASiteSavedTwiceFromOneReadingIsStale(t *testing.T) {
	t.Parallel()
	_, tenant, _ := house(t)
	site := store.Site{OrganisationID: tenant.Org, ID: store.NewID(), Name: "Hall", Status: "open", Zone: "UTC", Water: "unknown", Version: 1}
	require.NoError(t, store.Insert(tenant, site))
	read, err := tenant.SiteByName("HALL")
	require.NoError(t, err)
	read.Contact = "porter"
	version := read.Version
	read.Version++
	require.NoError(t, store.SaveVersion(tenant, read.ID, version, &read))
	assert.ErrorIs(t, store.SaveVersion(tenant, read.ID, version, &read), store.ErrStale)
	kept, err := tenant.SiteByName("hall")
	require.NoError(t, err)
	assert.Equal(t, "porter", kept.Contact)
	assert.Equal(t, 2, kept.Version)
	_, err = tenant.SiteByName("barn")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestAuditRowsAreWritten(t *testing.T) {
	t.Parallel()
	_, tenant, m := house(t)
	id := store.NewID()
	require.NoError(t, tenant.Record(time.Now(), m.Account.ID, "unit", id, "added", map[string]string{"tag": "IM-1"}))
	require.NoError(t, tenant.Record(time.Now(), uuid.Nil, "unit", id, "recomputed", nil))
	rows, err := store.All[store.Audit](tenant, "at, id")
	require.NoError(t, err)
	require.Len(t, rows, 2)
	assert.Equal(t, m.Account.ID, *rows[0].AccountID)
	var detail map[string]string
	require.NoError(t, rows[0].Detail.Into(&detail))
	assert.Equal(t, "IM-1", detail["tag"])
	assert.Nil(t, rows[1].AccountID)
}

func TestEmptyLookupsAreEmpty(t *testing.T) {
	t.Parallel()
	_, tenant, _ := house(t)
	facts, err := tenant.LoadFacts([]uuid.UUID{uuid.New()})
	require.NoError(t, err)
	assert.Empty(t, facts.Units)
	facts, err = tenant.LoadFacts(nil)
	require.NoError(t, err)
	assert.Empty(t, facts.Units)
	rows, err := store.Where[store.Stop](tenant, "round_id", nil, "seq")
	require.NoError(t, err)
	assert.Empty(t, rows)
	require.NoError(t, store.Insert[store.Site](tenant))
	_, err = store.GetForUpdate[store.Crew](tenant, uuid.New())
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestRangesAndArraysRoundTrip(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		var r store.DateRange
		if rapid.Bool().Draw(t, "from") {
			d := calendar.Date(2025, 1, rapid.IntRange(1, 400).Draw(t, "first"))
			r.From = &d
		}
		if rapid.Bool().Draw(t, "to") {
			d := calendar.Date(2027, 1, rapid.IntRange(1, 400).Draw(t, "last"))
			r.To = &d
		}
		text, err := r.Value()
		require.NoError(t, err)
		var back store.DateRange
		require.NoError(t, back.Scan(text))
		assert.Equal(t, r, back)
		day := calendar.Date(2025, 6, rapid.IntRange(1, 1000).Draw(t, "day"))
		want := (r.From == nil || day >= *r.From) && (r.To == nil || day < *r.To)
		assert.Equal(t, want, r.Holds(day))

		numbers := store.Array[float64](rapid.SliceOf(rapid.Float64Range(-1e6, 1e6)).Draw(t, "numbers"))
		raw, err := numbers.Value()
		require.NoError(t, err)
		if raw != nil {
			var again store.Array[float64]
			require.NoError(t, again.Scan(raw))
			assert.Equal(t, []float64(numbers), append([]float64{}, again...))
		}
		words := store.Array[string](rapid.SliceOfN(rapid.StringMatching(`[a-z ,{}"\\]{0,8}`), 1, 4).Draw(t, "words"))
		raw, err = words.Value()
		require.NoError(t, err)
		var again store.Array[string]
		require.NoError(t, again.Scan(raw))
		assert.Equal(t, words, again)
	})
}

func TestColumnsOfTheWrongKindAreErrors(t *testing.T) {
	t.Parallel()
	var d store.Date
	assert.Error(t, d.Scan("2025-01-01"))
	var r store.DateRange
	assert.Error(t, r.Scan(7))
	assert.Error(t, r.Scan("[soon,)"))
	assert.Error(t, r.Scan("[]"))
	var j store.JSON
	assert.Error(t, j.Scan(7))
	require.NoError(t, j.Scan([]byte(`{"a":1}`)))
	text, err := store.JSON(nil).Value()
	require.NoError(t, err)
	assert.Equal(t, "{}", text)
	var none store.Array[int]
	require.NoError(t, none.Scan(nil))
	assert.Nil(t, none)
	assert.Nil(t, store.DayOf(nil))
	assert.Nil(t, store.DateOf(nil))
}

func TestOpeningSaysWhatIsWrong(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, err := store.Open(ctx, "postgres://nobody@127.0.0.1:1/none")
	assert.ErrorContains(t, err, "reaching the database")
	_, err = store.Open(ctx, "nonsense://")
	assert.Error(t, err)
	assert.Error(t, store.Migrate(ctx, "postgres://nobody@127.0.0.1:1/none"))
}
