package cli

import (
	"fmt"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/chain"
	"gyrolith/core/elevate"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
)

// elevateVerb is elevate.
var elevateVerb = verb{name: "elevate", stage: makeReady,
	brief: "heights from terrain",
	usage: "give points heights from terrain, and report which could not get " +
		"one, and why",
	args: "FILES… --terrain PATH -o FILE",
	help: "Waypoints, routes and tracks get heights above mean sea level; outlines of areas get none. Terrain is " +
		"raw tiles\n" +
		"of one degree (.hgt, named by their south-western corner, also in .zip), GeoTIFF in degrees or UTM, and ASCII " +
		"grids;\n" +
		"of several grids the finest one with a height is used.\n\n" +
		fmt.Sprintf("Ascent and descent count changes of height of %d m and more.", nav.ClimbThreshold),
	examples: []string{"elevate clean.gpx --terrain terrain -o high.gpx",
		"elevate planning.kmz --take tracks --terrain terrain --fill-voids -o high-paths.gpx"},
	tried: []string{"elevation", "height", "heights", "altitude"},
	make:  (*app).elevate}

func (a *app) elevate(v *verb) made {
	s, c := a.step(v, nil)
	s.report = func(w *chain.Work, r *nav.Report) (nav.Ledger, error) {
		if s.json {
			return r.Ledger, nil
		}
		s.sayElevated(r.Detail.(*elevate.Result))
		s.sayClimb(w.Data)
		return nil, nil
	}
	return c
}

// sayElevated says what the user waits for: how many points were given a height, and how many not, and why.
func (j *task) sayElevated(r *elevate.Result) {
	if j.quiet {
		return
	}
	text := plural(r.Given, "point", "points") + " given a height"
	if r.Filled > 0 {
		text += fmt.Sprintf(" (%s in voids, filled from their edges)", measure.Count(r.Filled))
	}
	if r.Had > 0 {
		text += fmt.Sprintf(", %s already had one", measure.Count(r.Had))
	}
	if failed := r.InVoid + r.Outside; failed > 0 {
		text += ", " + j.err.Paint(console.Yellow, measure.Count(failed)+" not") + " (" + r.Why() + ")"
	}
	if r.Added > 0 {
		text += fmt.Sprintf(", of which %s added", measure.Count(r.Added))
	}
	if r.Given+r.Had+r.InVoid+r.Outside > 0 { // nothing of terrain where only a geoid is given
		j.err.Printf("%s\n", text)
	}
	if r.Converted+r.NoGeoid > 0 {
		j.err.Printf("%s converted from the ellipsoid to mean sea level\n", plural(r.Converted, "height", "heights"))
	}
	if r.Unstated > 0 {
		j.note(advised(r.Left(), advice.Advice{Code: advice.StateHeights}))
	}
	if why := r.Unseen(); why != "" {
		j.note(advised(why, r.UnseenAdvice()))
	}
}

// fewLines are named one by one; of more, the rest are counted.
const fewLines = 12

// sayClimb says how much each line climbs now, and how many of its points have no height still.
func (j *task) sayClimb(d *nav.Dataset) {
	if j.quiet {
		return
	}
	var rows [][]string
	add := func(kind nav.Kind, name string, s nav.Summary) {
		words := climbWords(s, j.measure)
		if without := s.Points - s.Heights; without > 0 {
			if words != "" {
				words += "; "
			}
			words += j.err.Paint(console.Yellow, plural(without, "point", "points")+" without a height")
		}
		if s.Points > 0 {
			rows = append(rows, []string{kind.One(), console.OneLine(name, 40), heightRange(s, j.measure), words})
		}
	}
	for i := range d.Routes {
		add(nav.Routes, d.Routes[i].Name, d.Routes[i].Summary())
	}
	for i := range d.Tracks {
		add(nav.Tracks, d.Tracks[i].Name, d.Tracks[i].Summary())
	}
	j.err.List("  ", []console.Column{{}, {}, {Right: true}, {}}, rows, fewLines, "")
}

func climbWords(s nav.Summary, m measure.System) string {
	if s.Ascent == 0 && s.Descent == 0 {
		return ""
	}
	return "up " + m.Height(s.Ascent) + ", down " + m.Height(s.Descent)
}

func heightRange(s nav.Summary, m measure.System) string {
	if s.Heights == 0 {
		return ""
	}
	low, high := m.Height(s.Low), m.Height(s.High)
	if low == high {
		return low
	}
	number, name, _ := strings.Cut(low, " ")
	if _, other, _ := strings.Cut(high, " "); other == name {
		low = number
	}
	return low + "–" + high
}
