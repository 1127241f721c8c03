// Package exchange reads and writes files in open formats.
package exchange

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
)

// MaxRows bounds one file.
const MaxRows = 200_000

// MaxProblems bounds how many problems are listed; the rest are counted.
const MaxProblems = 200

// Problem is something wrong in a file, at a line and column.
type Problem struct {
	Line   int
	Column string
	Reason string
}

// Problems collects what is wrong; past MaxProblems it only counts.
type Problems struct {
	Listed []Problem
	More   int
}

// Addf notes a problem.
func (p *Problems) Addf(line int, column, format string, args ...any) {
	if len(p.Listed) >= MaxProblems {
		p.More++
		return
	}
	p.Listed = append(p.Listed, Problem{Line: line, Column: column, Reason: fmt.Sprintf(format, args...)})
}

// Any reports whether there are any.
func (p *Problems) Any() bool { return len(p.Listed) > 0 }

// Table is a file as rows of text under a header, before any meaning is given to it.
type Table struct {
	Header []string
	Rows   []Row
}

// Row is one row with the line it stands on.
type Row struct {
	Line  int
	Cells []string
}

// ReadTable reads a CSV file (RFC 4180, UTF-8 with or without a byte order mark, commas) or the first sheet of an
// XLSX file. It reports what keeps it from reading.
// It stops when the context ends; what it gives is then not whole.
func ReadTable(ctx context.Context, src []byte) (Table, Problems) {
	var p Problems
	if bytes.HasPrefix(src, []byte("PK\x03\x04")) {
		return readSheet(ctx, src, &p), p
	}
	return readCSV(ctx, src, &p), p
}

// MaxColumns bounds the columns of a file.
const MaxColumns = 200

// stopEvery is after how many rows it is looked whether the reading should stop.
const stopEvery = 500

func readCSV(ctx context.Context, src []byte, p *Problems) Table {
	var t Table
	src = bytes.TrimPrefix(src, []byte("\ufeff"))
	if len(bytes.TrimSpace(src)) == 0 {
		p.Addf(1, "", "the file is empty")
		return t
	}
	if bytes.HasPrefix(src, []byte("\xd0\xcf\x11\xe0")) {
		p.Addf(1, "", "this is an old spreadsheet file: save it as XLSX or as CSV (UTF-8, comma) first")
		return t
	}
	if !utf8.Valid(src) {
		p.Addf(1+bytes.Count(src[:firstInvalid(src)], []byte("\n")), "", "the text is not UTF-8: save the file as CSV with UTF-8 encoding")
		return t
	}
	if i := bytes.IndexByte(src, 0); i >= 0 {
		p.Addf(1+bytes.Count(src[:i], []byte("\n")), "", "the text holds a character that is not text: save the file as CSV with UTF-8 encoding")
		return t
	}
	r := csv.NewReader(bytes.NewReader(src))
	r.FieldsPerRecord = -1
	header, err := r.Read()
	if err != nil {
		broken(err, p)
		return t
	}
	if len(header) == 1 {
		for name, sep := range map[string]string{"semicolons": ";", "tabs": "\t", "bars": "|"} {
			if strings.Contains(header[0], sep) {
				p.Addf(1, "", "the columns are separated by %s; save the file with commas", name)
				return t
			}
		}
	}
	t.Header = header
	if t.tooWide(p) {
		return Table{}
	}
	for n := 1; ; n++ {
		if n%stopEvery == 0 && ctx.Err() != nil {
			return t
		}
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			return t
		}
		if err != nil {
			broken(err, p)
			return t
		}
		line, _ := r.FieldPos(0)
		if !t.add(line, record, p) {
			return t
		}
	}
}

// tooWide reports a header with too many columns.
func (t *Table) tooWide(p *Problems) bool {
	if len(t.Header) > MaxColumns {
		p.Addf(1, "", "more than %d columns: take out those that are not needed", MaxColumns)
	}
	return len(t.Header) > MaxColumns
}

