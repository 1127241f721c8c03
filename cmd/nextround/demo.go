package main

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/spf13/cobra"

	"nextround/internal/demo"
	"nextround/internal/pg"
	"nextround/internal/rooms"
	"nextround/internal/standin"
	"nextround/internal/store"
)

// sampleDatabase holds the sample data, ownDatabase what people enter with --own.
const (
	sampleDatabase = "demo"
	ownDatabase    = "own"
)

// demoOptions say what to serve.
type demoOptions struct {
	site
	dir      string
	database string
	keep     bool
	own      bool
	// kept is where sample data that was made is kept as a template; nil where the database is somebody's own.
	kept *databases
}

func demoCommand() *cobra.Command {
	o := demoOptions{site: site{search: true}}
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Serve the invented sample data from a private PostgreSQL",
		Long: "Serve the invented sample data from a private PostgreSQL cluster on a free loopback port. The data is made again\n" +
			"each time unless --keep is given; the clock stands still at " + demo.Clock.Format("2 January 2006") + ".\n\n" +
			"With --own an empty database is served in place of the sample data, on the real clock, and kept from time to time;\n" +
			"the first page sets up an organisation.\n\n" +
			"With DATABASE_URL another PostgreSQL is used. It must be empty or hold the sample data: own data is never touched.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			o.search = !cmd.Flags().Changed("listen") // a port that was asked for is not exchanged in silence
			return runDemo(cmd.Context(), cmd.OutOrStdout(), o)
		},
	}
	cmd.Flags().StringVar(&o.dir, "dir", fromEnv("NEXTROUND_DEMO_DIR", ".local/demo"), "folder of the private PostgreSQL (NEXTROUND_DEMO_DIR)")
	cmd.Flags().StringVar(&o.database, "database", os.Getenv("DATABASE_URL"), "use this PostgreSQL in place of a private one (DATABASE_URL)")
	cmd.Flags().BoolVar(&o.keep, "keep", false, "keep the sample data of the last time")
	cmd.Flags().BoolVar(&o.own, "own", false, "serve an empty database for own data, on the real clock, and keep it")
	listenFlags(cmd, &o.site)
	return cmd
}

func runDemo(ctx context.Context, out io.Writer, o demoOptions) (err error) {
	start := time.Now()
	o.service.Now, o.service.ClockPinned = func() time.Time { return demo.Clock }, true
	name := sampleDatabase
	if o.own {
		name, o.keep = ownDatabase, true
		o.service.Now, o.service.ClockPinned = nil, false
	}
	url := o.database
	if url == "" {
		cluster, err := pg.Start(ctx, pg.Options{Dir: filepath.Join(o.dir, "pg")})
		if errors.Is(err, pg.ErrRunning) {
			return fmt.Errorf("a demonstration is already running from %s; stop it first, or choose another --dir", o.dir)
		}
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, cluster.Stop()) }()
		d := databases{admin: cluster.URL("postgres"), name: name}
		if !o.own {
			if d.template, err = templateName(); err != nil {
				return err
			}
		}
		if err := d.make(ctx, o.keep); err != nil {
			return err
		}
		url = cluster.URL(name)
		o.kept = &d
	} else if err := clearForeign(ctx, url, o); err != nil {
		return err
	}
	if err := store.Migrate(ctx, url); err != nil {
		return err
	}
	units, err := fill(ctx, url, o)
	if err != nil {
		return err
	}
	st, err := store.Open(ctx, url)
	if err != nil {
		return err
	}
	defer st.Close()
	outside, err := standin.Start(ctx, standin.Options{Units: units, Seed: demo.Weather.Seed, Now: o.service.Now})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, outside.Close()) }()
	o.outside.fill(outside.Addresses)
	err = serveUntil(ctx, st, o.site, func(address string) {
		say(out, "Next Round is at %s (ready after %.1f s; stop with Ctrl-C)", address, time.Since(start).Seconds())
		say(out, "Simulated: gauge set %s, forecast %s, mail %s", outside.Gauges, outside.Weather, outside.MailPage)
		if o.own {
			say(out, "Own data, kept from time to time. The first page sets up the organisation.")
			return
		}
		say(out, "The clock stands at %s.", demo.Clock.Format("Monday 2 January 2006"))
		say(out, "Sign in, password %s:", demo.Password)
		for _, in := range demo.SignIns {
			say(out, "  %-11s %s", in.Login, in.Person)
		}
	})
	say(out, "Stopped.")
	return err
}

// hiddenFile keeps what the simulated gauge set is told of the sample units.
const hiddenFile = "gauge-set.json"

