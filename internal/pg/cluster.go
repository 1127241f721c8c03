// Package pg starts and stops a private PostgreSQL cluster on loopback, from Debian's server package.
package pg

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// ErrNotInstalled means that no PostgreSQL server was found.
var ErrNotInstalled = errors.New("PostgreSQL is not installed: run `make deps`, or apt-get install postgresql")

// ErrRunning means that another process is using the cluster's folder.
var ErrRunning = errors.New("this database folder is in use by a running PostgreSQL")

// Options for Start.
type Options struct {
	// Dir is the cluster's folder; made when missing. Its parents may be closed to others.
	Dir string
	// Throwaway trades durability for speed; for tests only.
	Throwaway bool
	// Log is where the server's messages go; defaults to Dir + ".log".
	Log string
}

// Cluster is a running server.
type Cluster struct {
	cmd      *exec.Cmd
	port     int
	password string
	done     chan error
}

const (
	superuser  = "nextround"
	startLimit = 2 * time.Minute
	// capDacReadSearch lets the unprivileged server reach its folder under a parent that is closed to it.
	capDacReadSearch = 2
)

// Start makes the cluster if the folder is empty, clears what a crash left behind, and starts the server on a
// free loopback port. It returns when the server takes connections.
func Start(ctx context.Context, o Options) (*Cluster, error) {
	bin, err := binaries()
	if err != nil {
		return nil, err
	}
	dir, err := filepath.Abs(o.Dir)
	if err != nil {
		return nil, fmt.Errorf("finding the database folder: %w", err)
	}
	if o.Log == "" {
		o.Log = dir + ".log"
	}
	attr, err := prepare(dir)
	if err != nil {
		return nil, err
	}
	if err := clearStale(ctx, dir); err != nil {
		return nil, err
	}
	password, err := initialise(ctx, bin, dir, attr)
	if err != nil {
		return nil, err
	}
	// The port is free when asked for; should another take it first, the next attempt has another one.
	for attempt := 0; ; attempt++ {
		c, err := launch(ctx, bin, dir, o, attr, password)
		if err == nil || attempt == 2 || ctx.Err() != nil {
			return c, err
		}
	}
}

// URL is the connection string for a database of the cluster.
func (c *Cluster) URL(database string) string {
	u := url.URL{
		Scheme: "postgres", User: url.UserPassword(superuser, c.password),
		Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(c.port)), Path: "/" + database,
		RawQuery: "sslmode=disable",
	}
	return u.String()
}

// Kill ends the server as a power cut would. For tests of what survives one.
func (c *Cluster) Kill() {
	_ = c.cmd.Process.Kill()
	_ = ignoreExit(<-c.done)
}

// Stop asks for a fast shutdown and waits for it.
func (c *Cluster) Stop() error {
	_ = c.cmd.Process.Signal(syscall.SIGINT)
	select {
	case err := <-c.done:
		// A fast shutdown on SIGINT ends without an error of its own.
		return ignoreExit(err)
	case <-time.After(startLimit):
		_ = c.cmd.Process.Kill()
		return errors.New("PostgreSQL did not stop in time and was killed")
	}
}

// ignoreExit drops the exit code of a server that was told to stop.
func ignoreExit(err error) error {
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return nil
	}
	return err
}

// binaries finds the newest server's folder among Debian's, else on PATH.
func binaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	sort.Slice(found, func(i, j int) bool { return versionOf(found[i]) > versionOf(found[j]) })
	if len(found) > 0 {
		return filepath.Dir(found[0]), nil
	}
	if p, err := exec.LookPath("initdb"); err == nil {
		return filepath.Dir(p), nil
	}
	return "", ErrNotInstalled
}

func versionOf(initdb string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(initdb))))
	return n
}

// prepare makes the folder and says as whom the server runs: PostgreSQL refuses to run as root.
func prepare(dir string) (*syscall.SysProcAttr, error) {
	if err := os.MkdirAll(filepath.Dir(dir), 0o755); err != nil { //nolint:gosec // the parent holds nothing secret
		return nil, fmt.Errorf("making the database folder: %w", err)
	}
	if err := os.Mkdir(dir, 0o700); err != nil && !errors.Is(err, fs.ErrExist) {
		return nil, fmt.Errorf("making the database folder: %w", err)
	}
	attr := &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGINT}
	if os.Geteuid() != 0 {
		return attr, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, ErrNotInstalled
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	if err := os.Chown(dir, uid, gid); err != nil {
		return nil, fmt.Errorf("handing the database folder to the postgres user: %w", err)
	}
	attr.Credential = &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)} //nolint:gosec // ids are small
	attr.AmbientCaps = []uintptr{capDacReadSearch}
	return attr, nil
}

// clearStale removes the lock file of a server that is gone. A server that is just stopping is waited for; one
// that truly runs is left alone.
func clearStale(ctx context.Context, dir string) error {
	pidFile := filepath.Join(dir, "postmaster.pid")
	limit := time.After(startLimit)
	tick := time.NewTicker(20 * time.Millisecond)
	defer tick.Stop()
	for {
		raw, err := os.ReadFile(pidFile) //nolint:gosec // our own folder
		if errors.Is(err, fs.ErrNotExist) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("reading the database's lock file: %w", err)
		}
		lines := strings.Split(string(raw), "\n")
		pid, err := strconv.Atoi(strings.TrimSpace(lines[0]))
		if err != nil || !alive(pid, dir) {
			break
		}
		running := fmt.Errorf("%w (process %d in %s)", ErrRunning, pid, dir)
		if len(lines) < 8 || strings.TrimSpace(lines[7]) != "stopping" {
			return running
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-limit:
			return running
		case <-tick.C:
		}
	}
	if err := os.Remove(pidFile); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("removing a stale lock file: %w", err)
	}
	return nil
}

