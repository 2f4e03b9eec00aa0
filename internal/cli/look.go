package cli

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"gyrolith/core/clean"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/picture"
)

func (a *app) look() *cli.Command {
	return &cli.Command{
		Name:      "look",
		Usage:     "show what is in files: the items as a tree, totals, extent, times, and the problems found",
		ArgsUsage: "FILES…",
		Description: fmt.Sprintf("Ascent and descent count changes of height of %d m and more: less is the unrest of a barometer or a grid.\n"+
			"The problems are the faults that clean removes; 'gyrolith clean --help' explains them.", nav.ClimbThreshold),
		Flags: flags([]cli.Flag{
			&cli.BoolFlag{Name: "all", Category: answering, Usage: "list every item, also of long lists"},
			&cli.BoolFlag{Name: "map", Category: answering, Usage: "draw a small map and the heights, of letters, as wide as the window"},
		}, readFlags(), answerFlags()),
		Action: func(_ context.Context, c *cli.Command) error {
			o, err := a.options(c)
			if err != nil {
				return err
			}
			a.saySystem(o.read.System, false, o)
			inputs, fault := a.load(c.Name, c.Args().Slice(), o)
			var views []*view
			for _, in := range inputs {
				if in != nil { // a file that can't be used does not hide the others
					views = append(views, newView(in, a.now().UnixNano()))
				}
			}
			if len(views) == 0 {
				return fault
			}
			if o.json {
				if err := a.printJSON(lookJSON(views)); err != nil {
					return err
				}
			} else {
				for i, v := range views {
					if i > 0 {
						a.out.printf("\n")
					}
					a.printView(v, o, c.Bool("all"))
					if c.Bool("map") && v.in.Data.Points() > 0 {
						a.printMap(v)
					}
				}
			}
			if o.strict {
				for _, v := range views {
					if len(v.problems) > 0 {
						return errors.Join(fault, strictError("%s: %s found, refused by --strict", v.in.Path, plural(len(v.problems), "sort of problem", "sorts of problems")))
					}
				}
			}
			return fault
		},
	}
}

// view is a file as look shows it.
type view struct {
	in       *format.Loaded
	entries  []entry
	total    nav.Summary
	problems []problem
	told     []string // how it was read
}

// entry is one item.
type entry struct {
	kind nav.Kind
	item *nav.Item
	sum  nav.Summary
	at   *nav.Point // of a waypoint
	more string     // what tells the kind, and further details
}

type problem struct {
	code  string
	count int
	text  string
}

func newView(in *format.Loaded, now int64) *view {
	v := &view{in: in}
	d := in.Data
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		v.entries = append(v.entries, entry{nav.Waypoints, &w.Item, w.Summary(), &w.Point, ""})
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		v.entries = append(v.entries, entry{nav.Routes, &r.Item, r.Summary(), nil, ""})
	}
	for i := range d.Tracks {
		t := &d.Tracks[i]
		v.entries = append(v.entries, entry{nav.Tracks, &t.Item, t.Summary(), nil, trackNature(t)})
	}
	for i := range d.Areas {
		e := entry{nav.Areas, &d.Areas[i].Item, d.Areas[i].Summary(), nil, ""}
		if n := len(d.Areas[i].Holes); n > 0 {
			e.more = plural(n, "hole", "holes")
		}
		v.entries = append(v.entries, e)
	}
	for _, e := range v.entries {
		v.total.Join(e.sum)
	}
	v.findProblems(now)
	return v
}