// fill makes the sample data in an empty database, and gives what the simulated gauge set knows of it.
func fill(ctx context.Context, url string, o demoOptions) ([]standin.Unit, error) {
	if o.own {
		return nil, nil
	}
	st, err := store.Open(ctx, url)
	if err != nil {
		return nil, err
	}
	defer st.Close()
	file := filepath.Join(o.dir, hiddenFile)
	n, err := st.Organisations(ctx)
	if err != nil {
		return nil, err
	}
	if n > 0 {
		units, err := readUnits(file)
		if errors.Is(err, os.ErrNotExist) {
			return nil, nil // data made elsewhere: the set finds no unit
		}
		return units, err
	}
	o.service.Forecasts = demo.Weather // the stand-ins are started with what is filled in here
	svc := rooms.New(st, o.service)
	units, err := demo.Live(ctx, svc)
	svc.Close()
	if err != nil {
		return nil, fmt.Errorf("making the sample data: %w", err)
	}
	text, err := json.MarshalIndent(units, "", " ")
	if err != nil {
		return nil, fmt.Errorf("keeping what the gauge set knows: %w", err)
	}
	if err := os.MkdirAll(o.dir, 0o750); err != nil {
		return units, err
	}
	if err := os.WriteFile(file, text, 0o600); err != nil || o.kept == nil {
		return units, err
	}
	st.Close() // a database is copied while nobody is in it
	return units, o.kept.keepTemplate(ctx)
}

// databases are those of the private cluster: the one served, and a template of the sample data as it was made.
type databases struct {
	admin, name string
	template    string // empty for own data
}

// templateName names the sample data of this very program: another build or seed makes its own.
func templateName() (string, error) {
	path, err := os.Executable()
	if err != nil {
		return "", fmt.Errorf("finding the program: %w", err)
	}
	file, err := os.Stat(path)
	if err != nil {
		return "", fmt.Errorf("looking at the program: %w", err)
	}
	sum := sha256.Sum256(fmt.Appendf(nil, "%s %d %d %d", version, file.Size(), file.ModTime().UnixNano(), demo.Weather.Seed))
	return templatePrefix + hex.EncodeToString(sum[:8]), nil
}

const templatePrefix = "sample_data_"

func (d databases) do(ctx context.Context, work func(*pgx.Conn) error) error {
	conn, err := pgx.Connect(ctx, d.admin)
	if err != nil {
		return fmt.Errorf("reaching the private database: %w", err)
	}
	defer func() { _ = conn.Close(ctx) }()
	return work(conn)
}

// there lists the databases of the cluster whose names begin so.
func there(ctx context.Context, conn *pgx.Conn, prefix string) ([]string, error) {
	rows, err := conn.Query(ctx, "SELECT datname FROM pg_database WHERE starts_with(datname, $1) ORDER BY 1", prefix)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// make makes the database, a copy of the template where there is one, unless it is to be kept.
func (d databases) make(ctx context.Context, keep bool) error {
	return d.do(ctx, func(conn *pgx.Conn) error {
		names, err := there(ctx, conn, d.name)
		if err != nil {
			return fmt.Errorf("looking for the sample data: %w", err)
		}
		if slices.Contains(names, d.name) {
			if keep {
				return nil
			}
			if _, err := conn.Exec(ctx, "DROP DATABASE "+d.name+" WITH (FORCE)"); err != nil {
				return fmt.Errorf("removing the last sample data: %w", err)
			}
		}
		statement := "CREATE DATABASE " + d.name
		if names, err = there(ctx, conn, templatePrefix); err != nil {
			return fmt.Errorf("looking for the sample data: %w", err)
		}
		if d.template != "" && slices.Contains(names, d.template) {
			statement += " TEMPLATE " + d.template + " STRATEGY FILE_COPY"
		}
		if _, err := conn.Exec(ctx, statement); err != nil {
			return fmt.Errorf("making the database: %w", err)
		}
		return nil
	})
}

// keepTemplate keeps a copy of the sample data just made, and drops those of other builds.
func (d databases) keepTemplate(ctx context.Context) error {
	return d.do(ctx, func(conn *pgx.Conn) error {
		names, err := there(ctx, conn, templatePrefix)
		if err != nil {
			return fmt.Errorf("looking for the sample data: %w", err)
		}
		for _, name := range names {
			if _, err := conn.Exec(ctx, "DROP DATABASE "+name+" WITH (FORCE)"); err != nil {
				return fmt.Errorf("removing the sample data of another build: %w", err)
			}
		}
		if _, err := conn.Exec(ctx, "CREATE DATABASE "+d.template+" TEMPLATE "+d.name+" STRATEGY FILE_COPY"); err != nil {
			return fmt.Errorf("keeping the sample data: %w", err)
		}
		return nil
	})
}

// clearForeign empties somebody's database of earlier sample data. It refuses to touch anything else.
func clearForeign(ctx context.Context, url string, o demoOptions) error {
	if o.keep {
		return nil
	}
	holds, err := store.Holds(ctx, url)
	if err != nil {
		return err
	}
	switch {
	case holds.Empty:
		return nil
	case len(holds.Organisations) == 1 && holds.Organisations[0] == demo.Organisation.Name:
		return store.Rollback(ctx, url, 0)
	}
	return errors.New("the database of DATABASE_URL holds something other than the sample data; it was not touched: name an empty one, or keep it with --keep")
}
