package cli

import (
	"context"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/geodesy/magnetic"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/passage"
	"gyrolith/core/safefile"
)

const planning = "Planning"

const legsHelp = `Prints for each route the table of its legs: from, to, distance, total, the true and the
magnetic course at the leg's start, the change of height, and with --speed the time, with
--depart the time of arrival. Distances are along the shortest line on the ellipsoid, or
with --rhumb along the line of constant course.

The magnetic declination is that of the ` + magnetic.Name + ` (NOAA NCEI and the British
Geological Survey) on the day of departure, or today; it holds from 2025 to 2029. --declination
sets it by hand, east above zero.

--hazards FILE adds to each leg the nearest of its waypoints, lines and closures, how far off it
is, on which side, and where along the leg. With --clear, what is nearer is a finding.
--keep-out KIND:GLOB names the closures, in the data or in the hazards, that no leg may cross;
other areas are only told about. A closure's fields floor, ceiling (1500ft, 450m, FL085, GND,
UNL), valid from and valid until count where the height of the leg and its time are known.
Findings are status 3 with --strict. Hazard waypoints that are points of the route themselves,
by name and place, are left out.

--detour FILE writes the routes so that they keep the clearance and stay out of the closures.
Land, depths and whatever is not in the files are not considered.`

func (a *app) legs() *cli.Command {
	text := func(name, usage string) cli.Flag {
		return &cli.StringFlag{Name: name, Category: planning, Usage: usage}
	}
	return &cli.Command{
		Name:        "legs",
		Usage:       "the table of legs that one plans by; clearance from hazards and closures; a way around them",
		ArgsUsage:   "FILES…",
		Description: legsHelp,
		Flags: flags([]cli.Flag{
			text("speed", "the `SPEED` through the water or the air, such as 12kn"),
			text("depart", "the `TIME` of departure, such as 2026-03-14T05:30Z"),
			&cli.BoolFlag{Name: "rhumb", Category: planning, Usage: "lines of constant course instead of the shortest ones"},
			text("wind", "the wind, `FROM/SPEED` in degrees true, such as 240/15kn"),
			text("current", "the current, `TO/SPEED` in degrees true, such as 090/2kn"),
			text("declination", "the magnetic declination in `DEGREES`, east above zero, such as -23.5"),
			text("hazards", "the `FILE` of hazards: waypoints, lines and areas"),
			&cli.StringSliceFlag{Name: "hazards-take", Category: planning, Usage: "only these `KIND[:GLOB]` of the hazards; may be repeated"},
			text("clear", "the `DISTANCE` that every leg has to keep from hazards, such as 60m"),
			&cli.StringSliceFlag{Name: "keep-out", Category: planning, Usage: "the closures that no leg may cross, `KIND:GLOB` such as areas:'Nesting*'; may be repeated"},
			text("detour", "write routes that keep clear of them to this `FILE`"),
			&cli.StringFlag{Name: "output", Aliases: []string{"o"}, Category: writing, Usage: "write the table to this `FILE`, .csv or .json; - is standard output"},
			&cli.StringFlag{Name: "write-as", Category: writing, Usage: "the `FORMAT` of the detour"},
			&cli.BoolFlag{Name: "replace", Category: writing, Usage: "write over an existing file, and keep the old one beside it"},
			&cli.BoolFlag{Name: "dry-run", Category: writing, Usage: "say what would be done and write nothing"},
		}, readFlags(), answerFlags()),
		Action: a.runLegs,
	}
}

// passageStep understands the options of legs but for the hazards.
func (a *app) passageStep(c *cli.Command, o *options) (*passage.Step, error) {
	s := &passage.Step{Rhumb: c.Bool("rhumb"), On: a.now()}
	fail := func(name string, err error) error { return usageError("legs: --%s: %v", name, err) }
	err := errors.Join(quantities(c, measure.ParseSpeed, map[string]*float64{"speed": &s.Speed}), quantities(c, measure.ParseLength, map[string]*float64{"clear": &s.Clear}))
	if err != nil {
		return nil, err
	}
	if text := c.String("depart"); text != "" {
		if s.Depart, err = parseWhen(text, o.read.Zone, false); err != nil {
			return nil, fail("depart", err)
		}
	}
	for _, name := range []string{"wind", "current"} {
		text := c.String(name)
		if text == "" {
			continue
		}
		d, err := parseDrift(text, name == "wind")
		if err != nil {
			return nil, fail(name, err)
		}
		if s.Speed == 0 {
			return nil, usageError("legs: --%s needs --speed, which it adds to", name)
		}
		s.Drifts = append(s.Drifts, d)
	}
	if text := c.String("declination"); text != "" {
		v, _, ok := nav.ParseDecimal([]byte(strings.TrimSuffix(text, "°")))
		if !ok || math.Abs(v) > 180 {
			return nil, fail("declination", fmt.Errorf("%q is no number of degrees from -180 to 180; west is below zero", text))
		}
		s.Declination = &v
	}
	if s.Clear > 0 && c.String("hazards") == "" && len(c.StringSlice("keep-out")) == 0 {
		return nil, usageError("legs: --clear of what? Name the hazards with --hazards FILE, or closures with --keep-out KIND:GLOB")
	}
	for _, text := range c.StringSlice("keep-out") {
		choice, err := nav.ParseChoice(text)
		if err != nil {
			return nil, fail("keep-out", err)
		}
		s.KeepOut = append(s.KeepOut, choice)
	}
	if c.String("detour") != "" && s.Clear == 0 && len(s.KeepOut) == 0 {
		return nil, usageError("legs: --detour around what? Say the clearance with --clear, or the closures with --keep-out KIND:GLOB")
	}
	return s, nil
}

