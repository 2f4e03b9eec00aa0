package cli

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

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

// sayLegs prints the tables, and writes them for the office.
func (a *app) sayLegs(considered string, tables []*passage.Table, office string, o *options) error {
	if office != "" && (!o.dryRun || office == "-") {
		if err := a.writeOffice(considered, tables, office, o); err != nil {
			return err
		}
	}
	switch {
	case o.json:
		return a.printJSON(legsJSON(considered, tables))
	case office == "-":
		return nil
	}
	a.out.printf("%s\n", a.out.paint(faint, show(considered)))
	for i, t := range tables {
		if i > 0 {
			a.out.printf("\n")
		}
		a.printLegs(t, o)
	}
	if office != "" && !o.quiet {
		verb := a.err.paint(green, "wrote")
		if o.dryRun {
			verb = "would write"
		}
		a.err.printf("%s %s: the table of %s\n", verb, show(office), plural(len(tables), "route", "routes"))
	}
	return nil
}

// printLegs prints the table of a route and what speaks against it.
func (a *app) printLegs(t *passage.Table, o *options) {
	name := t.Route.Name
	if name == "" {
		name = "(route without a name)"
	}
	a.out.printf("%s\n", a.out.paint(bold, oneLine(name, 60)))
	course := func(v float64) string {
		if math.IsNaN(v) {
			return ""
		}
		return fmt.Sprintf("%03.0f°", math.Mod(math.Round(v), 360))
	}
	var rows [][]string
	for i := range t.Legs {
		l := &t.Legs[i]
		row := []string{strconv.Itoa(i + 1), oneLine(pointName(l.From, i), 22), oneLine(pointName(l.To, i+1), 22), o.position(l.To),
			o.measure.Length(l.Distance), o.measure.Length(l.Total), course(l.Course), course(l.Magnetic), "", "", "", "", "", ""}
		if !math.IsNaN(l.Climb) {
			row[8] = signed(o.measure.Height(l.Climb))
		}
		if !math.IsNaN(l.GroundSpeed) {
			row[9], row[10] = course(l.Heading), o.measure.Speed(l.GroundSpeed)
		}
		if l.Time > 0 {
			row[11], row[12] = clockTime(l.Time), clockTime(l.Elapsed)
		}
		if l.Arrive != 0 {
			row[13] = arrival(l.Arrive, t, o)
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		a.out.printf("a single point: no legs\n")
	}
	steady := true // without drift the heading is the course
	for i := range t.Legs {
		l := &t.Legs[i]
		steady = steady && (math.IsNaN(l.Heading) || math.Abs(math.Remainder(l.Heading-l.Course, 360)) < 1e-9)
	}
	if steady {
		for _, r := range rows {
			r[9], r[10] = "", ""
		}
	}
	a.out.table("", []column{{title: "leg", right: true}, {title: "from"}, {title: "to"}, {title: "at"}, {title: "distance", right: true}, {title: "total", right: true},
		{title: "true", right: true}, {title: "mag", right: true}, {title: "height", right: true}, {title: "steer", right: true}, {title: "ground", right: true},
		{title: "time", right: true}, {title: "elapsed", right: true}, {title: "arrive", right: true}}, rows)
	a.printNearest(t, o)
	for _, f := range t.Findings {
		a.out.printf("%s %s\n", a.out.paint(red, "finding:"), findingWords(&f, t, o))
	}
	for _, f := range t.Told {
		a.out.printf("%s %s\n", a.out.paint(faint, "told:"), findingWords(&f, t, o))
	}
	if s := declinationWords(t); s != "" {
		a.out.printf("%s\n", a.out.paint(faint, s))
	}
}

// printNearest prints how each leg passes the hazard that is nearest to it.
func (a *app) printNearest(t *passage.Table, o *options) {
	var rows [][]string
	for i := range t.Legs {
		n := t.Legs[i].Nearest
		if n == nil {
			continue
		}
		name, off, side := n.Name, o.measure.Length(n.Distance), n.Side
		if name == "" {
			name = n.Kind
		}
		if n.Distance == 0 {
			off = "crossed"
		}
		if slices.ContainsFunc(t.Findings, func(f passage.Finding) bool { return f.Leg == i+1 && f.Name == n.Name }) {
			off = a.out.paint(red, off)
		}
		rows = append(rows, []string{strconv.Itoa(i + 1), oneLine(name, 40), off, side, o.measure.Length(n.Along), o.notation.Format(n.Lat, n.Lon)})
	}
	a.out.table("", []column{{title: "leg", right: true}, {title: "nearest hazard"}, {title: "off", right: true}, {title: "to the"}, {title: "after", right: true}, {title: "passed at"}}, rows)
}

// clockTime writes a span of time as hours, minutes and seconds.
func clockTime(d time.Duration) string {
	s := int(d.Round(time.Second).Seconds())
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// arrival writes a time, with its day where the passage goes over midnight.
func arrival(ns int64, t *passage.Table, o *options) string {
	at := func(ns int64) time.Time { return time.Unix(0, ns).In(o.zone).Round(time.Second) }
	first, last := at(t.Legs[0].Arrive-int64(t.Legs[0].Time)), at(t.Legs[len(t.Legs)-1].Arrive)
	if first.YearDay() == last.YearDay() && first.Year() == last.Year() {
		return at(ns).Format("15:04:05")
	}
	return at(ns).Format("02 Jan 15:04:05")
}

func pointName(w *nav.Waypoint, i int) string {
	if w.Name == "" {
		return fmt.Sprintf("point %d", i+1)
	}
	return w.Name
}

// position writes where a leg ends, where a notation was asked for.
func (o *options) position(w *nav.Waypoint) string {
	if !o.notated {
		return ""
	}
	return o.notation.Format(w.Lat, w.Lon)
}

func signed(s string) string {
	if !strings.HasPrefix(s, "-") {
		return "+" + s
	}
	return s
}

func findingWords(f *passage.Finding, t *passage.Table, o *options) string {
	leg := ""
	if f.Leg > 0 {
		l := &t.Legs[f.Leg-1]
		leg = fmt.Sprintf("leg %d, %s to %s: ", f.Leg, oneLine(pointName(l.From, f.Leg-1), 28), oneLine(pointName(l.To, f.Leg), 28))
	}
	name := oneLine(f.Name, 40)
	if name == "" {
		name = "a hazard without a name"
	}
	switch f.Code {
	case "clearance":
		where := fmt.Sprintf("%s after its start, at %s", o.measure.Length(f.Near.Along), o.notation.Format(f.Near.Lat, f.Near.Lon))
		if f.Near.Distance == 0 {
			return fmt.Sprintf("%sgoes over %s, %s", leg, name, where)
		}
		return fmt.Sprintf("%s%s is %s to the %s, nearer than the clearance: %s", leg, name, o.measure.Length(f.Near.Distance), f.Near.Side, where)
	case "closure", "crossing":
		what := "crosses " + name
		if f.Code == "closure" {
			what = "crosses the closure " + name
		}
		words := fmt.Sprintf("%s%s from %s to %s after its start", leg, what, o.measure.Length(*f.Enter), o.measure.Length(*f.Leave))
		if f.Why != "" {
			words += ", " + f.Why
		}
		return words
	}
	return leg + f.Why
}

func declinationWords(t *passage.Table) string {
	if len(t.Legs) == 0 || math.IsNaN(t.Legs[0].Declination) {
		return ""
	}
	low, high := math.Inf(1), math.Inf(-1)
	for i := range t.Legs {
		low, high = min(low, t.Legs[i].Declination), max(high, t.Legs[i].Declination)
	}
	words := "declination " + eastWest(low)
	if eastWest(low) != eastWest(high) {
		words += " to " + eastWest(high)
	}
	return words
}

func eastWest(v float64) string {
	if v < 0 {
		return fmt.Sprintf("%.1f° W", -v)
	}
	return fmt.Sprintf("%.1f° E", v)
}

// jsonNumber leaves out what is not known.
func jsonNumber(v float64) *float64 {
	if math.IsNaN(v) {
		return nil
	}
	return &v
}

type legJSON struct {
	Leg         int           `json:"leg"`
	From        string        `json:"from"`
	To          string        `json:"to"`
	FromAt      [2]float64    `json:"from_at"`
	ToAt        [2]float64    `json:"to_at"`
	Distance    float64       `json:"distance_m"`
	Total       float64       `json:"total_m"`
	Course      float64       `json:"course_true"`
	Arriving    float64       `json:"course_on_arrival"`
	Magnetic    *float64      `json:"course_magnetic,omitempty"`
	Declination *float64      `json:"declination,omitempty"`
	Climb       *float64      `json:"height_change_m,omitempty"`
	Heading     *float64      `json:"heading_true,omitempty"`
	GroundSpeed *float64      `json:"ground_speed_mps,omitempty"`
	Seconds     float64       `json:"time_s,omitempty"`
	Arrive      string        `json:"arrive,omitempty"`
	Nearest     *passage.Near `json:"nearest,omitempty"`
}

type routeJSON struct {
	Route    string            `json:"route"`
	Legs     []legJSON         `json:"legs"`
	Findings []passage.Finding `json:"findings"`
	Told     []passage.Finding `json:"told"`
}

func legsJSON(considered string, tables []*passage.Table) any {
	out := struct {
		Considered string      `json:"considered"`
		Routes     []routeJSON `json:"routes"`
	}{Considered: considered}
	for _, t := range tables {
		r := routeJSON{Route: t.Route.Name, Legs: []legJSON{}, Findings: append([]passage.Finding{}, t.Findings...), Told: append([]passage.Finding{}, t.Told...)}
		for i := range t.Legs {
			l := &t.Legs[i]
			j := legJSON{Leg: i + 1, From: l.From.Name, To: l.To.Name, FromAt: [2]float64{l.From.Lat, l.From.Lon}, ToAt: [2]float64{l.To.Lat, l.To.Lon},
				Distance: l.Distance, Total: l.Total, Course: l.Course, Arriving: l.Arriving, Magnetic: jsonNumber(l.Magnetic), Declination: jsonNumber(l.Declination),
				Climb: jsonNumber(l.Climb), Heading: jsonNumber(l.Heading), GroundSpeed: jsonNumber(l.GroundSpeed), Seconds: l.Time.Seconds(), Nearest: l.Nearest}
			if l.Arrive != 0 {
				j.Arrive = time.Unix(0, l.Arrive).UTC().Format(time.RFC3339)
			}
			r.Legs = append(r.Legs, j)
		}
		out.Routes = append(out.Routes, r)
	}
	return out
}

// writeOffice writes the tables as CSV or JSON.
func (a *app) writeOffice(considered string, tables []*passage.Table, path string, o *options) error {
	var whole bytes.Buffer
	if strings.EqualFold(filepath.Ext(path), ".json") {
		enc := json.NewEncoder(&whole)
		enc.SetEscapeHTML(false)
		enc.SetIndent("", "  ")
		if err := enc.Encode(legsJSON(considered, tables)); err != nil {
			return err
		}
	} else if err := legsCSV(&whole, tables, o); err != nil {
		return err
	}
	if path == "-" {
		_, err := a.out.Write(whole.Bytes())
		return err
	}
	p, err := safefile.Create(path, o.replace)
	if err != nil {
		return err
	}
	defer p.Discard()
	if _, err := p.Write(whole.Bytes()); err != nil {
		return err
	}
	_, err = p.Commit()
	return err
}

func legsCSV(w io.Writer, tables []*passage.Table, o *options) error {
	length, lengthOf := o.measure.LongMeasure()
	height, heightOf := o.measure.HeightMeasure()
	speed, speedOf := o.measure.SpeedMeasure()
	out := csv.NewWriter(w)
	out.UseCRLF = true // RFC 4180
	rows := [][]string{{"route", "leg", "from", "to", "from position", "to position", "distance " + length, "total " + length, "course true", "course magnetic", "declination",
		"height change " + height, "heading true", "ground speed " + speed, "time s", "arrive", "nearest hazard", "hazard distance m", "hazard side", "hazard at " + length}}
	number := func(v float64, decimals int) string {
		if math.IsNaN(v) {
			return ""
		}
		return strconv.FormatFloat(v, 'f', decimals, 64)
	}
	for _, t := range tables {
		for i := range t.Legs {
			l := &t.Legs[i]
			row := []string{cell(t.Route.Name), strconv.Itoa(i + 1), cell(l.From.Name), cell(l.To.Name), o.notation.Format(l.From.Lat, l.From.Lon), o.notation.Format(l.To.Lat, l.To.Lon),
				number(l.Distance/lengthOf, 3), number(l.Total/lengthOf, 3), number(l.Course, 1), number(l.Magnetic, 1), number(l.Declination, 1), number(l.Climb/heightOf, 1),
				number(l.Heading, 1), number(l.GroundSpeed/speedOf, 1), "", "", "", "", "", ""}
			if l.Time > 0 {
				row[14] = number(l.Time.Seconds(), 0)
			}
			if l.Arrive != 0 {
				row[15] = time.Unix(0, l.Arrive).In(o.zone).Format(time.RFC3339)
			}
			if n := l.Nearest; n != nil {
				row[16], row[17], row[18], row[19] = cell(n.Name), number(n.Distance, 1), n.Side, number(n.Along/lengthOf, 3)
			}
			rows = append(rows, row)
		}
	}
	return out.WriteAll(rows)
}

// cell makes a text harmless for a spreadsheet, which would take it for a formula.
func cell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
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
