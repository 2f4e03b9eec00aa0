package cli

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/column"
	"gyrolith/core/dress"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/input"
	"gyrolith/core/inspect"
	"gyrolith/core/instant"
	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/picture"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// lookVerb is look.
var lookVerb = frame.Verb{Name: "look", Stage: frame.LookAtIt,
	Brief: "show what is in files: items, totals, problems",
	Usage: "show what is in files: a tree of items, totals, extent, times and problems",
	Args:  "FILES-or-folders…",
	Help: fmt.Sprintf("Ascent and descent count changes of height of %d m and more: less is the noise of a barometer "+
		"or a grid.\n"+
		"Heights that scatter more than that allows are taken together first.\n"+
		"Problems are the faults that clean corrects; 'gyrolith clean --help' explains them.", nav.ClimbThreshold),
	Examples: []string{
		"look planning.kmz",
		"look walk.gpx --map",
		"look recordings",
		"look planning.kmz --take waypoints:'Rock*' --all",
	},
	Tried:   []string{"info", "show", "view", "inspect", "open", "list", "ls", "stat"},
	Own:     []string{"json"},
	Answers: []any{words.LookAnswer{}, symbolsAnswer{}, duplicatesAnswer{}, verifyAnswer{}},
	Make:    makeLook}

func makeLook(a *frame.App, v *frame.Verb) frame.Made {
	j := a.NewTask(v.Name)
	all, letters, each, symbols, copies, verify := false, false, false, false, false, false
	return frame.Made{Tables: append(j.ReadTables(), param.Table{
		param.Switch("all", &all, "list every item, even of long lists"),
		param.Switch("each", &each, "show every file in full, however many there are"),
		param.Switch("duplicates", &copies,
			"list recordings that are the same, or wholly in another one, whatever their names"),
		param.Switch("verify", &verify, "say in a line a file whether it is whole, damaged, cut or contradictory"),
		param.Switch("symbols", &symbols, "list the symbols and what they are taken for, as a table for dress --symbols"),
		param.Switch("map", &letters, "draw a small text map and height profile, as wide as the window"),
	}.In("Reporting").ForOneRun(), j.Motion.Params().In("Reporting").ForOneRun(), j.Answering()),
		Run: func(ctx context.Context, l *frame.Line) error {
			if symbols {
				return lookSymbols(ctx, j, l.Args)
			}
			j.Reading.Salvage = j.Reading.Salvage || verify
			if err := j.Reading.Open(ctx); err != nil {
				return err
			}
			j.Reading.Take = j.Stage.Take
			j.SaySystem(j.Reading.Options.System, false)
			g, err := j.Gathered(ctx, l.Args)
			switch {
			case err != nil:
				return err
			case len(l.Args) == 0:
				return frame.UsageError("look: name at least one file or folder; 'gyrolith look --help' explains the rest")
			case copies:
				return lookDuplicates(ctx, j, g)
			case verify:
				return lookVerify(ctx, j, g)
			}
			return runLook(ctx, j, g, all, letters, each)
		}}
}

func runLook(ctx context.Context, j *frame.Task, g *input.Gathered, all, letters, each bool) error {
	if len(g.Files) > 1 && !each && !letters && (g.Several || len(g.Files) > handful) {
		if err := j.Stage.Take.Check(); err != nil {
			return frame.UsageError("look: %v", err)
		}
		return overview(ctx, j, g.Files)
	}
	inputs, fault := j.Load(ctx, g.Files)
	var views []*inspect.View
	for _, in := range inputs {
		if in != nil { // a file that can't be used does not hide the others
			v, err := inspect.Look(ctx, in, j.Now(), j.Motion)
			if err != nil {
				return err
			}
			views = append(views, v)
		}
	}
	if len(views) == 0 {
		return fault
	}
	if j.JSON {
		if err := j.PrintJSON(words.LookJSON(views, j.Zone())); err != nil {
			return err
		}
	} else {
		for i, v := range views {
			if i > 0 {
				j.Out.Printf("\n")
			}
			printView(j, v, all)
			if letters && v.Data.Points() > 0 {
				printMap(j, v)
			}
		}
	}
	if j.Strict {
		for _, v := range views {
			if len(v.Problems) > 0 {
				return errors.Join(fault, frame.StrictError("%s: %s found, refused by --strict", v.Path,
					measure.Counted(len(v.Problems), "sort of problem", "sorts of problems")))
			}
		}
	}
	return fault
}

// symbolsAnswer is what look --symbols answers as JSON.
type symbolsAnswer struct {
	Symbols []dress.FoundSymbol `json:"symbols"`
}

