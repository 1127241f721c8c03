// Package faults kills the server and its database in the middle of work and looks whether anything was lost or done
// twice.
package faults

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/importing"
	"nextround/internal/pg"
	"nextround/internal/register"
	"nextround/internal/rooms"
	"nextround/internal/store"
)

// How much is sent, by how many, and how long all of it may take.
const (
	units    = 80
	clients  = 6
	patience = 8 * time.Minute
	password = "three old herring nets"
)

// submissions are the visits sent: 500, unless NEXTROUND_FAULTS says how many (make faults sends 2,000).
var submissions = func() int {
	if n, err := strconv.Atoi(os.Getenv("NEXTROUND_FAULTS")); err == nil && n > 0 {
		return n
	}
	return 500
}()

var binary string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "nextround-faults-")
	if err != nil {
		panic(err)
	}
	binary = filepath.Join(dir, "nextround")
	if out, err := exec.Command("go", "build", "-o", binary, "nextround/cmd/nextround").CombinedOutput(); err != nil {
		panic(string(out))
	}
	code := 0
	defer func() {
		_ = os.RemoveAll(dir)
		os.Exit(code)
	}()
	code = run(m)
}

func run(m *testing.M) int { return m.Run() }

// proxy is a fixed address in front of a database whose own changes when it is started again.
type proxy struct {
	listener net.Listener
	target   atomic.Pointer[string]
}

func newProxy(t *testing.T) *proxy {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	p := &proxy{listener: l}
	t.Cleanup(func() { _ = l.Close() })
	go func() {
		for {
			in, err := l.Accept()
			if err != nil {
				return
			}
			go p.join(in)
		}
	}()
	return p
}

func (p *proxy) join(in net.Conn) {
	defer func() { _ = in.Close() }()
	target := p.target.Load()
	if target == nil {
		return
	}
	out, err := net.Dial("tcp", *target)
	if err != nil {
		return
	}
	defer func() { _ = out.Close() }()
	done := make(chan struct{}, 2)
	for _, pair := range [][2]net.Conn{{in, out}, {out, in}} {
		go func() {
			_, _ = io.Copy(pair[0], pair[1])
			done <- struct{}{}
		}()
	}
	<-done
}

// behind is a database address by way of the proxy.
func (p *proxy) behind(t *testing.T, address string) string {
	u, err := url.Parse(address)
	require.NoError(t, err)
	host := u.Host
	p.target.Store(&host)
	u.Host = p.listener.Addr().String()
	return u.String()
}

// program is a running server that can be killed and started again at the same address.
type program struct {
	t        *testing.T
	database string
	flags    []string
	address  string
	log      *os.File
	mu       sync.Mutex
	cmd      *exec.Cmd
}

func start(t *testing.T, database string, flags ...string) *program {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	p := &program{t: t, database: database, flags: flags, address: l.Addr().String()}
	require.NoError(t, l.Close())
	p.log, err = os.Create(filepath.Join(t.TempDir(), "log"))
	require.NoError(t, err)
	p.up()
	t.Cleanup(func() {
		p.kill()
		p.tellTrouble()
	})
	return p
}

func (p *program) up() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.cmd = exec.Command(binary, append([]string{"serve", "--listen", p.address, "--database", p.database}, p.flags...)...)
	p.cmd.Stdout, p.cmd.Stderr = io.Discard, p.log
	if err := p.cmd.Start(); err != nil {
		p.t.Error(err)
	}
}

// tellTrouble shows what the server could not do, where the test failed.
func (p *program) tellTrouble() {
	if !p.t.Failed() {
		return
	}
	log, _ := os.ReadFile(p.log.Name())
	for line := range strings.Lines(string(log)) {
		if strings.Contains(line, "request failed") {
			p.t.Log(line)
		}
	}
}

func (p *program) kill() {
	p.mu.Lock()
	defer p.mu.Unlock()
	_ = p.cmd.Process.Kill()
	_ = p.cmd.Wait()
}

// running reports whether the process is there; a server whose database is away when it starts ends at once.
func (p *program) ready() bool {
	res, err := http.Get("http://" + p.address + "/readyz")
	if err != nil {
		return false
	}
	_ = res.Body.Close()
	return res.StatusCode == http.StatusOK
}

func (p *program) again() {
	p.t.Helper()
	p.kill()
	p.up()
	require.Eventually(p.t, func() bool {
		if p.ready() {
			return true
		}
		p.mu.Lock()
		gone := p.cmd.ProcessState != nil
		p.mu.Unlock()
		if !gone {
			return false
		}
		p.up()
		return false
	}, 5*time.Minute, 30*time.Millisecond)
}

