package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
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
	o.service = rooms.Options{Now: func() time.Time { return demo.Clock }, ClockPinned: true}
	name := sampleDatabase
	if o.own {
		name, o.keep, o.service = ownDatabase, true, rooms.Options{}
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
		if err := makeDatabase(ctx, cluster.URL("postgres"), name, o.keep); err != nil {
			return err
		}
		url = cluster.URL(name)
	} else if err := clearForeign(ctx, url, o); err != nil {
		return err
	}
	if err := store.Migrate(ctx, url); err != nil {
		return err
	}
	st, err := store.Open(ctx, url)
	if err != nil {
		return err
	}
	defer st.Close()
	units, err := fill(ctx, st, o)
	if err != nil {
		return err
	}
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
func fill(ctx context.Context, st *store.Store, o demoOptions) ([]standin.Unit, error) {
	file := filepath.Join(o.dir, hiddenFile)
	n, err := st.Organisations(ctx)
	if err != nil || o.own {
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
	defer svc.Close()
	units, err := demo.Live(ctx, svc)
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
	return units, os.WriteFile(file, text, 0o600)
}

// makeDatabase makes a database of the private cluster, anew unless it is to be kept.
func makeDatabase(ctx context.Context, admin, name string, keep bool) error {
	conn, err := pgx.Connect(ctx, admin)
	if err != nil {
		return fmt.Errorf("reaching the private database: %w", err)
	}
	defer func() { _ = conn.Close(ctx) }()
	var there bool
	if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", name).Scan(&there); err != nil {
		return fmt.Errorf("looking for the sample data: %w", err)
	}
	if there && !keep {
		if _, err := conn.Exec(ctx, "DROP DATABASE "+name+" WITH (FORCE)"); err != nil {
			return fmt.Errorf("removing the last sample data: %w", err)
		}
		there = false
	}
	if !there {
		if _, err := conn.Exec(ctx, "CREATE DATABASE "+name); err != nil {
			return fmt.Errorf("making the database: %w", err)
		}
	}
	return nil
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
