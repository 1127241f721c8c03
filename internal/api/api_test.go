package api_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/api"
	"nextround/internal/contract"
	"nextround/internal/demo"
	"nextround/internal/organisation"
	"nextround/internal/pg/pgtest"
	"nextround/internal/rooms"
	"nextround/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// client is a signed-in person with cookies.
type client struct {
	t    testing.TB
	url  string
	http *http.Client
}

type site struct {
	*client
	store   *store.Store
	service *rooms.Rooms
	log     *bytes.Buffer
}

// newSite serves an organisation with a manager and a viewer and nothing else.
func newSite(t testing.TB, secure bool) site {
	t.Helper()
	s := serve(t, secure)
	s.stranger("manager", "viewer")
	return s
}

// newSample serves the sample data.
func newSample(t testing.TB) site {
	t.Helper()
	return serveFrom(t, false, pgtest.Filled(t, "demo", demo.Fill))
}

// limited adds a manager of the sample who sees one site only.
func (s site) limited(login, name string) {
	s.t.Helper()
	ctx := context.Background()
	manager, err := s.service.Organisation.SignIn(ctx, contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(s.t, err)
	a, err := s.service.Organisation.CreateMember(ctx, manager.Org, login, login, "secret", contract.RoleManager)
	require.NoError(s.t, err)
	sites, err := s.service.Register.Sites(ctx, manager)
	require.NoError(s.t, err)
	for _, x := range sites {
		if x.Name == name {
			no := false
			_, err = s.service.Organisation.SavePerson(ctx, manager, a.Person.ID, contract.PersonChange{Version: 1, Name: login, AllSites: &no, SiteIds: &[]uuid.UUID{x.ID}})
			require.NoError(s.t, err)
		}
	}
}

// stranger makes an organisation of its own with people of these logins; the first manages it.
func (s site) stranger(logins ...string) {
	s.t.Helper()
	ctx := context.Background()
	org, err := s.service.Organisation.CreateOrganisation(ctx, organisation.NewOrganisation{Name: "Trust of " + logins[0], Zone: "UTC", Currency: "EUR", Units: "metric"})
	require.NoError(s.t, err)
	role := contract.RoleManager
	for _, login := range logins {
		_, err = s.service.Organisation.CreateMember(ctx, org, login, login, "secret", role)
		require.NoError(s.t, err)
		role = contract.RoleViewer
	}
}

func serve(t testing.TB, secure bool) site {
	t.Helper()
	return serveFrom(t, secure, pgtest.New(t))
}

func serveFrom(t testing.TB, secure bool, database string) site {
	t.Helper()
	ctx := context.Background()
	st, err := store.Open(ctx, database)
	require.NoError(t, err)
	clock := func() time.Time { return time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC) }
	svc := rooms.New(st, rooms.Options{Now: clock, Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64}})
	require.NoError(t, svc.StartQueue(ctx))
	var log bytes.Buffer
	h := httptest.NewUnstartedServer(nil)
	public := "http://" + h.Listener.Addr().String()
	if secure {
		public = "https://" + h.Listener.Addr().String()
	}
	server, err := api.NewServer(svc, st, api.Options{
		Public: public,
		Pages: fstest.MapFS{
			"index.html":    {Data: []byte("<!doctype html><title>page</title>")},
			"assets/app.js": {Data: []byte("let a")},
		},
		Secure: secure, Log: slog.New(slog.NewJSONHandler(&log, nil)),
	})
	require.NoError(t, err)
	h.Config.Handler = server
	if secure {
		h.StartTLS()
	} else {
		h.Start()
	}
	t.Cleanup(func() {
		h.Close()
		server.Close()
		svc.Close()
		st.Close()
	})
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := h.Client()
	c.Jar = jar
	return site{client: &client{t: t, url: h.URL, http: c}, store: st, service: svc, log: &log}
}

