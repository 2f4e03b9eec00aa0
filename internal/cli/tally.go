package cli

import (
	"context"
	_ "embed"
	"fmt"
	"math"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/choose"
	"gyrolith/core/column"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/picture"
	"gyrolith/core/tally"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

//go:embed texts/tally.txt
var tallyHelp string

// tallyTask is the work of tally.
type tallyTask struct {
	*frame.Task
	step   tally.Step
	choice column.Choice[tally.Row]
	plot   string
	end    *chain.End // of the tracks with what they add up to; nil where a table is written
}

// tallyVerb is tally.
var tallyVerb = frame.Verb{Name: "tally", Stage: frame.DrawAndAdd,
	Brief: "totals of a day or a season",
	Usage: "total up recordings: a table of a day or a season, and of visits to areas",
	Args:  "FILES-or-folders…",
	Help:  tallyHelp,
	Examples: []string{"tally recordings", "tally recordings --by day -o days.xlsx --plot days.png",
		"tally recordings --areas planning.kmz --areas-take areas:'Nesting*'"},
	Tried:   []string{"stats", "statistics", "summary", "sum"},
	Answers: []any{tally.JSON{}},
	Make:    makeTally}

func makeTally(a *frame.App, v *frame.Verb) frame.Made {
	t := &tallyTask{Task: a.NewTask(v.Name), choice: column.Choice[tally.Row]{List: tally.Columns}}
	plot := param.Text("plot", &t.plot, "FILE", "draw the length and time of each row as bars to this `FILE`: .png, "+
		".svg or .pdf")
	plot.Path = param.Written
	return frame.Made{
		Tables: append(t.ReadTables(), t.step.Params(), append(t.choice.Params(), plot).In("Writing"),
			t.Writing("write the table to this `FILE`, .csv, .xlsx or .json, or in a format "+
				"of data, such as .gpkg, the tracks with their totals; - is standard output"), t.Answering()),
		Run: func(ctx context.Context, l *frame.Line) error { return t.run(ctx, l.Args) },
	}
}

func (t *tallyTask) run(ctx context.Context, args []string) error {
	if err := t.step.Check(); err != nil {
		return frame.Checked(t.Verb, err)
	}
	if len(args) == 0 {
		return frame.UsageError("tally: name recordings, or folders with recordings")
	}
	if err := t.Reading.Open(ctx); err != nil {
		return frame.Worded(t.Verb, err)
	}
	g, err := t.Gathered(ctx, args)
	if err != nil {
		return err
	}
	if err := t.outputs(g.Files); err != nil {
		return err
	}
	if err := t.areas(ctx); err != nil {
		return err
	}
	t.Reading.Take = t.Stage.Take
	t.step.Zone = t.Zone()
	found, names := make([]*tally.Found, len(g.Files)), input.Apart(g.Files)
	faults, others, err := t.EachFile(ctx, "adding up", g.Files, func(i int, in *format.Loaded) error {
		if err := t.RefusedInput(in); err != nil {
			return err
		}
		folder, file := frame.BesideName(names[i])
		if whole, err := filepath.Abs(g.Files[i].Path); folder == "" && t.step.Is(tally.Folder) && err == nil {
			folder = filepath.Base(filepath.Dir(whole))
		}
		found[i], err = t.step.Of(ctx, in.Data, file, folder)
		return err
	})
	if err != nil {
		return err
	}
	t.copies(found)
	var rows []tally.Row
	var visits []tally.Visit
	var tracks []nav.Track
	routes, contacts := 0, 0
	for _, f := range found {
		if f != nil {
			tracks = append(tracks, f.Tracks...)
			rows, visits, routes = append(rows, f.Rows...), append(visits, f.Visits...), routes+f.Other
			contacts += f.Contacts
		}
	}
	if contacts > 0 {
		t.Note(measure.Counted(contacts, "track", "tracks") + " of other vessels, heard by AIS, left out")
	}
	if len(rows) == 0 {
		if err := frame.Joined(faults); err != nil {
			return err
		}
		return fmt.Errorf("%s: no track to total up (%s)", args[0], measure.Counted(routes, "route", "routes"))
	}
	all, total := t.step.Gather(rows, visits)
	all = slices.Clone(all)
	layout := t.Layout()
	t.choice.Sort(all, &layout)
	t.NoteAll(t.choice.Said(all, &layout))
	if err := t.answer(all, &total, visits, frame.OfFiles(g.Files, others)); err != nil {
		return err
	}
	if t.end != nil {
		if err := t.writeTracks(ctx, rows, tracks); err != nil {
			return err
		}
	}
	return frame.Joined(faults)
}

func (t *tallyTask) outputs(files []input.File) error {
	paths := input.Paths(files)
	if t.Kit.Formats.ByPath(t.Output) != nil && !slices.Contains(column.Forms, picture.FormOf(t.Output)) {
		if !t.step.Is(tally.Track) {
			return frame.UsageError(
				"tally: tracks with their totals can be written to %s only by track; by %s there is only a table "+
					"(%s)",
				t.Output,
				t.by(),
				strings.Join(column.Forms, ", "),
			)
		}
		t.end, _ = t.Kit.NewEnd("convert")
		t.end.Name, t.step.Keep = t.Output, true
		if err := t.Settle(t.Verb, t.end, paths); err != nil {
			return err
		}
		if err := kit.Target(t.end.Output).Open(); err != nil {
			return err
		}
	} else if err := t.TableOutput(paths); err != nil {
		return err
	}
	if t.plot == "" {
		return nil
	}
	if !slices.Contains(picture.ChartForms, picture.FormOf(t.plot)) {
		return frame.UsageError("tally: --plot draws a .png, .svg or .pdf, and %s is not one of them", t.plot)
	}
	return t.Free(t.Verb, t.plot, paths)
}

// areas reads the file with areas.
func (t *tallyTask) areas(ctx context.Context) error {
	if t.step.AreasPath == "" {
		return nil
	}
	beside := t.Reading.Beside()
	beside.Take = choose.Selection{Take: t.step.AreasTake}
	in, err := beside.Load(ctx, t.step.AreasPath)
	if err != nil {
		return err
	}
	if t.step.Areas = in.Data.Areas; len(t.step.Areas) == 0 {
		return frame.FaultIn(t.step.AreasPath, "has no matching area (it has %s)", words.Contents(in.Data))
	}
	t.Remarks(in)
	return nil
}

func (t *tallyTask) answer(rows []tally.Row, total *tally.Sum, visits []tally.Visit, files int) error {
	asJSON := tally.NewJSON(rows, total, visits, t.Zone())
	if total.Untimed > 0 {
		t.Note(
			measure.Counted(total.Untimed, "point has", "points have") + " no time among points that have one: their length " +
				"counts, and no speed is calculated across them",
		)
	}
	if t.step.Is(tally.Area) {
		asJSON.Total = nil
	}
	switch {
	case t.JSON:
	case t.Output != "-" && !(t.Quiet && t.Output != ""):
		t.print(rows, total, visits, files)
	}
	var err error
	if t.end != nil {
		// the tracks are written
	} else if len(t.step.Areas) > 0 && t.step.Is(tally.Track) { // the visits are what was asked for
		err = frame.WriteTable(t.Task, "Visits", tally.VisitColumns.Usual(true), visits, asJSON)
	} else {
		err = frame.WriteTable(t.Task, "Tally", t.choice.Columns(true), rows, asJSON)
	}
	if err == nil && t.plot != "" {
		err = t.draw(rows)
	}
	if err != nil || !t.JSON {
		return err
	}
	asJSON.Written = t.Written
	return t.PrintJSON(asJSON)
}

// writeTracks writes the tracks, each with what it adds up to as fields, in a format of data.
func (t *tallyTask) writeTracks(ctx context.Context, rows []tally.Row, tracks []nav.Track) error {
	layout := t.Layout()
	d := &nav.Dataset{Tracks: tracks}
	for i := range tracks {
		item := &d.Tracks[i].Item
		item.Fields = slices.Clone(item.Fields)
		for _, c := range t.choice.Columns(true) {
			if c.Name == "name" || c.Name == "group" {
				continue
			}
			switch v := c.Cell(&rows[i], &layout).(type) {
			case nil:
			case time.Time:
				item.Fields = append(item.Fields, nav.Field{Key: c.Heading(&layout), Value: v.Format(time.RFC3339)})
			case string:
				item.Fields = append(item.Fields, nav.Field{Key: c.Heading(&layout), Value: v})
			default:
				item.Fields = append(item.Fields, nav.Field{Key: c.Heading(&layout), Value: fmt.Sprint(v), Literal: true})
			}
		}
	}
	quietly := *t.Task
	quietly.JSON, quietly.Quiet = false, t.Quiet || t.JSON
	return quietly.Write(ctx, t.end, &chain.Work{Data: d, Source: "tally", Zone: t.Zone()}, nil, false)
}

// copies tells of recordings that are in others, and leaves them out where that is asked for.
func (t *tallyTask) copies(found []*tally.Found) {
	var all []input.Recorded
	var from [][2]int // the file and the number of the track
	for i, f := range found {
		if f != nil {
			for k := range f.Recorded {
				from = append(from, [2]int{i, k})
			}
			all = append(all, f.Recorded...)
			f.Recorded = nil
		}
	}
	copies, gone := input.CopiesOf(all), map[[2]int]bool{}
	whole := 0
	for _, c := range copies {
		if c.Whole {
			whole++
		}
		if t.Reading.Distinct || !c.Whole {
			t.Note(input.TellCopy(all, c, t.Reading.Distinct))
		}
		gone[from[c.Of]] = c.Whole && t.Reading.Distinct
	}
	for i, f := range found {
		if f == nil || len(gone) == 0 {
			continue
		}
		left := func(track int) bool { return gone[[2]int{i, track}] }
		f.Rows = slices.DeleteFunc(f.Rows, func(r tally.Row) bool { return left(r.Track) })
		f.Visits = slices.DeleteFunc(f.Visits, func(v tally.Visit) bool { return left(v.Track) })
		k := -1
		f.Tracks = slices.DeleteFunc(f.Tracks, func(nav.Track) bool { k++; return left(k) })
	}
	if whole > 0 && !t.Reading.Distinct {
		t.Note(measure.Counted(whole, "recording is wholly in another one and counts", "recordings are wholly in others and "+
			"count") + " all the same; --distinct leaves them out, 'gyrolith look --duplicates' lists them")
	}
}

// by says in words what rows are by.
func (t *tallyTask) by() string {
	var words []string
	for _, by := range t.step.By {
		words = append(words, string(by))
	}
	return strings.Join(words, " and ")
}

// more are the columns that rows need besides the usual ones: what they are by, and folders where these alone tell
// files apart.
func (t *tallyTask) more(rows []tally.Row) (out []string) {
	folders, apart := map[string]string{}, t.step.Is(tally.Folder)
	for i := range rows {
		r := &rows[i]
		other, known := folders[r.File]
		apart = apart || known && r.File != "" && other != r.Folder
		folders[r.File] = r.Folder
	}
	if apart {
		out = append(out, "folder")
	}
	if t.step.Is(tally.Group) {
		out = append(out, "group")
	}
	return out
}

// few rows have no sums and means at their foot.
const few = 2

func (t *tallyTask) print(rows []tally.Row, total *tally.Sum, visits []tally.Visit, files int) {
	columns := slices.Clone(t.choice.Columns(false))
	columns = slices.DeleteFunc(columns, func(c *column.Column[tally.Row]) bool {
		return !t.choice.Given() && c.Name == "date" && t.step.Is(tally.Area)
	})
	if !t.choice.Given() && !t.step.Is(tally.Track) && !t.step.Is(tally.Leg) {
		i := slices.IndexFunc(columns, func(c *column.Column[tally.Row]) bool { return c.Name == "date" })
		columns = slices.Insert(columns, max(i, 0), tally.Columns.Named("tracks")...)
	}
	if !t.choice.Given() {
		columns = slices.Concat(tally.Columns.Named(t.more(rows)...), columns)
	}
	layout := t.Layout()
	columns = slices.DeleteFunc(
		columns,
		func(c *column.Column[tally.Row]) bool { // the foot begins in the first of the others
			return !slices.ContainsFunc(rows, func(r tally.Row) bool { return c.Text(&r, &layout) != "" })
		},
	)
	var foot [][]string
	if len(rows) >= few && !t.step.Is(tally.Area) {
		for _, line := range [][]string{t.foot("sum", columns, total), t.foot("mean", columns, tally.Mean(rows))} {
			if line != nil {
				foot = append(foot, line)
			}
		}
	}
	frame.PrintColumns(t.Task, columns, t.choice.Given(), rows, foot)
	if len(t.step.Areas) > 0 && !t.step.Is(tally.Area) {
		t.Out.Printf("\n")
		if len(visits) == 0 {
			t.Out.Printf("no visit of %s\n", measure.Counted(len(t.step.Areas), "area", "areas"))
		}
		frame.PrintColumns(t.Task, tally.VisitColumns.Usual(false), false, visits, nil)
		if sums, _ := (&tally.Step{By: []tally.By{tally.Area}}).Gather(nil, visits); len(sums) > 1 {
			var lines [][]string
			for i := range sums {
				lines = append(
					lines,
					[]string{console.OneLine(sums[i].Area, 40), measure.Counted(sums[i].Tracks, "visit", "visits"),
						clockText(&sums[i]), t.Measure.Length(sums[i].Length)},
				)
			}
			t.Out.Printf("\n")
			t.Out.Table("", []console.Column{{Title: "area"}, {Title: "visits"}, {Title: "inside", Right: true},
				{Title: "length", Right: true}}, lines)
		}
	}
	if !t.Quiet {
		t.Err.Printf("%s of %s\n", measure.Counted(total.Tracks, "track", "tracks"), measure.Counted(files, "file", "files"))
	}
}

func clockText(r *tally.Row) string {
	if r.Elapsed == 0 {
		return ""
	}
	return column.Clock(r.Elapsed)
}

// foot is a line of sums or means under the rows.
func (t *tallyTask) foot(label string, columns []*column.Column[tally.Row], s *tally.Sum) []string {
	layout := t.Layout()
	row := tally.Row{Sum: *s}
	out := make([]string, len(columns))
	for i, c := range columns {
		switch c.Name {
		case "elapsed", "moving", "standing", "gaps", "length", "ascent", "descent", "points", "faults", "tracks":
			out[i] = t.Out.Paint(console.Bold, c.Text(&row, &layout))
		case "lowest", "highest", "mean-speed", "top-speed":
			if label == "sum" {
				out[i] = t.Out.Paint(console.Bold, c.Text(&row, &layout))
			}
		}
	}
	if len(out) == 0 || strings.Join(out, "") == "" {
		return nil
	}
	out[0] = t.Out.Paint(console.Bold, label)
	return out
}

// draw draws a pair of bars for each row.
func (t *tallyTask) draw(rows []tally.Row) error {
	length, unit := t.Measure.LongMeasure()
	chart := &picture.Chart{Theme: picture.Themes["light"], Width: 1280, Height: 800, Title: "Tally by " +
		t.by(), Series: []picture.Series{{Name: "length, " + length}, {Name: "moving, h"}}}
	for i := range rows {
		r := &rows[i]
		label := r.Name
		var of []string
		for _, by := range t.step.By {
			of = append(of, map[tally.By]string{tally.Day: r.Day, tally.Week: r.Day, tally.File: r.File, tally.Folder: r.Folder,
				tally.Group: r.Group, tally.Area: r.Area}[by])
		}
		if text := strings.Join(of, " "); strings.TrimSpace(text) != "" {
			label = text
		}
		chart.Labels = append(chart.Labels, label)
		chart.Series[0].Values = append(chart.Series[0].Values, r.Length/unit)
		hours := r.Moving.Hours()
		if r.Moving == 0 {
			hours = math.NaN()
		}
		chart.Series[1].Values = append(chart.Series[1].Values, hours)
	}
	content, err := chart.File(picture.FormOf(t.plot))
	if err != nil {
		return err
	}
	return t.WriteContent(t.plot, content, "bars of "+measure.Count(len(rows))+" rows")
}
