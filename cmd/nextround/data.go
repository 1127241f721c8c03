package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"nextround/internal/contract"
	"nextround/internal/importing"
	"nextround/internal/organisation"
	"nextround/internal/rooms"
	"nextround/internal/store"
)

// databaseFlag names the database a command works on.
func databaseFlag(cmd *cobra.Command, url *string) {
	cmd.Flags().StringVar(url, "database", os.Getenv("DATABASE_URL"), "PostgreSQL address (DATABASE_URL)")
}

func needDatabase(url string) error {
	if url == "" {
		return exitError{exitUsage, errors.New("--database or DATABASE_URL is needed")}
	}
	return nil
}

// openStore opens a database that has the tables of this program.
func openStore(ctx context.Context, url string) (*store.Store, error) {
	if err := needDatabase(url); err != nil {
		return nil, err
	}
	pending, err := store.Pending(ctx, url)
	if err != nil {
		return nil, err
	}
	if pending {
		return nil, errors.New("the database is older than this program: run nextround migrate first")
	}
	return store.Open(ctx, url)
}

// withService runs do on such a database.
func withService(ctx context.Context, url string, do func(*store.Store, *rooms.Rooms) error) error {
	st, err := openStore(ctx, url)
	if err != nil {
		return err
	}
	defer st.Close()
	svc := rooms.New(st, rooms.Options{})
	defer svc.Close()
	return do(st, svc)
}

// as finds who a file is taken in or written for.
func as(ctx context.Context, st *store.Store, svc *rooms.Rooms, login string) (organisation.Actor, error) {
	m, err := st.MemberByLogin(ctx, strings.ToLower(login))
	if errors.Is(err, store.ErrNotFound) {
		return organisation.Actor{}, exitError{exitUsage, fmt.Errorf("nobody signs in as %q", login)}
	}
	if err != nil {
		return organisation.Actor{}, err
	}
	return svc.Organisation.Actor(ctx, m.Account.ID)
}

func importCommand() *cobra.Command {
	var url, login, kind string
	var dryRun bool
	cmd := &cobra.Command{
		Use:   "import FILE",
		Short: "Take in a register or visits from a CSV or XLSX file",
		Long:  "Take in a register or visits from a CSV or XLSX file: all rows, or none when any has a problem. The same file taken in\ntwice changes nothing.",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if kind != "register" && kind != "visits" {
				return exitError{exitUsage, fmt.Errorf("--kind must be register or visits, not %q", kind)}
			}
			content, err := os.ReadFile(args[0])
			if err != nil {
				return exitError{exitInput, err}
			}
			return withService(cmd.Context(), url, func(st *store.Store, svc *rooms.Rooms) error {
				actor, err := as(cmd.Context(), st, svc, login)
				if err != nil {
					return err
				}
				run, err := svc.Importing.Import(cmd.Context(), actor, importing.Request{
					Kind: kind, FileName: filepath.Base(args[0]), File: content, DryRun: dryRun,
				})
				if err != nil {
					return err
				}
				out := cmd.OutOrStdout()
				for _, p := range run.Report.Problems {
					say(out, "%s: %s", p.Pointer, p.Reason)
				}
				r := run.Report
				say(out, "%s: %d rows, %d new units, %d changed units, %d new visits", run.Status, r.Rows, r.NewUnits, r.ChangedUnits, r.NewVisits)
				if n := len(r.Problems) + r.MoreProblems; n > 0 {
					return exitError{exitField, fmt.Errorf("%d problems; nothing was taken in", n)}
				}
				if run.Status == "failed" || run.Status == "cancelled" {
					return fmt.Errorf("the import %s; nothing was taken in", run.Status)
				}
				return nil
			})
		},
	}
	databaseFlag(cmd, &url)
	cmd.Flags().StringVar(&login, "as", "manager", "login of the manager who takes the file in")
	cmd.Flags().StringVar(&kind, "kind", "register", "register or visits")
	cmd.Flags().BoolVar(&dryRun, "dry-run", false, "only check the file")
	return cmd
}