// send makes a request and returns the status, the headers and the body.
func (c *client) send(method, path, body string, headers ...string) (int, http.Header, string) {
	c.t.Helper()
	r, err := http.NewRequest(method, c.url+path, strings.NewReader(body))
	require.NoError(c.t, err)
	if body != "" {
		r.Header.Set("Content-Type", "application/json")
	}
	for i := 0; i+1 < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	res, err := c.http.Do(r)
	require.NoError(c.t, err)
	defer func() { _ = res.Body.Close() }()
	raw, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	return res.StatusCode, res.Header, string(raw)
}

func (c *client) signIn(login string) {
	c.t.Helper()
	c.signInAs(login, "secret")
}

func (c *client) signInAs(login, password string) {
	c.t.Helper()
	status, body := c.inTime(func() (int, string) {
		status, _, body := c.send("POST", "/api/v1/session", `{"login":"`+login+`","password":"`+password+`"}`)
		return status, body
	})
	require.Equal(c.t, http.StatusOK, status, body)
}

// inTime asks again where the server says that this is more than anybody needs at once.
func (c *client) inTime(ask func() (int, string)) (status int, body string) {
	c.t.Helper()
	require.Eventually(c.t, func() bool {
		status, body = ask()
		return status != http.StatusTooManyRequests
	}, time.Minute, 100*time.Millisecond)
	return status, body
}

// forget drops the session's cookie.
func (c *client) forget() {
	c.t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(c.t, err)
	c.http.Jar = jar
}

// fetch reads an address that must answer.
func fetch[T any](t testing.TB, c *client, path string) T {
	t.Helper()
	status, _, body := c.send("GET", path, "")
	require.Equal(t, http.StatusOK, status, body)
	var out T
	require.NoError(t, json.Unmarshal([]byte(body), &out))
	return out
}

func problem(t testing.TB, header http.Header, body string) contract.Problem {
	t.Helper()
	assert.Equal(t, "application/problem+json", header.Get("Content-Type"), "RFC 9457")
	var p contract.Problem
	require.NoError(t, json.Unmarshal([]byte(body), &p), body)
	return p
}

func TestSessionCookie(t *testing.T) {
	for _, secure := range []bool{false, true} {
		s := newSite(t, secure)
		status, header, _ := s.send("POST", "/api/v1/session", `{"login":"manager","password":"secret"}`)
		require.Equal(t, http.StatusOK, status)
		cookie := header.Get("Set-Cookie")
		assert.Contains(t, cookie, "HttpOnly")
		assert.Contains(t, cookie, "SameSite=Lax")
		assert.Equal(t, secure, strings.Contains(cookie, "Secure"), "Secure exactly when served over TLS")

		var stored int64
		require.NoError(t, s.store.DB.Raw("SELECT count(*) FROM sessions").Scan(&stored).Error)
		assert.Equal(t, int64(1), stored, "sessions live in the database")
		status, _, _ = s.send("GET", "/api/v1/session", "")
		assert.Equal(t, http.StatusOK, status)
		status, _, _ = s.send("DELETE", "/api/v1/session", "")
		assert.Equal(t, http.StatusNoContent, status)
		status, header, body := s.send("GET", "/api/v1/portfolio", "")
		assert.Equal(t, http.StatusUnauthorized, status)
		assert.Equal(t, "Sign in first.", *problem(t, header, body).Detail)
	}
}

func TestWrongPassword(t *testing.T) {
	s := newSite(t, false)
	status, header, body := s.send("POST", "/api/v1/session", `{"login":"manager","password":"wrong"}`)
	assert.Equal(t, http.StatusUnauthorized, status)
	assert.Equal(t, "Login or password is not right.", *problem(t, header, body).Detail)
	assert.Empty(t, header.Get("Set-Cookie"))
}

