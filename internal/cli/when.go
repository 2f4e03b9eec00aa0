package cli

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/column"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
	"gyrolith/core/tally"
	"gyrolith/core/when"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

//go:embed texts/when.txt
var whenHelp string

// whenTask is the work of when.
type whenTask struct {
	*frame.Task
	end    *chain.End
	along  []string
	offset time.Duration
	known  string
	copies string
	choice column.Choice[when.Place]
	every  time.Duration
	mean   bool
	days   []tally.Row // of the recordings, where a logbook is made

	drawing    *drawTask   // of the output, if that is a map
	drawn      nav.Dataset // what is drawn beside the places
	recordings when.Recordings
	marks      []nav.Waypoint // of the files with the recordings
	moments    when.Moments
}

// whenVerb is when.
var whenVerb = frame.Verb{Name: "when", Stage: frame.DrawAndAdd,
	Brief: "where recordings were; where pictures were taken",
	Usage: "find where recordings were at given times, or where pictures were taken",
	Args:  "TIMES-or-lists-or-pictures… --along TRACKS",
	Help:  whenHelp,
	Examples: []string{"when 2026-03-14T06:20Z --along recordings", "when 06:20 07:00 --along walk.gpx -o marks.gpx",
		"when --every 30min --along walk.gpx --clock +02:00 --measure nautical",
		"when --every 1h --along recordings --columns time,position,course,speed[kn],along[nm],blank:Remarks -o hours.xlsx"},
	Tried:   []string{"photos", "geotag", "pictures", "logbook", "log"},
	Answers: []any{logAnswer{}},
	Make:    makeWhen}

func makeWhen(a *frame.App, v *frame.Verb) frame.Made {
	w := &whenTask{Task: a.NewTask(v.Name), choice: column.Choice[when.Place]{List: when.Columns}}
	w.end, _ = a.Kit.NewEnd("convert")
	along := param.Files("along", &w.along, "PATH", "a file or folder with recordings, `PATH`; repeatable")
	copies := param.Text(
		"write-positions",
		&w.copies,
		"DIR",
		"write copies of the pictures with positions into this "+
			"new folder `DIR`",
	)
	copies.Path = param.Written
	gap := w.recordings.Motion.GapParam()
	return frame.Made{Tables: append(w.ReadTables(), append(param.Table{along,
		param.SignedSpan("offset", &w.offset, "SPAN", "add this `SPAN` to the times, such as 90s or -1h"),
		param.Text("known", &w.known, "NAME=WHEN", "find the offset from one of the names: "+
			"`NAME=WHEN`, its true time or the "+
			"waypoint where it was"),
		param.Switch("match-folder", &w.recordings.ByFolder, "pictures and recordings of one folder belong together, where "+
			"several recordings have the time of a picture"),
		param.Span("every", &w.every, "SPAN", "a logbook: a row at each whole `SPAN` of the clock, such as 1h or 10min"),
		param.Switch("mean", &w.mean, "values of a logbook are means since the row before, of angles by vectors"),
		gap, copies}, w.choice.Params()...).In("Times"),
		without(w.end.Output.Params(), "columns", "rows", "sort", "sort-down"),
		w.Writing("write waypoints, or draw a map, to this `FILE`; its extension chooses the format; - is standard output"),
		w.Answering()), Run: func(ctx context.Context, l *frame.Line) error { return w.run(ctx, l.Args) }}
}

