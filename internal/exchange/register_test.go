package exchange_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/interval"
	"nextround/internal/exchange"
)

// RFC 4180: CRLF or LF, quoted values with commas, line breaks and doubled quotation marks.
func TestReadRegisterFollowsRFC4180(t *testing.T) {
	src := "\ufefftag,site,placement,class,coil role,last clean\r\n" +
		"\"A \"\"1\"\"\",\"Hall, north\",\"Upper\r\nfloor\",Ice machine,Condenser,2026-01-02\r\n" +
		"A-2,Hall,Yard,Ice machine,condenser,\r\n"
	rows, problems := exchange.ReadRegister([]byte(src))
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
	const head = "site,placement,tag,class,coil role,last clean\n"
	for name, c := range map[string]struct {
		src    string
		line   int
		column string
		reason string
	}{
		"empty":             {"  \n", 1, "", "the file is empty"},
		"spreadsheet":       {"PK\x03\x04rest", 1, "", "this is a spreadsheet"},
		"another encoding":  {head + "Hall,Yard,caf\xe9,x,y,\n", 2, "", "the text is not UTF-8"},
		"semicolons":        {"site;placement;tag;class;coil role;last clean\n", 1, "", `separated by ";"`},
		"missing column":    {"site,placement,tag,class,coil role\n", 1, "last clean", "the column is missing"},
		"unknown column":    {strings.Replace(head, "tag", "label", 1), 1, "label", "unknown column"},
		"column twice":      {"site," + head, 1, "site", "the column stands twice"},
		"too few values":    {head + "Hall,Yard\n", 2, "", "has 2 values where the header has 6 columns"},
		"empty value":       {head + "Hall,,A,x,condenser,\n", 2, "placement", "is empty"},
		"formula":           {head + "Hall,Yard,=A1,x,condenser,\n", 2, "tag", "is a formula"},
		"bad date":          {head + "Hall,Yard,A,x,condenser,31.12.2025\n", 2, "last clean", "is not a last clean"},
		"impossible date":   {head + "Hall,Yard,A,x,condenser,about 2025-02-30\n", 2, "last clean", "is not a last clean"},
		"quotation mark":    {head + "Hall,Yard,\"A,x,condenser,\n", 2, "", "quotation mark"},
		"bare quotation":    {head + "Hall,Yard,A\"1,x,condenser,\n", 2, "", "quotation mark"},
		"far too long name": {head + "Hall,Yard," + strings.Repeat("A", 121) + ",x,condenser,\n", 2, "tag", "longer than 120"},
	} {
		t.Run(name, func(t *testing.T) {
			_, problems := exchange.ReadRegister([]byte(c.src))
			require.NotEmpty(t, problems)
			assert.Equal(t, c.line, problems[0].Line)
			assert.Equal(t, c.column, problems[0].Column)
			assert.Contains(t, problems[0].Reason, c.reason)
		})
	}
}

func TestReadRegisterStopsAtTheMostRows(t *testing.T) {
	src := "site,placement,tag,class,coil role,last clean\n" + strings.Repeat("H,Y,T,C,condenser,never\n", exchange.MaxRegisterRows+1)
	rows, problems := exchange.ReadRegister([]byte(src))
	assert.Len(t, rows, exchange.MaxRegisterRows)
	assert.Contains(t, problems[0].Reason, "more than 10000 rows")
}

func FuzzReadRegister(f *testing.F) {
	f.Add([]byte(exchange.RegisterTemplate))
	f.Add([]byte("site;placement"))
	f.Fuzz(func(t *testing.T, src []byte) {
		rows, problems := exchange.ReadRegister(src)
		if len(problems) == 0 {
			for _, r := range rows {
				assert.NotEmpty(t, r.Tag)
				assert.True(t, r.LastClean.Valid())
			}
		}
	})
}
