package main

import (
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"nextround/internal/instrument"
	"nextround/internal/post"
	"nextround/internal/rooms"
	"nextround/internal/standin"
	"nextround/internal/store"
	"nextround/internal/weather"
)

func serveCommand() *cobra.Command {
	var o site
	var url string
	var pooler bool
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve an existing database",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx := cmd.Context()
			if pooler && url != "" {
				var err error
				if url, err = store.ThroughPooler(url); err != nil {
					return exitError{exitUsage, err}
				}
			}
			st, err := openStore(ctx, url)
			if err != nil {
				return err
			}
			defer st.Close()
			return serveUntil(ctx, st, o, func(address string) { say(cmd.OutOrStdout(), "Next Round is at %s", address) })
		},
	}
	databaseFlag(cmd, &url)
	cmd.Flags().BoolVar(&pooler, "pooler", false, "the database is reached through a pooler in transaction mode, such as PgBouncer")
	cmd.Flags().BoolVar(&o.service.ReadOnly, "read-only", false, "answer only what is read, from a standby")
	listenFlags(cmd, &o)
	outsideFlags(cmd, &o.outside)
	return cmd
}

func listenFlags(cmd *cobra.Command, o *site) {
	cmd.Flags().StringVar(&o.listen, "listen", fromEnv("NEXTROUND_LISTEN", "127.0.0.1:8080"), "address to serve on (NEXTROUND_LISTEN)")
	cmd.Flags().StringVar(&o.cert, "tls-cert", os.Getenv("NEXTROUND_TLS_CERT"), "certificate file; cookies are then for TLS only (NEXTROUND_TLS_CERT)")
	cmd.Flags().StringVar(&o.profile, "pprof", os.Getenv("NEXTROUND_PPROF"), "loopback address to serve Go's profiles on, for debugging (NEXTROUND_PPROF)")
	cmd.Flags().StringVar(&o.public, "public-url", os.Getenv("NEXTROUND_PUBLIC_URL"), "address people use, such as https://rounds.example.org, for links in mails and on labels; that of --listen when left out (NEXTROUND_PUBLIC_URL)")
	cmd.Flags().StringSliceVar(&o.proxies, "trusted-proxy", nil, "address or network of a proxy in front, whose X-Forwarded-For is believed; may be given more than once")
	cmd.Flags().DurationVar(&o.service.SessionIdle, "session-idle", 8*time.Hour, "after how long without a request somebody has to sign in again")
	cmd.Flags().StringVar(&o.key, "tls-key", os.Getenv("NEXTROUND_TLS_KEY"), "key file of the certificate (NEXTROUND_TLS_KEY)")
}

// outside are the addresses of outside devices and services; what is empty is not connected.
type outside struct {
	gauges, weather                        string
	smtp, mailFrom, mailUser, mailPassword string
}

func outsideFlags(cmd *cobra.Command, o *outside) {
	cmd.Flags().StringVar(&o.gauges, "gauges", os.Getenv("NEXTROUND_GAUGES"), "http address of the gauge sets (NEXTROUND_GAUGES)")
	cmd.Flags().StringVar(&o.weather, "weather", os.Getenv("NEXTROUND_WEATHER"), "http address of the forecast service (NEXTROUND_WEATHER)")
	cmd.Flags().StringVar(&o.smtp, "smtp", os.Getenv("NEXTROUND_SMTP"), "host:port of the mail server, smtps://host:port where it speaks TLS from the first byte, as port 465 always does; user and password come from NEXTROUND_SMTP_USER and NEXTROUND_SMTP_PASSWORD (NEXTROUND_SMTP)")
	cmd.Flags().StringVar(&o.mailFrom, "mail-from", fromEnv("NEXTROUND_MAIL_FROM", "next-round@localhost.localdomain"), "sender of mails (NEXTROUND_MAIL_FROM)")
	o.mailUser, o.mailPassword = os.Getenv("NEXTROUND_SMTP_USER"), os.Getenv("NEXTROUND_SMTP_PASSWORD")
}

// fill connects the stand-ins where nothing else is.
func (o *outside) fill(a standin.Addresses) {
	o.gauges, o.weather, o.smtp = a.Gauges, a.Weather, a.SMTP
	o.mailFrom = "next-round@hallvik.example"
}

// connect adds to a service's options what is connected.
func (o outside) connect(s rooms.Options) rooms.Options {
	if o.gauges != "" {
		s.Gauges = instrument.Gauges{Address: strings.TrimSuffix(o.gauges, "/")}
	}
	if o.weather != "" {
		s.Forecasts = weather.Service{Address: strings.TrimSuffix(o.weather, "/")}
	}
	if o.smtp != "" {
		s.Mailer = post.Server{Address: o.smtp, From: o.mailFrom, User: o.mailUser, Password: o.mailPassword}
	}
	return s
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