// house fills a database with units and gives what clients send.
func house(t *testing.T, database string) []contract.NewVisit {
	ctx := context.Background()
	st, err := store.Open(ctx, database)
	require.NoError(t, err)
	defer st.Close()
	svc := rooms.New(st, rooms.Options{})
	defer svc.Close()
	boss, err := svc.Organisation.SetUp(ctx, contract.NewHouse{
		Organisation: "Trust", Zone: "UTC", Currency: "EUR", Units: "metric", Person: "Boss", Login: "boss", Password: password,
	})
	require.NoError(t, err)
	var file strings.Builder
	file.WriteString("site,placement,tag,class,coil role,last clean\n")
	for i := range units {
		fmt.Fprintf(&file, "Hall,Yard,U-%03d,Ice machine,condenser,2025-01-01\n", i)
	}
	run, err := svc.Importing.Import(ctx, boss, importing.Request{Kind: "register", FileName: "x.csv", File: []byte(file.String())})
	require.NoError(t, err)
	require.Equal(t, contract.ImportRunStatusStored, run.Status)
	cat, err := svc.Organisation.Catalogue(ctx, boss)
	require.NoError(t, err)
	page, err := svc.Register.Portfolio(ctx, boss, register.PortfolioQuery{Limit: 500})
	require.NoError(t, err)
	var forms []contract.NewVisit
	for i := range submissions {
		if i >= units { // the next visit to the same unit, on a later day
			forms = append(forms, forms[i%units])
			forms[i].Day = forms[i].Day.Add(i / units)
			continue
		}
		row := page.Rows[i]
		u, err := svc.Learning.Unit(ctx, boss, row.UnitID)
		require.NoError(t, err)
		side := u.Coils[0].Sides[0].ID
		look := &contract.Look{Grade: 2, Seen: contract.FaceLook}
		forms = append(forms, contract.NewVisit{
			UnitID: u.ID, Day: calendar.MustParse("2025-02-01"), Outcome: contract.OutcomeDone, CautionsRead: true,
			People: []contract.VisitPerson{{PersonID: boss.Person.ID, Minutes: 10}},
			Coils: []contract.VisitCoil{{
				CoilID: u.Coils[0].ID, Sides: []contract.VisitSide{{SurfaceID: side, Reached: true, Found: look, Left: look}},
				Treatments: []contract.VisitTreatment{{
					Work: contract.TaskKindLight, MethodID: cat.Methods[1].ID, Direction: contract.AlongFins, SurfaceIds: []uuid.UUID{side},
				}},
			}},
		})
	}
	return forms
}

// sender is a phone: it signs in and sends each visit under its key until the server has confirmed it.
type sender struct {
	t       *testing.T
	http    *http.Client
	servers []*program
	turn    int
	until   time.Time
	retries *atomic.Int64
}

func newSender(t *testing.T, servers []*program, retries *atomic.Int64) *sender {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &sender{
		t: t, servers: servers, until: time.Now().Add(patience), retries: retries,
		http: &http.Client{Jar: jar, Timeout: time.Minute},
	}
}

// post sends once to one of the servers and gives the status; 0 when there was no answer.
func (s *sender) post(path, key string, body []byte) (int, []byte) {
	s.turn++
	r, err := http.NewRequest(http.MethodPost, "http://"+s.servers[s.turn%len(s.servers)].address+path, bytes.NewReader(body))
	if err != nil {
		return 0, nil
	}
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("Idempotency-Key", key)
	res, err := s.http.Do(r)
	if err != nil {
		return 0, nil
	}
	defer func() { _ = res.Body.Close() }()
	answer, err := io.ReadAll(res.Body)
	if err != nil {
		return 0, nil // the answer was cut off: not confirmed
	}
	return res.StatusCode, answer
}

// deliver sends a visit until it is confirmed, signing in where that is asked for.
func (s *sender) deliver(key uuid.UUID, visit contract.NewVisit) bool {
	body, err := json.Marshal(visit)
	if err != nil {
		return false
	}
	for time.Now().Before(s.until) {
		status, answer := s.post("/api/v1/visits", key.String(), body)
		switch status {
		case http.StatusCreated:
			var out contract.VisitOutcome
			return json.Unmarshal(answer, &out) == nil && assert.Equal(s.t, key, out.ID)
		case http.StatusUnauthorized:
			s.post("/api/v1/session", uuid.NewString(), []byte(`{"login":"boss","password":"`+password+`"}`))
		case http.StatusUnprocessableEntity, http.StatusForbidden, http.StatusNotFound:
			s.t.Errorf("refused: %s", answer)
			return false
		case http.StatusInternalServerError:
			s.t.Errorf("a fault is told as what it is, not as a failure of the program: %s", answer)
		}
		s.retries.Add(1)
		// A phone waits a little before it tries again; how long does not matter to the test.
		<-time.After(time.Duration(20+rand.IntN(60)) * time.Millisecond)
	}
	return false
}

