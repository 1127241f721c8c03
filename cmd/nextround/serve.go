package main

import (
	"os"

	"github.com/spf13/cobra"

	"nextround/internal/store"
)

func serveCommand() *cobra.Command {
	var o site
	var url string
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve an existing database",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx := cmd.Context()
			st, err := openStore(ctx, url)
			if err != nil {
				return err
			}
			defer st.Close()
			return serveUntil(ctx, st, o, func(address string) { say(cmd.OutOrStdout(), "Next Round is at %s", address) })
		},
	}
	databaseFlag(cmd, &url)
	listenFlags(cmd, &o)
	return cmd
}

func listenFlags(cmd *cobra.Command, o *site) {
	cmd.Flags().StringVar(&o.listen, "listen", fromEnv("NEXTROUND_LISTEN", "127.0.0.1:8080"), "address to serve on (NEXTROUND_LISTEN)")
	cmd.Flags().StringVar(&o.cert, "tls-cert", os.Getenv("NEXTROUND_TLS_CERT"), "certificate file; cookies are then for TLS only (NEXTROUND_TLS_CERT)")
	cmd.Flags().StringVar(&o.key, "tls-key", os.Getenv("NEXTROUND_TLS_KEY"), "key file of the certificate (NEXTROUND_TLS_KEY)")
}

func migrateCommand() *cobra.Command {
	var url string
	cmd := &cobra.Command{
		Use:   "migrate",
		Short: "Bring a database to this program's schema",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := needDatabase(url); err != nil {
				return err
			}
			if err := store.Migrate(cmd.Context(), url); err != nil {
				return err
			}
			say(cmd.OutOrStdout(), "The database is up to date.")
			return nil
		},
	}
	databaseFlag(cmd, &url)
	return cmd
}
