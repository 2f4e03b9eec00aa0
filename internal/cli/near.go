package cli

import (
	"cmp"
	"context"
	_ "embed"
	"errors"
	"fmt"
	"math"
	"runtime"
	"slices"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"gyrolith/core/column"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/magnetic"
	"gyrolith/core/input"
	"gyrolith/core/nav"
	"gyrolith/core/near"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

//go:embed texts/near.txt
var nearHelp string

// nearTask is the work of near.
type nearTask struct {
	*frame.Task
	within float64
	most   int
	to     string
	choice column.Choice[near.Row]
	places []near.Position
}

// usualMost are as many as are listed where neither a distance nor a number is asked for.
const usualMost = 10

// nearVerb is near.
var nearVerb = frame.Verb{Name: "near", Stage: frame.LookAtIt,
	Brief: "what is near a position",
	Usage: "list what is near a position, or near each waypoint of a list",
	Args:  "POSITION FILES-or-folders…",
	Help:  nearHelp,
	Examples: []string{
		"near 47.6012 S 11.3021 E planning.kmz",
		"near 'Rock 9' planning.kmz --take waypoints --within 3km",
		"near clean.gpx --take tracks --to planning.kmz --within 500m --sort along",
		"near --to landings.gpx planning.kmz --take waypoints:'Rock*' -o nearest.csv",
	},
	Tried:     []string{"search", "find"},
	Positions: true,
	Answers:   []any{near.Answer{}},
	Make:      makeNear}

func makeNear(a *frame.App, v *frame.Verb) frame.Made {
	n := &nearTask{Task: a.NewTask(v.Name), choice: column.Choice[near.Row]{List: near.Columns}}
	most := param.Count(
		"most",
		&n.most,
		1,
		math.MaxInt32,
		"N",
		"list at most the `N` nearest (default: 10, or all within "+
			"the distance; 1 with --to)",
	)
	return frame.Made{Tables: append(
		n.ReadTables(),
		append(param.Table{
			param.Length("within", &n.within, "DISTANCE", "only items within this `DISTANCE`, such as 2km"), most,
			param.File("to", &n.to, "FILE", "search near each waypoint of this `FILE` instead of a position"),
		}, n.choice.Params()...).In("Near"),
		n.Writing("write the table to this `FILE`, .csv, .xlsx or .json; - is standard output"),
		n.Answering(),
	), Run: func(ctx context.Context, l *frame.Line) error { return n.run(ctx, l.Args) }}
}

// mostPositionWords are the words of the longest notation, such as 47 36 4.5 S 11 18 7.6 E.
const mostPositionWords = 8

// position takes a position from the front of the arguments.
func position(args []string) (p near.Position, rest []string, err error) {
	err = geodesy.ErrNoPosition
	for k := min(len(args), mostPositionWords); k > 0; k-- {
		lat, lon, wrong := geodesy.ParsePosition(strings.Join(args[:k], " "))
		if wrong == nil {
			return near.Position{Point: nav.At(lat, lon)}, args[k:], nil
		}
		if !errors.Is(wrong, geodesy.ErrNoPosition) && errors.Is(err, geodesy.ErrNoPosition) {
			err = wrong // it has the shape of one, and can't be right
		}
	}
	return near.Position{}, args, err
}

func (n *nearTask) run(ctx context.Context, args []string) error {
	if err := n.Reading.Open(ctx); err != nil {
		return frame.Worded(n.Verb, err)
	}
	name := ""
	if n.to == "" {
		p, rest, err := position(args)
		switch {
		case err == nil:
			n.places = []near.Position{p}
		case !errors.Is(err, geodesy.ErrNoPosition):
			return frame.UsageError("near: %v", err)
		case len(args) > 1:
			name, rest = args[0], args[1:]
		default:
			return frame.UsageError(
				"near: give a position, such as '47.6012 S 11.3021 E', or the name of a waypoint, and then the " +
					"files",
			)
		}
		args = rest
	}
	if len(args) == 0 {
		return frame.UsageError("near: name the files or folders to look in")
	}
	g, err := n.Gathered(ctx, args)
	if err != nil {
		return err
	}
	if err := n.TableOutput(input.Paths(g.Files)); err != nil {
		return err
	}
	if n.to != "" {
		if err := n.list(ctx); err != nil {
			return err
		}
	}
	if name != "" {
		if err := n.named(ctx, name, g.Files); err != nil {
			return err
		}
	}
	if n.most == 0 && n.within == 0 {
		if n.most = usualMost; n.to != "" {
			n.most = 1
		}
	}
	if n.within == 0 {
		n.within = math.Inf(1)
	}
	n.Reading.Take = n.Stage.Take
	type track struct {
		file   string
		number int
	}
	recorded := make([][]input.Recorded, len(g.Files))
	hits, names := make([][]near.Row, len(n.places)), input.Apart(g.Files)
	var mu sync.Mutex
	faults, _, err := n.EachFile(ctx, "looking", g.Files, func(i int, in *format.Loaded) error {
		if err := n.RefusedInput(in); err != nil {
			return err
		}
		x := near.NewIndex(in.Data, names[i])
		x.Along = n.to != "" || n.choice.Given()
		if n.Reading.Distinct {
			recorded[i] = input.RecordedIn(in.Data, names[i])
		}
		group, ctx := errgroup.WithContext(ctx)
		const together = 256
		group.SetLimit(runtime.GOMAXPROCS(0))
		for from := 0; from < len(n.places); from += together {
			group.Go(func() error {
				for k := from; k < min(from+together, len(n.places)) && ctx.Err() == nil; k++ {
					p := &n.places[k]
					found := x.Near(&p.Point, n.within, n.mostOf(p))
					mu.Lock()
					for _, h := range found {
						if !p.Same(&h) {
							hits[k] = append(hits[k], near.Row{Of: p.Name, Hit: h, Declination: n.declination(p)})
						}
					}
					mu.Unlock()
				}
				return ctx.Err()
			})
		}
		return group.Wait()
	})
	if err != nil {
		return err
	}
	if err := frame.Joined(faults); err != nil && !slices.Contains(faults, nil) { // of no file anything is known
		return err
	}
	var all []input.Recorded
	var from []track
	for i, list := range recorded {
		for k := range list {
			all, from = append(all, list[k]), append(from, track{names[i], k})
		}
	}
	gone := map[track]bool{}
	for _, c := range input.CopiesOf(all) {
		n.Note(input.TellCopy(all, c, true))
		gone[from[c.Of]] = c.Whole
	}
	var rows []near.Row
	for k := range hits {
		hits[k] = slices.DeleteFunc(hits[k], func(r near.Row) bool {
			return r.Kind == nav.Tracks && gone[track{r.File, r.Number}]
		})
		slices.SortStableFunc(hits[k], func(a, b near.Row) int {
			return cmp.Or(cmp.Compare(a.Distance, b.Distance), strings.Compare(a.File, b.File),
				strings.Compare(a.Name, b.Name))
		})
		if n.most > 0 && len(hits[k]) > n.most {
			hits[k] = hits[k][:n.most]
		}
		rows = append(rows, hits[k]...)
	}
	layout := n.Layout()
	n.choice.Sort(rows, &layout)
	n.NoteAll(n.choice.Said(rows, &layout))
	if err := n.answer(rows, len(g.Files)); err != nil {
		return err
	}
	return frame.Joined(faults)
}

// mostOf is how many are asked for, and one more where the waypoint itself may be among them.
func (n *nearTask) mostOf(p *near.Position) int {
	if n.most == 0 || p.Name == "" {
		return n.most
	}
	return n.most + 1
}

func (n *nearTask) declination(p *near.Position) float64 {
	day := n.Reading.Options.On
	if !magnetic.Covers(day) {
		return math.NaN()
	}
	return magnetic.Declination(p.Lat, p.Lon, 0, magnetic.Year(day))
}

// list reads the waypoints that are asked for.
func (n *nearTask) list(ctx context.Context) error {
	in, err := n.Reading.Beside().Load(ctx, n.to)
	if err != nil {
		return err
	}
	n.Remarks(in)
	for _, w := range in.Data.AllWaypoints() {
		n.places = append(n.places, near.Position{Name: w.Name, Point: w.Point})
	}
	if len(n.places) == 0 {
		return frame.FaultIn(n.to, "has no waypoint and no route (it has %s)", words.Contents(in.Data))
	}
	return nil
}

// named looks for the waypoint of a name in the files.
func (n *nearTask) named(ctx context.Context, name string, files []input.File) error {
	var mu sync.Mutex
	found := map[string]near.Position{}
	_, _, err := n.EachFile(ctx, "looking for "+console.OneLine(name, 30), files, func(_ int, in *format.Loaded) error {
		for _, w := range in.Data.AllWaypoints() {
			if strings.EqualFold(w.Name, name) {
				mu.Lock()
				// Copies of one mark in several files are one.
				found[fmt.Sprintf("%.5f %.5f", w.Lat, w.Lon)] = near.Position{Name: w.Name, Point: w.Point}
				mu.Unlock()
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	switch len(found) {
	case 0:
		return frame.UsageError(
			"near: %q is neither a position, such as '47.6012 S 11.3021 E', nor the name of a waypoint in these "+
				"files",
			name,
		)
	case 1:
		for _, p := range found {
			n.places = []near.Position{p}
		}
		return nil
	}
	return frame.UsageError("near: %s waypoints are called %q; give the position instead", countText(len(found)), name)
}

func countText(n int) string { return fmt.Sprint(n) }

func (n *nearTask) answer(rows []near.Row, files int) error {
	asJSON := near.NewJSON(rows)
	switch {
	case n.JSON:
	case n.Output != "-" && !(n.Quiet && n.Output != ""):
		if len(n.places) == 1 && !n.Quiet {
			p := &n.places[0]
			n.Err.Printf("%s\n", n.Err.Paint(console.Faint, strings.TrimSpace("from "+console.Show(p.Name)+" "+
				n.Notation.Format(p.Lat, p.Lon))))
		}
		shown := slices.Clone(rows)
		if len(n.places) == 1 || files == 1 {
			for i := range shown {
				if len(n.places) == 1 {
					shown[i].Of = ""
				}
				if files == 1 {
					shown[i].File = ""
				}
			}
		}
		frame.PrintColumns(n.Task, n.choice.Columns(false), n.choice.Given(), shown, nil)
		if len(rows) == 0 {
			n.Out.Printf("nothing is that close\n")
		}
	}
	if err := frame.WriteTable(n.Task, "Near", n.choice.Columns(true), rows, asJSON); err != nil || !n.JSON {
		return err
	}
	asJSON.Written = n.Written
	return n.PrintJSON(asJSON)
}
