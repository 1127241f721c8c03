package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/demo"
	"nextround/internal/organisation"
	"nextround/internal/pg/pgtest"
	"nextround/internal/register"
	"nextround/internal/rooms"
	"nextround/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// command runs the program and returns its exit code and what it printed.
func command(in string, args ...string) (int, string) {
	root := newRoot()
	var out bytes.Buffer
	root.SetIn(strings.NewReader(in))
	root.SetOut(&out)
	root.SetErr(&out)
	root.SetArgs(args)
	err := root.Execute()
	var exit exitError
	switch {
	case err == nil:
		return 0, out.String()
	case errors.As(err, &exit):
		return exit.code, err.Error()
	}
	return exitFailure, err.Error()
}

func TestCalcExitCodes(t *testing.T) {
	code, example := command("", "calc", "replay", "--example")
	require.Equal(t, 0, code)
	code, out := command(example, "calc", "replay")
	assert.Equal(t, 0, code)
	assert.Contains(t, out, `"core_load"`)
	code, out = command("", "calc", "interval", "--schema")
	assert.Equal(t, 0, code)
	assert.Contains(t, out, "json-schema.org")

	code, out = command("", "calc", "weather")
	assert.Equal(t, exitUsage, code)
	assert.Contains(t, out, "topics are advise, call_factor, cause, choice, course, dwell")
	code, _ = command("", "calc")
	assert.Equal(t, exitUsage, code)
	code, _ = command("{", "calc", "interval")
	assert.Equal(t, exitInput, code)
	code, out = command(`{"class_days": 0, "class_max_days": 10, "factor": 1}`, "calc", "interval")
	assert.Equal(t, exitField, code)
	assert.Contains(t, out, "class_days: must be at least 1 day")
}

func TestWrongUseEndsInOneLine(t *testing.T) {
	for _, args := range [][]string{
		{"serve"}, {"migrate"}, {"serve", "--nonsense"}, {"--log", "loud", "calc", "replay", "--example"}, {"demo", "--tls-cert"},
	} {
		t.Setenv("DATABASE_URL", "")
		code, out := command("", args...)
		assert.Equal(t, exitUsage, code, args)
		assert.NotContains(t, out, "\n", args)
	}
	code, out := command("", "serve", "--database", "postgres://nobody@127.0.0.1:1/none")
	assert.Equal(t, exitFailure, code)
	assert.NotContains(t, out, "goroutine")
}

func TestListenTakesTheNextFreePort(t *testing.T) {
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer func() { _ = taken.Close() }()
	l, err := listen(context.Background(), taken.Addr().String(), true)
	require.NoError(t, err)
	defer func() { _ = l.Close() }()
	assert.Greater(t, l.Addr().(*net.TCPAddr).Port, taken.Addr().(*net.TCPAddr).Port)
	_, err = listen(context.Background(), taken.Addr().String(), false)
	assert.ErrorContains(t, err, "is taken by another program")
	_, err = listen(context.Background(), "nowhere", true)
	assert.ErrorContains(t, err, "must be HOST:PORT")
}

// lines is a writer whose text can be read while it grows.
type lines struct {
	found chan string
	text  bytes.Buffer
}

var address = regexp.MustCompile(`http://\S+`)

func (l *lines) Write(b []byte) (int, error) {
	l.text.Write(b)
	if a := address.FindString(string(b)); a != "" {
		l.found <- a
	}
	return len(b), nil
}

// A database's content goes to a file and comes back equal, by the hash of every list the program shows.
func TestBackupAndRestore(t *testing.T) {
	from, to := pgtest.Filled(t, "demo", demo.Fill), pgtest.New(t)
	file := filepath.Join(t.TempDir(), "all.gz")
	code, out := command("", "backup", "--database", from, "-o", file)
	require.Equal(t, 0, code, out)
	assert.Contains(t, out, "rows written")
	code, out = command("", "restore", "--database", to, file)
	require.Equal(t, 0, code, out)
	was := lists(t, from)
	assert.Equal(t, was, lists(t, to))

	code, out = command("", "restore", "--database", to, file)
	assert.Equal(t, exitFailure, code)
	assert.Contains(t, out, "the database is not empty; nothing was changed")
	code, out = command("", "restore", "--database", to, "--replace", file)
	require.Equal(t, 0, code, out)

	// A damaged file changes nothing.
	whole, err := os.ReadFile(file)
	require.NoError(t, err)
	for name, bad := range map[string][]byte{"cut": whole[:len(whole)/2], "text": []byte("not a backup")} {
		damaged := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(damaged, bad, 0o600))
		code, _ = command("", "restore", "--database", to, "--replace", damaged)
		assert.NotEqual(t, 0, code, name)
	}
	assert.Equal(t, was, lists(t, to), "what was restored twice, and not replaced by a damaged file")
	code, out = command("", "restore", "--database", to, filepath.Join(t.TempDir(), "none"))
	assert.Equal(t, exitInput, code, out)
}

