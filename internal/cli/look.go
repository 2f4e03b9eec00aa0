package cli

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/input"
	"gyrolith/core/inspect"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/picture"
	"gyrolith/internal/cli/console"
)

// lookVerb is look.
var lookVerb = verb{name: "look", stage: lookAtIt,
	brief: "show what is in files: items, totals, problems",
	usage: "show what is in files: a tree of items, totals, extent, times and problems",
	args:  "FILES-or-folders…",
	help: fmt.Sprintf("Ascent and descent count changes of height of %d m and more: less is the noise of a barometer "+
		"or a grid.\n"+
		"Problems are the faults that clean corrects; 'gyrolith clean --help' explains them.", nav.ClimbThreshold),
	examples: []string{
		"look planning.kmz",
		"look walk.gpx --map",
		"look recordings",
		"look planning.kmz --take waypoints:'Rock*' --all",
	},
	tried: []string{"info", "show", "view", "inspect", "open", "list", "ls", "stat"},
	own:   []string{"json"},
	make:  (*app).look}

func (a *app) look(v *verb) made {
	j := a.newTask(v.name)
	all, letters, each := false, false, false
	return made{tables: append(j.readTables(), param.Table{
		param.Switch("all", &all, "list every item, even of long lists"),
		param.Switch("each", &each, "show every file in full, however many there are"),
		param.Switch("map", &letters, "draw a small text map and height profile, as wide as the window"),
	}.In("Reporting").ForOneRun(), j.motion.Params().In("Reporting").ForOneRun(), j.answering()), run: func(ctx context.Context, l *commandLine) error { return j.runLook(ctx, l.args, all, letters, each) }}
}

func (j *task) runLook(ctx context.Context, args []string, all, letters, each bool) error {
	if err := j.reading.Open(ctx); err != nil {
		return err
	}
	j.reading.Take = j.stage.Take
	j.saySystem(j.reading.Options.System, false)
	g, err := j.gathered(ctx, args)
	if err != nil {
		return err
	}
	if len(g.Files) > 1 && !each && !letters && (g.Several || len(g.Files) > handful) {
		if err := j.stage.Take.Check(); err != nil {
			return usageError("look: %v", err)
		}
		return j.overview(ctx, g.Files)
	}
	inputs, fault := j.load(ctx, input.Paths(g.Files))
	var views []*inspect.View
	for _, in := range inputs {
		if in != nil { // a file that can't be used does not hide the others
			v, err := inspect.Look(ctx, in, j.now(), j.motion)
			if err != nil {
				return err
			}
			views = append(views, v)
		}
	}
	if len(views) == 0 {
		return fault
	}
	if j.json {
		if err := j.printJSON(lookJSON(views, j.zone())); err != nil {
			return err
		}
	} else {
		for i, v := range views {
			if i > 0 {
				j.out.Printf("\n")
			}
			j.printView(v, all)
			if letters && v.Data.Points() > 0 {
				j.printMap(v)
			}
		}
	}
	if j.strict {
		for _, v := range views {
			if len(v.Problems) > 0 {
				return errors.Join(fault, strictError("%s: %s found, refused by --strict", v.Path,
					plural(len(v.Problems), "sort of problem", "sorts of problems")))
			}
		}
	}
	return fault
}

// lookJSON is the answer of look: one object with a list of files.
func lookJSON(views []*inspect.View, zone *time.Location) any {
	var files []*inspect.File
	for _, v := range views {
		files = append(files, v.JSON(zone))
	}
	return map[string]any{"files": files}
}

// printMap draws what is in a file with letters.
func (j *task) printMap(v *inspect.View) {
	width := min(max(j.out.Width, 40), 160)
	j.out.Printf("\n")
	for _, line := range picture.TextMap(v.Data, width, min(max(width/5, 12), 30)) {
		j.out.Printf("%s\n", line)
	}
	for _, line := range picture.TextProfile(v.Data, width, 5) {
		j.out.Printf("%s\n", line)
	}
}

// marks are the pictures of the kinds in the tree.
var marks = [...]string{"•", "↝", "~", "▱"}

