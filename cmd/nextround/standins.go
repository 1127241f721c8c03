package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"nextround/internal/standin"
)

// readUnits reads what a simulated gauge set knows of units.
func readUnits(file string) ([]standin.Unit, error) {
	text, err := os.ReadFile(file) //nolint:gosec // named by whoever starts the program
	if err != nil {
		return nil, err
	}
	var units []standin.Unit
	if err := json.Unmarshal(text, &units); err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	return units, nil
}

func standinsCommand() *cobra.Command {
	o := standin.Options{Seed: 4}
	var file string
	cmd := &cobra.Command{
		Use:   "standins",
		Short: "Run the simulated gauge set, forecast service and mail server",
		Long: "Run the simulated gauge set, forecast service and mail server on loopback, to try out serve without the real ones.\n" +
			"The units of the gauge set are read from a file: a JSON list as docs/devices.md describes.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) (err error) {
			if file != "" {
				if o.Units, err = readUnits(file); err != nil {
					return exitError{exitInput, err}
				}
			}
			set, err := standin.Start(cmd.Context(), o)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, set.Close()) }()
			say(cmd.OutOrStdout(), "Gauge set %s (%d units), forecast %s, mail to %s, shown at %s", set.Gauges, len(o.Units), set.Weather, set.SMTP, set.MailPage)
			<-cmd.Context().Done()
			return nil
		},
	}
	cmd.Flags().StringVar(&file, "units", "", "file with the units of the gauge set")
	cmd.Flags().StringVar(&o.Gauges, "gauges", "127.0.0.1:8091", "address of the gauge set")
	cmd.Flags().StringVar(&o.Weather, "weather", "127.0.0.1:8092", "address of the forecast service")
	cmd.Flags().StringVar(&o.SMTP, "smtp", "127.0.0.1:8025", "address of the mail server")
	cmd.Flags().StringVar(&o.MailPage, "mail-page", "127.0.0.1:8093", "address of the page that shows mails")
	return cmd
}
