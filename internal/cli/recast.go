package cli

import (
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/recast"
)

var recastHelp = `Each of --tracks-to, --routes-to, --waypoints-to and --areas-to takes the kind that it
is turned into: waypoints, routes, tracks or areas. What is turned goes, unless
--keep-source; everything else stays as it is.

A route made of a track has all its points, unless --thin-to or --thin-within says
otherwise; then those are kept that keep its shape best, and it is said how far the
route is off at most. Waypoints that lie on the line lend it their names and symbols.

--speed gives times to lines that have none. Where heights are known it allows for
climb and descent: ten minutes for each 100 m of climb; on the way down ten minutes
less for each 300 m on slopes of 5 to 12 degrees, ten minutes more on steeper ones.
That is ` + strings.Replace(recast.PaceRule, ", with", ",\nwith", 1) + `.
--level takes no account of heights.

--split-at takes a distance (5km), a span of time (30min), a time of day or a date and
time (06:30, 2026-03-14T06:30Z), waypoint:NAME, a number of points (200points), or
unit:NAME for the number of points that the unit takes.`

func (a *app) recast() *cli.Command {
	_, c := a.step(&verb{name: "recast",
		usage: "turn waypoints, routes, tracks and areas into one another; reverse, join, split and time lines",
		args:  "FILES… -o FILE", help: recastHelp}, nil)
	return c
}
