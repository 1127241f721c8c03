package pg

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5"
)

// StandbyName is the name under which a standby follows.
const StandbyName = "standby"

// Standby makes a copy of the cluster in a folder and has it follow by streaming.
func (c *Cluster) Standby(ctx context.Context, dir string) (*Cluster, error) {
	bin, err := binaries()
	if err != nil {
		return nil, err
	}
	attr, err := prepare(dir)
	if err != nil {
		return nil, err
	}
	from := fmt.Sprintf("host=127.0.0.1 port=%d user=%s password=%s application_name=%s", c.port, superuser, c.password, StandbyName)
	cmd := exec.CommandContext(ctx, filepath.Join(bin, "pg_basebackup"), "-D", dir, "-d", from, "-R", "-X", "stream", "-c", "fast") //nolint:gosec // fixed program
	cmd.Dir, cmd.Env = "/", environment()
	a := *attr
	a.Pdeathsig = 0
	cmd.SysProcAttr = &a
	if out, err := cmd.CombinedOutput(); err != nil {
		return nil, fmt.Errorf("copying the cluster to %s: %w: %s", dir, err, lastLine(string(out)))
	}
	if err := os.WriteFile(dir+".password", []byte(c.password+"\n"), 0o600); err != nil {
		return nil, fmt.Errorf("keeping the database password: %w", err)
	}
	return launch(ctx, bin, dir, Options{Dir: dir, Log: dir + ".log"}, attr, c.password)
}

// WaitForStandby makes every commit wait until the standby has it too. Not part of what the standby copies: after it has become the
// primary it waits for nobody until it is told to.
func (c *Cluster) WaitForStandby(ctx context.Context) error {
	return c.tell(ctx, "ALTER SYSTEM SET synchronous_standby_names = '"+StandbyName+"'", "SELECT pg_reload_conf()")
}

// Promote makes a standby the primary.
func (c *Cluster) Promote(ctx context.Context) error { return c.tell(ctx, "SELECT pg_promote()") }

func (c *Cluster) tell(ctx context.Context, statements ...string) error {
	conn, err := pgx.Connect(ctx, c.URL("postgres"))
	if err != nil {
		return fmt.Errorf("reaching the cluster: %w", err)
	}
	defer func() { _ = conn.Close(ctx) }()
	for _, s := range statements {
		if _, err := conn.Exec(ctx, s); err != nil {
			return fmt.Errorf("%s: %w", s, err)
		}
	}
	return nil
}

// Either is the address of whichever of the clusters is the primary.
func Either(database string, clusters ...*Cluster) (string, error) {
	if len(clusters) == 0 {
		return "", errors.New("no cluster")
	}
	hosts := make([]string, len(clusters))
	for i, c := range clusters {
		hosts[i] = "127.0.0.1:" + strconv.Itoa(c.port)
	}
	user := url.UserPassword(superuser, clusters[0].password)
	return "postgres://" + user.String() + "@" + strings.Join(hosts, ",") + "/" + database + "?sslmode=disable&connect_timeout=2&target_session_attrs=read-write", nil
}
