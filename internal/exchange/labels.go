package exchange

import (
	"fmt"
	"io"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"github.com/boombuler/barcode/qr"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// Label is what stands on a unit's label.
type Label struct {
	Tag, Class, Place string
	// Address that the code opens.
	Address string
}

// A sheet holds three labels across and eight down, 70 by 37 mm on A4.
const (
	labelsAcross = 3
	labelsDown   = 8
	labelWidth   = 70.0
	labelHeight  = 37.0
	codeSize     = 27.0
)

// WriteLabels writes a sheet of labels as PDF. The same labels give the same bytes.
func WriteLabels(w io.Writer, labels []Label, made time.Time) error {
	pdf := fpdf.New("P", "mm", "A4", "")
	pdf.SetCatalogSort(true)
	pdf.SetCreationDate(made)
	pdf.SetModificationDate(made)
	pdf.SetTitle("Unit labels", true)
	pdf.SetMargins(0, 0, 0)
	pdf.SetAutoPageBreak(false, 0)
	pdf.AddUTF8FontFromBytes("go", "", goregular.TTF)
	pdf.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	for i, l := range labels {
		at := i % (labelsAcross * labelsDown)
		if at == 0 {
			pdf.AddPage()
		}
		x, y := float64(at%labelsAcross)*labelWidth, float64(at/labelsAcross)*labelHeight
		if err := drawLabel(pdf, l, x, y); err != nil {
			return err
		}
	}
	if len(labels) == 0 {
		pdf.AddPage()
		pdf.SetFont("go", "", 11)
		pdf.Text(20, 20, "No unit fits this filter.")
	}
	if err := pdf.Output(w); err != nil {
		return fmt.Errorf("writing the labels: %w", err)
	}
	return nil
}

func drawLabel(pdf *fpdf.Fpdf, l Label, x, y float64) error {
	code, err := qr.Encode(l.Address, qr.M, qr.Auto)
	if err != nil {
		return fmt.Errorf("the code of %s: %w", l.Tag, err)
	}
	// Drawn as squares, so that it prints sharp at any size.
	side := codeSize / float64(code.Bounds().Dx())
	top := y + (labelHeight-codeSize)/2
	pdf.SetFillColor(0, 0, 0)
	for row := range code.Bounds().Dy() {
		for column := range code.Bounds().Dx() {
			if r, _, _, _ := code.At(column, row).RGBA(); r == 0 {
				pdf.Rect(x+4+float64(column)*side, top+float64(row)*side, side, side, "F")
			}
		}
	}
	left, width := x+6+codeSize, labelWidth-codeSize-9
	pdf.SetFont("go", "B", 13)
	pdf.SetXY(left, y+6)
	pdf.MultiCell(width, 5.5, fit(pdf, l.Tag, width), "", "L", false)
	pdf.SetFont("go", "", 8)
	pdf.SetX(left)
	pdf.MultiCell(width, 3.6, l.Class+"\n"+l.Place, "", "L", false)
	return nil
}

// fit shortens a text to a width.
func fit(pdf *fpdf.Fpdf, text string, width float64) string {
	runes := []rune(text)
	for len(runes) > 1 && pdf.GetStringWidth(string(runes)) > width-2 {
		runes = runes[:len(runes)-1]
	}
	return string(runes)
}
