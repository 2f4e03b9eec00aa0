package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/recast"
)

const (
	recasting = "Recasting"
	lining    = "Lines"
)

var recastHelp = `Each of --tracks-to, --routes-to, --waypoints-to and --areas-to takes the kind that it
is turned into: waypoints, routes, tracks or areas. What is turned goes, unless
--keep-source; everything else stays as it is.

A route made of a track has all its points, unless --max-points or --within says
otherwise; then those are kept that keep its shape best, and it is said how far the
route is off at most. Waypoints that lie on the line lend it their names and symbols.

--pace gives times to lines that have none. Where heights are known it allows for
climb and descent: ten minutes for each 100 m of climb; on the way down ten minutes
less for each 300 m on slopes of 5 to 12 degrees, ten minutes more on steeper ones.
That is ` + strings.Replace(recast.PaceRule, ", with", ",\nwith", 1) + `.
--level takes no account of heights.

--split-at takes a distance (5km), a span of time (30min), a time of day or a date and
time (06:30, 2026-03-14T06:30Z), waypoint:NAME, a number of points (200points), or
unit:NAME for the number of points that the unit takes.`

func (a *app) recast() *cli.Command {
	var into []cli.Flag
	for _, kind := range []nav.Kind{nav.Tracks, nav.Routes, nav.Waypoints, nav.Areas} {
		into = append(into, &cli.StringFlag{Name: kind.String() + "-to", Category: recasting, Usage: "turn " + kind.String() + " into this `KIND`"})
	}
	text := func(category, name, usage string) cli.Flag {
		return &cli.StringFlag{Name: name, Category: category, Usage: usage}
	}
	return &cli.Command{
		Name:        "recast",
		Usage:       "turn waypoints, routes, tracks and areas into one another; reverse, join, split and time lines",
		ArgsUsage:   "FILES… -o FILE",
		Description: recastHelp,
		Flags: flags(into, []cli.Flag{
			&cli.BoolFlag{Name: "keep-source", Category: recasting, Usage: "keep what was turned as well"},
			&cli.IntFlag{Name: "max-points", Category: recasting, Usage: "a route made of a track has at most `N` points"},
			text(recasting, "within", "a route made of a track stays within this `DISTANCE` of it"),
			text(recasting, "lend-within", "waypoints within this `DISTANCE` of a line lend it their names (default: 25m)"),
			text(recasting, "closing-within", "a line whose ends are within this `DISTANCE` closes to an area (default: 10m)"),
			text(recasting, "order", "waypoints are strung together in this `ORDER`: file, name, time or near, a short way through all (default: file)"),
			text(recasting, "first", "the waypoint `NAME` that --order near begins with"),
			text(recasting, "last", "the waypoint `NAME` that it ends with; the same as the first makes a round"),
			text(recasting, "name", "make one of all waypoints, or of joined lines, with this `NAME` (default: one of each group)"),
			text(recasting, "step", "a track made of a route follows the great circle, with a point every `DISTANCE`"),
			&cli.BoolFlag{Name: "reverse", Category: lining, Usage: "turn routes and tracks around; their times go"},
			&cli.BoolFlag{Name: "join", Category: lining, Usage: "join segments and tracks, and routes, end to end, the nearest ends first"},
			text(lining, "join-within", "join only ends that are within this `DISTANCE`"),
			text(lining, "start", "the `TIME` at which lines without times begin"),
			text(lining, "pace", "the `SPEED` on the level, such as 4km/h, by which lines without times get them"),
			&cli.BoolFlag{Name: "level", Category: lining, Usage: "the pace takes no account of heights"},
			text(lining, "shift-time", "move all times by this `SPAN`, such as 2h or -90s"),
			text(lining, "split-at", "split lines at this `PLACE`, see above"),
		}, writeFlags(), readFlags(), answerFlags()),
		Action: a.runRecast,
	}
}