// lists are hashes of what the program shows of a database.
func lists(t *testing.T, url string) map[string]string {
	t.Helper()
	ctx := context.Background()
	st, err := store.Open(ctx, url)
	require.NoError(t, err)
	defer st.Close()
	svc := rooms.New(st, rooms.Options{Now: func() time.Time { return demo.Clock }})
	defer svc.Close()
	m, err := st.MemberByLogin(ctx, "manager")
	require.NoError(t, err)
	a, err := svc.Organisation.Actor(ctx, m.Account.ID)
	require.NoError(t, err)
	out := map[string]string{}
	keep := func(name string, v any, err error) {
		require.NoError(t, err, name)
		b, err := json.Marshal(v)
		require.NoError(t, err)
		out[name] = fmt.Sprintf("%x", sha256.Sum256(b))
	}
	page, err := svc.Register.Portfolio(ctx, a, register.PortfolioQuery{Limit: 500})
	keep("portfolio", page, err)
	for _, row := range page.Rows {
		u, err := svc.Learning.Unit(ctx, a, row.UnitID)
		keep("unit "+row.Tag, u, err)
		card, err := svc.Register.UnitCard(ctx, a, row.UnitID)
		keep("card "+row.Tag, card, err)
		trail, err := svc.Organisation.Audit(ctx, a, "unit", row.UnitID)
		keep("history "+row.Tag, trail, err)
		files, err := svc.Organisation.Attachments(ctx, a, "unit", row.UnitID)
		keep("files "+row.Tag, files, err)
	}
	sites, err := svc.Register.Sites(ctx, a)
	keep("sites", sites, err)
	people, err := svc.Organisation.People(ctx, a)
	keep("people", people, err)
	crews, err := svc.Planning.Crews(ctx, a)
	keep("crews", crews, err)
	rules, err := svc.Organisation.HouseRules(ctx, a)
	keep("house rules", rules, err)
	round, err := svc.Planning.NextRound(ctx, a, nil, nil)
	keep("next round", round, err)
	imports, err := svc.Importing.Imports(ctx, a)
	keep("imports", imports, err)
	for _, kind := range []string{"register", "visits"} {
		var file bytes.Buffer
		err := svc.Export(ctx, a, kind, "csv", &file)
		keep("export "+kind, file.String(), err)
	}
	return out
}

func TestImportExportAndRebuildCommands(t *testing.T) {
	url := pgtest.Filled(t, "demo", demo.Fill)
	dir := t.TempDir()
	sheet := filepath.Join(dir, "register.xlsx")
	code, out := command("", "export", "--database", url, "-o", sheet)
	require.Equal(t, 0, code, out)
	code, out = command("", "import", "--database", url, sheet)
	require.Equal(t, 0, code, out)
	assert.Contains(t, out, "unchanged: 87 rows")
	code, csv := command("", "export", "--database", url, "--kind", "visits")
	require.Equal(t, 0, code)
	assert.True(t, strings.HasPrefix(csv, "tag,day,visit,outcome"))
	bad := filepath.Join(dir, "bad.csv")
	require.NoError(t, os.WriteFile(bad, []byte("site,placement,tag,class,coil role\nHall,Yard,A-1,Dragon,condenser\n"), 0o600))
	code, out = command("", "import", "--database", url, bad)
	assert.Equal(t, exitField, code)
	assert.Contains(t, out, "1 problems; nothing was taken in")
	code, out = command("", "rebuild", "--database", url)
	require.Equal(t, 0, code, out)
	assert.Contains(t, out, "Recalculated for 73 units.")
	code, out = command("", "link", "--database", url, "viewer")
	require.Equal(t, 0, code, out)
	assert.Contains(t, out, "/join/")
	code, _ = command("", "link", "--database", url, "nobody")
	assert.Equal(t, exitUsage, code)
	for _, args := range [][]string{
		{"import", "--database", url, "--as", "nobody", sheet},
		{"export", "--database", url, "--kind", "dragons"},
		{"backup"},
		{"rebuild"},
		{"import", "--database", url, "--kind", "dragons", sheet},
		{"restore", sheet},
	} {
		t.Setenv("DATABASE_URL", "")
		code, _ := command("", args...)
		assert.Equal(t, exitUsage, code, args)
	}
}

