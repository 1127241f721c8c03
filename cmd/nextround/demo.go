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

const demoDatabase = "demo"

func demoCommand() *cobra.Command {
	o := site{search: true}
	var dir string
	var keep bool
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Serve the invented sample data from a private PostgreSQL",
		Long:  "Serve the invented sample data from a private PostgreSQL cluster on a free loopback port. The data is made anew\neach time unless --keep is given; the clock stands still at " + demo.Clock.Format("2 January 2006") + ".",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return runDemo(cmd.Context(), cmd.OutOrStdout(), dir, keep, o)
		},
	}
	cmd.Flags().StringVar(&dir, "dir", fromEnv("NEXTROUND_DEMO_DIR", ".local/demo"), "folder of the private PostgreSQL (NEXTROUND_DEMO_DIR)")
	cmd.Flags().BoolVar(&keep, "keep", false, "keep the data of the last time")
	listenFlags(cmd, &o)
	return cmd
}

func runDemo(ctx context.Context, out io.Writer, dir string, keep bool, o site) (err error) {
	start := time.Now()
	cluster, err := pg.Start(ctx, pg.Options{Dir: filepath.Join(dir, "pg")})
	if errors.Is(err, pg.ErrRunning) {
		return fmt.Errorf("a demonstration is already running from %s; stop it first, or choose another --dir", dir)
	}
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, cluster.Stop()) }()
	fresh, err := prepareDatabase(ctx, cluster, keep)
	if err != nil {
		return err
	}
	st, err := store.Open(ctx, cluster.URL(demoDatabase))
	if err != nil {
		return err
	}
	defer st.Close()
	o.service = service.Options{Now: func() time.Time { return demo.Clock }, ClockPinned: true}
	if fresh {
		if err := demo.Load(ctx, service.New(st, o.service)); err != nil {
			return fmt.Errorf("making the sample data: %w", err)
		}
	}
	err = serveUntil(ctx, st, o, func(address string) {
		say(out, "Next Round is at %s (ready after %.1f s; stop with Ctrl-C)", address, time.Since(start).Seconds())
		say(out, "The clock stands at %s. Sign in, password %s:", demo.Clock.Format("Monday 2 January 2006"), demo.Password)
		for _, in := range demo.SignIns {
			say(out, "  %-11s %s", in.Login, in.Person)
		}
	})
	say(out, "Stopped.")
	return err
}

// prepareDatabase makes and migrates the demonstration's database; fresh when it is empty.
func prepareDatabase(ctx context.Context, cluster *pg.Cluster, keep bool) (fresh bool, err error) {
	admin, err := pgx.Connect(ctx, cluster.URL("postgres"))
	if err != nil {
		return false, fmt.Errorf("reaching the private database: %w", err)
	}
	defer func() { _ = admin.Close(ctx) }()
	var there bool
	if err := admin.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", demoDatabase).Scan(&there); err != nil {
		return false, fmt.Errorf("looking for the sample data: %w", err)
	}
	if there && !keep {
		if _, err := admin.Exec(ctx, "DROP DATABASE "+demoDatabase+" WITH (FORCE)"); err != nil {
			return false, fmt.Errorf("removing the last sample data: %w", err)
		}
		there = false
	}
	if !there {
		if _, err := admin.Exec(ctx, "CREATE DATABASE "+demoDatabase); err != nil {
			return false, fmt.Errorf("making the database: %w", err)
		}
	}
	url := cluster.URL(demoDatabase)
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