// lookSymbols lists the symbols of files.
func lookSymbols(ctx context.Context, j *frame.Task, args []string) error {
	w, path, err := j.Gather(ctx, args)
	if err != nil {
		return err
	}
	found := dress.FoundSymbols(w.Data)
	switch {
	case j.JSON:
		return j.PrintJSON(symbolsAnswer{found})
	case len(found) == 0:
		return &format.Error{Path: path, Msg: "has no symbols", Err: job.ErrNothingMade}
	}
	rows := make([][]any, len(found))
	for i, x := range found {
		rows[i] = []any{x.Found, x.Symbol, x.Count}
	}
	return column.WriteCSV(j.Out, []format.Heading{{Text: "found"}, {Text: "symbol"}, {Text: "count"}}, rows)
}

// printMap draws what is in a file with letters.
func printMap(j *frame.Task, v *inspect.View) {
	width := min(max(j.Out.Width, 40), 160)
	j.Out.Printf("\n")
	for _, line := range picture.TextMap(v.Data, width, min(max(width/5, 12), 30)) {
		j.Out.Printf("%s\n", line)
	}
	for _, line := range picture.TextProfile(v.Data, width, 5) {
		j.Out.Printf("%s\n", line)
	}
}

func printView(j *frame.Task, v *inspect.View, all bool) {
	d := v.Data
	j.Out.Printf("%s  %s\n", j.Out.Paint(console.Bold, console.Show(v.Path)),
		j.Out.Paint(console.Faint, formatWord(v.Format)))
	if d.Meta.Name != "" {
		j.Out.Printf("%s\n", console.OneLine(d.Meta.Name, j.Out.Width))
	}
	for _, t := range v.Notes {
		j.Out.Say("%s\n", j.Out.Paint(console.Faint, "read: ")+console.Show(words.Advised(t.Text, t.Advice)))
	}
	if len(v.Entries) == 0 {
		chosen := ""
		if !j.Stage.Take.Empty() {
			chosen = " that match the options"
		}
		j.Out.Printf("holds no waypoint, route, track or area%s\n", chosen)
	}
	b := &treeBuilder{j: j, whole: all || len(v.Entries) <= fewItems, day: v.OneDay(j.Zone())}
	b.add(v.Tree(), "")
	j.Out.Table("", []console.Column{{Title: "item"}, {Title: "kind"}, {Title: "points", Right: true},
		{Title: "length", Right: true}, {Title: "size", Right: true},
		{Title: "heights", Right: true}, {Title: "where or when"}, {Title: "details"}}, b.rows)
	printUnderstood(j, v)
	printTotals(j, v)
}

