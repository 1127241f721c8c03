package fieldwork_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
)

func TestVisitFilesSayWhatIsWrong(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Unit("CU-1", "outdoor_condensing", "2025-03-04")
	const head = "tag,day,outcome,coil role,side,reached,why not,found,left,work,method,people\n"
	for line, want := range map[string]string{
		"XX-1,2026-02-01,done,,,yes,,2,0,deep,Brush and vacuum,The technician 30":              "line 2, tag: XX-1 is not in the register; import or add the unit first",
		"CU-1,soon,done,,,yes,,2,0,deep,Brush and vacuum,The technician 30":                    `line 2, day: "soon" is not a date: write it as 2026-03-05`,
		"CU-1,2027-02-01,done,,,yes,,2,0,deep,Brush and vacuum,The technician 30":              "line 2, day: is in the future",
		"CU-1,2026-02-01,fine,,,yes,,2,0,deep,Brush and vacuum,The technician 30":              `line 2, outcome: "fine" is not one of done, partly, no access, refused, weather, unsafe, not found`,
		"CU-1,2026-02-01,done,,,yes,,2,0,deep,Dragon fire,The technician 30":                   `line 2, method: "Dragon fire" is not one of your methods`,
		"CU-1,2026-02-01,done,,inner side,yes,,2,0,deep,Brush and vacuum,The technician 30":    `line 2, side: CU-1, condenser has no side "inner side"`,
		"CU-1,2026-02-01,done,,,yes,,7,0,deep,Brush and vacuum,The technician 30":              "line 2, found: must be between 0 and 5",
		"CU-1,2026-02-01,done,,,yes,,2,0,deep,Brush and vacuum,Nobody 30":                      `line 2, people: "Nobody" is nobody of the organisation; add them under People first`,
		"CU-1,2026-02-01,done,,,yes,,2,0,deep,Brush and vacuum,The technician":                 `line 2, people: "The technician": write each as a name and minutes, such as Technician 45; more than one apart by semicolons`,
		"CU-1,2026-02-01,done,,left,yes,,2,0,deep,Brush and vacuum,The technician 30":          "line 2, : front: say whether it was reached",
		"CU-1,2026-02-01,no access,,,,,,,,,":                                                   "line 2, note: say what stood in the way",
		"CU-1,2026-02-01,done,evaporator,,yes,,2,0,deep,Brush and vacuum,The technician 30":    "line 2, coil role: CU-1 has no evaporator",
		"CU-1,2026-02-01,done,condenser,,yes,,2,,deep,Brush and vacuum,\"The technician 30\"":  "line 2, left: say how it was left",
		"CU-1,2026-02-01,done,condenser,,maybe,,2,0,deep,Brush and vacuum,The technician 30":   `line 2, reached: "maybe" is not one of yes, no`,
		"CU-1,2026-02-01,done,condenser,,yes,,2,0,deep,Brush and vacuum,The technician 30;x 9": `line 2, people: "x" is nobody of the organisation; add them under People first`,
	} {
		run := h.Take("visits", head+line+"\n", false)
		require.NotEmpty(t, run.Report.Problems, line)
		assert.Contains(t, roomstest.Reasons(run), want)
		assert.Equal(t, contract.ImportRunStatusRefused, run.Status)
	}
	assert.Empty(t, h.Look(h.Portfolio(h.Manager)[0].UnitID).Visits)
	good := h.Take("visits", head+"CU-1,2026-02-01,done,,,yes,,2,0,deep,Brush and vacuum,The technician 30\n", false)
	assert.Equal(t, contract.ImportRunStatusStored, good.Status, roomstest.Reasons(good))
	visits := h.Look(h.Portfolio(h.Manager)[0].UnitID).Visits
	require.Len(t, visits, 1)
	assert.Len(t, visits[0].Sides, 4, "without a side, all of the coil's")
	assert.Equal(t, 30, visits[0].Minutes)
}