// parseDrift reads a direction and a speed; a wind is named by where it comes from.
func parseDrift(text string, from bool) (passage.Drift, error) {
	direction, speed, ok := strings.Cut(text, "/")
	degrees, _, isNumber := nav.ParseDecimal([]byte(strings.TrimSuffix(strings.TrimSpace(direction), "°")))
	if !ok || !isNumber {
		return passage.Drift{}, fmt.Errorf("%q is no direction and speed: write 240/15kn", text)
	}
	if degrees < 0 || degrees > 360 {
		return passage.Drift{}, fmt.Errorf("%q: the direction %s is not from 0 to 360", text, direction)
	}
	v, err := measure.ParseSpeed(speed)
	if err != nil {
		return passage.Drift{}, err
	}
	if from {
		degrees += 180
	}
	return passage.Drift{To: degrees, Speed: v}, nil
}

func (a *app) runLegs(_ context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	step, err := a.passageStep(c, o)
	if err != nil {
		return err
	}
	paths := c.Args().Slice()
	office, detour, err := a.legsOutputs(c, o, paths)
	if err != nil {
		return err
	}
	inputs, err := a.load(c.Name, paths, o)
	if err != nil {
		return err
	}
	data, err := a.merged(inputs, o)
	if err != nil {
		return err
	}
	if len(data.Routes) == 0 {
		return faultIn(inputs[0].Path, "has no route (it holds %s); 'gyrolith recast --tracks-to routes' or --waypoints-to routes makes one", contents(data))
	}
	hazards, err := a.hazards(c, o)
	if err != nil {
		return err
	}
	considered := "no hazards were given: land, depths, tides and dangers were not considered"
	if hazards != nil || len(step.KeepOut) > 0 {
		step.Dangers = passage.NewDangers(hazards, data, step.KeepOut)
		own := step.Dangers.LeaveOut(data.Routes)
		if considered, err = a.considered(step, own, c, o); err != nil {
			return err
		}
	}
	var tables []*passage.Table
	for i := range data.Routes {
		tables = append(tables, step.Plan(&data.Routes[i]))
	}
	findings := 0
	for _, t := range tables {
		findings += len(t.Findings)
	}
	if o.strict && findings > 0 {
		o.dryRun = true
	}
	if err := a.sayLegs(considered, tables, office, o); err != nil {
		return err
	}
	if o.strict && findings > 0 {
		first := ""
		for _, t := range tables {
			if len(t.Findings) > 0 && first == "" {
				first = findingWords(&t.Findings[0], t, o)
			}
		}
		return strictError("%s: %s, refused by --strict; nothing was written; the first: %s", inputs[0].Path, plural(findings, "finding", "findings"), first)
	}
	if detour != nil {
		return a.writeDetour(step, data, detour)
	}
	return nil
}

// legsOutputs settles where the table and the detour go, before anything is read.
func (a *app) legsOutputs(c *cli.Command, o *options, paths []string) (office string, detour *options, err error) {
	office = o.output
	if office != "" && office != "-" {
		if ext := strings.ToLower(filepath.Ext(office)); ext != ".csv" && ext != ".json" {
			return "", nil, usageError("legs: -o writes the table as .csv or .json, and %s is neither; --detour FILE writes a route", office)
		}
		for _, in := range append(paths, c.String("hazards")) {
			if same(in, office) {
				return "", nil, usageError("legs: %s is an input as well; inputs are never changed: name another output", office)
			}
		}
		if _, err := os.Lstat(office); err == nil && !o.replace && !o.dryRun {
			return "", nil, &failure{statusInput, fmt.Errorf("%s: %w", office, safefile.ErrExists)}
		}
	}
	if name := c.String("detour"); name != "" {
		d := *o
		d.output = name
		d.quiet, d.json = o.quiet || o.json, false // the answer as JSON is the table's
		if err := a.target("legs --detour", &d, append(paths, c.String("hazards"))); err != nil {
			return "", nil, err
		}
		detour = &d
	}
	return office, detour, nil
}

