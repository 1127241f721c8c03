package organisation

// Visitor is where a request came from.
type Visitor struct {
	Address string
	// Agent is what the browser calls itself.
	Agent string
	// Device is the token of a device on which somebody signed in before; empty where there is none.
	Device string
}
