package exchange

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"

	"github.com/xuri/excelize/v2"
)

// What a spreadsheet may unpack to. Parts over the second bound are read from a file on the disk and not held in memory.
const (
	unzipLimit    = 100 << 20
	unzipXMLLimit = 4 << 20
)

func readSheet(ctx context.Context, src []byte, p *Problems) (t Table) {
	// The reader of spreadsheets is somebody else's and gives up on some broken files by panicking.
	defer func() {
		if recover() != nil {
			t = Table{}
			p.Addf(1, "", "the spreadsheet is damaged and cannot be read")
		}
	}()
	odd, err := inspect(ctx, src)
	switch {
	case errors.Is(err, errTooLarge):
		p.Addf(1, "", "the spreadsheet unpacks to more than %d MB: it holds far more than rows of text; save what is needed as CSV", unzipLimit>>20)
		return t
	case err != nil && ctx.Err() == nil:
		p.Addf(1, "", "the spreadsheet cannot be read; is it an XLSX file without a password?")
		return t
	}
	for _, m := range odd.merged {
		p.Addf(m.line, m.cells, "the cells are merged; give every row its own value")
	}
	p.More += odd.moreMerged
	f, err := excelize.OpenReader(bytes.NewReader(src), excelize.Options{RawCellValue: true, UnzipSizeLimit: unzipLimit, UnzipXMLSizeLimit: unzipXMLLimit})
	if err != nil {
		p.Addf(1, "", "the spreadsheet cannot be read; is it an XLSX file without a password?")
		return t
	}
	defer func() { _ = f.Close() }()
	sheets := f.GetSheetList()
	if len(sheets) == 0 {
		p.Addf(1, "", "the spreadsheet has no sheet")
		return t
	}
	rows, err := f.Rows(sheets[0])
	if err != nil {
		p.Addf(1, "", "the first sheet cannot be read")
		return t
	}
	defer func() { _ = rows.Close() }()
	for line := 1; rows.Next(); line++ {
		if line%stopEvery == 0 && ctx.Err() != nil {
			return t
		}
		cells, err := rows.Columns()
		if err != nil {
			p.Addf(line, "", "the row cannot be read")
			return t
		}
		for len(cells) > 0 && strings.TrimSpace(cells[len(cells)-1]) == "" {
			cells = cells[:len(cells)-1]
		}
		if t.Header == nil {
			t.Header = cells
			if len(cells) == 0 {
				p.Addf(1, "", "the first row must name the columns")
				return t
			}
			if t.tooWide(p) {
				return Table{}
			}
			continue
		}
		if len(cells) > 0 && !t.add(line, cells, p) {
			return t
		}
	}
	if t.Header == nil {
		p.Addf(1, "", "the sheet is empty")
	}
	for _, c := range odd.formulas {
		if c.column < len(t.Header) {
			p.Addf(c.line, t.Header[c.column], "is a formula, not a value; paste its value")
		}
	}
	return t
}

// oddities are what a register has no use for, found by one pass over the first sheet without holding it.
type oddities struct {
	merged     []mergedCells
	moreMerged int
	formulas   []formulaCell
}

type mergedCells struct {
	line  int
	cells string
}

type formulaCell struct{ line, column int }

var errTooLarge = errors.New("unpacks to too much")

// inspect goes through the first sheet of a spreadsheet, token by token.
func inspect(ctx context.Context, src []byte) (odd oddities, err error) {
	z, err := zip.NewReader(bytes.NewReader(src), int64(len(src)))
	if err != nil {
		return odd, fmt.Errorf("opening the spreadsheet: %w", err)
	}
	sum := uint64(0)
	for _, f := range z.File {
		if sum += f.UncompressedSize64; sum > unzipLimit || f.UncompressedSize64 > unzipLimit {
			return odd, errTooLarge
		}
	}
	sheet, err := firstSheet(z)
	if err != nil {
		return odd, err
	}
	part, err := sheet.Open()
	if err != nil {
		return odd, fmt.Errorf("opening the first sheet: %w", err)
	}
	defer func() { _ = part.Close() }()
	bounded := &io.LimitedReader{R: part, N: unzipLimit}
	tokens := xml.NewDecoder(bounded)
	cell := ""
	for n := 0; ; n++ {
		if n%10_000 == 0 && ctx.Err() != nil {
			return odd, ctx.Err()
		}
		token, err := tokens.RawToken()
		if errors.Is(err, io.EOF) {
			if bounded.N <= 0 {
				return odd, errTooLarge
			}
			return odd, nil
		}
		if err != nil {
			return odd, fmt.Errorf("reading the first sheet: %w", err)
		}
		start, ok := token.(xml.StartElement)
		if !ok {
			continue
		}
		switch start.Name.Local {
		case "c":
			cell = attribute(start, "r")
		case "f":
			if column, line, err := excelize.CellNameToCoordinates(cell); err == nil && len(odd.formulas) < MaxProblems {
				odd.formulas = append(odd.formulas, formulaCell{line, column - 1})
			}
		case "mergeCell":
			odd.merge(attribute(start, "ref"))
		}
	}
}

func (o *oddities) merge(ref string) {
	if len(o.merged) >= MaxProblems {
		o.moreMerged++
		return
	}
	first, _, _ := strings.Cut(ref, ":")
	if _, line, err := excelize.CellNameToCoordinates(first); err == nil {
		o.merged = append(o.merged, mergedCells{line, ref})
	}
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// firstSheet finds the part of the first sheet by the workbook and its relations (ECMA-376, part 1, 18.2.19 and 9.2, from memory).
func firstSheet(z *zip.Reader) (*zip.File, error) {
	const workbook, relations = "xl/workbook.xml", "xl/_rels/workbook.xml.rels"
	id, err := firstAttribute(z, workbook, func(e xml.StartElement) string {
		if e.Name.Local == "sheet" {
			return attribute(e, "id")
		}
		return ""
	})
	if err != nil {
		return nil, err
	}
	target, err := firstAttribute(z, relations, func(e xml.StartElement) string {
		if e.Name.Local == "Relationship" && attribute(e, "Id") == id {
			return attribute(e, "Target")
		}
		return ""
	})
	if err != nil {
		return nil, err
	}
	name := path.Join("xl", target)
	if strings.HasPrefix(target, "/") {
		name = strings.TrimPrefix(target, "/")
	}
	return partOf(z, name)
}

func partOf(z *zip.Reader, name string) (*zip.File, error) {
	for _, f := range z.File {
		if strings.EqualFold(f.Name, name) {
			return f, nil
		}
	}
	return nil, fmt.Errorf("%s: %w", name, io.ErrUnexpectedEOF)
}

// firstAttribute gives the first text that pick finds in the elements of a part.
func firstAttribute(z *zip.Reader, name string, pick func(xml.StartElement) string) (string, error) {
	f, err := partOf(z, name)
	if err != nil {
		return "", err
	}
	part, err := f.Open()
	if err != nil {
		return "", fmt.Errorf("opening %s: %w", name, err)
	}
	defer func() { _ = part.Close() }()
	tokens := xml.NewDecoder(io.LimitReader(part, unzipXMLLimit))
	for {
		token, err := tokens.RawToken()
		if err != nil {
			return "", fmt.Errorf("reading %s: %w", name, err)
		}
		if e, ok := token.(xml.StartElement); ok {
			if text := pick(e); text != "" {
				return text, nil
			}
		}
	}
}
