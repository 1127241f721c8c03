package main

import (
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"nextround/core/invalid"
	"nextround/internal/calc"
)

func calcCommand() *cobra.Command {
	var schema, example bool
	var long strings.Builder
	long.WriteString("Run a function of the core from JSON to JSON, without server or database:\n\n  nextround calc TOPIC < in.json > out.json\n\nTopics:\n")
	names := []string{}
	for _, t := range calc.Topics() {
		fmt.Fprintf(&long, "  %-10s %s\n", t.Name, t.Summary)
		names = append(names, t.Name)
	}
	long.WriteString("\nExit codes: 0 done, 2 wrong use, 3 the input is not JSON of this shape, 4 a field of the input is wrong.")
	cmd := &cobra.Command{
		Use:       "calc TOPIC",
		Short:     "Run a function of the core from JSON to JSON",
		Long:      long.String(),
		ValidArgs: names,
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) != 1 {
				return exitError{exitUsage, fmt.Errorf("calc takes one topic: %s", strings.Join(names, ", "))}
			}
			topic, ok := calc.ByName(args[0])
			if !ok {
				return exitError{exitUsage, fmt.Errorf("there is no topic %q; topics are %s", args[0], strings.Join(names, ", "))}
			}
			switch {
			case schema:
				_, err := cmd.OutOrStdout().Write(topic.Schema())
				return err
			case example:
				_, err := cmd.OutOrStdout().Write(topic.Example())
				return err
			}
			err := topic.Run(cmd.InOrStdin(), cmd.OutOrStdout())
			var fields invalid.Error
			var notJSON calc.NotJSON
			switch {
			case errors.As(err, &fields):
				return exitError{exitField, err}
			case errors.As(err, &notJSON):
				return exitError{exitInput, err}
			}
			return err
		},
	}
	cmd.Flags().BoolVar(&schema, "schema", false, "print the topic's JSON schema")
	cmd.Flags().BoolVar(&example, "example", false, "print an input that runs")
	return cmd
}
