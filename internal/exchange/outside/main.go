// Command outside writes the example register as a spreadsheet, for programs of others to read.
package main

import (
	"fmt"
	"os"

	"nextround/internal/exchange"
)

func main() {
	if len(os.Args) != 3 || os.Args[1] != "write" {
		fmt.Fprintln(os.Stderr, "usage: outside write FILE")
		os.Exit(2)
	}
	if err := write(os.Args[2]); err != nil {
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