func (w *whenTask) run(ctx context.Context, args []string) error {
	switch {
	case w.every > 0 && len(args) > 0:
		return frame.UsageError("when: --every makes the times itself: leave out %s", args[0])
	case w.every > 0 && (w.known != "" || w.offset != 0 || w.copies != ""):
		return frame.UsageError("when: --known, --offset and --write-positions are for times that are given, not for --every")
	case w.mean && w.every == 0:
		return frame.UsageError("when: --mean is for a logbook (--every)")
	case len(args) == 0 && w.every == 0:
		return frame.UsageError("when: name times, lists of times or pictures, or make a logbook with --every")
	case len(w.along) == 0:
		return frame.UsageError("when: name the recordings with --along")
	case w.known != "" && w.offset != 0:
		return frame.UsageError("when: --known finds the offset; give only one of them")
	}
	if err := w.Reading.Open(ctx); err != nil {
		return frame.Worded(w.Verb, err)
	}
	along, err := w.Gathered(ctx, w.along)
	if err != nil {
		return err
	}
	if err := w.settleOutput(ctx, append(input.Paths(along.Files), args...)); err != nil {
		return err
	}
	if w.copies != "" {
		if _, err := os.Stat(w.copies); err == nil && !w.Replace {
			return fmt.Errorf("%s: %w", w.copies, safefile.ErrExists)
		}
	}
	if err := w.loadRecordings(ctx, along); err != nil {
		return err
	}
	if w.every > 0 {
		places, missed := w.recordings.Log(w.every, w.Zone(), w.mean)
		if missed > 0 {
			w.Note(measure.Counted(missed, "row", "rows") + " in gaps of the recordings left out")
		}
		return w.answer(ctx, places, nil, len(places))
	}
	asked, err := w.asked(args)
	if err != nil {
		return err
	}
	if err := w.shift(asked); err != nil {
		return err
	}
	places, refused := w.recordings.Find(asked)
	return w.answer(ctx, places, refused, len(asked))
}

// settleOutput finds out what the output is to be: a map, or a file of waypoints.
func (w *whenTask) settleOutput(ctx context.Context, inputs []string) error {
	if w.end.Name = w.Output; w.Output == "" {
		return nil
	}
	if w.ofColumns() {
		return w.TableOutput(inputs)
	}
	if kit.IsDrawing(w.Output) && kit.Target(w.end.Output).Format == nil {
		silent := *w.Task
		silent.JSON, silent.Quiet = false, w.Quiet || w.JSON
		w.drawing = mapOf(&silent, w.Output)
		if err := w.Settle(w.Verb, w.drawing.end, inputs); err != nil {
			return err
		}
		return (&chain.Chain{Reading: w.Reading, Ends: []*chain.End{w.drawing.end}}).Open(ctx)
	}
	if err := w.Settle(w.Verb, w.end, inputs); err != nil {
		return err
	}
	return kit.Target(w.end.Output).Open()
}

// loadRecordings reads the recordings.
func (w *whenTask) loadRecordings(ctx context.Context, g *input.Gathered) error {
	w.Reading.Take = w.Stage.Take
	var mu sync.Mutex
	others, wrong := 0, 0
	names := input.Apart(g.Files)
	faults, _, err := w.EachFile(ctx, "reading recordings", g.Files, func(i int, in *format.Loaded) error {
		if err := w.RefusedInput(in); err != nil {
			return err
		}
		if w.every > 0 {
			found, err := w.tally().Of(ctx, in.Data, names[i], "")
			if err != nil {
				return err
			}
			mu.Lock()
			w.days = append(w.days, found.Rows...)
			mu.Unlock()
		}
		mu.Lock()
		defer mu.Unlock()
		untimed, astray, err := w.recordings.Add(ctx, in.Data, names[i])
		others, wrong = others+untimed, wrong+astray
		w.marks = append(w.marks, in.Data.Waypoints...)
		if w.drawing != nil {
			w.drawn.Tracks = append(w.drawn.Tracks, in.Data.Tracks...)
		}
		return err
	})
	if err != nil {
		return err
	}
	if err := frame.Joined(faults); err != nil {
		return err
	}
	if w.recordings.Len() == 0 {
		return fmt.Errorf("%s: no track has times (%s without)", strings.Join(w.along, ", "),
			measure.Counted(others, "track", "tracks"))
	}
	if wrong > 0 {
		w.Note("plainly wrong and left out: " + measure.Counted(wrong, "point", "points") + " of the recordings")
	}
	w.recordings.Sort()
	if w.Reading.Distinct {
		w.NoteAll(w.recordings.Distinct())
	}
	w.moments.Zone = w.Zone()
	day := func(at time.Time) string { return at.In(w.Zone()).Format(time.DateOnly) }
	if first, last := w.recordings.Span(); day(first) == day(last) {
		w.moments.Day = first
	}
	if !w.Reading.Options.Day.IsZero() {
		w.moments.Day = w.Reading.Options.Day
	}
	return nil
}

