package cli

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/inspect"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// handful are as many files as look shows whole without being asked to.
const handful = 6

// overview shows many files, a line each. A file is forgotten once its line is made, so that memory is that of the
// largest files and not of all.
func overview(ctx context.Context, j *frame.Task, files []input.File) error {
	for i, name := range input.Apart(files) {
		files[i].Rel = name
	}
	rows := make([]inspect.Row, len(files))
	whole := make([]*inspect.File, len(files)) // for JSON alone
	failed, others, err := j.EachFile(ctx, "looking", files, func(i int, in *format.Loaded) error {
		v, err := inspect.Look(ctx, in, j.Now(), j.Motion)
		if err != nil {
			return err
		}
		rows[i] = v.Row()
		if j.JSON {
			whole[i] = v.JSON(j.Zone())
		}
		return nil
	})
	if err != nil {
		return err
	}
	sum := &inspect.Overview{}
	data := 0
	for i := range rows {
		if others[i] {
			continue
		}
		if failed[i] != nil {
			rows[i] = inspect.Row{Path: files[i].Path, Err: failed[i]}
		}
		sum.Add(&rows[i])
		rows[data], files[data] = rows[i], files[i]
		data++
	}
	rows, files = rows[:data], files[:data]
	if j.JSON {
		if err := printWhole(j, whole); err != nil {
			return err
		}
	} else {
		printOverview(j, rows, files, sum)
	}
	if j.Strict && sum.Faults > 0 {
		failed = append(failed,
			frame.StrictError("%s with problems, refused by --strict", measure.Counted(sum.Faults, "file", "files")))
	}
	return frame.Joined(failed)
}

func printWhole(j *frame.Task, whole []*inspect.File) error {
	files := []json.RawMessage{}
	for _, f := range whole {
		if f == nil {
			continue
		}
		text, err := json.Marshal(f)
		if err != nil {
			return err
		}
		files = append(files, text)
	}
	return j.PrintJSON(map[string]any{"files": files})
}

// printOverview prints a line a file, and the totals.
func printOverview(j *frame.Task, rows []inspect.Row, files []input.File, sum *inspect.Overview) {
	var lines [][]string
	for i := range rows {
		r := &rows[i]
		if r.Err != nil {
			lines = append(
				lines,
				[]string{console.OneLine(files[i].Rel, 60), "", j.Out.Paint(console.Red, "can't be used"), "",
					"", "", "", ""},
			)
			continue
		}
		line := []string{
			console.OneLine(files[i].Rel, 60),
			r.Format,
			words.Counts(r.Counts),
			measure.Count(r.Total.Points),
			"",
			days(j, &r.Total),
			middle(j, r.Box, r.Placed),
			r.Problems(),
		}
		if r.Total.Length > 0 {
			line[4] = j.Measure.Length(r.Total.Length)
		}
		lines = append(lines, line)
	}
	j.Out.Table("", []console.Column{{Title: "file", Cut: true}, {Title: "format"}, {Title: "holds", Cut: true},
		{Title: "points", Right: true}, {Title: "length", Right: true}, {Title: "when", Cut: true},
		{Title: "around", Cut: true}, {Title: "problems", Cut: true}}, lines)
	j.Out.Printf("\n")
	total := fmt.Sprintf("%s: %s, %s", measure.Counted(sum.Files, "file", "files"), words.Counts(sum.Counts),
		measure.Counted(sum.Total.Points, "point", "points"))
	if sum.Total.Length > 0 {
		total += ", " + j.Measure.Length(sum.Total.Length)
	}
	table := [][]string{{j.Out.Paint(console.Faint, "total"), total}}
	if when := days(j, &sum.Total); when != "" {
		table = append(table, []string{j.Out.Paint(console.Faint, "times"), when})
	}
	if box, ok := sum.Box(); ok {
		table = append(table, []string{j.Out.Paint(console.Faint, "extent"),
			j.Notation.Format(box.South, box.West) + " to " + j.Notation.Format(box.North, box.East)})
	}
	if sum.Faults > 0 {
		table = append(table, []string{j.Out.Paint(console.Yellow, "problems"),
			fmt.Sprintf("in %s; 'gyrolith look FILE' explains them", measure.Counted(sum.Faults, "file", "files"))})
	}
	if sum.Failed > 0 {
		table = append(table, []string{j.Out.Paint(console.Red, "not used"), measure.Counted(sum.Failed, "file", "files")})
	}
	j.Out.Table("", []console.Column{{}, {}}, table)
}

// days tells from when to when, as short as can be.
func days(j *frame.Task, s *nav.Summary) string {
	if s.Times == 0 {
		return ""
	}
	first, last := s.First.Time().In(j.Zone()), s.Last.Time().In(j.Zone())
	a, b := first.Format(time.DateOnly), last.Format(time.DateOnly)
	switch {
	case s.First.TimeMark() < instant.Seconds || s.Last.TimeMark() < instant.Seconds, a != b:
		if a == b {
			return a
		}
		return a + " to " + b
	}
	if from, to := first.Format("15:04"), last.Format("15:04"); from != to {
		return a + " " + from + "–" + to
	}
	return a + " " + first.Format("15:04")
}

// middle is the middle of what is covered.
func middle(j *frame.Task, box nav.Box, ok bool) string {
	if !ok {
		return ""
	}
	east := box.East
	if east < box.West {
		east += 360
	}
	lon := (box.West + east) / 2
	if lon > 180 {
		lon -= 360
	}
	return j.Notation.Format((box.South+box.North)/2, lon)
}