// trackNature says whether a track was recorded or drawn, and by what one can tell.
func trackNature(t *nav.Track) string {
	points, timed := t.Len(), 0
	var first, last int64
	steps := 0
	for i := range t.Segments {
		for j := range t.Segments[i].Points {
			p := &t.Segments[i].Points[j]
			if !p.HasTime() {
				continue
			}
			if timed == 0 {
				first = p.UnixNano()
			}
			last = p.UnixNano()
			timed++
			if j > 0 {
				steps++
			}
		}
	}
	nature := ""
	switch {
	case points == 0:
		nature = "empty"
	case timed == 0:
		nature = "drawn: no times"
	case timed < points:
		nature = fmt.Sprintf("recorded: times at %s of %s points", measure.Count(timed), measure.Count(points))
	case timed > 1 && last != first:
		every := time.Duration((last - first) / int64(timed-1)).Round(100 * time.Millisecond)
		nature = "recorded: a time every " + measure.Duration(max(every.Round(time.Second), time.Second))
	default:
		nature = "recorded: with times"
	}
	if n := len(t.Segments); n > 1 {
		nature += fmt.Sprintf(", %d segments", n)
	}
	return nature
}

// faultWords say in a sentence what each fault is.
var faultWords = map[clean.Fault]string{
	clean.Strays:  "positions that can't be used",
	clean.Epoch:   "dates that are off by whole cycles of 1,024 weeks",
	clean.Repeats: "on the same place as one before",
	clean.Order:   "times that run backwards",
	clean.Spikes:  "points off to the side and back, faster than the rest",
	clean.Heights: "heights that jump off and back",
	clean.Stops:   "knots of a receiver that stood still",
	clean.Gaps:    "long pauses or jumps inside a segment",
	clean.Crumbs:  "points of segments of a point or two",
	clean.Pins:    "waypoints that only mark corners of a line",
}

// findProblems names the faults that clean would remove, by the same detectors, and what else is not as it should be.
func (v *view) findProblems(now int64) {
	for _, f := range faultSums(clean.Find(v.in.Data, now)) {
		text := faultWords[f.fault] + ": " + f.where
		if f.fault == clean.Strays && len(v.in.Data.Rejects) > 0 {
			text += fmt.Sprintf(", line %d (%s)", v.in.Data.Rejects[0].Line, v.in.Data.Rejects[0].Why)
		} else if f.off > 0 {
			text += fmt.Sprintf("; the farthest is %s off", measure.Metric.Length(f.off))
		}
		v.problems = append(v.problems, problem{string(f.fault), f.count, text})
	}
	missing, lines := 0, ""
	for _, e := range v.entries {
		if e.kind != nav.Waypoints && e.sum.Heights > 0 && e.sum.Heights < e.sum.Points {
			missing += e.sum.Points - e.sum.Heights
			if lines == "" {
				lines = e.kind.One() + " " + e.item.Name
			}
		}
	}
	if missing > 0 {
		v.problems = append(v.problems, problem{"no heights", missing, "points without a height in a line that has heights: " + lines})
	}
	for _, p := range v.in.Data.Problems {
		if p.Info {
			v.told = append(v.told, p.Text)
			continue
		}
		text := p.Text
		if p.Line > 0 {
			text += fmt.Sprintf(" (line %d)", p.Line)
		}
		v.problems = append(v.problems, problem{p.Code, p.Count, text})
	}
	if v.in.Cut != nil {
		text := "the file ends in the middle"
		if v.in.Cut.Line > 0 {
			text += fmt.Sprintf(", at line %d", v.in.Cut.Line)
		}
		v.problems = append(v.problems, problem{"cut off", 1, text})
	}
}

// printMap draws what is in a file with letters.
func (a *app) printMap(v *view) {
	width := min(max(a.out.width, 40), 160)
	a.out.printf("\n")
	for _, line := range picture.TextMap(v.in.Data, width, min(max(width/5, 12), 30)) {
		a.out.printf("%s\n", line)
	}
	for _, line := range picture.TextProfile(v.in.Data, width, 5) {
		a.out.printf("%s\n", line)
	}
}

// marks are the pictures of the kinds in the tree.
var marks = [...]string{"•", "↝", "~", "▱"}