// asked reads the times that the arguments name.
func (w *whenTask) asked(args []string) (out []when.Asked, err error) {
	untimed := 0
	for _, arg := range args {
		info, err := os.Stat(arg)
		switch {
		case err == nil && info.IsDir():
			entries, err := os.ReadDir(arg)
			if err != nil {
				return nil, err
			}
			for _, e := range entries {
				if path := filepath.Join(arg, e.Name()); when.IsPicture(path) && !e.IsDir() {
					a, err := when.ReadPicture(path, &w.moments)
					if err != nil {
						w.Note(err.Error())
						untimed++
						continue
					}
					out = append(out, a)
				}
			}
		case err == nil && when.IsPicture(arg):
			a, err := when.ReadPicture(arg, &w.moments)
			if err != nil {
				return nil, err
			}
			out = append(out, a)
		case err == nil:
			list, err := when.ReadList(arg, &w.moments)
			if err != nil {
				return nil, err
			}
			out = append(out, list...)
		default:
			at, bad := w.moments.Parse(arg)
			if bad != nil {
				return nil, frame.UsageError("when: %v; nor is there such a file", bad)
			}
			out = append(out, when.Asked{At: at})
		}
	}
	const few = 5
	for i, doubt := range w.moments.Doubts {
		if i == few {
			w.Note(fmt.Sprintf("and %d more such times", len(w.moments.Doubts)-few))
			break
		}
		w.Note(doubt)
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("%s: no times and no pictures with times (%s without)", args[0],
			measure.Counted(untimed, "picture", "pictures"))
	}
	return out, nil
}

// Within these a waypoint tells the clock of a camera: the recording came so near to it, so long before or after.
const (
	knownWithin = 200.0 // metres
	knownSpan   = 14 * time.Hour
)

// shift adds the offset to the times, found out first where one of them is known.
func (w *whenTask) shift(asked []when.Asked) error {
	if w.known != "" {
		name, text, ok := strings.Cut(w.known, "=")
		i := slices.IndexFunc(asked, func(a when.Asked) bool { return a.Name == name || a.Path == name })
		switch {
		case !ok:
			return frame.UsageError("when: --known %s: write NAME=TIME or NAME=WAYPOINT", w.known)
		case i < 0:
			return frame.UsageError("when: --known: none of the times is called %q", name)
		}
		at, err := w.moments.Parse(text)
		if err != nil {
			k := slices.IndexFunc(w.marks, func(m nav.Waypoint) bool { return strings.EqualFold(m.Name, text) })
			if k < 0 {
				return frame.UsageError("when: --known: %q is neither a time nor a waypoint of the recordings' files", text)
			}
			passed, ok := w.recordings.Passage(w.marks[k].Lat, w.marks[k].Lon, asked[i].At, knownSpan, knownWithin)
			if !ok {
				return fmt.Errorf("--known: no recording came within %s of %q on that day", w.Measure.Length(knownWithin), text)
			}
			at = passed
		}
		w.offset = at.Sub(asked[i].At)
		w.Note("the offset is " + measure.Exactly(w.offset))
	}
	for i := range asked {
		asked[i].At = asked[i].At.Add(w.offset)
	}
	return nil
}

