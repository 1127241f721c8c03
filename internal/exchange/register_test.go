package exchange_test

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/interval"
	"nextround/internal/exchange"
)

// read gives a file the meaning of a register.
func read(src []byte) ([]exchange.RegisterRow, []exchange.Problem) {
	table, problems := exchange.ReadTable(context.Background(), src)
	if problems.Any() {
		return nil, problems.Listed
	}
	file := exchange.ReadRegister(table, nil)
	return file.Rows, file.Listed
}

// RFC 4180: CRLF or LF, quoted values with commas, line breaks and doubled quotation marks.
func TestReadRegisterFollowsRFC4180(t *testing.T) {
	t.Parallel()
	src := "\ufefftag,site,placement,class,coil role,last clean\r\n" +
		"\"A \"\"1\"\"\",\"Hall, north\",\"Upper\r\nfloor\",Ice machine,Condenser,2026-01-02\r\n" +
		"A-2,Hall,Yard,Ice machine,condenser,\r\n"
	rows, problems := read([]byte(src))
	require.Empty(t, problems)
	require.Len(t, rows, 2)
	assert.Equal(t, `A "1"`, rows[0].Tag)
	assert.Equal(t, "Hall, north", rows[0].Site)
	assert.Equal(t, "condenser", rows[0].CoilRole)
	assert.Equal(t, "2026-01-02", rows[0].LastDay.String())
	assert.Equal(t, 4, rows[1].Line, "the line in the file, not the number of the row")
	assert.Equal(t, interval.Unknown, rows[1].LastClean)
}

func TestReadRegisterSaysWhatIsWrongAndWhere(t *testing.T) {
	t.Parallel()
	const head = "site,placement,tag,class,coil role,last clean\n"
	for name, c := range map[string]struct {
		src    string
		line   int
		column string
		reason string
	}{
		"empty":             {"  \n", 1, "", "the file is empty"},
		"damaged sheet":     {"PK\x03\x04rest", 1, "", "the spreadsheet cannot be read"},
		"old spreadsheet":   {"\xd0\xcf\x11\xe0rest", 1, "", "an old spreadsheet file"},
		"not text":          {head + "Hall,Ya\x00rd,A,x,y,\n", 2, "", "not text"},
		"another encoding":  {head + "Hall,Yard,caf\xe9,x,y,\n", 2, "", "the text is not UTF-8"},
		"semicolons":        {"site;placement;tag;class;coil role;last clean\n", 1, "", "separated by semicolons"},
		"missing column":    {"site,placement,tag,class,last clean\n", 1, "coil role", "the column is missing"},
		"column twice":      {"building," + head, 1, "site", `stands for site, as does "building"`},
		"too many values":   {head + "a,b,c,d,e,f,g\n", 2, "", "has 7 values where the header has 6 columns"},
		"too few values":    {head + "Hall,Yard\n", 2, "tag", "is empty"},
		"empty value":       {head + "Hall,,A,x,condenser,\n", 2, "placement", "is empty"},
		"formula":           {head + "Hall,Yard,=A1,x,condenser,\n", 2, "tag", "is a formula"},
		"bad date":          {head + "Hall,Yard,A,x,condenser,31.12.2025\n", 2, "last clean", "is not a last clean"},
		"impossible date":   {head + "Hall,Yard,A,x,condenser,about 2025-02-30\n", 2, "last clean", "is not a last clean"},
		"quotation mark":    {head + "Hall,Yard,\"A,x,condenser,\n", 2, "", "quotation mark"},
		"bare quotation":    {head + "Hall,Yard,A\"1,x,condenser,\n", 2, "", "quotation mark"},
		"far too long name": {head + "Hall,Yard," + strings.Repeat("A", 61) + ",x,condenser,\n", 2, "tag", "longer than 60"},
	} {
		t.Run(name, func(t *testing.T) {
			_, problems := read([]byte(c.src))
			require.NotEmpty(t, problems)
			assert.Equal(t, c.line, problems[0].Line)
			assert.Equal(t, c.column, problems[0].Column)
			assert.Contains(t, problems[0].Reason, c.reason)
		})
	}
}

func TestReadRegisterStopsAtTheMostRows(t *testing.T) {
	t.Parallel()
	src := "site,placement,tag,class,coil role,last clean\n" + strings.Repeat("H,Y,T,C,condenser,never\n", exchange.MaxRows+1)
	table, problems := exchange.ReadTable(context.Background(), []byte(src))
	assert.Len(t, table.Rows, exchange.MaxRows)
	assert.Contains(t, problems.Listed[0].Reason, "more than 200000 rows")
}

func TestProblemsPastTheListAreCounted(t *testing.T) {
	t.Parallel()
	table, _ := exchange.ReadTable(context.Background(), []byte("site,placement,tag,class,coil role\n"+strings.Repeat("H,Y,,C,condenser\n", 300)))
	file := exchange.ReadRegister(table, nil)
	assert.Len(t, file.Listed, exchange.MaxProblems)
	assert.Equal(t, 100, file.More)
}

// Whatever is read, no importer panics, every problem has a line, and a row without a problem is whole.
func FuzzReadRegister(f *testing.F) {
	f.Add([]byte("site,placement,tag,class,coil role,last clean\r\nHall,Yard,A-1,Ice machine,condenser,about 2025-06\r\n"))
	f.Add([]byte("site;placement"))
	f.Add([]byte("\ufeffsite,placement,tag,class,coil role,year\n\"a\nb\",Y,T,C,condenser,20x9\n"))
	f.Add([]byte("PK\x03\x04"))
	f.Fuzz(func(t *testing.T, src []byte) {
		rows, problems := read(src)
		for _, p := range problems {
			assert.Positive(t, p.Line)
			assert.NotEmpty(t, p.Reason)
		}
		if len(problems) == 0 {
			for _, r := range rows {
				assert.NotEmpty(t, r.Tag)
				assert.True(t, r.LastClean.Valid())
			}
		}
	})
}

func FuzzReadVisits(f *testing.F) {
	f.Add([]byte("tag,day,outcome,coil role,side,found,left,work,method,people\nA-1,2026-01-02,done,condenser,front,2,0,deep,Brush and vacuum,Technician 30; Other 20min\n"))
	f.Add([]byte("tag,date\nA-1,45914\n"))
	f.Add([]byte("tag,day,people,amount\nA-1,2026-01-02,x 99999,1e400\n"))
	f.Fuzz(func(t *testing.T, src []byte) {
		table, problems := exchange.ReadTable(context.Background(), src)
		if problems.Any() {
			return
		}
		file := exchange.ReadVisits(table, map[string]string{"when": "day"})
		for _, p := range file.Listed {
			assert.Positive(t, p.Line)
		}
		if !file.Any() {
			for _, r := range file.Rows {
				assert.NotEmpty(t, r.Tag)
				assert.NotZero(t, len(r.Outcome))
			}
		}
	})
}
