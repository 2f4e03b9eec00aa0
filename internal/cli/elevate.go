package cli

import (
	"fmt"

	"gyrolith/core/advice"
	"gyrolith/core/chain"
	"gyrolith/core/elevate"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// elevateVerb is elevate.
var elevateVerb = frame.Verb{Name: "elevate", Stage: frame.MakeReady,
	Brief: "heights from terrain",
	Usage: "give points heights from terrain, and report which could not get " +
		"one, and why",
	Args: "FILES… --terrain PATH -o FILE",
	Help: "Waypoints, routes and tracks get heights above mean sea level; outlines of areas get none. Terrain is " +
		"raw tiles\n" +
		"of one degree (.hgt, named by their south-western corner, also in .zip), GeoTIFF in degrees or UTM, and ASCII " +
		"grids;\n" +
		"of several grids the finest one with a height is used.\n\n" +
		fmt.Sprintf("Ascent and descent count changes of height of %d m and more.", nav.ClimbThreshold),
	Examples: []string{"elevate clean.gpx --terrain terrain -o high.gpx",
		"elevate planning.kmz --take tracks --terrain terrain --fill-voids -o high-paths.gpx"},
	Tried:   []string{"elevation", "height", "heights", "altitude"},
	Answers: []any{frame.WroteAnswer{}, frame.RunAnswer{}},
	Make:    makeElevate}

func makeElevate(a *frame.App, v *frame.Verb) frame.Made {
	s, c := a.Step(v, nil)
	s.Report = func(w *chain.Work, r *nav.Report) (nav.Ledger, error) {
		if s.JSON {
			return r.Ledger, nil
		}
		sayElevated(s.Task, r.Detail.(*elevate.Result))
		sayClimb(s.Task, w.Data)
		return nil, nil
	}
	return c
}

// sayElevated says what the user waits for: how many points were given a height, and how many not, and why.
func sayElevated(j *frame.Task, r *elevate.Result) {
	if j.Quiet {
		return
	}
	text := measure.Counted(r.Given, "point", "points") + " given a height"
	if r.Filled > 0 {
		text += fmt.Sprintf(" (%s in voids, filled from their edges)", measure.Count(r.Filled))
	}
	if r.Had > 0 {
		text += fmt.Sprintf(", %s already had one", measure.Count(r.Had))
	}
	if failed := r.InVoid + r.Outside; failed > 0 {
		text += ", " + j.Err.Paint(console.Yellow, measure.Count(failed)+" not") + " (" + r.Why() + ")"
	}
	if r.Added > 0 {
		text += fmt.Sprintf(", of which %s added", measure.Count(r.Added))
	}
	if r.Given+r.Had+r.InVoid+r.Outside > 0 { // nothing of terrain where only a geoid is given
		j.Err.Printf("%s\n", text)
	}
	if r.Converted+r.NoGeoid > 0 {
		j.Err.Printf("%s converted from the ellipsoid to mean sea level\n", measure.Counted(r.Converted, "height", "heights"))
	}
	if r.Unstated > 0 {
		j.Note(words.Advised(r.Left(), advice.Advice{Code: advice.StateHeights}))
	}
	if why := r.Unseen(); why != "" {
		j.Note(words.Advised(why, r.UnseenAdvice()))
	}
}

// fewLines are named one by one; of more, the rest are counted.
const fewLines = 12

// sayClimb says how much each line climbs now, and how many of its points have no height still.
func sayClimb(j *frame.Task, d *nav.Dataset) {
	if j.Quiet {
		return
	}
	var rows [][]string
	add := func(kind nav.Kind, name string, s nav.Summary) {
		climb := climbWords(s, j.Measure)
		if without := s.Points - s.Heights; without > 0 {
			if climb != "" {
				climb += "; "
			}
			climb += j.Err.Paint(console.Yellow, measure.Counted(without, "point", "points")+" without a height")
		}
		if s.Points > 0 {
			rows = append(rows, []string{kind.One(), console.OneLine(name, 40), words.HeightRange(s, j.Measure), climb})
		}
	}
	for i := range d.Routes {
		add(nav.Routes, d.Routes[i].Name, d.Routes[i].Summary())
	}
	for i := range d.Tracks {
		add(nav.Tracks, d.Tracks[i].Name, d.Tracks[i].Summary())
	}
	j.Err.List("  ", []console.Column{{}, {}, {Right: true}, {}}, rows, fewLines, "")
}

func climbWords(s nav.Summary, m measure.System) string {
	if s.Ascent == 0 && s.Descent == 0 {
		return ""
	}
	return "up " + m.Height(s.Ascent) + ", down " + m.Height(s.Descent)
}
