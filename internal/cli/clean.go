package cli

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"gyrolith/core/clean"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

const cleaning = "Cleaning"

// faultHelp explains the faults in the help of clean.
const faultHelp = `The faults, each with one word:

  strays   positions out of range or not a number, and 0/0 far from the rest   *
  repeats  points on the same place and time; waypoints of one name and place  *
  order    times that run backwards: sorted where that makes the line shorter  *
  spikes   points off to the side and back, faster than the carrier can move   *
  epoch    dates off by whole cycles of 1,024 weeks                            *
  heights  heights that jump off and back, and lone zeros; the point stays
  stops    the knot of a halt becomes two points: arrival and departure
  gaps     a long pause or a jump splits the segment
  crumbs   segments and tracks of a point or two
  pins     waypoints that only mark corners of a line in the same data
  baggage  extensions, fields and links that simple units choke on

Those with a * are dealt with unless one says otherwise. A spike can be told from
movement when it is farther off than the top speed times the interval between two
points, and the least distance (--spike-over) beyond that: for a walker recorded
every second, at 12 km/h and 8 m, that is 12 m.

--smooth is the fixed-interval smoother of Rauch, Tung and Striebel (AIAA Journal
3(8), 1965) over a model of constant velocity. --thin-within and --thin-to keep
the points that the line needs, in space and, with times, along the line.`

func (a *app) clean() *cli.Command {
	length := func(name, usage string) cli.Flag {
		return &cli.StringFlag{Name: name, Category: cleaning, Usage: usage}
	}
	return &cli.Command{
		Name:        "clean",
		Usage:       "remove what receivers and planners got wrong, and say what was removed",
		ArgsUsage:   "FILES… -o FILE",
		Description: faultHelp,
		Flags: flags([]cli.Flag{
			length("also", "faults to remove besides those with a *, `LIST` parted by commas"),
			length("not", "faults to leave alone, `LIST`"),
			length("only", "the faults to remove, and no others, `LIST`"),
			length("carrier", "what carried the receiver, `WORD`: walk, cycle, drive, boat or fly; it sets the thresholds (default: the recording itself does)"),
			length("top-speed", "the `SPEED` that nothing exceeds, such as 12km/h (default: the carrier's; else half as much again as nine legs of ten)"),
			length("spike-over", "the least `DISTANCE` of a spike (default: 8m, or eight times the jitter of the recording)"),
			length("repeats-within", "waypoints of one name within this `DISTANCE` are one (default: the same place only)"),
			length("stop-within", "the `DISTANCE` around a stop (default: 8m, or four times the jitter)"),
			length("stop-longer", "the least `TIME` of a stop (default: 90s)"),
			length("gap-longer", "a pause longer than this `TIME` splits (default: 5min, or ten intervals)"),
			length("gap-wider", "a jump wider than this `DISTANCE` splits (default: 1000m, or twenty legs)"),
			length("climb-rate", "the `SPEED` at which heights can change (default: the carrier's; else 5m/s)"),
			length("height-over", "the least `HEIGHT` that a height must be off (default: 25m, or eight times its jitter)"),
			length("around", "all dates are near this `DATE`: shift by the cycles that bring them there"),
			&cli.BoolFlag{Name: "smooth", Category: cleaning, Usage: "take the jitter out of timed tracks"},
			length("thin-within", "leave out points as long as the line stays within this `DISTANCE`"),
			&cli.IntFlag{Name: "thin-to", Category: cleaning, Usage: "keep at most `N` points of a track, those that keep it nearest"},
			&cli.StringFlag{Name: "rejects", Category: writing, Usage: "write every removed point as a waypoint to this `FILE`, in the format of its name"},
		}, writeFlags(), readFlags(), answerFlags()),
		Action: a.runClean,
	}
}

// cleanStep understands the options of clean.
func (a *app) cleanStep(c *cli.Command) (*clean.Step, error) {
	s := &clean.Step{Faults: slices.Clone(clean.Default), Carrier: c.String("carrier"), Smooth: c.Bool("smooth"), ThinTo: int(c.Int("thin-to")), Now: a.now().UnixNano()}
	fail := func(name string, err error) error { return usageError("clean: --%s: %v", name, err) }
	if c.IsSet("only") && (c.IsSet("also") || c.IsSet("not")) {
		return nil, usageError("clean: --only says all; --also and --not don't go with it")
	}
	for _, name := range []string{"only", "also", "not"} {
		text := c.String(name)
		if text == "" {
			continue
		}
		list, err := clean.ParseFaults(text)
		if err != nil {
			return nil, fail(name, err)
		}
		switch name {
		case "only":
			s.Faults = list
		case "also":
			s.Faults = append(s.Faults, list...)
		case "not":
			s.Faults = slices.DeleteFunc(s.Faults, func(f clean.Fault) bool { return slices.Contains(list, f) })
		}
	}
	err := errors.Join(
		quantities(c, measure.ParseLength, map[string]*float64{"spike-over": &s.SpikeOver, "repeats-within": &s.RepeatsWithin, "stop-within": &s.StopWithin,
			"gap-wider": &s.GapWider, "height-over": &s.HeightOver, "thin-within": &s.ThinWithin}),
		quantities(c, measure.ParseSpeed, map[string]*float64{"top-speed": &s.TopSpeed, "climb-rate": &s.ClimbRate}),
		quantities(c, measure.ParseDuration, map[string]*time.Duration{"stop-longer": &s.StopLonger, "gap-longer": &s.GapLonger}))
	if err != nil {
		return nil, err
	}
	if text := c.String("around"); text != "" {
		ns, err := parseWhen(text, nil, false)
		if err != nil {
			return nil, fail("around", err)
		}
		s.Around = ns
		if !slices.Contains(s.Faults, clean.Epoch) {
			s.Faults = append(s.Faults, clean.Epoch)
		}
	}
	if c.IsSet("thin-to") && s.ThinTo < 2 {
		return nil, usageError("clean: --thin-to: a line has at least two points")
	}
	if s.ThinTo > 0 && s.ThinWithin > 0 {
		return nil, usageError("clean: --thin-within and --thin-to are two ways to the same: take one")
	}
	if err := s.Check(); err != nil {
		return nil, usageError("clean: %v", err)
	}
	return s, nil
}