func exportCommand() *cobra.Command {
	var url, login, kind, output string
	cmd := &cobra.Command{
		Use:   "export",
		Short: "Write the register or the visits as a CSV or XLSX file",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if kind != "register" && kind != "visits" {
				return exitError{exitUsage, fmt.Errorf("--kind must be register or visits, not %q", kind)}
			}
			format := "csv"
			if strings.HasSuffix(strings.ToLower(output), ".xlsx") {
				format = "xlsx"
			}
			return withService(cmd.Context(), url, func(st *store.Store, svc *rooms.Rooms) error {
				actor, err := as(cmd.Context(), st, svc, login)
				if err != nil {
					return err
				}
				return writeFile(output, cmd.OutOrStdout(), func(w io.Writer) error { return svc.Export(cmd.Context(), actor, kind, format, w) })
			})
		},
	}
	databaseFlag(cmd, &url)
	cmd.Flags().StringVar(&login, "as", "manager", "login of whose organisation and sites are written")
	cmd.Flags().StringVar(&kind, "kind", "register", "register or visits")
	cmd.Flags().StringVarP(&output, "output", "o", "-", "file to write, .csv or .xlsx; - is standard output")
	return cmd
}

// writeFile writes to a file, which appears only when all of it is there, or to standard output.
func writeFile(path string, stdout io.Writer, write func(io.Writer) error) (err error) {
	if path == "-" {
		return write(stdout)
	}
	f, err := os.CreateTemp(filepath.Dir(path), ".nextround-*")
	if err != nil {
		return fmt.Errorf("writing %s: %w", path, err)
	}
	defer func() { _ = os.Remove(f.Name()) }()
	err = write(f)
	if err == nil {
		err = f.Sync()
	}
	if closed := f.Close(); err == nil {
		err = closed
	}
	if err != nil {
		return err
	}
	return os.Rename(f.Name(), path)
}

func backupCommand() *cobra.Command {
	var url, output string
	cmd := &cobra.Command{
		Use:   "backup",
		Short: "Write everything in the database to a file",
		Long:  "Write everything in the database as it stands at one moment to a file that restore reads. The server may go on\nmeanwhile.",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return withService(cmd.Context(), url, func(*store.Store, *rooms.Rooms) error {
				var rows int64
				err := writeFile(output, cmd.OutOrStdout(), func(w io.Writer) (err error) {
					rows, err = store.Backup(cmd.Context(), url, w, time.Now().UTC())
					return err
				})
				if err == nil && output != "-" {
					say(cmd.OutOrStdout(), "%d rows written to %s.", rows, output)
				}
				return err
			})
		},
	}
	databaseFlag(cmd, &url)
	cmd.Flags().StringVarP(&output, "output", "o", "nextround-backup.gz", "file to write; - is standard output")
	return cmd
}

func restoreCommand() *cobra.Command {
	var url string
	var replace bool
	cmd := &cobra.Command{
		Use:   "restore FILE",
		Short: "Read a backup into an empty database",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := needDatabase(url); err != nil {
				return err
			}
			f, err := os.Open(args[0])
			if err != nil {
				return exitError{exitInput, err}
			}
			defer func() { _ = f.Close() }()
			rows, err := store.Restore(cmd.Context(), url, f, replace)
			switch {
			case errors.Is(err, store.ErrNotEmpty):
				return errors.New("the database is not empty; nothing was changed: name an empty one, or say --replace to lose what it holds")
			case errors.Is(err, store.ErrArchive):
				return exitError{exitInput, err}
			case err != nil:
				return err
			}
			say(cmd.OutOrStdout(), "%d rows restored. Everybody has to sign in again.", rows)
			return nil
		},
	}
	databaseFlag(cmd, &url)
	cmd.Flags().BoolVar(&replace, "replace", false, "put the backup in place of what the database holds")
	return cmd
}

func linkCommand() *cobra.Command {
	var url string
	cmd := &cobra.Command{
		Use:   "link LOGIN",
		Short: "Make a link with which somebody who signs in can choose a new password",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return withService(cmd.Context(), url, func(st *store.Store, svc *rooms.Rooms) error {
				actor, err := as(cmd.Context(), st, svc, args[0])
				if err != nil {
					return err
				}
				actor.Role, actor.Sites = contract.RoleManager, nil // whoever can run this on the server manages it
				link, err := svc.Organisation.MakeLink(cmd.Context(), actor, actor.Person.ID)
				if err == nil {
					say(cmd.OutOrStdout(), "Open this address of the server, once, within three days: %s", *link.Link)
				}
				return err
			})
		},
	}
	databaseFlag(cmd, &url)
	return cmd
}

func rebuildCommand() *cobra.Command {
	var url string
	cmd := &cobra.Command{
		Use:   "rebuild",
		Short: "Recalculate everything that is derived from the facts",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return withService(cmd.Context(), url, func(_ *store.Store, svc *rooms.Rooms) error {
				units, err := svc.Learning.Rebuild(cmd.Context())
				if err == nil {
					say(cmd.OutOrStdout(), "Recalculated for %d units.", units)
				}
				return err
			})
		},
	}
	databaseFlag(cmd, &url)
	return cmd
}