func (a *app) printView(v *view, o *options, all bool) {
	d := v.in.Data
	head := a.out.paint(bold, show(v.in.Path)) + "  " + a.out.paint(faint, formatWord(v.in.Format))
	a.out.printf("%s\n", head)
	if d.Meta.Name != "" {
		a.out.printf("%s\n", oneLine(d.Meta.Name, a.out.width))
	}
	for _, text := range v.told {
		a.out.printf("%s\n", a.out.paint(faint, "read: ")+show(text))
	}
	if len(v.entries) == 0 {
		a.out.printf("holds no waypoint, route, track or area%s\n", map[bool]string{true: " that the options choose"}[!o.selection.Empty()])
	}
	rows := v.rows(a, o, all)
	cols := []column{{title: "item"}, {title: "kind"}, {title: "points", right: true}, {title: "length", right: true},
		{title: "heights", right: true}, {title: "where or when"}, {title: "details"}}
	a.out.table("", cols, rows)
	a.printTotals(v, o)
}

func formatWord(f *format.Format) string {
	word, _, _ := strings.Cut(f.Title, " (")
	return word
}

// node is a group of the tree.
type node struct {
	name    string
	nodes   []*node
	entries []entry
}

func (n *node) size() int {
	size := len(n.entries)
	for _, c := range n.nodes {
		size += c.size()
	}
	return size
}

// fewItems are shown whole; of more, long runs of a kind in a group are told by their ends.
const (
	fewItems = 30
	longRun  = 8
	runHead  = 4
)

func (v *view) rows(a *app, o *options, all bool) [][]string {
	root := &node{}
	for _, e := range v.entries {
		at := root
		if e.item.Group != "" {
			for name := range strings.SplitSeq(e.item.Group, "/") {
				i := slices.IndexFunc(at.nodes, func(n *node) bool { return n.name == name })
				if i < 0 {
					i = len(at.nodes)
					at.nodes = append(at.nodes, &node{name: name})
				}
				at = at.nodes[i]
			}
		}
		at.entries = append(at.entries, e)
	}
	day := ""
	if v.total.Times > 0 {
		if first, last := v.total.First.Time().In(o.zone), v.total.Last.Time().In(o.zone); first.YearDay() == last.YearDay() && first.Year() == last.Year() {
			day = first.Format(time.DateOnly)
		}
	}
	b := &treeBuilder{a: a, o: o, whole: all || len(v.entries) <= fewItems, day: day}
	b.add(root, "")
	return b.rows
}

type treeBuilder struct {
	a     *app
	o     *options
	whole bool
	day   string // the one day of all times, which then need not be repeated
	rows  [][]string
}

const nameWidth = 40

func (b *treeBuilder) add(n *node, indent string) {
	type line struct {
		put func(lead string, below string)
	}
	var lines []line
	for i := 0; i < len(n.entries); {
		run := i + 1
		for run < len(n.entries) && n.entries[run].kind == n.entries[i].kind {
			run++
		}
		if b.whole || run-i <= longRun {
			for _, e := range n.entries[i:run] {
				lines = append(lines, line{func(lead, _ string) { b.entry(lead, e) }})
			}
		} else {
			for _, e := range n.entries[i : i+runHead] {
				lines = append(lines, line{func(lead, _ string) { b.entry(lead, e) }})
			}
			hidden := n.entries[i+runHead : run-1]
			lines = append(lines, line{func(lead, _ string) {
				b.rows = append(b.rows, []string{b.a.out.paint(faint, lead) + b.a.out.paint(faint, fmt.Sprintf("… %s more; --all lists them", measure.Count(len(hidden)))),
					hidden[0].kind.String(), "", "", "", "", ""})
			}})
			last := n.entries[run-1]
			lines = append(lines, line{func(lead, _ string) { b.entry(lead, last) }})
		}
		i = run
	}
	for _, c := range n.nodes {
		lines = append(lines, line{func(lead, below string) {
			b.rows = append(b.rows, []string{b.a.out.paint(faint, lead) + b.a.out.paint(cyan, oneLine(c.name, nameWidth)), plural(c.size(), "item", "items"), "", "", "", "", ""})
			b.add(c, below)
		}})
	}
	for i, l := range lines {
		if i == len(lines)-1 {
			l.put(indent+"└ ", indent+"  ")
		} else {
			l.put(indent+"├ ", indent+"│ ")
		}
	}
}

