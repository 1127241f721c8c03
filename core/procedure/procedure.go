// Package procedure compiles the steps of a visit from a class's template, what the visit is for, its plan and the rules of the house, and
// says which gates are still shut.
package procedure

// Phase groups steps on the rail of a visit.
type Phase string

// The phases in the order of the work.
const (
	Arrive Phase = "arrive"
	Safe   Phase = "safe"
	Look   Phase = "look"
	Dry    Phase = "dry"
	Wet    Phase = "wet"
	Check  Phase = "check"
	Close  Phase = "close"
	Tell   Phase = "tell"
)

// Phases in order.
var Phases = []Phase{Arrive, Safe, Look, Dry, Wet, Check, Close, Tell}