// recastStep understands the options of recast.
func (a *app) recastStep(c *cli.Command, o *options) (*recast.Step, error) {
	s := &recast.Step{KeepSource: c.Bool("keep-source"), Name: c.String("name"), MaxPoints: int(c.Int("max-points")), First: c.String("first"), Last: c.String("last"),
		Reverse: c.Bool("reverse"), Join: c.Bool("join") || c.IsSet("join-within"), Level: c.Bool("level"), Now: a.now().UnixNano()}
	fail := func(name string, err error) error { return usageError("recast: --%s: %v", name, err) }
	for _, from := range nav.Kinds {
		word := c.String(from.String() + "-to")
		if word == "" {
			continue
		}
		to, ok := nav.ParseKind(word)
		if !ok {
			return nil, fail(from.String()+"-to", fmt.Errorf("%q is no kind of item: say waypoints, routes, tracks or areas", word))
		}
		if to == from {
			return nil, fail(from.String()+"-to", fmt.Errorf("%s are %s already", from, to))
		}
		s.To[from] = &to
	}
	err := errors.Join(
		quantities(c, measure.ParseLength, map[string]*float64{"within": &s.Within, "lend-within": &s.LendWithin, "closing-within": &s.ClosingWithin, "step": &s.Every, "join-within": &s.JoinWithin}),
		quantities(c, measure.ParseSpeed, map[string]*float64{"pace": &s.Pace}))
	if err != nil {
		return nil, err
	}
	if text := c.String("start"); text != "" {
		if s.Start, err = parseWhen(text, o.read.Zone, false); err != nil {
			return nil, fail("start", err)
		}
	}
	if text := c.String("shift-time"); text != "" {
		if s.Shift, err = measure.ParseDuration(text); err != nil {
			return nil, fail("shift-time", err)
		}
	}
	if word := c.String("order"); word != "" {
		if s.Order = recast.Order(word); !slices.Contains(recast.Orders, s.Order) {
			return nil, fail("order", fmt.Errorf("%q is no order: say file, name, time or near", word))
		}
	}
	if c.IsSet("max-points") && s.MaxPoints < 2 {
		return nil, fail("max-points", fmt.Errorf("a route has at least two points"))
	}
	if text := c.String("split-at"); text != "" {
		if s.SplitAt, err = parseCut(text, o); err != nil {
			return nil, fail("split-at", err)
		}
	}
	if err := s.Check(); err != nil {
		return nil, usageError("recast: %v", err)
	}
	return s, nil
}

// parseCut reads where lines are split.
func parseCut(text string, o *options) (*recast.Cut, error) {
	if name, ok := strings.CutPrefix(text, "waypoint:"); ok && name != "" {
		return &recast.Cut{Waypoint: name}, nil
	}
	if name, ok := strings.CutPrefix(text, "unit:"); ok {
		p, err := findUnit(name)
		if err != nil {
			return nil, err
		}
		c := &recast.Cut{}
		for _, kind := range nav.Kinds {
			c.Points[kind] = p.Of(kind).Points
		}
		return c, nil
	}
	if n, ok := strings.CutSuffix(strings.TrimSpace(text), "points"); ok {
		most, err := strconv.Atoi(strings.TrimSpace(n))
		if err != nil || most < 2 {
			return nil, fmt.Errorf("%q is no number of points from 2 on", text)
		}
		return &recast.Cut{Points: [4]int{most, most, most, most}}, nil
	}
	if v, err := measure.ParseLength(text); err == nil && v > 0 {
		return &recast.Cut{Every: v}, nil
	}
	if v, err := measure.ParseDuration(text); err == nil && v > 0 {
		return &recast.Cut{Span: v}, nil
	} else if err != nil && strings.Contains(err.Error(), "could be") {
		return nil, err
	}
	if ns, err := parseWhen(text, o.read.Zone, false); err == nil && ns != 0 {
		return &recast.Cut{At: ns}, nil
	}
	if t, err := time.Parse("15:04", text); err == nil {
		return &recast.Cut{OfDay: time.Duration(t.Hour())*time.Hour + time.Duration(t.Minute())*time.Minute, Zone: o.zone}, nil
	}
	return nil, fmt.Errorf("%q is no place to split at: say 5km, 30min, 06:30, 2026-03-14T06:30Z, waypoint:NAME, 200points or unit:NAME", text)
}

func (a *app) runRecast(_ context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	step, err := a.recastStep(c, o)
	if err != nil {
		return err
	}
	data, path, err := a.gathered(c, o)
	if err != nil {
		return err
	}
	ledger, err := step.Apply(data)
	if err != nil {
		return faultIn(path, "%v", err)
	}
	return a.write(data, ledger, o)
}
