// Command withpostgres runs a command with a throwaway PostgreSQL cluster, whose address the command finds in
// NEXTROUND_TEST_CLUSTER. The cluster is gone afterwards.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"os/signal"
	"syscall"

	"nextround/internal/pg/pgtest"
)

func main() {
	if len(os.Args) < 2 {
		fmt.Fprintln(os.Stderr, "usage: withpostgres COMMAND [ARGUMENT…]")
		os.Exit(2)
	}
	os.Exit(run(os.Args[1:]))
}

func run(args []string) int {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	url, end, err := pgtest.StartCluster(ctx)
	if err != nil {
		fmt.Fprintln(os.Stderr, "withpostgres:", err)
		return 1
	}
	defer end()
	cmd := exec.CommandContext(ctx, args[0], args[1:]...) //nolint:gosec // the caller's own command
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, os.Stdout, os.Stderr
	cmd.Env = append(os.Environ(), pgtest.Variable+"="+url)
	err = cmd.Run()
	var exit *exec.ExitError
	switch {
	case errors.As(err, &exit):
		return exit.ExitCode()
	case err != nil:
		fmt.Fprintln(os.Stderr, "withpostgres:", err)
		return 1
	}
	return 0
}