// add takes a row in; false when there are too many.
func (t *Table) add(line int, cells []string, p *Problems) bool {
	if len(t.Rows) >= MaxRows {
		p.Addf(line, "", "more than %d rows: split the file", MaxRows)
		return false
	}
	if len(cells) > len(t.Header) {
		p.Addf(line, "", "has %d values where the header has %d columns", len(cells), len(t.Header))
		return true
	}
	t.Rows = append(t.Rows, Row{Line: line, Cells: cells})
	return true
}

func firstInvalid(src []byte) int {
	for i := 0; i < len(src); {
		r, n := utf8.DecodeRune(src[i:])
		if r == utf8.RuneError && n == 1 {
			return i
		}
		i += n
	}
	return len(src)
}

func broken(err error, p *Problems) {
	var parse *csv.ParseError
	if !errors.As(err, &parse) {
		p.Addf(1, "", "the file cannot be read: %v", err)
		return
	}
	switch {
	case errors.Is(parse.Err, csv.ErrQuote):
		p.Addf(parse.StartLine, "", `a quotation mark is not closed, or text follows it; inside quotes, write "" for a quotation mark`)
	case errors.Is(parse.Err, csv.ErrBareQuote):
		p.Addf(parse.StartLine, "", `a quotation mark stands inside a value that is not in quotes; put the value in quotes and write ""`)
	default:
		p.Addf(parse.StartLine, "", "the line cannot be read: %v", parse.Err)
	}
}

// sheetDay turns a spreadsheet's count of days into a date; other text stays as it is.
func sheetDay(text string) string {
	n, err := strconv.ParseFloat(text, 64)
	if err != nil || n < 20000 || n > 80000 {
		return text
	}
	at, err := excelize.ExcelDateToTime(n, false)
	if err != nil {
		return text
	}
	return at.Format(time.DateOnly)
}

// WriteCSV writes rows under a header after RFC 4180. Text that a spreadsheet would run as a formula is written
// behind an apostrophe, which ReadTable's readers take off again.
func WriteCSV(w io.Writer, header []string, rows [][]string) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if err := out.Write(header); err != nil {
		return fmt.Errorf("writing the file: %w", err)
	}
	for _, row := range rows {
		safe := make([]string, len(row))
		for i, c := range row {
			safe[i] = guard(c)
		}
		if err := out.Write(safe); err != nil {
			return fmt.Errorf("writing the file: %w", err)
		}
	}
	out.Flush()
	return out.Error()
}

// guard keeps a spreadsheet from running a value as a formula (OWASP, "CSV injection", from memory).
func guard(text string) string {
	if text == "" {
		return ""
	}
	first, _ := utf8.DecodeRuneInString(text)
	// A semicolon begins a new cell where a program takes it for the separator; full-width signs are taken for plain ones.
	if strings.ContainsRune("=@\t\r;＝＠＋－", first) || (first == '\'' && guard(text[1:]) != text[1:]) {
		return "'" + text
	}
	if strings.ContainsRune("+-", rune(text[0])) {
		if _, err := strconv.ParseFloat(text, 64); err != nil {
			return "'" + text
		}
	}
	return text
}

// unguard takes the apostrophe off again.
func unguard(text string) string {
	if rest, ok := strings.CutPrefix(text, "'"); ok && guard(rest) == text {
		return rest
	}
	return text
}

// WriteXLSX writes rows under a header as the only sheet of a spreadsheet, with text guarded as WriteCSV does.
func WriteXLSX(w io.Writer, sheet string, header []string, rows [][]string) error {
	f := excelize.NewFile()
	defer func() { _ = f.Close() }()
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return fmt.Errorf("writing the spreadsheet: %w", err)
	}
	out, err := f.NewStreamWriter(sheet)
	if err != nil {
		return fmt.Errorf("writing the spreadsheet: %w", err)
	}
	for i, row := range append([][]string{header}, rows...) {
		cells := make([]any, len(row))
		for k, c := range row {
			cells[k] = guard(c)
		}
		if err := out.SetRow("A"+strconv.Itoa(i+1), cells); err != nil {
			return fmt.Errorf("writing the spreadsheet: %w", err)
		}
	}
	if err := out.Flush(); err != nil {
		return fmt.Errorf("writing the spreadsheet: %w", err)
	}
	return f.Write(w)
}
