package soil

// MapShare is the blocked share of a face that was mapped in cells of equal size: the mean of the middles of their
// bands (assumption: within a band soil lies evenly), over the cells that were reached.
//
//	b = Σ (lo(g) + hi(g)) / 2 / n
//
// ok is false for a map without a reached cell. Grades off the scale are left out.
func MapShare(cells []Grade) (share float64, grade Grade, ok bool) {
	n := 0
	for _, g := range cells {
		if g.Valid() {
			lo, hi := g.Band()
			share += (lo + hi) / 2
			n++
		}
	}
	if n == 0 {
		return 0, Bare, false
	}
	share /= float64(n)
	return share, GradeOf(share), true
}
