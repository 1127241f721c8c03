// Package teach draws coil faces of known blocked share and tells graders how far from the truth they see.
package teach

import (
	"math"
	"math/rand/v2"

	"nextround/core/soil"
)

// Face is a drawn coil face: cells that are closed or open, row by row.
type Face struct {
	Rows    int    `json:"rows"`
	Columns int    `json:"columns"`
	Closed  []bool `json:"closed"`
	// Share is the blocked share that was drawn, Grade its grade.
	Share float64    `json:"share"`
	Grade soil.Grade `json:"grade"`
}

const (
	rows, columns = 24, 36
	// clumps says how strongly soil gathers where some is already (assumption: as mats and streaks do).
	clumps = 3.0
)

// Draw makes the n-th face of a seed. Grades come evenly over the scale, so that rare ones are practised too; soil
// gathers in clumps. The share is exact: closed cells over all cells.
func Draw(seed uint64, n int) Face {
	r := rand.New(rand.NewPCG(seed, uint64(n))) //nolint:gosec // drawings, not secrets
	g := soil.Grade(r.IntN(6))
	lo, hi := g.Band()
	want := lo + (hi-lo)*(.1+.8*r.Float64())
	f := Face{Rows: rows, Columns: columns, Closed: make([]bool, rows*columns)}
	total := int(math.Round(want * rows * columns))
	for closed := 0; closed < total; {
		i := r.IntN(len(f.Closed))
		if f.Closed[i] || r.Float64()*(1+clumps) > 1+clumps*f.around(i) {
			continue
		}
		f.Closed[i] = true
		closed++
	}
	f.Share = float64(total) / (rows * columns)
	f.Grade = soil.GradeOf(f.Share)
	return f
}

// around is the share of a cell's neighbours that are closed.
func (f Face) around(i int) float64 {
	y, x := i/f.Columns, i%f.Columns
	closed, all := 0, 0
	for dy := -1; dy <= 1; dy++ {
		for dx := -1; dx <= 1; dx++ {
			yy, xx := y+dy, x+dx
			if (dx == 0 && dy == 0) || yy < 0 || xx < 0 || yy >= f.Rows || xx >= f.Columns {
				continue
			}
			all++
			if f.Closed[yy*f.Columns+xx] {
				closed++
			}
		}
	}
	return float64(closed) / float64(all)
}
