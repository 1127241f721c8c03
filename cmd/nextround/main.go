// Command nextround plans coil cleaning: the server, the demonstration and the calculator in one binary.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"
	_ "time/tzdata" // site zones work on machines without a zone database

	"github.com/spf13/cobra"
)

// version is set by the build.
var version = "development"

// exitError carries an exit code with its message.
type exitError struct {
	code int
	err  error
}

func (e exitError) Error() string { return e.err.Error() }
func (e exitError) Unwrap() error { return e.err }

// Exit codes, documented in --help.
const (
	exitFailure = 1
	exitUsage   = 2
	exitInput   = 3
	exitField   = 4
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	code := run(ctx, os.Args[1:])
	stop()
	os.Exit(code)
}

func run(ctx context.Context, args []string) int {
	root := newRoot()
	root.SetArgs(args)
	err := root.ExecuteContext(ctx)
	if err == nil {
		return 0
	}
	fmt.Fprintln(os.Stderr, "nextround:", err)
	var exit exitError
	if errors.As(err, &exit) {
		return exit.code
	}
	return exitFailure
}

func newRoot() *cobra.Command {
	var logFormat, logLevel string
	root := &cobra.Command{
		Use:           "nextround",
		Short:         "Plan coil cleaning across a portfolio of air conditioning and refrigeration units.",
		Long:          "Plan coil cleaning across a portfolio of air conditioning and refrigeration units.\n\nExit codes: 0 done, 1 failed, 2 wrong use, 3 input cannot be read, 4 a field of the input is wrong.",
		Version:       version,
		SilenceUsage:  true,
		SilenceErrors: true,
		PersistentPreRunE: func(cmd *cobra.Command, _ []string) error {
			var level slog.Level
			if err := level.UnmarshalText([]byte(logLevel)); err != nil {
				return exitError{exitUsage, fmt.Errorf("--log-level must be debug, info, warn or error, not %q", logLevel)}
			}
			o := &slog.HandlerOptions{Level: level}
			var h slog.Handler = slog.NewTextHandler(cmd.ErrOrStderr(), o)
			switch logFormat {
			case "json":
				h = slog.NewJSONHandler(cmd.ErrOrStderr(), o)
			case "text":
			default:
				return exitError{exitUsage, fmt.Errorf("--log must be text or json, not %q", logFormat)}
			}
			slog.SetDefault(slog.New(h))
			return nil
		},
	}
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return exitError{exitUsage, err} })
	root.PersistentFlags().StringVar(&logFormat, "log", fromEnv("NEXTROUND_LOG", "text"), "log as text or json (NEXTROUND_LOG)")
	root.PersistentFlags().StringVar(&logLevel, "log-level", fromEnv("NEXTROUND_LOG_LEVEL", "info"), "least that is logged: debug, info, warn or error; debug has every SQL statement, without its values (NEXTROUND_LOG_LEVEL)")
	root.AddCommand(auditCommand(),
		demoCommand(), standinsCommand(), serveCommand(), migrateCommand(), importCommand(), exportCommand(), backupCommand(), restoreCommand(), rebuildCommand(), linkCommand(),
		certificateCommand(), calcCommand(), simulateCommand(), auditCommand(),
	)
	return root
}

// fromEnv is a flag's default from the environment.
func fromEnv(name, fallback string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return fallback
}