func (j *task) printView(v *inspect.View, all bool) {
	d := v.Data
	j.out.Printf("%s  %s\n", j.out.Paint(console.Bold, console.Show(v.Path)),
		j.out.Paint(console.Faint, formatWord(v.Format)))
	if d.Meta.Name != "" {
		j.out.Printf("%s\n", console.OneLine(d.Meta.Name, j.out.Width))
	}
	for _, t := range v.Told {
		j.out.Say("%s\n", j.out.Paint(console.Faint, "read: ")+console.Show(advised(t.Text, t.Advice)))
	}
	if len(v.Entries) == 0 {
		chosen := ""
		if !j.stage.Take.Empty() {
			chosen = " that match the options"
		}
		j.out.Printf("holds no waypoint, route, track or area%s\n", chosen)
	}
	b := &treeBuilder{j: j, whole: all || len(v.Entries) <= fewItems, day: v.OneDay(j.zone())}
	b.add(v.Tree(), "")
	j.out.Table("", []console.Column{{Title: "item"}, {Title: "kind"}, {Title: "points", Right: true},
		{Title: "length", Right: true},
		{Title: "heights", Right: true}, {Title: "where or when"}, {Title: "details"}}, b.rows)
	j.printUnderstood(v)
	j.printTotals(v)
}

// printUnderstood shows what was understood of a pasted plan beside what stands there, a row a fix.
func (j *task) printUnderstood(v *inspect.View) {
	var rows [][]string
	for _, w := range v.Data.AllWaypoints() {
		i := slices.IndexFunc(w.Kept, func(k nav.Kept) bool { return k.Format == "plan" && v.Format.Name == "plan" })
		if i < 0 {
			continue
		}
		row := []string{w.Kept[i].Where, console.OneLine(w.Name, 20), j.notation.Format(w.Lat, w.Lon), "", "",
			console.OneLine(w.Kept[i].Text, 60)}
		if w.HasHeight() {
			row[3] = j.measure.Height(w.Height())
		}
		if w.HasTime() {
			row[4] = w.Time().In(j.zone()).Format("02 15:04")
		}
		rows = append(rows, row)
	}
	if len(rows) > 0 {
		j.out.Table("", []console.Column{{Title: "line", Right: true}, {Title: "understood"}, {}, {Right: true}, {},
			{Title: "in the file"}}, rows)
	}
}

func formatWord(f *format.Format) string {
	word, _, _ := strings.Cut(f.Title, " (")
	return word
}

// details says what tells the kind, and the like.
func details(e *inspect.Entry) string {
	switch {
	case e.Nature != nil:
		return e.Nature.String()
	case e.Holes > 0:
		return plural(e.Holes, "hole", "holes")
	}
	return ""
}

// fewItems are shown whole; of more, long runs of a kind in a group are told by their ends.
const (
	fewItems = 30
	longRun  = 8
	runHead  = 4
)

type treeBuilder struct {
	j     *task
	whole bool
	day   string // the one day of all times, which then need not be repeated
	rows  [][]string
}

const nameWidth = 40