// printUnderstood shows what was understood of a pasted plan beside what stands there, a row a fix.
func printUnderstood(j *frame.Task, v *inspect.View) {
	var rows [][]string
	for _, w := range v.Data.AllWaypoints() {
		i := slices.IndexFunc(w.Kept, func(k nav.Kept) bool { return k.Format == "plan" && v.Format.Name == "plan" })
		if i < 0 {
			continue
		}
		row := []string{w.Kept[i].Where, console.OneLine(w.Name, 20), j.Notation.Format(w.Lat, w.Lon), "", "",
			console.OneLine(w.Kept[i].Text, 60)}
		if w.HasHeight() {
			row[3] = j.Measure.Height(w.Height())
		}
		if w.HasTime() {
			row[4] = w.Time().In(j.Zone()).Format("02 15:04")
		}
		rows = append(rows, row)
	}
	if len(rows) > 0 {
		j.Out.Table("", []console.Column{{Title: "line", Right: true}, {Title: "understood"}, {}, {Right: true}, {},
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
		return measure.Counted(e.Holes, "hole", "holes")
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
	j     *frame.Task
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
				b.rows = append(b.rows, []string{b.j.Out.Paint(console.Faint, lead) + b.j.Out.Paint(console.Faint,
					fmt.Sprintf("… %s more; --all lists them", measure.Count(len(hidden)))),
					hidden[0].Kind.String(), "", "", "", "", "", ""})
			}})
			last := n.Entries[run-1]
			lines = append(lines, line{func(lead, _ string) { b.entry(lead, last) }})
		}
		i = run
	}
	for _, c := range n.Groups {
		lines = append(lines, line{func(lead, below string) {
			b.rows = append(b.rows, []string{b.j.Out.Paint(console.Faint, lead) + b.j.Out.Paint(console.Cyan,
				console.OneLine(c.Name, nameWidth)), measure.Counted(c.Size(), "item", "items"), "", "",
				b.sizeOf(c), "", "", ""})
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
		name = b.j.Out.Paint(console.Faint, "(no name)")
	}
	item := b.j.Out.Paint(console.Faint, lead) + words.Marks[e.Kind] + " " + name
	row := []string{item, e.Kind.One(), "", "", "", "", "", details(&e)}
	if e.Kind == nav.Waypoints {
		row[6] = j.Notation.Format(e.At.Lat, e.At.Lon)
		if e.At.HasHeight() {
			row[5] = j.Measure.Height(e.At.Height())
		}
		row[7] = e.Item.Style.Symbol
		if e.At.HasTime() {
			row[7] = strings.TrimSpace(row[7] + " " + b.when(e.At))
		}
	} else {
		row[2] = measure.Count(e.Sum.Points)
		row[3] = j.Measure.Length(e.Sum.Length)
		if e.Kind == nav.Areas {
			row[4] = j.Measure.Area(e.Sum.Size)
		}
		if e.Astray > 0 {
			without := measure.Counted(e.Astray, "wrong point", "wrong points")
			row[7] = strings.TrimPrefix(row[7]+", length without "+without, ", ")
		}
		row[5] = words.HeightRange(e.Sum, j.Measure)
		row[6] = b.span(e.Sum)
		if climb := climbWords(e.Sum, j.Measure); climb != "" && e.Kind != nav.Areas {
			row[7] = strings.TrimPrefix(row[7]+", "+climb, ", ")
		}
	}
	b.rows = append(b.rows, row)
}

// sizeOf is how large the areas of a group are together, where there are several.
func (b *treeBuilder) sizeOf(g *inspect.Group) string {
	if n, size := g.AreaSize(); n > 1 {
		return b.j.Measure.Area(size)
	}
	return ""
}

func (b *treeBuilder) when(p *nav.Point) string { return b.clock(p, b.day) }

// clock writes a time in the zone that is shown, without the date when it is the given one.
func (b *treeBuilder) clock(p *nav.Point, day string) string {
	t := p.Time().In(b.j.Zone())
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
	return first + " to " + b.clock(&s.Last, s.First.Time().In(b.j.Zone()).Format(time.DateOnly))
}

func printTotals(j *frame.Task, v *inspect.View) {
	d := v.Data
	var rows [][]string
	add := func(label, value string) {
		if value != "" {
			rows = append(rows, []string{j.Out.Paint(console.Faint, label), value})
		}
	}
	if len(v.Entries) > 0 {
		total := words.Contents(d) + ", " + measure.Counted(v.Total.Points, "point", "points")
		if len(d.Areas) > 1 {
			which := "the areas"
			if slices.ContainsFunc(d.Areas, func(a nav.Area) bool { return a.Flawed }) {
				which = "the sound areas"
			}
			total += "; " + which + " add up to " + j.Measure.Area(v.Total.Size)
		}
		add("total", total)
	}
	if box, ok := d.Extent(); ok {
		south, north := j.Notation.Format(box.South, box.West), j.Notation.Format(box.North, box.East)
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
			text = fmt.Sprintf("%s to %s (%s wide, %s high)", south, north, j.Measure.Length(width),
				j.Measure.Length(geodesy.Distance(box.South, 0, box.North, 0)))
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
		zone, _ := s.First.Time().In(j.Zone()).Zone()
		add("times", span+" "+zone)
	}
	if s := v.Total; s.Heights > 0 {
		line := words.HeightRange(s, j.Measure) + inspect.Above(d)
		if missing := s.Points - s.Heights; missing > 0 {
			line += fmt.Sprintf("; %s of %s points have none", measure.Count(missing), measure.Count(s.Points))
		}
		add("heights", line)
	} else if s.Points > 0 {
		add("heights", "none")
	}
	j.Out.Table("", []console.Column{{}, {}}, rows)
	if len(v.Problems) == 0 {
		if len(v.Entries) > 0 {
			j.Out.Printf("%s\n", j.Out.Paint(console.Green, "no problems found"))
		}
		return
	}
	j.Out.Printf("%s\n", j.Out.Paint(console.Yellow, "problems"))
	rows = nil
	for _, p := range v.Problems {
		rows = append(rows, []string{j.Out.Paint(console.Yellow, string(p.Code)), measure.Count(p.Count),
			console.Show(words.Advised(p.Text, p.Advice))})
	}
	j.Out.Table("  ", []console.Column{{}, {Right: true}, {}}, rows)
}