func (w *whenTask) answer(ctx context.Context, places []when.Place, refused []when.Refused,
	all int) (err error) {
	layout := w.Layout()
	w.choice.Sort(places, &layout)
	w.NoteAll(w.choice.Said(places, &layout))
	asJSON := &logAnswer{JSON: when.NewJSON(places, refused, w.Zone())}
	days, _ := w.tally().Gather(w.days, nil)
	if w.every > 0 {
		asJSON.Days = tally.NewJSON(days, nil, nil, w.Zone()).Rows
	}
	if w.JSON {
		defer func() {
			if asJSON.Written = w.Written; err == nil {
				err = w.PrintJSON(asJSON)
			}
		}()
	} else if w.Output != "-" && !(w.Quiet && w.Output != "") {
		frame.PrintColumns(w.Task, w.columns(places, false), w.choice.Given(), places, nil)
		if w.every > 0 {
			w.Out.Printf("\n")
			frame.PrintColumns(w.Task, tally.Columns.Named(dayColumns...), false, days, nil)
		}
	}
	if !w.Quiet && !w.JSON {
		for _, r := range refused {
			name := r.Name
			if name == "" {
				name = r.At.In(w.Zone()).Format("15:04:05")
			}
			w.Err.Printf("%s %s: %s\n", w.Err.Paint(console.Yellow, "refused"), console.Show(name), console.Show(r.Why))
		}
	}
	switch {
	case w.Strict && len(refused) > 0:
		return frame.StrictError("%d of %s are not on the recordings, refused by --strict", len(refused),
			measure.Counted(all, "time", "times"))
	case len(places) == 0:
		return errors.New("no recording covers any time that was asked for")
	}
	if w.every > 0 {
		if w.ofColumns() {
			return w.writeLog(places, days, asJSON)
		}
		places = when.Named(places, w.Zone())
	} else if w.ofColumns() {
		return frame.WriteTable(w.Task, "Times", w.columns(places, true), places, asJSON)
	}
	switch {
	case w.drawing != nil:
		w.drawn.Waypoints = when.Waypoints(places).Waypoints
		if err := w.drawing.draw(ctx, &chain.Work{Data: &w.drawn, Source: filepath.Base(w.along[0])}); err != nil {
			return err
		}
	case w.Output != "":
		quietly := *w.Task
		quietly.JSON = false
		quietly.Quiet = w.Quiet || w.JSON
		work := &chain.Work{Data: when.Waypoints(places), Source: "when"}
		if err := quietly.Write(ctx, w.end, work, nil, false); err != nil {
			return err
		}
	}
	if w.copies != "" {
		return w.writeCopies(places)
	}
	return nil
}

// writeCopies writes copies of the pictures with their positions.
func (w *whenTask) writeCopies(places []when.Place) error {
	done := 0
	taken := map[string]string{}
	for i := range places {
		p := &places[i]
		if p.Path == "" {
			continue
		}
		name := strings.ToLower(filepath.Base(p.Path))
		if other, ok := taken[name]; ok {
			return fmt.Errorf("%s and %s would both be %s in %s", other, p.Path, filepath.Base(p.Path), w.copies)
		}
		taken[name] = p.Path
		content, err := os.ReadFile(p.Path)
		if err != nil {
			return err
		}
		if p.Point.HasHeight() && !p.Point.VerticalDatum().AboveSea() {
			w.Note("heights above " + p.Point.VerticalDatum().String() + " are not written into pictures, whose altitudes are " +
				"above mean sea level; elevate --geoid converts them")
		}
		if content, err = when.WithPosition(content, &p.Point); err != nil {
			w.Note(fmt.Sprintf("%s: %v; no copy was written", p.Path, err))
			continue
		}
		if w.DryRun {
			done++
			continue
		}
		if err := os.MkdirAll(w.copies, 0o777); err != nil {
			return err
		}
		sink := w.Sink(false)
		to, err := sink.Create(filepath.Join(w.copies, filepath.Base(p.Path)))
		if err == nil {
			_, err = to.Write(content)
		}
		if err == nil {
			_, err = sink.Commit()
		}
		sink.Discard()
		if err != nil {
			return err
		}
		done++
	}
	if !w.Quiet && !w.JSON {
		word := w.Err.Paint(console.Green, "wrote")
		if w.DryRun {
			word = "would write"
		}
		w.Err.Printf("%s %s with positions into %s\n", word, measure.Counted(done, "copy", "copies"), console.Show(w.copies))
	}
	return nil
}
