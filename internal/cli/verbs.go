package cli

import (
	"gyrolith/internal/cli/cards"
	"gyrolith/internal/cli/complete"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/help"
	"gyrolith/internal/cli/lookup"
)

// verbs are all of them, in the order of the work. From this list come help, guesses, the manual and completion.
var verbs []*frame.Verb

func init() { // since some verbs run others
	verbs = []*frame.Verb{
		&lookVerb, &compareVerb, &nearVerb, &lookup.WhereVerb, &convertVerb, &cleanVerb, &elevateVerb,
		&recastVerb, &dressVerb, &mergeVerb, &overlayVerb, &legsVerb, &layVerb, &cards.UnitsVerb, &cards.StowVerb,
		&cards.BootVerb, &cards.UnstowVerb, &cards.SendVerb, &drawVerb, &tallyVerb, &whenVerb, &runVerb,
		&lookup.RecipesVerb, &lookup.FormatsVerb, &lookup.SymbolsVerb, &lookup.CrsVerb, &settingsVerb,
		&help.HelpVerb, &help.ManVerb, &complete.CompletionVerb, &lookup.SchemaVerb, &demoVerb,
	}
}

// Verbs lists them.
func Verbs() []*frame.Verb { return verbs }
