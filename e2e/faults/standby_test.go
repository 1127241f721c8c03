package faults

import (
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/pg"
	"nextround/internal/store"
)

// asked sends a request as somebody who is signed in at another of the servers, and gives the answer.
func (s *sender) asked(p *program, method, path string) (int, string) {
	var body io.Reader
	if method != http.MethodGet {
		body = strings.NewReader("{}")
	}
	r, err := http.NewRequest(method, "http://"+p.address+"/api/v1"+path, body)
	require.NoError(s.t, err)
	if body != nil {
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set("Idempotency-Key", uuid.NewString())
	}
	res, err := s.http.Do(r)
	if err != nil {
		return 0, err.Error()
	}
	defer func() { _ = res.Body.Close() }()
	answer, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(answer)
}

// A primary and a standby that has every commit before it is confirmed; two servers that know both. In the middle of the visits the
// primary is killed and the standby promoted: the servers go over by themselves, nothing that was confirmed is lost and nothing is
// done twice.
func TestThePrimaryDies(t *testing.T) {
	if testing.Short() {
		t.Skip("takes a minute")
	}
	ctx := context.Background()
	primary, err := pg.Start(ctx, pg.Options{Dir: filepath.Join(t.TempDir(), "primary")})
	require.NoError(t, err)
	require.NoError(t, store.Migrate(ctx, primary.URL("postgres")))
	forms := house(t, primary.URL("postgres"))
	standby, err := primary.Standby(ctx, filepath.Join(t.TempDir(), "standby"))
	require.NoError(t, err)
	defer func() { _ = standby.Stop() }()
	require.NoError(t, primary.WaitForStandby(ctx))
	address, err := pg.Either("postgres", primary, standby)
	require.NoError(t, err)
	servers := []*program{start(t, address), start(t, address)}
	shows := start(t, standby.URL("postgres"), "--read-only")
	for _, s := range append(servers, shows) {
		require.Eventually(t, s.ready, 5*time.Minute, 30*time.Millisecond)
	}
	keys, confirmed, retries, wait := send(t, servers, forms)
	await(t, confirmed, int64(len(forms)/4))

	// What is only read comes from the standby as well, for whoever is signed in at a main server.
	reader := newSender(t, servers, retries)
	status, _ := reader.post("/api/v1/session", uuid.NewString(), []byte(`{"login":"boss","password":"`+password+`"}`))
	require.Equal(t, http.StatusOK, status)
	require.Eventually(t, func() bool {
		status, body := reader.asked(shows, http.MethodGet, "/portfolio?limit=1")
		return status == http.StatusOK && strings.Contains(body, `"tag":"U-`)
	}, time.Minute, 50*time.Millisecond)
	status, body := reader.asked(shows, http.MethodPost, "/visits")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, body, "only shows what there is")

	await(t, confirmed, int64(len(forms)/2))
	primary.Kill()
	died := time.Now()
	require.Eventually(t, func() bool {
		status, body := reader.asked(servers[0], http.MethodGet, "/portfolio?limit=1")
		return status == http.StatusServiceUnavailable && strings.Contains(body, "The database cannot be reached")
	}, time.Minute, 50*time.Millisecond, "it is said")
	before := confirmed.Load()
	require.NoError(t, standby.Promote(ctx))
	promoted := time.Now()
	await(t, confirmed, before+1)
	again := time.Now()
	wait()
	assert.Equal(t, int64(len(forms)), confirmed.Load())
	t.Logf("%d visits confirmed, %d tries more; confirmed again %.1f s after the primary died, %.1f s after the standby was promoted",
		confirmed.Load(), retries.Load(), again.Sub(died).Seconds(), again.Sub(promoted).Seconds())
	eachOnce(t, standby.URL("postgres"), keys)
}

