package frame

// The parts of the work by which help lists the verbs.
const (
	LookAtIt   = "Look at it"
	MakeReady  = "Make it ready"
	PlanWithIt = "Plan with it"
	ToUnits    = "To units and back"
	DrawAndAdd = "Draw and add up"
	Know       = "Know"
)