func (a *app) runClean(_ context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	step, err := a.cleanStep(c)
	if err != nil {
		return err
	}
	paths := c.Args().Slice()
	if err := a.target(c.Name, o, paths); err != nil {
		return err
	}
	rejects := *o
	if name := c.String("rejects"); name != "" {
		if filepath.Clean(name) == filepath.Clean(o.output) {
			return usageError("clean: --rejects and -o name the same file")
		}
		rejects.output, rejects.writeAs, rejects.json, rejects.quiet, rejects.strict = name, nil, false, true, false
		if err := a.target("clean --rejects", &rejects, paths); err != nil {
			return err
		}
	}
	inputs, err := a.load(c.Name, paths, o)
	if err != nil {
		return err
	}
	// Positions that can't be used are what clean is there for: they are no loss that was not asked for.
	reading := *o
	reading.strict = false
	data, err := a.merged(inputs, &reading)
	if err != nil {
		return err
	}
	stop := a.progress(o, "cleaning "+plural(data.Points(), "point", "points"), 0, nil)
	result := step.Apply(data)
	stop()
	data.Rejects = nil
	ledger := cleanLedger(result)
	if o.strict && len(result.Rows) > 0 {
		a.printFaults(result, o)
		return strictError("%s: %s found, refused by --strict; nothing was written", inputs[0].Path, plural(len(result.Rows), "fault", "faults"))
	}
	if !o.json {
		a.printFaults(result, o)
		ledger = nil
	}
	if err := a.write(data, ledger, o); err != nil {
		return err
	}
	if rejects.output == o.output {
		return nil
	}
	// After the data, so that a refusal of these leaves no rejects behind.
	if err := a.write(result.Rejects(), nil, &rejects); err != nil {
		return err
	}
	if !o.quiet && !o.json && !o.dryRun {
		a.err.printf("the %s are in %s\n", plural(len(result.Removed), "removed point", "removed points"), show(rejects.output))
	}
	return nil
}

// cleanLedger puts what was cleaned into the form of every ledger. All of it was asked for.
func cleanLedger(r *clean.Result) nav.Ledger {
	l := nav.Ledger{}
	for _, row := range r.Rows {
		e := nav.Entry{Kind: row.Kind, KindWord: row.Kind.One(), Name: row.Item, What: string(row.Fault), Count: row.Count, Loss: true, Asked: true}
		e.Why = strings.TrimSuffix(doneWords[row.Fault], ";")
		l = append(l, e)
	}
	return l
}

// doneWords say what is done about each fault.
var doneWords = map[clean.Fault]string{
	clean.Strays: "left out", clean.Epoch: "dates shifted by whole cycles of 1,024 weeks", clean.Repeats: "removed, the first kept",
	clean.Order: "sorted by time, or removed", clean.Spikes: "removed", clean.Heights: "heights removed, the points kept",
	clean.Stops: "halts made two points each", clean.Gaps: "segments split", clean.Crumbs: "removed", clean.Pins: "waypoints removed, the line kept",
	clean.Baggage: "removed", clean.Smoothed: "positions smoothed", clean.Thinned: "points left out",
}

// printFaults prints a row a fault: how many, in which item, the farthest one off.
func (a *app) printFaults(r *clean.Result, o *options) {
	if o.quiet {
		return
	}
	if len(r.Rows) == 0 {
		a.err.printf("%s\n", a.err.paint(green, "nothing to clean"))
		return
	}
	a.err.printf("%s\n", a.err.paint(bold, "cleaned"))
	var rows [][]string
	for _, f := range faultSums(r) {
		far := ""
		if f.off > 0 {
			far = o.measure.Length(f.off)
		}
		rows = append(rows, []string{a.err.paint(yellow, string(f.fault)), measure.Count(f.count), f.where, far, doneWords[f.fault]})
	}
	a.err.table("  ", []column{{title: "fault"}, {title: "count", right: true}, {title: "in"}, {title: "farthest", right: true}, {title: "done"}}, rows)
}

// faultSum is what is said of one fault in all items together.
type faultSum struct {
	fault clean.Fault
	count int
	off   float64
	where string
	first clean.Row
	items int
}

func faultSums(r *clean.Result) []*faultSum {
	var out []*faultSum
	for _, row := range r.Rows {
		i := slices.IndexFunc(out, func(f *faultSum) bool { return f.fault == row.Fault })
		if i < 0 {
			i = len(out)
			out = append(out, &faultSum{fault: row.Fault, first: row})
		}
		f := out[i]
		f.count += row.Count
		f.off = max(f.off, row.Off)
		f.items++
	}
	for _, f := range out {
		f.where = f.first.Kind.One()
		if f.first.Item != "" {
			f.where += " " + oneLine(f.first.Item, 32)
		}
		if f.first.Number > 0 {
			f.where += fmt.Sprintf(", first at point %s", measure.Count(f.first.Number))
		}
		if f.items > 1 {
			f.where += fmt.Sprintf(" and %s more", measure.Count(f.items-1))
		}
	}
	return out
}
