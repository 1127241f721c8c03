package soil

// State is the soil on one coil side, in load (see Load).
type State struct {
	// Face is what a look or a brush reaches.
	Face float64 `json:"face_load"`
	// Core lies between fins and slabs, seen only with light through.
	Core float64 `json:"core_load"`
}

// Total is face and core together.
func (s State) Total() float64 { return s.Face + s.Core }

// Blocked is the closed share of the free-flow area.
func (s State) Blocked() float64 { return Share(s.Total()) }

// Grade is the grade of face and core together.
func (s State) Grade() Grade { return GradeOf(s.Blocked()) }

// FaceGrade is the grade a look at the face would give.
func (s State) FaceGrade() Grade { return GradeOf(Share(s.Face)) }

// CoreGrade is the grade of the core alone.
func (s State) CoreGrade() Grade { return GradeOf(Share(s.Core)) }
