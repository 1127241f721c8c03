package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/spf13/cobra"

	"nextround/internal/demo"
	"nextround/internal/pg"
	"nextround/internal/service"
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
	dir  string
	keep bool
	own  bool
}

func demoCommand() *cobra.Command {
	o := demoOptions{site: site{search: true}}
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Serve the invented sample data from a private PostgreSQL",
		Long:  "Serve the invented sample data from a private PostgreSQL cluster on a free loopback port. The data is made anew\neach time unless --keep is given; the clock stands still at " + demo.Clock.Format("2 January 2006") + ".\n\nWith --own an empty organisation is served in place of the sample data, on the real clock, and kept from time to time.",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return runDemo(cmd.Context(), cmd.OutOrStdout(), o)
		},
	}
	cmd.Flags().StringVar(&o.dir, "dir", fromEnv("NEXTROUND_DEMO_DIR", ".local/demo"), "folder of the private PostgreSQL (NEXTROUND_DEMO_DIR)")
	cmd.Flags().BoolVar(&o.keep, "keep", false, "keep the sample data of the last time")
	cmd.Flags().BoolVar(&o.own, "own", false, "serve an empty organisation for own data, on the real clock, and keep it")
	listenFlags(cmd, &o.site)
	return cmd
}

func runDemo(ctx context.Context, out io.Writer, o demoOptions) (err error) {
	start := time.Now()
	cluster, err := pg.Start(ctx, pg.Options{Dir: filepath.Join(o.dir, "pg")})
	if errors.Is(err, pg.ErrRunning) {
		return fmt.Errorf("a demonstration is already running from %s; stop it first, or choose another --dir", o.dir)
	}
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, cluster.Stop()) }()
	database, fill := sampleDatabase, demo.Load
	o.service = service.Options{Now: func() time.Time { return demo.Clock }, ClockPinned: true}
	if o.own {
		database, fill, o.keep, o.service = ownDatabase, demo.Empty, true, service.Options{}
	}
	fresh, err := prepareDatabase(ctx, cluster, database, o.keep)
	if err != nil {
		return err
	}
	st, err := store.Open(ctx, cluster.URL(database))
	if err != nil {
		return err
	}
	defer st.Close()
	if fresh {
		if err := fill(ctx, service.New(st, o.service)); err != nil {
			return fmt.Errorf("making the sample data: %w", err)
		}
	}
	err = serveUntil(ctx, st, o.site, func(address string) {
		say(out, "Next Round is at %s (ready after %.1f s; stop with Ctrl-C)", address, time.Since(start).Seconds())
		if !o.own {
			say(out, "The clock stands at %s.", demo.Clock.Format("Monday 2 January 2006"))
		}
		say(out, "Sign in, password %s:", demo.Password)
		for _, in := range demo.SignIns {
			say(out, "  %-11s %s", in.Login, in.Person)
		}
	})
	say(out, "Stopped.")
	return err
}

// prepareDatabase makes and migrates a database; fresh when it is empty.
func prepareDatabase(ctx context.Context, cluster *pg.Cluster, name string, keep bool) (fresh bool, err error) {
	admin, err := pgx.Connect(ctx, cluster.URL("postgres"))
	if err != nil {
		return false, fmt.Errorf("reaching the private database: %w", err)
	}
	defer func() { _ = admin.Close(ctx) }()
	var there bool
	if err := admin.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", name).Scan(&there); err != nil {
		return false, fmt.Errorf("looking for the sample data: %w", err)
	}
	if there && !keep {
		if _, err := admin.Exec(ctx, "DROP DATABASE "+name+" WITH (FORCE)"); err != nil {
			return false, fmt.Errorf("removing the last sample data: %w", err)
		}
		there = false
	}
	if !there {
		if _, err := admin.Exec(ctx, "CREATE DATABASE "+name); err != nil {
			return false, fmt.Errorf("making the database: %w", err)
		}
	}
	url := cluster.URL(name)
	if err := store.Migrate(ctx, url); err != nil {
		return false, err
	}
	st, err := store.Open(ctx, url)
	if err != nil {
		return false, err
	}
	defer st.Close()
	n, err := st.Organisations(ctx)
	return n == 0, err
}