// alive reports whether the process is a running server of this folder. A reused process number or a zombie
// is not.
func alive(pid int, dir string) bool {
	stat, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		return false
	}
	// The state follows the name, which is in brackets and may itself hold brackets.
	rest := string(stat[strings.LastIndexByte(string(stat), ')')+1:])
	if f := strings.Fields(rest); len(f) > 0 && (f[0] == "Z" || f[0] == "X") {
		return false
	}
	cwd, err := os.Readlink(fmt.Sprintf("/proc/%d/cwd", pid))
	return err == nil && cwd == dir
}

// initialise runs initdb once and keeps the superuser's password beside the data.
func initialise(ctx context.Context, bin, dir string, attr *syscall.SysProcAttr) (string, error) {
	secret := dir + ".password"
	if _, err := os.Stat(filepath.Join(dir, "PG_VERSION")); err == nil {
		raw, err := os.ReadFile(secret) //nolint:gosec // our own folder
		if err != nil {
			return "", fmt.Errorf("reading the database password beside %s: %w", dir, err)
		}
		return strings.TrimSpace(string(raw)), nil
	}
	key := make([]byte, 16)
	if _, err := rand.Read(key); err != nil {
		return "", fmt.Errorf("making a database password: %w", err)
	}
	password := hex.EncodeToString(key)
	if err := os.WriteFile(secret, []byte(password+"\n"), 0o600); err != nil {
		return "", fmt.Errorf("keeping the database password: %w", err)
	}
	read, err := os.Open(secret) //nolint:gosec // just written
	if err != nil {
		return "", fmt.Errorf("reading the database password back: %w", err)
	}
	defer func() { _ = read.Close() }()
	// initdb reads the password from the file given as its standard input, so the file may stay root's.
	cmd := exec.CommandContext(ctx, filepath.Join(bin, "initdb"), "-D", dir, "-U", superuser, //nolint:gosec // fixed program
		"--auth=scram-sha-256", "--pwfile=/dev/stdin", "-E", "UTF8", "--locale=C.UTF-8", "--no-sync")
	cmd.Dir, cmd.Env, cmd.Stdin = "/", environment(), read
	a := *attr
	a.Pdeathsig = 0
	cmd.SysProcAttr = &a
	if out, err := cmd.CombinedOutput(); err != nil {
		return "", fmt.Errorf("making the database cluster in %s: %w: %s", dir, err, lastLine(string(out)))
	}
	return password, nil
}

func environment() []string {
	return []string{"PATH=/usr/bin:/bin", "LC_ALL=C.UTF-8", "TZ=UTC"}
}

func lastLine(s string) string {
	lines := strings.Split(strings.TrimSpace(s), "\n")
	return lines[len(lines)-1]
}

func launch(ctx context.Context, bin, dir string, o Options, attr *syscall.SysProcAttr, password string) (*Cluster, error) {
	port, err := freePort()
	if err != nil {
		return nil, err
	}
	args := []string{
		"-D", dir, "-p", strconv.Itoa(port), "-c", "listen_addresses=127.0.0.1", "-c", "unix_socket_directories=",
		"-c", "max_connections=120", "-c", "timezone=UTC", "-c", "log_min_messages=warning",
	}
	if o.Throwaway {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	}
	log, err := os.OpenFile(o.Log, os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
	if err != nil {
		return nil, fmt.Errorf("opening the database's log: %w", err)
	}
	defer func() { _ = log.Close() }()
	c := &Cluster{port: port, password: password, done: make(chan error, 1)}
	c.cmd = exec.Command(filepath.Join(bin, "postgres"), args...) //nolint:gosec,noctx // fixed program; stopped by Stop
	c.cmd.Dir, c.cmd.Env, c.cmd.Stdout, c.cmd.Stderr, c.cmd.SysProcAttr = "/", environment(), log, log, attr
	started := make(chan error, 1)
	go func() {
		// The kernel tells the child of its parent's death by the thread that forked it: keep that thread.
		runtime.LockOSThread()
		started <- c.cmd.Start()
		if c.cmd.Process != nil {
			c.done <- c.cmd.Wait()
		}
	}()
	if err := <-started; err != nil {
		return nil, fmt.Errorf("starting PostgreSQL: %w", err)
	}
	if err := c.awaitReady(ctx, dir, o.Log); err != nil {
		_ = c.cmd.Process.Signal(syscall.SIGINT)
		return nil, err
	}
	return c, nil
}

// awaitReady polls the server's own lock file, whose line 8 says when connections are taken.
func (c *Cluster) awaitReady(ctx context.Context, dir, log string) error {
	deadline := time.NewTimer(startLimit)
	defer deadline.Stop()
	tick := time.NewTicker(10 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case err := <-c.done:
			c.done <- err
			text, _ := os.ReadFile(log) //nolint:gosec // our own log
			return fmt.Errorf("PostgreSQL stopped while starting (see %s): %s", log, lastLine(string(text)))
		case <-deadline.C:
			return fmt.Errorf("PostgreSQL was not ready within %s (see %s)", startLimit, log)
		case <-tick.C:
			raw, _ := os.ReadFile(filepath.Join(dir, "postmaster.pid")) //nolint:gosec // our own folder
			lines := strings.Split(string(raw), "\n")
			if len(lines) >= 8 && strings.TrimSpace(lines[0]) == strconv.Itoa(c.cmd.Process.Pid) &&
				strings.TrimSpace(lines[7]) == "ready" {
				return nil
			}
		}
	}
}

func freePort() (int, error) {
	l, err := (&net.ListenConfig{}).Listen(context.Background(), "tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("finding a free port: %w", err)
	}
	defer func() { _ = l.Close() }()
	return l.Addr().(*net.TCPAddr).Port, nil
}