// Two servers on one database of its own with every safety on; in the middle of two thousand visits from several
// senders the servers are killed in turn and the database is killed and comes back. Every visit that was confirmed is
// there, and none is there twice.
func TestNothingConfirmedIsLostAndNothingDoneTwice(t *testing.T) {
	if testing.Short() {
		t.Skip("takes a minute")
	}
	ctx := context.Background()
	dir := filepath.Join(t.TempDir(), "pg")
	cluster, err := pg.Start(ctx, pg.Options{Dir: dir})
	require.NoError(t, err)
	defer func() { _ = cluster.Stop() }()
	direct := func() string { return cluster.URL("postgres") }
	require.NoError(t, store.Migrate(ctx, direct()))
	forms := house(t, direct())
	door := newProxy(t)
	address := door.behind(t, direct())
	servers := []*program{start(t, address), start(t, address)}
	for _, s := range servers {
		require.Eventually(t, s.ready, 5*time.Minute, 30*time.Millisecond)
	}

	keys, confirmed, retries, wait := send(t, servers, forms)
	// What is killed, each time so many more are confirmed.
	reached := func(n int64) { await(t, confirmed, n) }
	for i := range 6 {
		reached(int64(submissions * (8 + 8*i) / 100))
		servers[i%2].again()
	}
	reached(int64(submissions * 60 / 100))
	cluster.Kill()
	require.Eventually(t, func() bool {
		back, err := pg.Start(ctx, pg.Options{Dir: dir})
		if err == nil {
			cluster = back
		}
		return err == nil
	}, 5*time.Minute, 100*time.Millisecond)
	door.behind(t, direct())
	wait()
	assert.Equal(t, int64(submissions), confirmed.Load())
	assert.Positive(t, retries.Load(), "something was in the way")
	t.Logf("%d visits confirmed, %d tries more", confirmed.Load(), retries.Load())
	eachOnce(t, direct(), keys)
}

// send has several phones send the visits; what it returns waits until all are confirmed.
func send(t *testing.T, servers []*program, forms []contract.NewVisit) (keys []uuid.UUID, confirmed, retries *atomic.Int64, wait func()) {
	keys = make([]uuid.UUID, len(forms))
	for i := range keys {
		keys[i] = uuid.Must(uuid.NewV7())
	}
	confirmed, retries = new(atomic.Int64), new(atomic.Int64)
	var next atomic.Int64
	var group sync.WaitGroup
	for range clients {
		group.Go(func() {
			s := newSender(t, servers, retries)
			for {
				i := int(next.Add(1)) - 1
				if i >= len(forms) {
					return
				}
				if !s.deliver(keys[i], forms[i]) {
					t.Errorf("visit %d was never confirmed", i)
					return
				}
				confirmed.Add(1)
			}
		})
	}
	return keys, confirmed, retries, group.Wait
}

// await waits until so many are confirmed.
func await(t *testing.T, confirmed *atomic.Int64, n int64) {
	require.Eventually(t, func() bool { return confirmed.Load() >= n || t.Failed() }, patience, 5*time.Millisecond)
}

// eachOnce holds that every visit that was sent is there, whole, and once.
func eachOnce(t *testing.T, database string, keys []uuid.UUID) {
	st, err := store.Open(context.Background(), database)
	require.NoError(t, err)
	defer st.Close()
	count := func(query string, args ...any) (n int64) {
		require.NoError(t, st.DB.Raw(query, args...).Scan(&n).Error)
		return n
	}
	n := int64(len(keys))
	assert.Equal(t, n, count("SELECT count(*) FROM visit"))
	assert.Equal(t, n, count("SELECT count(*) FROM visit WHERE id = ANY (?)", store.IDs(keys)), "each under its own key")
	assert.Equal(t, n, count("SELECT count(*) FROM visit_person"))
	assert.Equal(t, 2*n, count("SELECT count(*) FROM finding"))
	assert.Equal(t, n, count("SELECT count(*) FROM audit WHERE entity = 'visit' AND action = 'submitted'"))
	assert.Equal(t, n, count("SELECT count(*) FROM idempotency"))
	assert.Zero(t, count("SELECT count(*) FROM (SELECT task_id FROM proposal WHERE status = 'open' GROUP BY task_id HAVING count(*) > 1) twice"))
}