// hazards reads the file of hazards. What is chosen of the data is not chosen of the hazards.
func (a *app) hazards(c *cli.Command, o *options) (*nav.Dataset, error) {
	path := c.String("hazards")
	if path == "" {
		if len(c.StringSlice("hazards-take")) > 0 {
			return nil, usageError("legs: --hazards-take chooses of --hazards FILE, which is missing")
		}
		return nil, nil
	}
	reading := *o
	reading.selection, reading.readAs = nav.Selection{}, ""
	reading.read.List = true // a pasted list of hazards is no line
	for _, text := range c.StringSlice("hazards-take") {
		choice, err := nav.ParseChoice(text)
		if err != nil {
			return nil, usageError("legs: --hazards-take: %v", err)
		}
		reading.selection.Take = append(reading.selection.Take, choice)
	}
	in, err := a.loadOne(path, &reading)
	if err != nil {
		return nil, err
	}
	a.remarks(in, o)
	if in.Data.Points() == 0 {
		return nil, faultIn(path, "has no hazards that are chosen; 'gyrolith look' shows what is in it")
	}
	return in.Data, nil
}

// considered says what the legs are held against, and what not.
func (a *app) considered(s *passage.Step, own int, c *cli.Command, o *options) (string, error) {
	kinds, closures := s.Dangers.Counts()
	if len(s.KeepOut) > 0 && closures == 0 {
		return "", &failure{statusInput, fmt.Errorf("--keep-out %s names no area of the data or the hazards; 'gyrolith look' shows their names", strings.Join(c.StringSlice("keep-out"), ", "))}
	}
	var parts []string
	for i, n := range kinds {
		if n > 0 {
			parts = append(parts, plural(n, nav.Kind(i).One(), nav.Kind(i).String()))
		}
	}
	say := "considered: " + strings.Join(parts, ", ")
	if closures > 0 {
		say += fmt.Sprintf(" (%s to keep out of)", measure.Count(closures))
	}
	if s.Clear > 0 {
		say += "; clearance " + o.measure.Length(s.Clear)
	}
	if own > 0 {
		say += fmt.Sprintf("; %s left out that the route itself goes to", plural(own, "waypoint", "waypoints"))
	}
	for _, f := range s.Dangers.Faults {
		if !o.quiet {
			a.err.printf("%s %s, and bounds nothing\n", a.err.paint(yellow, "note:"), show(f))
		}
	}
	return say + "; not considered: land, depths, tides and anything that is not in these files", nil
}

// writeDetour leads every route around what it comes too near to.
func (a *app) writeDetour(s *passage.Step, data *nav.Dataset, o *options) error {
	out := &nav.Dataset{Meta: data.Meta}
	ledger := nav.Ledger{}
	for i := range data.Routes {
		r := &data.Routes[i]
		way, err := s.Detour(r)
		if err != nil {
			return &failure{statusInput, fmt.Errorf("route %q: no detour: %w", r.Name, err)}
		}
		out.Routes = append(out.Routes, way.Route)
		change := nav.Entry{Kind: nav.Routes, KindWord: "route", Name: r.Name, What: "way", Count: way.Added, Asked: true}
		if way.Added > 0 {
			change.Old, change.New = o.measure.Length(way.Before), o.measure.Length(way.After)
			change.Why = plural(way.Added, "point put in", "points put in") + ", to keep clear"
			ledger = append(ledger, change)
		} else if len(way.Moved) == 0 && !o.quiet && !o.json {
			a.err.printf("route %s keeps clear as it is\n", oneLine(r.Name, 40))
		}
		for _, m := range way.Moved {
			ledger = append(ledger, nav.Entry{Kind: nav.Routes, KindWord: "route", Name: m.Name, What: "position", Old: "too near to " + m.Hazard, New: "moved by " + o.measure.Length(m.Distance), Count: 1, Asked: true})
		}
	}
	if err := a.write(out, ledger, o); err != nil {
		return err
	}
	if !o.quiet && !o.json {
		a.err.printf("no leg of the detour has a finding; what the files do not hold, land above all, is still to be looked at\n")
	}
	return nil
}