// Sample data that was made is copied by the next start of the same program; what was done in a copy stays there, and the template
// of another build goes.
func TestTheNextDemoIsACopy(t *testing.T) {
	ctx := context.Background()
	cluster, end, err := pgtest.StartCluster(ctx)
	require.NoError(t, err)
	defer end()
	at := func(name string) string {
		u, err := url.Parse(cluster)
		require.NoError(t, err)
		u.Path = "/" + name
		return u.String()
	}
	run := func(name, sql string) error {
		conn, err := pgx.Connect(ctx, at(name))
		require.NoError(t, err)
		defer func() { _ = conn.Close(ctx) }()
		_, err = conn.Exec(ctx, sql)
		return err
	}
	d := databases{admin: cluster, name: "demo", template: templatePrefix + "this_build"}
	require.NoError(t, run("postgres", "CREATE DATABASE "+templatePrefix+"another_build"))
	require.NoError(t, d.make(ctx, false))
	require.NoError(t, run("demo", "CREATE TABLE sample (n int)"), "the first is empty")
	require.NoError(t, d.keepTemplate(ctx))
	require.NoError(t, run("demo", "CREATE TABLE done_meanwhile (n int)"))

	require.NoError(t, d.make(ctx, true))
	require.NoError(t, run("demo", "SELECT FROM done_meanwhile"), "kept where that was asked for")
	require.NoError(t, d.make(ctx, false))
	require.NoError(t, run("demo", "SELECT FROM sample"), "a copy of what was made")
	assert.Error(t, run("demo", "SELECT FROM done_meanwhile"))
	require.NoError(t, d.do(ctx, func(conn *pgx.Conn) error {
		names, err := there(ctx, conn, templatePrefix)
		assert.Equal(t, []string{d.template}, names)
		return err
	}))
	d.template = templatePrefix + "next_build"
	require.NoError(t, d.make(ctx, false))
	assert.Error(t, run("demo", "SELECT FROM sample"), "another build makes its own")
	name, err := templateName()
	require.NoError(t, err)
	assert.Regexp(t, "^"+templatePrefix+"[0-9a-f]{16}$", name)
}

// The demonstration takes another PostgreSQL, and touches nothing in it that it has not made itself.
func TestDemoInAnotherDatabase(t *testing.T) {
	ctx := context.Background()
	sample, own := pgtest.Filled(t, "demo", demo.Fill), pgtest.New(t)
	require.NoError(t, clearForeign(ctx, sample, demoOptions{}))
	holds, err := store.Holds(ctx, sample)
	require.NoError(t, err)
	assert.True(t, holds.Empty, "sample data of the last time is made again")
	st, err := store.Open(ctx, own)
	require.NoError(t, err)
	defer st.Close()
	svc := rooms.New(st, rooms.Options{})
	defer svc.Close()
	require.NoError(t, clearForeign(ctx, own, demoOptions{}), "an empty one will do")
	_, err = svc.Organisation.CreateOrganisation(ctx, organisation.NewOrganisation{Name: "Mine", Zone: "UTC", Currency: "EUR", Units: "metric"})
	require.NoError(t, err)
	assert.ErrorContains(t, clearForeign(ctx, own, demoOptions{}), "it was not touched")
	holds, err = store.Holds(ctx, own)
	require.NoError(t, err)
	assert.Equal(t, []string{"Mine"}, holds.Organisations)
}

