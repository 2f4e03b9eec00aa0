package cli

// The parts of the work by which help lists the verbs.
const (
	lookAtIt   = "Look at it"
	makeReady  = "Make it ready"
	planWithIt = "Plan with it"
	toUnits    = "To units and back"
	drawAndAdd = "Draw and add up"
	know       = "Know"
)

// verbs are all of them, in the order of the work. From this list come help, guesses, the manual and completion.
var verbs []*verb

func init() { // since some verbs run others
	verbs = []*verb{
		&lookVerb, &compareVerb, &nearVerb, &whereVerb, &convertVerb, &cleanVerb, &elevateVerb, &recastVerb,
		&dressVerb, &mergeVerb, &legsVerb, &layVerb, &unitsVerb, &stowVerb, &bootVerb, &unstowVerb, &sendVerb,
		&drawVerb, &tallyVerb, &whenVerb, &runVerb, &recipesVerb, &formatsVerb, &symbolsVerb, &crsVerb,
		&settingsVerb, &helpVerb, &manVerb, &completionVerb, &schemaVerb, &demoVerb,
	}
}

// verbOf finds a verb by its name; nil where there is none.
func verbOf(name string) *verb {
	for _, v := range verbs {
		if v.name == name {
			return v
		}
	}
	return nil
}

// Examples lists the examples of all verbs, in the order of the work.
func Examples() (out []string) {
	for _, v := range verbs {
		out = append(out, v.examples...)
	}
	return
}
