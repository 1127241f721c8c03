// Package exchange reads and writes files in open formats.
package exchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"nextround/core/calendar"
	"nextround/core/interval"
)

// RegisterColumns are the columns of a register file, in the order of the template.
var RegisterColumns = []string{"site", "placement", "tag", "class", "coil role", "last clean"}

// MaxRegisterRows bounds one file.
const MaxRegisterRows = 10_000

// maxProblems bounds how many problems are listed; the rest are seldom news.
const maxProblems = 200

// RegisterTemplate is an empty register file with three example rows.
const RegisterTemplate = "site,placement,tag,class,coil role,last clean\r\n" +
	"Harbour Office,Yard,HO-CU-1,Outdoor condensing unit,condenser,2025-09-14\r\n" +
	"Harbour Office,Meeting room,HO-TW-1,Through-wall terminal unit,condenser,about 2025-06\r\n" +
	"Crew Canteen,Kitchen,CC-RI-1,Reach-in fridge or freezer,condenser,unknown\r\n"

// Problem is something wrong in a file, at a line and column.
type Problem struct {
	Line   int
	Column string
	Reason string
}

// RegisterRow is one coil of a register file.
type RegisterRow struct {
	Line                                  int
	Site, Placement, Tag, Class, CoilRole string
	LastClean                             interval.LastClean
	LastDay                               *calendar.Day
}

// ReadRegister reads a register file: CSV after RFC 4180, UTF-8 with or without a byte order mark, comma
// separated, the columns in any order. It reports every problem it can find in one go.
func ReadRegister(src []byte) ([]RegisterRow, []Problem) {
	p := &registerReader{}
	p.read(src)
	return p.rows, p.problems
}

type registerReader struct {
	rows     []RegisterRow
	problems []Problem
}

func (p *registerReader) problem(line int, column, format string, args ...any) {
	if len(p.problems) < maxProblems {
		p.problems = append(p.problems, Problem{Line: line, Column: column, Reason: fmt.Sprintf(format, args...)})
	}
}

func (p *registerReader) read(src []byte) {
	src = bytes.TrimPrefix(src, []byte("\ufeff"))
	if len(bytes.TrimSpace(src)) == 0 {
		p.problem(1, "", "the file is empty")
		return
	}
	if bytes.HasPrefix(src, []byte("PK\x03\x04")) {
		p.problem(1, "", "this is a spreadsheet, not a CSV file: save it as CSV (UTF-8, comma) first")
		return
	}
	if !utf8.Valid(src) {
		p.problem(1+bytes.Count(src[:firstInvalid(src)], []byte("\n")), "", "the text is not UTF-8: save the file as CSV with UTF-8 encoding")
		return
	}
	r := csv.NewReader(bytes.NewReader(src))
	r.FieldsPerRecord = -1
	header, err := r.Read()
	if err != nil {
		p.broken(err)
		return
	}
	at, ok := p.columns(header)
	if !ok {
		return
	}
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			return
		}
		if err != nil {
			p.broken(err)
			return
		}
		line, _ := r.FieldPos(0)
		if len(p.rows) >= MaxRegisterRows {
			p.problem(line, "", "more than %d rows: split the file", MaxRegisterRows)
			return
		}
		p.row(line, record, at, len(header))
	}
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

func (p *registerReader) broken(err error) {
	var parse *csv.ParseError
	if !errors.As(err, &parse) {
		p.problem(1, "", "the file cannot be read: %v", err)
		return
	}
	switch {
	case errors.Is(parse.Err, csv.ErrQuote):
		p.problem(parse.StartLine, "", `a quotation mark is not closed, or text follows it; inside quotes, write "" for a quotation mark`)
	case errors.Is(parse.Err, csv.ErrBareQuote):
		p.problem(parse.StartLine, "", `a quotation mark stands inside a value that is not in quotes; put the value in quotes and write ""`)
	default:
		p.problem(parse.StartLine, "", "the line cannot be read: %v", parse.Err)
	}
}

func (p *registerReader) columns(header []string) (map[string]int, bool) {
	if len(header) == 1 {
		for _, sep := range []string{";", "\t"} {
			if strings.Contains(header[0], sep) {
				p.problem(1, "", "the columns are separated by %q; save the file with commas", sep)
				return nil, false
			}
		}
	}
	at := map[string]int{}
	for i, h := range header {
		name := strings.ToLower(strings.TrimSpace(h))
		known := false
		for _, c := range RegisterColumns {
			known = known || c == name
		}
		_, twice := at[name]
		switch {
		case !known:
			p.problem(1, h, "unknown column; the columns are %s", strings.Join(RegisterColumns, ", "))
		case twice:
			p.problem(1, h, "the column stands twice")
		default:
			at[name] = i
		}
	}
	for _, c := range RegisterColumns {
		if _, ok := at[c]; !ok {
			p.problem(1, c, "the column is missing")
		}
	}
	return at, len(p.problems) == 0
}

func (p *registerReader) row(line int, record []string, at map[string]int, width int) {
	if len(record) != width {
		p.problem(line, "", "has %d values where the header has %d columns", len(record), width)
		return
	}
	row := RegisterRow{Line: line}
	for column, into := range map[string]*string{
		"site": &row.Site, "placement": &row.Placement, "tag": &row.Tag, "class": &row.Class, "coil role": &row.CoilRole,
	} {
		*into = strings.TrimSpace(record[at[column]])
	}
	for _, column := range RegisterColumns[:5] {
		text := strings.TrimSpace(record[at[column]])
		switch {
		case text == "":
			p.problem(line, column, "is empty")
		case strings.HasPrefix(text, "="):
			p.problem(line, column, "is a formula, not a value")
		case len(text) > 120:
			p.problem(line, column, "is longer than 120 characters")
		}
	}
	row.CoilRole = strings.ToLower(row.CoilRole)
	quality, day, err := ParseLastClean(record[at["last clean"]])
	if err != nil {
		p.problem(line, "last clean", "%v", err)
	}
	row.LastClean, row.LastDay = quality, day
	p.rows = append(p.rows, row)
}

// ParseLastClean reads 2025-09-14, about 2025-09-14, about 2025-09 (the middle of the month), never, unknown, or
// nothing, which is unknown.
func ParseLastClean(text string) (interval.LastClean, *calendar.Day, error) {
	text = strings.ToLower(strings.TrimSpace(text))
	quality := interval.Exact
	switch text {
	case "", string(interval.Unknown):
		return interval.Unknown, nil, nil
	case string(interval.Never):
		return interval.Never, nil, nil
	}
	if rest, ok := strings.CutPrefix(text, "about "); ok {
		quality, text = interval.About, strings.TrimSpace(rest)
		if len(text) == len("2025-09") {
			text += "-15"
		}
	}
	day, err := calendar.Parse(text)
	if err != nil {
		return "", nil, fmt.Errorf("%q is not a last clean: write 2025-09-14, about 2025-09, never or unknown", text)
	}
	return quality, &day, nil
}
