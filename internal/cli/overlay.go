package cli

import (
	"context"
	"fmt"
	"slices"

	"gyrolith/core/chain"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/overlay"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// overlayHelp explains what can be computed.
func overlayHelp() string {
	return "Computes with areas:\n\n" + explained(overlay.All) + `
Edges run straight in longitude and latitude, and sizes are those on the ellipsoid. Lines are
cut exactly at an edge, and the point there gets the time and the height in between. An area
keeps its name, fields, style and group where it comes from one area; the ledger says what
others lose. Several pieces of one area are one area with several outlines where the format
has such, else numbered areas.

A buffer lies on the ellipsoid as well; its circles have a corner every 5 degrees, so that it
reaches a thousandth of the distance less between them. The lines between equal parts have
their direction in the middle of the area.`
}

// overlayVerb is overlay.
var overlayVerb = frame.Verb{Name: "overlay", Stage: frame.MakeReady,
	Brief: "union, intersection, difference, parts, buffers",
	Usage: "compute with areas: union, intersection, difference, equal parts, buffers",
	Args:  "WHAT FILES… -o FILE",
	Help:  overlayHelp(),
	Examples: []string{"overlay union planning.kmz --take areas -o all-closed.geojson",
		"overlay intersection walk.gpx --with planning.kmz:'Nesting*' -o inside.gpx",
		"overlay divide planning.kmz --take areas:'*Wether*' --parts 4 -o holm-parts.kml",
		"overlay buffer planning.kmz --take waypoints:'Rock*' --distance 0.1nm -o near-rocks.kml"},
	Tried:     []string{"buffer", "union", "intersect", "difference", "clip", "dissolve"},
	Completes: wordFirst(overlay.All),
	Answers:   []any{frame.WroteAnswer{}, frame.RunAnswer{}},
	Make:      makeOverlay}

func makeOverlay(a *frame.App, v *frame.Verb) frame.Made {
	s, made := a.Step(v, nil)
	made.Tables[1] = made.Tables[1].Without("what") // which is the first word
	s.Report = func(w *chain.Work, r *nav.Report) (nav.Ledger, error) {
		if !s.JSON && !s.Quiet {
			sayComputed(s.Task, w.Data, r)
		}
		return r.Ledger, nil
	}
	run := made.Run
	made.Run = func(ctx context.Context, l *frame.Line) error {
		if len(l.Args) == 0 {
			return frame.UsageError("overlay: say what to compute: %s", listed(overlay.All))
		}
		if !slices.Contains(overlay.All, overlay.What(l.Args[0])) {
			return frame.UsageError("overlay: there is no %q to compute; there are %s", l.Args[0],
				listed(overlay.All))
		}
		what := param.Setting{Name: "what", Values: l.Args[:1]}
		if err := s.Stage.Step.Params().Set(nil, []param.Setting{what}); err != nil {
			return err
		}
		rest := *l
		rest.Args, rest.Settings = l.Args[1:], append(slices.Clone(l.Settings), what)
		return run(ctx, &rest)
	}
	return made
}

// sayComputed lists the areas and lines that were made, with their sizes and lengths, and how areas were divided.
func sayComputed(j *frame.Task, d *nav.Dataset, r *nav.Report) {
	var rows [][]string
	add := func(kind nav.Kind, item *nav.Item, s nav.Summary) {
		row := []string{words.Marks[kind] + " " + console.OneLine(item.Name, 40), j.Measure.Area(s.Size),
			j.Measure.Length(s.Length)}
		if kind != nav.Areas {
			row[1] = ""
		}
		rows = append(rows, row)
	}
	total := nav.Summary{}
	for i := range d.Routes {
		add(nav.Routes, &d.Routes[i].Item, d.Routes[i].Summary())
	}
	for i := range d.Tracks {
		add(nav.Tracks, &d.Tracks[i].Item, d.Tracks[i].Summary())
	}
	for from := 0; from < len(d.Areas); { // several outlines of one area are a row
		a, sum := &d.Areas[from], nav.Summary{}
		for ; from < len(d.Areas) && (&d.Areas[from] == a || a.Whole != nil && d.Areas[from].Whole == a.Whole); from++ {
			sum.Join(d.Areas[from].Summary())
		}
		total.Join(sum)
		add(nav.Areas, &a.Item, sum)
	}
	if len(rows) > 1 && len(d.Areas) > 0 {
		rows = append(rows, []string{j.Err.Paint(console.Faint, "the sizes add up to"), j.Measure.Area(total.Size), ""})
	}
	j.Err.List("  ", []console.Column{{}, {Right: true}, {Right: true}}, rows, words.ManyRows, "")
	cuts, _ := r.Detail.([]overlay.Cut)
	for _, c := range cuts {
		text := fmt.Sprintf("%s: %s of %s each, between lines of %03.0f°", console.Show(c.Name),
			measure.Counted(c.Parts, "part", "parts"), j.Measure.Area(c.Size), c.Heading)
		if c.Turning >= 0.05 {
			text += fmt.Sprintf(" in the middle, up to %.1f° another at the ends", c.Turning)
		}
		j.Err.Printf("%s\n", text)
	}
}
