package exchange

import (
	"strconv"
	"strings"
	"unicode/utf8"

	"nextround/core/calendar"
)

// Column is one of our columns of a file.
type Column struct {
	Name     string
	Required bool
	// Also are other names by which the column is known without being told.
	Also []string
	// Day is true where dates stand, which spreadsheets keep as numbers.
	Day bool
	// Longest text taken; 0 means 120 characters.
	Longest int
}

// Found is a column of the file and which of ours it is taken for; empty when it is not used.
type Found struct{ Name, Column string }

// layout is where in a row our columns stand.
type layout struct {
	at      map[string]int
	columns map[string]Column
}

// plainName is a column name without regard to case, spaces and signs.
func plainName(s string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool {
		return r == ' ' || r == '_' || r == '-' || r == '.' || r == ':' || r == '/' || r == '(' || r == ')'
	}), " ")
}

// PlainName is the form under which a foreign column name is remembered.
func PlainName(s string) string { return plainName(s) }

// match finds our columns in a header: by the names told, by our own names, then by the other names known. What is
// required and missing is listed.
func match(header []string, columns []Column, told map[string]string, p *Problems) (layout, []Found, []string) {
	l := layout{at: map[string]int{}, columns: map[string]Column{}}
	names := map[string]string{}
	for _, c := range columns {
		l.columns[c.Name] = c
		for _, also := range c.Also {
			names[plainName(also)] = c.Name
		}
	}
	for _, c := range columns {
		names[plainName(c.Name)] = c.Name
	}
	for foreign, ours := range told {
		names[plainName(foreign)] = ours
	}
	found := make([]Found, len(header))
	for i, h := range header {
		found[i].Name = h
		ours, ok := names[plainName(h)]
		if _, known := l.columns[ours]; !ok || !known {
			continue
		}
		if first, twice := l.at[ours]; twice {
			p.Addf(1, h, "stands for %s, as does %q; take one of them out", ours, header[first])
			continue
		}
		l.at[ours], found[i].Column = i, ours
	}
	missing := []string{}
	for _, c := range columns {
		if _, ok := l.at[c.Name]; c.Required && !ok {
			p.Addf(1, c.Name, "the column is missing; if it has another name in the file, say which one it is")
			missing = append(missing, c.Name)
		}
	}
	return l, found, missing
}

// cells reads one row by our names and remembers what is wrong with it.
type cells struct {
	layout
	row Row
	p   *Problems
	bad bool
}

func (c *cells) badf(column, format string, args ...any) {
	c.bad = true
	c.p.Addf(c.row.Line, column, format, args...)
}

// text is the cell's text without outer space; empty when the file has no such column.
func (c *cells) text(column string) string {
	i, ok := c.at[column]
	if !ok {
		return ""
	}
	raw := ""
	if i < len(c.row.Cells) {
		raw = strings.TrimSpace(c.row.Cells[i])
	}
	spec := c.columns[column]
	text := unguard(raw)
	longest := spec.Longest
	if longest == 0 {
		longest = 120
	}
	switch {
	case text == "" && spec.Required:
		c.badf(column, "is empty")
	case strings.HasPrefix(raw, "="):
		c.badf(column, "is a formula, not a value")
	case utf8.RuneCountInString(text) > longest:
		c.badf(column, "is longer than %d characters", longest)
	case spec.Day:
		text = sheetDay(text)
	}
	return text
}

// number reads a figure; nil when the cell is empty.
func (c *cells) number(column string, lo, hi float64) *float64 {
	text := c.text(column)
	if text == "" {
		return nil
	}
	v, err := strconv.ParseFloat(text, 64)
	switch {
	case err != nil && strings.Contains(text, ","):
		c.badf(column, "%q is not a number: write the decimals behind a point and no thousands separator", text)
		return nil
	case err != nil:
		c.badf(column, "%q is not a number", text)
		return nil
	case !(v >= lo && v <= hi):
		c.badf(column, "must be between %g and %g", lo, hi)
		return nil
	}
	return &v
}

// whole reads a whole number; nil when the cell is empty.
func (c *cells) whole(column string, lo, hi int) *int {
	v := c.number(column, float64(lo), float64(hi))
	if v == nil {
		return nil
	}
	n := int(*v)
	if float64(n) != *v {
		c.badf(column, "must be a whole number")
		return nil
	}
	return &n
}

// day reads a date; nil when the cell is empty.
func (c *cells) day(column string) *calendar.Day {
	text := c.text(column)
	if text == "" {
		return nil
	}
	d, err := calendar.Parse(text)
	if err != nil {
		c.badf(column, "%q is not a date: write it as 2026-03-05", text)
		return nil
	}
	return &d
}

// choice reads one of some words; the first of them when the cell is empty.
func choice[T ~string](c *cells, column string, of ...T) T {
	text := strings.ReplaceAll(strings.ToLower(c.text(column)), " ", "_")
	if text == "" {
		return of[0]
	}
	for _, w := range of {
		if string(w) == text {
			return w
		}
	}
	said := make([]string, len(of))
	for i, w := range of {
		said[i] = words(string(w))
	}
	c.badf(column, "%q is not one of %s", text, strings.Join(said, ", "))
	return of[0]
}

// words writes a code as words in a file.
func words(code string) string { return strings.ReplaceAll(code, "_", " ") }