func TestAnotherSitesPageIsRefused(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	status, header, body := s.send("DELETE", "/api/v1/session", "", "Sec-Fetch-Site", "cross-site", "Origin", "https://elsewhere.example")
	assert.Equal(t, http.StatusForbidden, status)
	problem(t, header, body)
	status, _, _ = s.send("GET", "/api/v1/session", "")
	assert.Equal(t, http.StatusOK, status, "still signed in")
}

func TestErrorsPointAtFields(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	for name, c := range map[string]struct {
		body    string
		status  int
		pointer string
		reason  string
	}{
		"missing": {`{"site":"Hall"}`, 422, "/tag", "is missing"},
		"nested":  {`{"site":"H","placement":"P","tag":"T","class":"C","coil_roles":["wing"],"last_clean":{"quality":"exact"}}`, 422, "/coil_roles/0", "must be one of [condenser evaporator outdoor back]"},
		"bad day": {`{"site":"H","placement":"P","tag":"T","class":"Ice machine","coil_roles":["condenser"],"last_clean":{"quality":"exact","day":"soon"}}`, 422, "/last_clean/day", "must be a date of the form 2026-03-05"},
		"empty":   {`{"site":"","placement":"P","tag":"T","class":"C","coil_roles":[],"last_clean":{"quality":"never"}}`, 422, "/site", "is empty"},
		"none":    {`{"site":"H","placement":"P","tag":"T","class":"C","coil_roles":[],"last_clean":{"quality":"never"}}`, 422, "/coil_roles", "at least one is needed"},
		"long":    {`{"site":"H","placement":"P","tag":"` + strings.Repeat("x", 61) + `","class":"C","coil_roles":["back"],"last_clean":{"quality":"never"}}`, 422, "/tag", "is longer than 60 characters"},
		"service": {`{"site":"H","placement":"P","tag":"T","class":"Dragon","coil_roles":["condenser"],"last_clean":{"quality":"never"}}`, 422, "/class", "is not a class of your organisation"},
	} {
		t.Run(name, func(t *testing.T) {
			status, header, body := s.send("POST", "/api/v1/units", c.body)
			assert.Equal(t, c.status, status)
			p := problem(t, header, body)
			require.NotNil(t, p.Errors, body)
			found := false
			for _, e := range *p.Errors {
				found = found || (e.Pointer == c.pointer && strings.Contains(e.Reason, c.reason))
				assert.NotContains(t, e.Reason, "Schema:", "no dumps")
			}
			assert.True(t, found, body)
		})
	}
	status, header, body := s.send("POST", "/api/v1/units", `{"site":`)
	assert.GreaterOrEqual(t, status, 400)
	assert.Less(t, status, 500)
	problem(t, header, body)
}

// finished waits for an import to end.
func (c *client) finished(run contract.ImportRun) contract.ImportRun {
	c.t.Helper()
	require.Eventually(c.t, func() bool {
		run = fetch[contract.ImportRun](c.t, c, "/api/v1/imports/"+run.ID.String())
		return run.Status != contract.ImportRunStatusRunning
	}, 5*time.Minute, 10*time.Millisecond)
	return run
}

func (c *client) upload(query, file string) contract.ImportRun {
	c.t.Helper()
	status, _, answer := c.send("POST", "/api/v1/imports"+query, file, "Content-Type", "application/octet-stream")
	require.Equal(c.t, http.StatusAccepted, status, answer)
	var run contract.ImportRun
	require.NoError(c.t, json.Unmarshal([]byte(answer), &run))
	return c.finished(run)
}

