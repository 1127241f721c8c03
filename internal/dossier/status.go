package dossier

// Statuses of a unit.
const (
	InService    = "in_service"
	OutOfService = "out_of_service"
	Retired      = "retired"
)
