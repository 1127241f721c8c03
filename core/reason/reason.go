// Package reason carries the terms that made up a result, as data. The interface turns them into words.
package reason

// Evidence grades how well a default is founded.
type Evidence string

// The three grades. Published names its source; a recalled figure also says "from memory".
const (
	Published      Evidence = "published"
	CommonPractice Evidence = "common_practice"
	Assumption     Evidence = "assumption"
)

// Code says which term a reason is. Every one is listed in code.go, and has its sentence in the interface.
type Code string

// Reason is one term of the arithmetic: a stable code, the numbers (SI, days) and names that belong to it.
type Reason struct {
	Code     Code               `json:"code"`
	Numbers  map[string]float64 `json:"numbers,omitempty"`
	Names    map[string]string  `json:"names,omitempty"`
	Evidence Evidence           `json:"evidence,omitempty"`
}

// Numbers is shorthand for the map of a Reason.
type Numbers = map[string]float64

// Names is shorthand for the map of a Reason.
type Names = map[string]string
