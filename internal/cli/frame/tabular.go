package frame

import (
	"context"
	"encoding/json"
	"errors"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync/atomic"

	"golang.org/x/sync/errgroup"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/column"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/core/passage"
	"gyrolith/internal/cli/console"
)

// EachFile reads files on every core and forgets each one once it was visited, so that memory is that of the largest
// ones and not of all. Visit may run at the same time for several. Of the files that fail the errors come in the order
// of the files; others counts what was found in folders and is no data.
func (j *Task) EachFile(ctx context.Context, label string, files []input.File,
	visit func(i int, in *format.Loaded) error) (faults []error, others []bool, err error) {
	if err := j.Reading.Resolve(ctx, &j.Reading.Take); err != nil {
		return nil, nil, err
	}
	j.Reading.Watching = nil
	if j.Stage.Take.Plain() {
		j.Reading.Options.Inside = j.Stage.Take.Inside
	}
	faults, others = make([]error, len(files)), make([]bool, len(files))
	var done atomic.Int64
	stop := j.Progress(label, int64(len(files)), done.Load)
	defer stop()
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i, f := range files {
		group.Go(func() error {
			defer done.Add(1)
			in, err := j.Reading.Load(ctx, f.Path)
			if err == nil {
				err = visit(i, in)
			}
			if others[i] = f.IsOther(err); !others[i] {
				faults[i] = err
			}
			return ctx.Err()
		})
	}
	err = group.Wait()
	n := 0
	for _, other := range others {
		if other {
			n++
		}
	}
	j.sayOthers(n)
	return faults, others, err
}

// PrintColumns prints rows to be read. Columns in which nothing stands are left out; of many, long texts are cut.
func PrintColumns[R any](j *Task, columns []*column.Column[R], chosen bool, rows []R, foot [][]string) {
	layout := j.Layout()
	var shown []console.Column
	for _, c := range columns {
		title := c.Title
		if chosen {
			title = c.Chosen()
		}
		shown = append(shown, console.Column{Title: title, Right: c.Right, Cut: c.Short})
	}
	var texts [][]string
	for i := range rows {
		row := make([]string, len(columns))
		for k, c := range columns {
			row[k] = console.OneLine(c.Text(&rows[i], &layout), 48)
		}
		texts = append(texts, row)
	}
	j.Out.Table("", shown, append(texts, foot...))
}

// TableOutput refuses a name of a table that tells no form, before anything is read.
func (j *Task) TableOutput(inputs []string) error {
	if j.Output == "" || j.Output == "-" {
		return nil
	}
	if ext := strings.ToLower(filepath.Ext(j.Output)); !slices.Contains(column.Forms, ext) {
		return UsageError("%s: -o writes the table as %s, and %s is not one of them", j.Verb,
			strings.Join(column.Forms, ", "), j.Output)
	}
	return j.Free(j.Verb, j.Output, inputs)
}

// WriteTable writes the table to the file that -o names, and says so. Nothing is done without one.
func WriteTable[R any](j *Task, sheet string, columns []*column.Column[R], rows []R, asJSON any) error {
	if j.Output == "" {
		return nil
	}
	layout := j.Layout()
	titles, cells := column.Data(columns, rows, &layout)
	ext := strings.ToLower(filepath.Ext(j.Output))
	var content []byte
	var err error
	if ext == ".json" {
		if content, err = json.MarshalIndent(asJSON, "", "  "); err == nil {
			content = append(content, '\n')
		}
	} else {
		content, err = kit.TableFile(ext, sheet, titles, cells)
	}
	if err != nil {
		return err
	}
	return j.WriteContent(j.Output, content, measure.Counted(len(rows), "row", "rows"))
}

// WriteContent writes a file whole, keeps the one before it where it may be replaced, and says what stands in it.
func (j *Task) WriteContent(name string, content []byte, what string) error {
	if name == "-" {
		_, err := j.Out.Write(content)
		return err
	}
	sink := j.Sink(false)
	defer sink.Discard()
	to, err := sink.Create(name)
	if err == nil {
		_, err = to.Write(content)
	}
	if err != nil {
		return err
	}
	kept, err := sink.Commit()
	if err != nil {
		return err
	}
	j.SayWrote(name, what, kept)
	return nil
}

// SayWrote says that a file that is no data was written.
func (j *Task) SayWrote(name, what string, kept []string) {
	j.Written = append(j.Written, name)
	if j.Quiet || j.JSON {
		return
	}
	word := j.Err.Paint(console.Green, "wrote")
	if j.DryRun {
		word = "would write"
	}
	j.Err.Printf("%s %s: %s\n", word, console.Show(name), what)
	if len(kept) > 0 {
		j.Err.Printf("the old file is kept as %s\n", console.Show(strings.Join(kept, ", ")))
	}
}

// Joined gives the errors of files, of which the rest was used.
func Joined(faults []error) error {
	return errors.Join(slices.DeleteFunc(slices.Clone(faults), func(err error) bool { return err == nil })...)
}

// RefusedInput refuses, under --strict, an input of which something is missing.
func (j *Task) RefusedInput(in *format.Loaded) error {
	if !j.Strict {
		return nil
	}
	return job.RefuseRemarks(chain.Remarks([]*format.Loaded{in}), false)
}

// BesideName tells of the file that a name is below: its folder, and its own name.
func BesideName(rel string) (folder, file string) {
	if i := strings.LastIndexByte(rel, '/'); i >= 0 {
		return rel[:i], rel[i+1:]
	}
	return "", rel
}

// OfFiles counts the files that are data.
func OfFiles(files []input.File, others []bool) int {
	n := len(files)
	for _, o := range others {
		if o {
			n--
		}
	}
	return n
}

// Layout is how the table is written.
func (j *Task) Layout() passage.Layout {
	return passage.Layout{Measure: j.Measure, Notation: j.Notation, Zone: j.Zone()}
}