func (b *treeBuilder) entry(lead string, e entry) {
	o := b.o
	name := oneLine(e.item.Name, nameWidth)
	if name == "" {
		name = b.a.out.paint(faint, "(no name)")
	}
	row := []string{b.a.out.paint(faint, lead) + marks[e.kind] + " " + name, e.kind.One(), "", "", "", "", e.more}
	if e.kind == nav.Waypoints {
		row[5] = o.notation.Format(e.at.Lat, e.at.Lon)
		if e.at.HasHeight() {
			row[4] = o.measure.Height(e.at.Height())
		}
		row[6] = e.item.Style.Symbol
		if e.at.HasTime() {
			row[6] = strings.TrimSpace(row[6] + " " + b.when(e.at))
		}
	} else {
		row[2] = measure.Count(e.sum.Points)
		row[3] = o.measure.Length(e.sum.Length)
		row[4] = heightRange(e.sum, o.measure)
		row[5] = b.span(e.sum)
		if climb := climbWords(e.sum, o.measure); climb != "" && e.kind != nav.Areas {
			row[6] = strings.TrimPrefix(row[6]+", "+climb, ", ")
		}
	}
	b.rows = append(b.rows, row)
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
	number, unit, _ := strings.Cut(low, " ")
	if _, other, _ := strings.Cut(high, " "); other == unit {
		low = number
	}
	return low + "–" + high
}

func (b *treeBuilder) when(p *nav.Point) string { return b.clock(p, b.day) }

// clock writes a time in the zone that is shown, without the date when it is the given one.
func (b *treeBuilder) clock(p *nav.Point, day string) string {
	t := p.Time().In(b.o.zone)
	switch p.TimeMark() {
	case nav.Year:
		return t.Format("2006")
	case nav.Month:
		return t.Format("2006-01")
	case nav.Day:
		return t.Format(time.DateOnly)
	}
	if d := t.Format(time.DateOnly); d != day {
		return d + " " + t.Format(time.TimeOnly)
	}
	return t.Format(time.TimeOnly)
}

func (b *treeBuilder) span(s nav.Summary) string {
	if s.Times == 0 {
		return ""
	}
	first := b.clock(&s.First, b.day)
	if s.Times == 1 || s.First.UnixNano() == s.Last.UnixNano() {
		return first
	}
	return first + " to " + b.clock(&s.Last, s.First.Time().In(b.o.zone).Format(time.DateOnly))
}

func (a *app) printTotals(v *view, o *options) {
	d := v.in.Data
	var rows [][]string
	add := func(label, value string) {
		if value != "" {
			rows = append(rows, []string{a.out.paint(faint, label), value})
		}
	}
	if len(v.entries) > 0 {
		add("total", contents(d)+", "+plural(v.total.Points, "point", "points"))
	}
	if box, ok := d.Extent(); ok {
		south, north := o.notation.Format(box.South, box.West), o.notation.Format(box.North, box.East)
		width := 0.0
		if box.West != box.East {
			mid := (box.South + box.North) / 2
			east := box.East - box.West
			if east < 0 {
				east += 360
			}
			width = geodesy.Distance(mid, 0, mid, math.Min(east, 180))
		}
		text := south
		if box.South != box.North || width > 0 {
			text = fmt.Sprintf("%s to %s (%s wide, %s high)", south, north, o.measure.Length(width), o.measure.Length(geodesy.Distance(box.South, 0, box.North, 0)))
		}
		if box.West > box.East {
			text += ", across the antimeridian"
		}
		add("extent", text)
	}
	if s := v.total; s.Times > 0 {
		b := &treeBuilder{o: o}
		span := b.span(s)
		if s.Times > 1 {
			span += " (" + measure.Duration(time.Duration(s.Last.UnixNano()-s.First.UnixNano())) + ")"
		}
		zone, _ := s.First.Time().In(o.zone).Zone()
		add("times", span+" "+zone)
	}
	if s := v.total; s.Heights > 0 {
		line := heightRange(s, o.measure) + above(v.in.Data)
		if missing := s.Points - s.Heights; missing > 0 {
			line += fmt.Sprintf("; %s of %s points have none", measure.Count(missing), measure.Count(s.Points))
		}
		add("heights", line)
	} else if s.Points > 0 {
		add("heights", "none")
	}
	a.out.table("", []column{{}, {}}, rows)
	if len(v.problems) == 0 {
		if len(v.entries) > 0 {
			a.out.printf("%s\n", a.out.paint(green, "no problems found"))
		}
		return
	}
	a.out.printf("%s\n", a.out.paint(yellow, "problems"))
	rows = nil
	for _, p := range v.problems {
		rows = append(rows, []string{a.out.paint(yellow, p.code), measure.Count(p.count), show(p.text)})
	}
	a.out.table("  ", []column{{}, {right: true}, {}}, rows)
}