func (b *treeBuilder) add(n *inspect.Group, indent string) {
	type line struct {
		put func(lead string, below string)
	}
	var lines []line
	for i := 0; i < len(n.Entries); {
		run := i + 1
		for run < len(n.Entries) && n.Entries[run].Kind == n.Entries[i].Kind {
			run++
		}
		if b.whole || run-i <= longRun {
			for _, e := range n.Entries[i:run] {
				lines = append(lines, line{func(lead, _ string) { b.entry(lead, e) }})
			}
		} else {
			for _, e := range n.Entries[i : i+runHead] {
				lines = append(lines, line{func(lead, _ string) { b.entry(lead, e) }})
			}
			hidden := n.Entries[i+runHead : run-1]
			lines = append(lines, line{func(lead, _ string) {
				b.rows = append(b.rows, []string{b.j.out.Paint(console.Faint, lead) + b.j.out.Paint(console.Faint,
					fmt.Sprintf("… %s more; --all lists them", measure.Count(len(hidden)))),
					hidden[0].Kind.String(), "", "", "", "", ""})
			}})
			last := n.Entries[run-1]
			lines = append(lines, line{func(lead, _ string) { b.entry(lead, last) }})
		}
		i = run
	}
	for _, c := range n.Groups {
		lines = append(lines, line{func(lead, below string) {
			b.rows = append(b.rows, []string{b.j.out.Paint(console.Faint, lead) + b.j.out.Paint(console.Cyan,
				console.OneLine(c.Name, nameWidth)), plural(c.Size(), "item", "items"), "", "", "", "", ""})
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

func (b *treeBuilder) entry(lead string, e inspect.Entry) {
	j := b.j
	name := console.OneLine(e.Item.Name, nameWidth)
	if name == "" {
		name = b.j.out.Paint(console.Faint, "(no name)")
	}
	row := []string{b.j.out.Paint(console.Faint, lead) + marks[e.Kind] + " " + name, e.Kind.One(), "", "", "", "",
		details(&e)}
	if e.Kind == nav.Waypoints {
		row[5] = j.notation.Format(e.At.Lat, e.At.Lon)
		if e.At.HasHeight() {
			row[4] = j.measure.Height(e.At.Height())
		}
		row[6] = e.Item.Style.Symbol
		if e.At.HasTime() {
			row[6] = strings.TrimSpace(row[6] + " " + b.when(e.At))
		}
	} else {
		row[2] = measure.Count(e.Sum.Points)
		row[3] = j.measure.Length(e.Sum.Length)
		if e.Astray > 0 {
			row[6] = strings.TrimPrefix(row[6]+", length without "+plural(e.Astray, "wrong point", "wrong points"), ", ")
		}
		row[4] = heightRange(e.Sum, j.measure)
		row[5] = b.span(e.Sum)
		if climb := climbWords(e.Sum, j.measure); climb != "" && e.Kind != nav.Areas {
			row[6] = strings.TrimPrefix(row[6]+", "+climb, ", ")
		}
	}
	b.rows = append(b.rows, row)
}

func (b *treeBuilder) when(p *nav.Point) string { return b.clock(p, b.day) }

// clock writes a time in the zone that is shown, without the date when it is the given one.
func (b *treeBuilder) clock(p *nav.Point, day string) string {
	t := p.Time().In(b.j.zone())
	switch p.TimeMark() {
	case instant.Year:
		return t.Format("2006")
	case instant.Month:
		return t.Format("2006-01")
	case instant.Day:
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
	return first + " to " + b.clock(&s.Last, s.First.Time().In(b.j.zone()).Format(time.DateOnly))
}

func (j *task) printTotals(v *inspect.View) {
	d := v.Data
	var rows [][]string
	add := func(label, value string) {
		if value != "" {
			rows = append(rows, []string{j.out.Paint(console.Faint, label), value})
		}
	}
	if len(v.Entries) > 0 {
		add("total", contents(d)+", "+plural(v.Total.Points, "point", "points"))
	}
	if box, ok := d.Extent(); ok {
		south, north := j.notation.Format(box.South, box.West), j.notation.Format(box.North, box.East)
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
			text = fmt.Sprintf("%s to %s (%s wide, %s high)", south, north, j.measure.Length(width),
				j.measure.Length(geodesy.Distance(box.South, 0, box.North, 0)))
		}
		switch {
		case box.West > box.East:
			text += ", across the antimeridian"
		case box.East-box.West == 360 && max(box.North, -box.South) == 90:
			text += ", around the pole"
		}
		add("extent", text)
	}
	if s := v.Total; s.Times > 0 {
		b := &treeBuilder{j: j}
		span := b.span(s)
		if s.Times > 1 {
			span += " (" + measure.Duration(s.Last.Since(&s.First)) + ")"
		}
		zone, _ := s.First.Time().In(j.zone()).Zone()
		add("times", span+" "+zone)
	}
	if s := v.Total; s.Heights > 0 {
		line := heightRange(s, j.measure) + inspect.Above(d)
		if missing := s.Points - s.Heights; missing > 0 {
			line += fmt.Sprintf("; %s of %s points have none", measure.Count(missing), measure.Count(s.Points))
		}
		add("heights", line)
	} else if s.Points > 0 {
		add("heights", "none")
	}
	j.out.Table("", []console.Column{{}, {}}, rows)
	if len(v.Problems) == 0 {
		if len(v.Entries) > 0 {
			j.out.Printf("%s\n", j.out.Paint(console.Green, "no problems found"))
		}
		return
	}
	j.out.Printf("%s\n", j.out.Paint(console.Yellow, "problems"))
	rows = nil
	for _, p := range v.Problems {
		rows = append(rows, []string{j.out.Paint(console.Yellow, string(p.Code)), measure.Count(p.Count),
			console.Show(advised(p.Text, p.Advice))})
	}
	j.out.Table("  ", []console.Column{{}, {Right: true}, {}}, rows)
}