func TestImportOverHTTP(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	status, header, body := s.send("GET", "/api/v1/import-template", "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, header.Get("Content-Disposition"), "register-template.csv")
	assert.Equal(t, "text/csv; charset=utf-8", header.Get("Content-Type"))

	run := s.upload("?file_name=a.csv", strings.Replace(body, "2025-09-14", "14/09/2025", 1))
	assert.Equal(t, contract.ImportRunStatusRefused, run.Status)
	assert.Equal(t, 2, *run.Report.Problems[0].Line)
	assert.Equal(t, "last clean", *run.Report.Problems[0].Column)
	assert.Equal(t, contract.ImportRunStatusChecked, s.upload("?dry_run=true", body).Status)
	assert.Equal(t, contract.ImportRunStatusStored, s.upload("", body).Status)
	assert.Equal(t, contract.ImportRunStatusUnchanged, s.upload("", body).Status)
	_, _, file := s.send("GET", "/api/v1/exports/register?format=xlsx", "")
	assert.Equal(t, contract.ImportRunStatusUnchanged, s.upload("?file_name=b.xlsx", file).Status)

	status, header, answer := s.send("POST", "/api/v1/imports", strings.Repeat("x", 65<<20), "Content-Type", "application/octet-stream")
	assert.Equal(t, http.StatusRequestEntityTooLarge, status)
	problem(t, header, answer)
	status, header, answer = s.send("POST", "/api/v1/units", `{"tag":"`+strings.Repeat("x", 5<<20)+`"}`)
	assert.Equal(t, http.StatusRequestEntityTooLarge, status)
	problem(t, header, answer)
}

func TestAViewerMayOnlyLook(t *testing.T) {
	s := newSite(t, false)
	s.signIn("viewer")
	status, _, _ := s.send("GET", "/api/v1/portfolio", "")
	assert.Equal(t, http.StatusOK, status)
	status, header, body := s.send("POST", "/api/v1/imports", "x", "Content-Type", "application/octet-stream")
	assert.Equal(t, http.StatusForbidden, status)
	assert.Equal(t, "Your role does not allow this.", *problem(t, header, body).Detail)
}

func TestSetUpJoinAndLeave(t *testing.T) {
	s := serve(t, false)
	assert.True(t, fetch[contract.Setup](t, s.client, "/api/v1/setup").Needed)
	body := `{"organisation":"Trust","zone":"UTC","currency":"EUR","units":"us","person":"Boss","login":"boss","password":"three old herring nets"}`
	status, _, answer := s.send("POST", "/api/v1/setup", body)
	require.Equal(t, http.StatusCreated, status, answer)
	assert.Equal(t, "us", string(fetch[contract.Session](t, s.client, "/api/v1/session").Units), "signed in at once")
	assert.False(t, fetch[contract.Setup](t, s.client, "/api/v1/setup").Needed)
	status, _, _ = s.send("POST", "/api/v1/setup", body)
	assert.Equal(t, http.StatusConflict, status, "once")
	status, _, answer = s.send("POST", "/api/v1/people", `{"name":"Kari","login":"kari","role":"viewer"}`)
	require.Equal(t, http.StatusCreated, status, answer)
	var added contract.PersonAdded
	require.NoError(t, json.Unmarshal([]byte(answer), &added))
	require.True(t, strings.HasPrefix(*added.Link, s.url+"/join/"), *added.Link)
	s.forget()
	address := "/api/v1" + strings.TrimPrefix(*added.Link, s.url)
	assert.Equal(t, "Kari", fetch[contract.JoinInfo](t, s.client, address).Person)
	status, _, _ = s.send("POST", address, `{"password":"a very long password"}`)
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "kari", fetch[contract.Session](t, s.client, "/api/v1/session").Login)
	status, _, _ = s.send("GET", address, "")
	assert.Equal(t, http.StatusNotFound, status, "a link works once")
	status, _, _ = s.send("PUT", "/api/v1/session/password", `{"current":"a very long password","password":"another long password"}`)
	require.Equal(t, http.StatusNoContent, status)
	status, _, _ = s.send("GET", "/api/v1/session", "")
	assert.Equal(t, http.StatusOK, status, "the session goes on under the new password")
	require.NoError(t, s.store.DB.Exec("UPDATE account SET password_hash = password_hash || 'x' WHERE login = 'kari'").Error)
	status, _, _ = s.send("GET", "/api/v1/session", "")
	assert.Equal(t, http.StatusUnauthorized, status, "a password changed elsewhere ends it")
}

