package cli

import (
	"context"

	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// duplicatesAnswer is what look --duplicates answers as JSON: groups of recordings that are one.
type duplicatesAnswer struct {
	Duplicates [][]input.Recorded `json:"duplicates"`
}

// lookDuplicates lists the recordings of files that are in others.
func lookDuplicates(ctx context.Context, j *frame.Task, g *input.Gathered) error {
	names := input.Apart(g.Files)
	found := make([][]input.Recorded, len(g.Files))
	faults, _, err := j.EachFile(ctx, "comparing", g.Files, func(i int, in *format.Loaded) error {
		found[i] = input.RecordedIn(in.Data, names[i])
		return nil
	})
	if err != nil {
		return err
	}
	var all []input.Recorded
	for _, list := range found {
		all = append(all, list...)
	}
	groups := append([][]input.Recorded{}, input.Groups(all)...)
	if j.JSON {
		if err := j.PrintJSON(duplicatesAnswer{groups}); err != nil {
			return err
		}
		return frame.Joined(faults)
	}
	var rows [][]string
	for _, group := range groups {
		for i, r := range group {
			what := "is in it"
			if i == 0 {
				what = ""
			}
			rows = append(rows, []string{console.OneLine(r.Name, 40), console.OneLine(r.File, 60),
				measure.Count(r.Of.Fixes), what})
		}
	}
	if len(groups) == 0 {
		j.Out.Printf("no recording of %s is in another one\n", measure.Counted(len(all), "track", "tracks"))
	} else {
		j.Out.Table("", []console.Column{{Title: "track"}, {Title: "file"}, {Title: "fixes", Right: true}, {}}, rows)
		j.Out.Printf("%s of %s; --distinct leaves out what is wholly in another one\n",
			measure.Counted(len(rows)-len(groups), "copy", "copies"), measure.Counted(len(all), "track", "tracks"))
	}
	return frame.Joined(faults)
}
