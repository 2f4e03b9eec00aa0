package cli

import (
	"strings"

	"gyrolith/core/pace"
	"gyrolith/internal/cli/frame"
)

var recastHelp = `--tracks-to, --routes-to, --waypoints-to and --areas-to each name the kind to convert
to: waypoints, routes, tracks or areas. The original is removed unless --keep-source is
given; everything else stays as it is.

A route made from a track has all of its points unless --thin-to or --thin-within is
given; then the points that best keep its shape remain, and the largest distance of the
route from the track is reported. Waypoints on the line give it their names and symbols.

--speed gives times to lines that have none. ` + paceHelp + `

--split-at takes a distance (5km), a time span (30min), a time of day or a date and
time (06:30, 2026-03-14T06:30Z), day, waypoint:NAME, a number of points (200points), or
unit:NAME for the number of points that the unit accepts.`

// paceHelp is the one rule by which heights count in times.
var paceHelp = `Heights count by --climb and --descent where those
are given; else for those on foot alone (--carrier walk, or a speed up to 7 km/h): ten
minutes for each 100 m of climb; downhill ten minutes less for each 300 m on slopes of 5
to 12 degrees, and ten minutes more on steeper ones. This is ` +
	strings.Replace(pace.Walking, ", with", ",\nwith", 1) + `.
Others go as on the level, and so does everybody with --level.
`

// recastVerb is recast.
var recastVerb = frame.Verb{Name: "recast", Stage: frame.MakeReady,
	Brief: "convert between points, routes, tracks and areas",
	Usage: "convert between waypoints, routes, tracks and areas; reverse, join, split and time lines",
	Args:  "FILES… -o FILE",
	Help:  recastHelp,
	Examples: []string{
		"recast planning.kmz --take tracks:'Tarn*' --tracks-to routes --thin-within 20m -o saddle-route.gpx",
		"recast planning.kmz --take waypoints:Landings --waypoints-to routes --order near --name Tour -o tour.gpx",
		"recast clean.gpx --split-at 30min -o half-hours.gpx",
		"recast run.gpx --routes-to tracks --speed 8kn --depart 2026-03-14T05:40Z -o timed.gpx",
	},
	Tried:   []string{"split", "join", "reverse"},
	Answers: []any{frame.WroteAnswer{}, frame.RunAnswer{}},
	Make:    makeRecast}

func makeRecast(a *frame.App, v *frame.Verb) frame.Made {
	_, c := a.Step(v, nil)
	return c
}
