package contract

// Worked reports whether an outcome says that work was done.
func (o Outcome) Worked() bool { return o == OutcomeDone || o == OutcomePartly }
