package exchange_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/exchange"
)

// A report is a PDF of as many pages as it needs, the same for the same report; parts without lines are left out.
func TestReportsAreWritten(t *testing.T) {
	t.Parallel()
	made := time.Date(2026, 3, 4, 8, 0, 0, 0, time.UTC)
	write := func(r exchange.Report) []byte {
		var b bytes.Buffer
		require.NoError(t, exchange.WriteReport(&b, r, made))
		return b.Bytes()
	}
	pages := func(pdf []byte) int { return bytes.Count(pdf, []byte("/Type /Page\n")) }
	short := exchange.Report{
		Title: "FA-IM-1 was cleaned – “partly”", Lines: []string{"Fish Auction Hall", "4 March 2026"},
		Parts: []exchange.ReportPart{{Head: "Found", Lines: []string{"Condenser, front: felted, −7 °C, 30 µF"}}, {Head: "Advised"}}, Foot: "Nobody was told.",
	}
	pdf := write(short)
	assert.True(t, bytes.HasPrefix(pdf, []byte("%PDF-")))
	assert.Equal(t, pdf, write(short), "the same report gives the same bytes")
	assert.Equal(t, 1, pages(pdf))
	with := short
	with.Parts = short.Parts[:1]
	assert.Equal(t, pdf, write(with), "a part without lines leaves no trace")
	long := short
	for i := range 120 {
		long.Parts[0].Lines = append(long.Parts[0].Lines, fmt.Sprintf("%d: %s", i, strings.Repeat("word ", 30)))
	}
	assert.Greater(t, pages(write(long)), 3)
	assert.NotEmpty(t, write(exchange.Report{}), "an empty one is a page all the same")
}
