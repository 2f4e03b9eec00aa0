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
)

// handful are as many files as look shows whole without being asked to.
const handful = 6

// overview shows many files, a line each. A file is forgotten once its line is made, so that memory is that of the
// largest files and not of all.
func (j *task) overview(ctx context.Context, files []input.File) error {
	rows := make([]inspect.Row, len(files))
	whole := make([]*inspect.File, len(files)) // for JSON alone
	failed, others, err := j.eachFile(ctx, "looking", files, func(i int, in *format.Loaded) error {
		v, err := inspect.Look(ctx, in, j.now(), j.motion)
		if err != nil {
			return err
		}
		rows[i] = v.Row()
		if j.json {
			whole[i] = v.JSON(j.zone())
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
	if j.json {
		if err := j.printWhole(whole); err != nil {
			return err
		}
	} else {
		j.printOverview(rows, files, sum)
	}
	if j.strict && sum.Faults > 0 {
		failed = append(failed, strictError("%s with problems, refused by --strict", plural(sum.Faults, "file", "files")))
	}
	return joined(failed)
}

func (j *task) printWhole(whole []*inspect.File) error {
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
	return j.printJSON(map[string]any{"files": files})
}

// printOverview prints a line a file, and the totals.
func (j *task) printOverview(rows []inspect.Row, files []input.File, sum *inspect.Overview) {
	var lines [][]string
	for i := range rows {
		r := &rows[i]
		if r.Err != nil {
			lines = append(lines, []string{console.OneLine(files[i].Rel, 60), "", j.out.Paint(console.Red, "can't be used"), "",
				"", "", "", ""})
			continue
		}
		line := []string{console.OneLine(files[i].Rel, 60), r.Format, countWords(r.Counts), measure.Count(r.Total.Points), "",
			j.days(&r.Total), j.middle(r.Box, r.Placed), r.Problems()}
		if r.Total.Length > 0 {
			line[4] = j.measure.Length(r.Total.Length)
		}
		lines = append(lines, line)
	}
	j.out.Table("", []console.Column{{Title: "file", Cut: true}, {Title: "format"}, {Title: "holds", Cut: true},
		{Title: "points", Right: true}, {Title: "length", Right: true}, {Title: "when", Cut: true},
		{Title: "around", Cut: true}, {Title: "problems", Cut: true}}, lines)
	j.out.Printf("\n")
	total := fmt.Sprintf("%s: %s, %s", plural(sum.Files, "file", "files"), countWords(sum.Counts),
		plural(sum.Total.Points, "point", "points"))
	if sum.Total.Length > 0 {
		total += ", " + j.measure.Length(sum.Total.Length)
	}
	table := [][]string{{j.out.Paint(console.Faint, "total"), total}}
	if when := j.days(&sum.Total); when != "" {
		table = append(table, []string{j.out.Paint(console.Faint, "times"), when})
	}
	if box, ok := sum.Box(); ok {
		table = append(table, []string{j.out.Paint(console.Faint, "extent"),
			j.notation.Format(box.South, box.West) + " to " + j.notation.Format(box.North, box.East)})
	}
	if sum.Faults > 0 {
		table = append(table, []string{j.out.Paint(console.Yellow, "problems"),
			fmt.Sprintf("in %s; 'gyrolith look FILE' explains them", plural(sum.Faults, "file", "files"))})
	}
	if sum.Failed > 0 {
		table = append(table, []string{j.out.Paint(console.Red, "not used"), plural(sum.Failed, "file", "files")})
	}
	j.out.Table("", []console.Column{{}, {}}, table)
}

// days tells from when to when, as short as can be.
func (j *task) days(s *nav.Summary) string {
	if s.Times == 0 {
		return ""
	}
	first, last := s.First.Time().In(j.zone()), s.Last.Time().In(j.zone())
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
func (j *task) middle(box nav.Box, ok bool) string {
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
	return j.notation.Format((box.South+box.North)/2, lon)
}
