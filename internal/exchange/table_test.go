package exchange_test

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"nextround/internal/exchange"
)

// What keeps a file from being read is said in words a user can act on, with the line.
func TestFilesThatAreNoTable(t *testing.T) {
	t.Parallel()
	for src, want := range map[string]struct {
		line int
		text string
	}{
		"":                         {1, "the file is empty"},
		" \r\n \n":                 {1, "the file is empty"},
		"\xd0\xcf\x11\xe0\xa1\xb1": {1, "old spreadsheet"},
		"a,b\n1,2\n3,\xff\n":       {3, "not UTF-8"},
		"a,b\n1,\x00\n":            {2, "not text"},
		"a;b\n1;2\n":               {1, "separated by semicolons"},
		"a\tb\n1\t2\n":             {1, "separated by tabs"},
		"a|b\n":                    {1, "separated by bars"},
		"a,b\n1,\"open\n":          {2, "not closed"},
		"a,b\n1,x\"y\n":            {2, "inside a value that is not in quotes"},
		"a,b\n1,2,3\n":             {2, "has 3 values where the header has 2 columns"},
		"PK\x03\x04 nothing":       {1, "cannot be read"},
	} {
		_, p := exchange.ReadTable(context.Background(), []byte(src))
		if assert.NotEmpty(t, p.Listed, "%q", src) {
			assert.Equal(t, want.line, p.Listed[0].Line, "%q", src)
			assert.Contains(t, p.Listed[0].Reason, want.text, "%q", src)
		}
	}
}

func sheet(t *testing.T, change func(*excelize.File)) []byte {
	t.Helper()
	f := excelize.NewFile()
	require.NoError(t, f.SetSheetRow("Sheet1", "A1", &[]any{"site", "tag"}))
	require.NoError(t, f.SetSheetRow("Sheet1", "A2", &[]any{"Hall", "A-1"}))
	change(f)
	var out bytes.Buffer
	require.NoError(t, f.Write(&out))
	return out.Bytes()
}

func TestSheetsThatAreNoTable(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		change func(*excelize.File)
		line   int
		text   string
	}{
		"merged":  {func(f *excelize.File) { _ = f.MergeCell("Sheet1", "A2", "A4") }, 2, "merged"},
		"formula": {func(f *excelize.File) { _ = f.SetCellFormula("Sheet1", "B2", "1+1") }, 2, "is a formula"},
		"no header": {func(f *excelize.File) {
			_ = f.RemoveRow("Sheet1", 1)
			_ = f.InsertRows("Sheet1", 1, 1)
		}, 1, "the first row must name the columns"},
		"empty": {func(f *excelize.File) {
			_ = f.RemoveRow("Sheet1", 2)
			_ = f.RemoveRow("Sheet1", 1)
		}, 1, "the sheet is empty"},
		"too wide": {func(f *excelize.File) { _ = f.SetCellStr("Sheet1", "E2", "more") }, 2, "has 5 values where the header has 2 columns"},
	} {
		_, p := exchange.ReadTable(context.Background(), sheet(t, c.change))
		if assert.NotEmpty(t, p.Listed, name) {
			assert.Equal(t, c.line, p.Listed[0].Line, name)
			assert.Contains(t, p.Listed[0].Reason, c.text, name)
		}
	}
	locked := sheet(t, func(*excelize.File) {})
	for _, at := range []int{len(locked) / 4, len(locked) / 2, len(locked) - 30} {
		_, p := exchange.ReadTable(context.Background(), locked[:at])
		assert.NotEmpty(t, p.Listed, "cut at %d", at)
	}
}

// Text that a spreadsheet would run as a formula is written so that it does not, and reads back as it was.
func TestFormulasAreDisarmed(t *testing.T) {
	t.Parallel()
	values := []string{"=1+1", "@sum", "+49 30 1", "-5.5", "+12", "-x", "'=already", "'plain", "\tindent", "plain", "12", ""}
	rows := make([][]string, len(values))
	for i, v := range values {
		rows[i] = []string{v, "x"}
	}
	var out bytes.Buffer
	require.NoError(t, exchange.WriteCSV(&out, []string{"value", "x"}, rows))
	for _, line := range strings.Split(strings.TrimSpace(out.String()), "\r\n")[1:] {
		first, _, _ := strings.Cut(strings.TrimPrefix(line, `"`), ",")
		if strings.HasPrefix(first, "-5.5") || strings.HasPrefix(first, "+12") || first == "" {
			continue // numbers stay numbers
		}
		assert.NotContains(t, "=@+-\t", first[:1], line)
	}
}

// A small spreadsheet that unpacks to much is refused, or read without holding it: many merged cells are counted, many cells
// are bounded, and a reading that is called off stops.
func TestSmallSpreadsheetsThatUnpackToMuch(t *testing.T) {
	t.Parallel()
	pack := func(sheet func(io.Writer)) []byte {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		for name, text := range map[string]string{
			"[Content_Types].xml":        `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>`,
			"_rels/.rels":                `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
			"xl/workbook.xml":            `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets></workbook>`,
			"xl/_rels/workbook.xml.rels": `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
		} {
			w, err := z.Create(name)
			require.NoError(t, err)
			_, err = io.WriteString(w, text)
			require.NoError(t, err)
		}
		w, err := z.Create("xl/worksheets/sheet1.xml")
		require.NoError(t, err)
		_, _ = io.WriteString(w, `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>`)
		sheet(w)
		_, _ = io.WriteString(w, `</worksheet>`)
		require.NoError(t, z.Close())
		return out.Bytes()
	}
	header := `<row r="1"><c r="A1" t="inlineStr"><is><t>site</t></is></c></row>`
	merged := pack(func(w io.Writer) {
		_, _ = io.WriteString(w, header+`</sheetData><mergeCells>`)
		for i := 2; i < 200_000; i++ {
			_, _ = fmt.Fprintf(w, `<mergeCell ref="A%d:C%d"/>`, i, i)
		}
		_, _ = io.WriteString(w, `</mergeCells>`)
	})
	_, p := exchange.ReadTable(t.Context(), merged)
	require.Len(t, p.Listed, exchange.MaxProblems)
	assert.Equal(t, 199_998-exchange.MaxProblems, p.More)
	assert.Contains(t, p.Listed[0].Reason, "the cells are merged")

	wide := pack(func(w io.Writer) {
		_, _ = io.WriteString(w, `<row r="1">`)
		for range 16_000 {
			_, _ = io.WriteString(w, `<c t="inlineStr"><is><t>x</t></is></c>`)
		}
		_, _ = io.WriteString(w, `</row></sheetData>`)
	})
	table, p := exchange.ReadTable(t.Context(), wide)
	require.NotEmpty(t, p.Listed)
	assert.Contains(t, p.Listed[0].Reason, "more than 200 columns")
	assert.Empty(t, table.Rows)

	much := pack(func(w io.Writer) {
		_, _ = io.WriteString(w, header)
		_, _ = io.WriteString(w, strings.Repeat(`<row><c><v>1</v></c></row>`, 5_000_000))
		_, _ = io.WriteString(w, `</sheetData>`)
	})
	require.Less(t, len(much), 1<<20)
	_, p = exchange.ReadTable(t.Context(), much)
	require.NotEmpty(t, p.Listed)
	assert.Contains(t, p.Listed[0].Reason, "unpacks to more than 100 MB")

	gone, end := context.WithCancel(t.Context())
	end()
	table, _ = exchange.ReadTable(gone, []byte("site\n"+strings.Repeat("a\n", 100_000)))
	assert.Less(t, len(table.Rows), 1000, "it stops")
}
