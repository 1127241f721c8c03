package exchange

import "io"

// WriteTable writes rows under our column names as xlsx, or else as csv.
func WriteTable(w io.Writer, format, sheet string, columns []Column, rows [][]string) error {
	if format == "xlsx" {
		return WriteXLSX(w, sheet, ColumnNames(columns), rows)
	}
	return WriteCSV(w, ColumnNames(columns), rows)
}
