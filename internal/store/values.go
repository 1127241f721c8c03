package store

import (
	"database/sql/driver"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgtype"

	"nextround/core/calendar"
)

// Date is a calendar.Day in a date column.
type Date calendar.Day

// Day is the civil day.
func (d Date) Day() calendar.Day { return calendar.Day(d) }

// DateOf returns a nullable column value.
func DateOf(d *calendar.Day) *Date {
	if d == nil {
		return nil
	}
	v := Date(*d)
	return &v
}

// DayOf returns the day of a nullable column.
func DayOf(d *Date) *calendar.Day {
	if d == nil {
		return nil
	}
	v := d.Day()
	return &v
}

// GormDataType names the column type.
func (Date) GormDataType() string { return "date" }

// Value writes the date.
func (d Date) Value() (driver.Value, error) { return d.Day().Time(), nil }

// Scan reads the date.
func (d *Date) Scan(src any) error {
	t, ok := src.(time.Time)
	if !ok {
		return fmt.Errorf("a date column gave %T", src)
	}
	*d = Date(calendar.Of(t))
	return nil
}

// DateRange is a daterange: From counted, To not counted; nil is open.
type DateRange struct{ From, To *calendar.Day }

// GormDataType names the column type.
func (DateRange) GormDataType() string { return "daterange" }

// Holds reports whether the day lies in the range.
func (r DateRange) Holds(d calendar.Day) bool {
	return (r.From == nil || *r.From <= d) && (r.To == nil || d < *r.To)
}

// Overlap is the days in both ranges; false when there are none.
func (r DateRange) Overlap(with DateRange) (DateRange, bool) {
	out := r
	if with.From != nil && (out.From == nil || *with.From > *out.From) {
		out.From = with.From
	}
	if with.To != nil && (out.To == nil || *with.To < *out.To) {
		out.To = with.To
	}
	return out, out.From == nil || out.To == nil || *out.From < *out.To
}

// Value writes the range.
func (r DateRange) Value() (driver.Value, error) {
	text := func(d *calendar.Day) string {
		if d == nil {
			return ""
		}
		return d.String()
	}
	return "[" + text(r.From) + "," + text(r.To) + ")", nil
}

// Scan reads the canonical form [from,to).
func (r *DateRange) Scan(src any) error {
	s, ok := src.(string)
	if !ok {
		return fmt.Errorf("a daterange column gave %T", src)
	}
	from, to, ok := strings.Cut(strings.Trim(s, "[]()"), ",")
	if !ok {
		return fmt.Errorf("daterange %q", s)
	}
	for text, into := range map[*string]**calendar.Day{&from: &r.From, &to: &r.To} {
		*into = nil
		if *text == "" {
			continue
		}
		d, err := calendar.Parse(*text)
		if err != nil {
			return fmt.Errorf("daterange %q: %w", s, err)
		}
		*into = &d
	}
	return nil
}

// IDs are many keys as one parameter.
type IDs []uuid.UUID

// Value writes the array's text form.
func (ids IDs) Value() (driver.Value, error) {
	parts := make([]string, len(ids))
	for i, id := range ids {
		parts[i] = id.String()
	}
	return "{" + strings.Join(parts, ",") + "}", nil
}

// GormDataType names the column type.
func (IDs) GormDataType() string { return "uuid[]" }

// Scan reads the array's text form.
func (ids *IDs) Scan(src any) error {
	s, ok := src.(string)
	if !ok {
		return fmt.Errorf("an array of keys gave %T", src)
	}
	*ids = IDs{}
	for part := range strings.SplitSeq(strings.Trim(s, "{}"), ",") {
		if part == "" {
			continue
		}
		id, err := uuid.Parse(part)
		if err != nil {
			return fmt.Errorf("array of keys %q: %w", s, err)
		}
		*ids = append(*ids, id)
	}
	return nil
}

// JSON is a jsonb column.
type JSON json.RawMessage

// ToJSON encodes a value that is known to encode.
func ToJSON(v any) JSON {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only plain data is ever given
	}
	return b
}

// GormDataType names the column type.
func (JSON) GormDataType() string { return "jsonb" }

// Value writes the text.
func (j JSON) Value() (driver.Value, error) {
	if len(j) == 0 {
		return "{}", nil
	}
	return string(j), nil
}

// Scan reads the text.
func (j *JSON) Scan(src any) error {
	switch v := src.(type) {
	case string:
		*j = JSON(v)
	case []byte:
		*j = append(JSON(nil), v...)
	default:
		return fmt.Errorf("a jsonb column gave %T", src)
	}
	return nil
}

// Into decodes the column.
func (j JSON) Into(v any) error { return json.Unmarshal(j, v) }

// Array is a one-dimensional array column of numbers or words.
type Array[T int | float64 | string] []T

// quoted escapes what has a meaning inside a quoted element of an array.
var quoted = strings.NewReplacer(`\`, `\\`, `"`, `\"`)

// Value writes the array's text form.
func (a Array[T]) Value() (driver.Value, error) {
	if a == nil {
		return nil, nil
	}
	parts := make([]string, len(a))
	for i, v := range a {
		switch x := any(v).(type) {
		case string:
			parts[i] = `"` + quoted.Replace(x) + `"`
		default:
			parts[i] = fmt.Sprint(x)
		}
	}
	return "{" + strings.Join(parts, ",") + "}", nil
}

// Scan reads the array's text form; NULL gives nil.
func (a *Array[T]) Scan(src any) error {
	if src == nil {
		*a = nil
		return nil
	}
	return pgtype.NewMap().SQLScanner((*[]T)(a)).Scan(src)
}

// GormDataType names the column type; the element type is the schema's affair.
func (Array[T]) GormDataType() string { return "array" }