// bouncer starts PgBouncer in transaction mode in front of a cluster and gives the address of the database by way of it.
func bouncer(t *testing.T, direct string) string {
	program, err := exec.LookPath("pgbouncer")
	if err != nil {
		program = "/usr/sbin/pgbouncer"
	}
	dir := t.TempDir()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	at := l.Addr().(*net.TCPAddr).Port
	require.NoError(t, l.Close())
	u, err := url.Parse(direct)
	require.NoError(t, err)
	secret, _ := u.User.Password()
	config := fmt.Sprintf("[databases]\n* = host=%s port=%s\n[pgbouncer]\nlisten_addr = 127.0.0.1\nlisten_port = %d\nunix_socket_dir =\n"+
		"auth_type = scram-sha-256\nauth_file = %s/users\npool_mode = transaction\ndefault_pool_size = 8\nmax_client_conn = 200\nlogfile = %s/log\n",
		u.Hostname(), u.Port(), at, dir, dir)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "ini"), []byte(config), 0o644))                                           //nolint:gosec // a test's
	require.NoError(t, os.WriteFile(filepath.Join(dir, "users"), fmt.Appendf(nil, "%q %q\n", u.User.Username(), secret), 0o644)) //nolint:gosec // a test's
	cmd := exec.Command(program, filepath.Join(dir, "ini"))
	if os.Geteuid() == 0 { // it refuses to run as root
		who, err := user.Lookup("postgres")
		require.NoError(t, err)
		uid, _ := strconv.Atoi(who.Uid)
		gid, _ := strconv.Atoi(who.Gid)
		for _, d := range []string{dir, filepath.Dir(dir)} {
			require.NoError(t, os.Chown(d, uid, gid))
		}
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}} //nolint:gosec // ids are small
	}
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
	})
	u.Host = "127.0.0.1:" + strconv.Itoa(at)
	return u.String()
}

// Servers behind PgBouncer in transaction mode: visits, a file taken in by way of the queue and a plan go as without it.
func TestThroughPgBouncer(t *testing.T) {
	if testing.Short() {
		t.Skip("takes a minute")
	}
	ctx := context.Background()
	cluster, err := pg.Start(ctx, pg.Options{Dir: filepath.Join(t.TempDir(), "pg")})
	require.NoError(t, err)
	defer func() { _ = cluster.Stop() }()
	direct := cluster.URL("postgres")
	require.NoError(t, store.Migrate(ctx, direct))
	forms := house(t, direct)[:200]
	address := bouncer(t, direct)
	servers := []*program{start(t, address, "--pooler"), start(t, address, "--pooler")}
	for _, s := range servers {
		require.Eventually(t, s.ready, 5*time.Minute, 30*time.Millisecond)
	}
	keys, confirmed, _, wait := send(t, servers, forms)
	wait()
	assert.Equal(t, int64(len(forms)), confirmed.Load())
	eachOnce(t, direct, keys)

	manager := newSender(t, servers, new(atomic.Int64))
	status, _ := manager.post("/api/v1/session", uuid.NewString(), []byte(`{"login":"boss","password":"`+password+`"}`))
	require.Equal(t, http.StatusOK, status)
	var file strings.Builder
	file.WriteString("site,placement,tag,class,coil role,last clean\n")
	for i := range 400 { // enough for COPY
		fmt.Fprintf(&file, "Barn,Yard,B-%03d,Ice machine,condenser,2025-01-01\n", i)
	}
	res, err := manager.http.Post("http://"+servers[0].address+"/api/v1/imports?kind=register", "application/octet-stream", strings.NewReader(file.String()))
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Equal(t, http.StatusAccepted, res.StatusCode)
	ends := func(path, running string) (body string) {
		require.Eventually(t, func() bool {
			var status int
			status, body = manager.asked(servers[1], http.MethodGet, path)
			return status == http.StatusOK && !strings.Contains(body, running)
		}, time.Minute, 50*time.Millisecond)
		return body
	}
	assert.Contains(t, ends("/imports", `"status":"running"`), `"status":"stored"`)
	status, body := manager.asked(servers[0], http.MethodPost, "/plan")
	require.Equal(t, http.StatusAccepted, status, body)
	assert.Contains(t, ends("/plan/run", `"status":"running"`), `"status":"done"`)
}