type jsonItem struct {
	Kind   string   `json:"kind"`
	Name   string   `json:"name,omitempty"`
	Group  string   `json:"group,omitempty"`
	Points int      `json:"points"`
	Length *float64 `json:"length_m,omitempty"`
}

type jsonProblem struct {
	Code  string `json:"code"`
	Count int    `json:"count"`
	Text  string `json:"text"`
}

type jsonFile struct {
	Path      string        `json:"path"`
	Format    string        `json:"format"`
	Waypoints int           `json:"waypoints"`
	Routes    int           `json:"routes"`
	Tracks    int           `json:"tracks"`
	Areas     int           `json:"areas"`
	Points    int           `json:"points"`
	Length    float64       `json:"length_m"`
	Bounds    []float64     `json:"bounds,omitempty"`
	Time      []string      `json:"time,omitempty"`
	Heights   int           `json:"heights,omitempty"`
	Items     []jsonItem    `json:"items"`
	ReadAs    []string      `json:"read_as,omitempty"`
	Problems  []jsonProblem `json:"problems"`
}

// lookJSON is the answer of look as the design has it: one object with a list of files.
func lookJSON(views []*view) any {
	millimetres := func(v float64) float64 { return math.Round(v*1000) / 1000 }
	var files []jsonFile
	for _, v := range views {
		c := v.in.Data.Counts()
		f := jsonFile{Path: v.in.Path, Format: v.in.Format.Name, Waypoints: c[0], Routes: c[1], Tracks: c[2], Areas: c[3],
			Points: v.total.Points, Length: millimetres(v.total.Length), Heights: v.total.Heights, ReadAs: v.told,
			Items: []jsonItem{}, Problems: []jsonProblem{}}
		if b, ok := v.in.Data.Extent(); ok {
			f.Bounds = []float64{b.West, b.South, b.East, b.North}
		}
		if v.total.Times > 0 {
			f.Time = []string{string(v.total.First.AppendTime(nil)), string(v.total.Last.AppendTime(nil))}
		}
		for _, e := range v.entries {
			item := jsonItem{Kind: e.kind.One(), Name: e.item.Name, Group: e.item.Group, Points: e.sum.Points}
			if e.kind != nav.Waypoints {
				length := millimetres(e.sum.Length)
				item.Length = &length
			}
			f.Items = append(f.Items, item)
		}
		for _, p := range v.problems {
			f.Problems = append(f.Problems, jsonProblem{p.code, p.count, p.text})
		}
		files = append(files, f)
	}
	return map[string]any{"files": files}
}

// above says above what the heights of the data are, where they say so.
func above(d *nav.Dataset) string {
	var counts [4]int
	d.EachPoint(func(p *nav.Point) {
		if p.HasHeight() {
			counts[p.HeightOver()]++
		}
	})
	var parts []string
	for over, n := range counts {
		if n > 0 && nav.HeightOver(over) != nav.OverUnsaid {
			parts = append(parts, nav.HeightOver(over).String())
		}
	}
	if len(parts) == 0 {
		return ""
	}
	return " above " + strings.Join(parts, ", and above ")
}
