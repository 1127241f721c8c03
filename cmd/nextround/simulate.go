package main

import (
	"fmt"
	"os"
	"runtime"

	"github.com/spf13/cobra"

	"nextround/internal/proof"
)

func simulateCommand() *cobra.Command {
	var folder, own string
	var seeds, workers int
	cmd := &cobra.Command{
		Use:   "simulate",
		Short: "Let invented portfolios are run for years under six ways of setting intervals, and report what each costs",
		Long: "Let invented portfolios with known true rates are run for years under six ways of setting intervals: habit, habit by site,\n" +
			"staircase, the proposals, the proposals with light and deep cleans, and the best fixed interval had the rates been known.\n" +
			"Writes a report with pictures. Scenarios are JSON files; --scenarios takes a folder of your own.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if seeds < 1 || seeds > 1000 {
				return exitError{exitUsage, fmt.Errorf("--seeds must be between 1 and 1000, not %d", seeds)}
			}
			scenarios, err := proof.Shipped()
			if own != "" {
				scenarios, err = proof.Read(os.DirFS(own))
			}
			if err != nil {
				return exitError{exitInput, err}
			}
			all := make([]proof.Result, 0, len(scenarios))
			for _, s := range scenarios {
				r, err := proof.Simulate(cmd.Context(), s, seeds, workers, func(done, of int) {
					fmt.Fprintf(cmd.ErrOrStderr(), "\r%-24s %3d of %d lives", s.Name, done, of)
				})
				fmt.Fprintln(cmd.ErrOrStderr())
				if err != nil {
					return err
				}
				all = append(all, r)
			}
			if err := proof.Write(folder, all); err != nil {
				return err
			}
			v := proof.Judge(all)
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "The proposals bring %.0f %% of the possible gain, cost %+.1f %% against habit by site, and at worst %+.1f %% against the habit (%s).\nReport in %s.\n",
				100*v.Gained, 100*v.AgainstCategory, 100*v.Worst, v.WorstIn, folder)
			return err
		},
	}
	cmd.Flags().StringVar(&folder, "out", "simulation", "folder for the report")
	cmd.Flags().StringVar(&own, "scenarios", "", "folder of scenarios of your own (default those that come with the program)")
	cmd.Flags().IntVar(&seeds, "seeds", 5, "how often each scenario is drawn")
	cmd.Flags().IntVar(&workers, "workers", runtime.NumCPU(), "how many lives at once")
	return cmd
}
