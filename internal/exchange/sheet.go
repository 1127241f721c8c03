package exchange

import (
	"fmt"
	"io"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// Sheet is what a crew needs at one stop.
type Sheet struct {
	Head  string
	Title string
	Lines []string
	// Cautions come first, before any work.
	Cautions []string
	Deferral string
	Jobs     []SheetJob
}

// SheetJob is a job on a sheet, with room to write by hand.
type SheetJob struct {
	Title  string
	Detail []string
}

const sheetMargin = 14.0

// WriteSheets writes job sheets as PDF on A4, a page or more for each stop, and the load list at the end. The same sheets
// give the same bytes.
func WriteSheets(w io.Writer, title string, sheets []Sheet, load []string, made time.Time) error {
	pdf := fpdf.New("P", "mm", "A4", "")
	pdf.SetCatalogSort(true)
	pdf.SetCreationDate(made)
	pdf.SetModificationDate(made)
	pdf.SetTitle(title, true)
	pdf.SetMargins(sheetMargin, sheetMargin, sheetMargin)
	pdf.SetAutoPageBreak(true, sheetMargin)
	pdf.AddUTF8FontFromBytes("go", "", goregular.TTF)
	pdf.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	line := func(style string, size, high float64, text string) {
		pdf.SetFont("go", style, size)
		pdf.MultiCell(0, high, text, "", "L", false)
	}
	for _, s := range sheets {
		pdf.AddPage()
		line("", 9, 4.5, s.Head)
		line("B", 16, 8, s.Title)
		for _, l := range s.Lines {
			line("", 10, 5, l)
		}
		pdf.Ln(2)
		line("B", 10, 5, "Cautions")
		for i, c := range s.Cautions {
			line("", 8.5, 4.1, fmt.Sprintf("%d. %s", i+1, c))
		}
		line("B", 8.5, 4.1, s.Deferral)
		pdf.Ln(3)
		for _, j := range s.Jobs {
			if pdf.GetY() > 250 {
				pdf.AddPage()
			}
			y := pdf.GetY()
			pdf.Line(sheetMargin, y, 210-sheetMargin, y)
			pdf.Ln(1)
			line("B", 11, 6, j.Title)
			for _, d := range j.Detail {
				line("", 9.5, 4.8, d)
			}
			line("", 9.5, 7, "Found: ______   Left: ______   Cleaner used: ________   Minutes: ______   Not reached, why: ____________________")
		}
	}
	if len(load) > 0 {
		pdf.AddPage()
		line("B", 16, 8, "Load")
		for _, l := range load {
			line("", 11, 7, "[  ]  "+l)
		}
	}
	if err := pdf.Output(w); err != nil {
		return fmt.Errorf("writing the sheets: %w", err)
	}
	return nil
}