func TestTooManySignInsAreToldToWait(t *testing.T) {
	s := newSite(t, false)
	for range 6 {
		s.send("POST", "/api/v1/session", `{"login":"manager","password":"guess"}`)
	}
	status, header, body := s.send("POST", "/api/v1/session", `{"login":"manager","password":"secret"}`)
	assert.Equal(t, http.StatusTooManyRequests, status)
	assert.Equal(t, "900", header.Get("Retry-After"))
	assert.Contains(t, *problem(t, header, body).Detail, "try again in 15 minutes")
}

// Who saves second is answered with what stands now, so that both texts can be shown.
func TestAConflictCarriesWhatStandsNow(t *testing.T) {
	s := newSample(t)
	ids := records(t, s)
	s.signInAs("manager", demo.Password)
	address := "/api/v1/units/" + ids["{unit_id}"] + "/card"
	record := fetch[contract.UnitRecord](t, s.client, address)
	change := func(note string) (int, http.Header, string) {
		record.Card.Note = note
		body, err := json.Marshal(contract.UnitChange{Version: record.Version, Card: record.Card})
		require.NoError(t, err)
		return s.send("PUT", address, string(body))
	}
	status, _, answer := change("hers")
	require.Equal(t, http.StatusOK, status, answer)
	status, header, answer := change("mine")
	require.Equal(t, http.StatusConflict, status)
	p := problem(t, header, answer)
	assert.Contains(t, *p.Detail, "Somebody else saved this meanwhile")
	assert.Equal(t, "hers", (*p.Current)["card"].(map[string]any)["note"])
}

func TestLabelsArePrintedAndFound(t *testing.T) {
	s := newSample(t)
	ids := records(t, s)
	s.signInAs("technician", demo.Password)
	status, header, pdf := s.send("GET", "/api/v1/labels?q=CC-", "")
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "application/pdf", header.Get("Content-Type"))
	assert.True(t, strings.HasPrefix(pdf, "%PDF-"))
	_, _, again := s.send("GET", "/api/v1/labels?q=CC-", "")
	assert.Equal(t, pdf, again, "the same labels give the same bytes")
	assert.Equal(t, ids["{unit_id}"], fetch[contract.Created](t, s.client, "/api/v1/labels/"+ids["{code}"]).ID.String())
	status, _, _ = s.send("GET", "/api/v1/labels/nosuchlabel", "")
	assert.Equal(t, http.StatusNotFound, status)
}

func TestIdempotencyKeyIsNeeded(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	status, header, body := s.send("POST", "/api/v1/plan/publication", `{"version":1,"rounds":[{"crew_id":"01a20bbc-3b1f-7569-b022-a755ea24ba1a","day":"2026-03-05"}]}`)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Equal(t, "Idempotency-Key", (*problem(t, header, body).Errors)[0].Pointer)
}

