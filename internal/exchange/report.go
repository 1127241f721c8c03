package exchange

import (
	"fmt"
	"io"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// Report is a page for people who were not there.
type Report struct {
	Title string
	Lines []string
	Parts []ReportPart
	Foot  string
}

// ReportPart is a heading with its lines; one without lines is left out.
type ReportPart struct {
	Head  string
	Lines []string
}

const reportMargin = 22.0

// WriteReport writes a report as PDF on A4. The same report gives the same bytes.
func WriteReport(w io.Writer, r Report, made time.Time) error {
	pdf := fpdf.New("P", "mm", "A4", "")
	pdf.SetCatalogSort(true)
	pdf.SetCreationDate(made)
	pdf.SetModificationDate(made)
	pdf.SetTitle(r.Title, true)
	pdf.SetMargins(reportMargin, reportMargin, reportMargin)
	pdf.SetAutoPageBreak(true, reportMargin)
	pdf.AddUTF8FontFromBytes("go", "", goregular.TTF)
	pdf.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	pdf.AddPage()
	pdf.SetFont("go", "B", 18)
	pdf.MultiCell(0, 9, r.Title, "", "L", false)
	pdf.SetFont("go", "", 11)
	for _, l := range r.Lines {
		pdf.MultiCell(0, 6, l, "", "L", false)
	}
	for _, part := range r.Parts {
		if len(part.Lines) == 0 {
			continue
		}
		pdf.Ln(4)
		pdf.SetFont("go", "B", 12)
		pdf.MultiCell(0, 7, part.Head, "", "L", false)
		pdf.SetFont("go", "", 11)
		for _, l := range part.Lines {
			pdf.CellFormat(5, 6, "–", "", 0, "L", false, 0, "")
			pdf.MultiCell(0, 6, l, "", "L", false)
		}
	}
	pdf.Ln(6)
	pdf.SetFont("go", "", 9)
	pdf.MultiCell(0, 5, r.Foot, "", "L", false)
	if err := pdf.Output(w); err != nil {
		return fmt.Errorf("writing the report: %w", err)
	}
	return nil
}
