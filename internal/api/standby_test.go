package api_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/api"
	"nextround/internal/demo"
	"nextround/internal/rooms"
	"nextround/internal/store"
)

// A server on a database that is only read answers every question as the main server does, to whoever is signed in there, and
// changes nothing, not even when somebody was last seen.
func TestAReadOnlyServerAnswersWhatIsRead(t *testing.T) {
	s := newSample(t)
	s.signInAs("manager", demo.Password)
	require.NoError(t, s.store.DB.Exec("UPDATE account_session SET seen_at = seen_at - interval '1 hour'").Error)
	st, err := store.Open(context.Background(), s.store.Pool.Config().ConnString()+"&options=-c%20default_transaction_read_only%3Don")
	require.NoError(t, err)
	clock := func() time.Time { return time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC) }
	svc := rooms.New(st, rooms.Options{Now: clock, ReadOnly: true})
	server, err := api.NewServer(svc, st, api.Options{Public: s.url, Pages: fstest.MapFS{"index.html": {Data: []byte("page")}}, ReadOnly: true})
	require.NoError(t, err)
	h := httptest.NewServer(server)
	t.Cleanup(func() {
		h.Close()
		server.Close()
		svc.Close()
		st.Close()
	})
	shows := &client{t: t, url: h.URL, http: &http.Client{Jar: s.http.Jar}}
	asked := 0
	for _, c := range callsWhereKnown(newPact(t), records(t, s)) {
		if c.method != http.MethodGet {
			status, _, body := shows.send(c.method, c.address, "{}")
			assert.Equal(t, http.StatusServiceUnavailable, status, "%s %s", c.method, c.address)
			assert.Contains(t, body, "Nothing was stored", c.address)
			continue
		}
		status, _, body := shows.send("GET", c.address, "")
		main, _, _ := s.send("GET", c.address, "")
		assert.Equal(t, main, status, "%s: %s", c.address, body[:min(200, len(body))])
		asked++
	}
	assert.Greater(t, asked, 60)
	_, _, session := shows.send("GET", "/api/v1/session", "")
	assert.Contains(t, session, `"read_only":true`)
}
