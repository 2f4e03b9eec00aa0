package cli

import (
	_ "embed"
	"fmt"

	"gyrolith/core/chain"
	"gyrolith/core/dress"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

//go:embed texts/dress.txt
var dressHelp string

// dressVerb is dress.
var dressVerb = frame.Verb{Name: "dress", Stage: frame.MakeReady,
	Brief: "set names, symbols, colours and groups by rules",
	Usage: "set symbols, colours, names and groups by rules",
	Args:  "FILES… --rules RULES.toml -o FILE",
	Help:  dressHelp,
	Examples: []string{"dress planning.kmz --match 'waypoints:*rock*' --symbol hazard -o marked.gpx",
		"dress planning.kmz --match waypoints:Landings --rename 'L{number:2} {name}' -o numbered.gpx",
		"dress planning.kmz --rules rules.toml -o by-rule.kmz"},
	Tried:   []string{"rename", "style", "colour", "color"},
	Answers: []any{frame.WroteAnswer{}, frame.RunAnswer{}},
	Make:    makeDress}

func makeDress(a *frame.App, v *frame.Verb) frame.Made {
	s, c := a.Step(v, nil)
	s.Report = func(_ *chain.Work, r *nav.Report) (nav.Ledger, error) {
		sayDressed(s.Task, r.Detail.(*dress.Result))
		return r.Ledger, nil
	}
	return c
}

// sayDressed says of each rule how many items it dressed, and of those that dressed none why.
func sayDressed(j *frame.Task, r *dress.Result) {
	if j.Quiet || j.JSON {
		return
	}
	if r.Several > 0 {
		j.Note(measure.Counted(r.Several, "item lies", "items lie") + " in several areas; all of them are named")
	}
	if r.Alike > 0 {
		j.Note(measure.Counted(r.Alike, "item has", "items have") + " a name now that another has too: " +
			console.OneLine(r.Shared, 40))
	}
	if r.Nameless > 0 {
		j.Note(measure.Counted(r.Nameless, "item has", "items have") + " no name now")
	}
	var rows [][]string
	for _, x := range r.Outcomes {
		count, note := fmt.Sprint(x.Dressed), ""
		if x.Dressed == 0 {
			count = j.Err.Paint(console.Yellow, "none")
			switch {
			case x.Nearest != "":
				note = "nothing matches; the nearest is " + console.OneLine(x.Nearest, 60)
			case x.Taken > 0:
				note = fmt.Sprintf("%s matching, but dressed by earlier rules", measure.Counted(x.Taken, "item", "items"))
			case x.Named > 0:
				note = fmt.Sprintf("%s matching by name, but not by its other conditions",
					measure.Counted(x.Named, "item", "items"))
			default:
				note = "nothing matches"
			}
		}
		rows = append(rows, []string{console.OneLine(x.Rule, 30), count, note})
	}
	j.Err.Table("", []console.Column{{Title: "rule"}, {Title: "dressed", Right: true}, {Title: ""}}, rows)
}