// A phone that trusts the authority reaches the server over TLS; one that does not is kept out.
func TestCertificatesServeTLS(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "tls")
	code, out := command("", "certificate", "--dir", dir, "localhost", "127.0.0.1")
	require.Equal(t, 0, code, out)
	assert.Contains(t, out, "Trust the authority on each phone")
	authority, err := os.ReadFile(filepath.Join(dir, "authority.pem"))
	require.NoError(t, err)
	code, again := command("", "certificate", "--dir", dir, "127.0.0.1")
	require.Equal(t, 0, code)
	assert.NotContains(t, again, "A local authority was made", "phones go on trusting the one they have")
	info, err := os.Stat(filepath.Join(dir, "authority-key.pem"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())

	ctx, cancel := context.WithCancel(context.Background())
	st, err := store.Open(ctx, pgtest.New(t))
	require.NoError(t, err)
	defer st.Close()
	found, ended := make(chan string, 1), make(chan error, 1)
	o := site{listen: "127.0.0.1:0", cert: filepath.Join(dir, "server.pem"), key: filepath.Join(dir, "server-key.pem")}
	go func() { ended <- serveUntil(ctx, st, o, func(address string) { found <- address }) }()
	url := <-found
	assert.True(t, strings.HasPrefix(url, "https://"))
	pool := x509.NewCertPool()
	require.True(t, pool.AppendCertsFromPEM(authority))
	trusting := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool}}}
	res, err := trusting.Get(url + "/readyz")
	require.NoError(t, err)
	_ = res.Body.Close()
	assert.Equal(t, http.StatusOK, res.StatusCode)
	res, err = http.Get(url + "/readyz")
	if err == nil {
		_ = res.Body.Close()
	}
	assert.ErrorContains(t, err, "certificate")
	trusting.CloseIdleConnections()
	cancel()
	require.NoError(t, <-ended)
}

// Profiles are for this machine only.
func TestProfilesStayOnThisMachine(t *testing.T) {
	for _, address := range []string{"0.0.0.0:0", "192.0.2.1:6060", "localhost:6060", "6060"} {
		_, err := serveProfile(t.Context(), address)
		assert.ErrorContains(t, err, "an address of this machine", address)
	}
	end, err := serveProfile(t.Context(), "127.0.0.1:0")
	require.NoError(t, err)
	end()
	end, err = serveProfile(t.Context(), "")
	require.NoError(t, err)
	end()
}

// The log says no more than was asked for.
func TestLogLevels(t *testing.T) {
	was := slog.Default()
	t.Cleanup(func() { slog.SetDefault(was) })
	code, out := command("", "--log-level", "chatty", "calc")
	assert.Equal(t, exitUsage, code)
	assert.Contains(t, out, "debug, info, warn or error")
	url := pgtest.New(t)
	for level, want := range map[string]bool{"debug": true, "info": false} {
		code, _ := command("", "--log-level", level, "calc", "replay", "--example")
		require.Equal(t, 0, code)
		assert.Equal(t, want, slog.Default().Enabled(t.Context(), slog.LevelDebug), level)
		var log bytes.Buffer
		slog.SetDefault(slog.New(slog.NewTextHandler(&log, &slog.HandlerOptions{Level: map[bool]slog.Level{true: slog.LevelDebug}[want]})))
		st, err := store.Open(t.Context(), url)
		require.NoError(t, err)
		_, err = st.MemberByLogin(t.Context(), "secret-login")
		require.ErrorIs(t, err, store.ErrNotFound)
		st.Close()
		assert.Equal(t, want, strings.Contains(log.String(), "SELECT"), level)
		assert.NotContains(t, log.String(), "secret-login", "values stay out of the log")
	}
}

func TestDemoStartsServesAndStops(t *testing.T) {
	dir := t.TempDir()
	for _, o := range []demoOptions{{}, {keep: true}, {own: true}} {
		o.dir, o.listen = filepath.Join(dir, "demo"), "127.0.0.1:0"
		ctx, cancel := context.WithCancel(context.Background())
		out := &lines{found: make(chan string, 1)}
		ended := make(chan error, 1)
		go func() {
			ended <- runDemo(ctx, out, o)
		}()
		var url string
		select {
		case url = <-out.found:
		case err := <-ended:
			t.Fatalf("the demonstration ended: %v", err)
		case <-time.After(10 * time.Minute):
			t.Fatal("the demonstration did not start")
		}
		res, err := http.Get(url + "/readyz")
		require.NoError(t, err)
		_ = res.Body.Close()
		assert.Equal(t, http.StatusOK, res.StatusCode)
		if !o.keep {
			err := runDemo(ctx, &lines{}, o)
			assert.ErrorContains(t, err, "already running")
		}
		cancel()
		require.NoError(t, <-ended)
		assert.Equal(t, !o.own, strings.Contains(out.text.String(), "manager"), "own data is set up on the first page")
		assert.Equal(t, !o.own, strings.Contains(out.text.String(), "The clock stands at Wednesday 4 March 2026"))
		assert.Contains(t, out.text.String(), "Stopped.")
		_, err = net.Dial("tcp", strings.TrimPrefix(url, "http://"))
		assert.Error(t, err, "nothing serves any more")
	}
}
