// Command outside writes the example register as a spreadsheet, or an example calendar, for programs of others to read.
package main

import (
	"fmt"
	"os"

	"nextround/internal/exchange"
)

func main() {
	writers := map[string]func(string) error{"write": write, "calendar": calendar}
	if len(os.Args) != 3 || writers[os.Args[1]] == nil {
		fmt.Fprintln(os.Stderr, "usage: outside write|calendar FILE")
		os.Exit(2)
	}
	if err := writers[os.Args[1]](os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "outside:", err)
		os.Exit(1)
	}
}

func write(path string) error {
	f, err := os.Create(path) //nolint:gosec // the caller's own file
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	return exchange.WriteXLSX(f, "Register", exchange.ColumnNames(exchange.RegisterColumns), exchange.ExampleCells())
}

func calendar(path string) error {
	return os.WriteFile(path, exchange.Calendar("Crew Tern", exchange.ExampleEntries()), 0o600) //nolint:gosec // the caller's own file
}