func TestUnknownAddressesAndPages(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	status, header, body := s.send("GET", "/api/v1/units/01a20bbc-3b1f-7569-b022-a755ea24ba1a", "")
	assert.Equal(t, http.StatusNotFound, status)
	problem(t, header, body)
	status, header, body = s.send("GET", "/api/v1/nothing", "")
	assert.Equal(t, http.StatusNotFound, status)
	problem(t, header, body)
	status, header, body = s.send("PUT", "/api/v1/portfolio", "{}")
	assert.Equal(t, http.StatusMethodNotAllowed, status)
	problem(t, header, body)

	status, header, body = s.send("GET", "/units/whatever", "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, "<title>page</title>", "every screen's address gives the one page")
	assert.Contains(t, header.Get("Content-Security-Policy"), "default-src 'self'")
	status, header, _ = s.send("GET", "/assets/app.js", "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, header.Get("Cache-Control"), "immutable")
	status, _, _ = s.send("GET", "/assets/gone.js", "")
	assert.Equal(t, http.StatusNotFound, status)
}

func TestHealthReadinessAndLog(t *testing.T) {
	s := newSite(t, false)
	status, header, _ := s.send("GET", "/healthz", "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, s.log.String(), `"request_id":"`+header.Get("X-Request-Id")+`"`)
	status, _, _ = s.send("GET", "/readyz", "")
	assert.Equal(t, http.StatusOK, status)
	s.store.Pool.Close()
	status, _, _ = s.send("GET", "/healthz", "")
	assert.Equal(t, http.StatusOK, status, "up without a database")
	status, _, body := s.send("GET", "/readyz", "")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, body, "the database does not answer")
	status, header, body = s.send("POST", "/api/v1/session", `{"login":"manager","password":"secret"}`)
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Equal(t, header.Get("X-Request-Id"), *problem(t, header, body).RequestID)
	assert.NotContains(t, body, "closed pool", "internals stay in the log")
}

// A disk that is full and a connection that breaks in the middle are told as what they are; the same visit sent again
// is then stored once.
func TestFaultsOfTheDatabaseAreToldInWords(t *testing.T) {
	s := newSample(t)
	ids := records(t, s)
	s.signInAs("technician", demo.Password)
	visit := strings.ReplaceAll(bodies["submitVisit"], "{unit_id}", ids["{unit_id}"])
	breakAt := func(body string) {
		require.NoError(t, s.store.DB.Exec("CREATE OR REPLACE FUNCTION fault() RETURNS trigger AS $$ BEGIN "+body+" RETURN NEW; END $$ LANGUAGE plpgsql").Error)
		require.NoError(t, s.store.DB.Exec("CREATE OR REPLACE TRIGGER fault BEFORE INSERT ON visit FOR EACH ROW EXECUTE FUNCTION fault()").Error)
	}
	key := uuid.NewString()
	for _, c := range []struct {
		fault, words string
		status       int
	}{
		{"RAISE EXCEPTION 'no space left' USING ERRCODE = '53100';", "disk is full; nothing was stored", http.StatusInsufficientStorage},
		{"PERFORM pg_terminate_backend(pg_backend_pid());", "cannot be reached; what you sent was not confirmed", http.StatusServiceUnavailable},
	} {
		breakAt(c.fault)
		status, header, body := s.send("POST", "/api/v1/visits", visit, "Idempotency-Key", key)
		assert.Equal(t, c.status, status, body)
		assert.Contains(t, *problem(t, header, body).Detail, c.words)
	}
	require.NoError(t, s.store.DB.Exec("DROP TRIGGER fault ON visit").Error)
	for range 2 {
		status, _, body := s.send("POST", "/api/v1/visits", visit, "Idempotency-Key", key)
		assert.Equal(t, http.StatusCreated, status, body)
	}
	var stored int64
	require.NoError(t, s.store.DB.Raw("SELECT count(*) FROM visit WHERE id = ?", key).Scan(&stored).Error)
	assert.Equal(t, int64(1), stored)
}

func TestMetricsTellOfRoutes(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	s.send("GET", "/api/v1/units/01a20bbc-3b1f-7569-b022-a755ea24ba1a", "")
	status, _, body := s.send("GET", "/metrics", "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, `nextround_request_seconds_count{method="GET",route="/api/v1/units/:unit_id",status="404"} 1`)
	assert.Contains(t, body, "nextround_database_connections_most")
	assert.NotContains(t, body, "01a20bbc", "no ids in names of series")
}

// Text that the database cannot hold is refused at its field.
func TestTextThatCannotBeKept(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	status, header, body := s.send("POST", "/api/v1/sites", `{"name":"Hall\u0000","zone":"UTC"}`)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, (*problem(t, header, body).Errors)[0].Reason, "character")
}
