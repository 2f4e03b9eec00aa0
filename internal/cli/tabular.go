package cli

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
	"gyrolith/internal/cli/console"
)

// eachFile reads files on every core and forgets each one once it was visited, so that memory is that of the largest
// ones and not of all. Visit may run at the same time for several. Of the files that fail the errors come in the order
// of the files; others counts what was found in folders and is no data.
func (j *task) eachFile(ctx context.Context, label string, files []input.File,
	visit func(i int, in *format.Loaded) error) (faults []error, others []bool, err error) {
	if err := j.reading.Resolve(ctx, &j.reading.Take); err != nil {
		return nil, nil, err
	}
	j.reading.Watching = nil
	if j.stage.Take.Plain() {
		j.reading.Options.Inside = j.stage.Take.Inside
	}
	faults, others = make([]error, len(files)), make([]bool, len(files))
	var done atomic.Int64
	stop := j.progress(label, int64(len(files)), done.Load)
	defer stop()
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i, f := range files {
		group.Go(func() error {
			defer done.Add(1)
			in, err := j.reading.Load(ctx, f.Path)
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
	if n > 0 && !j.quiet && !j.json {
		j.err.Printf("%s without navigation data skipped\n", plural(n, "file", "files"))
	}
	return faults, others, err
}

// printColumns prints rows to be read. Columns in which nothing stands are left out; of many, long texts are cut.
func printColumns[R any](j *task, columns []*column.Column[R], chosen bool, rows []R, foot [][]string) {
	layout := j.layout()
	var shown []console.Column
	for _, c := range columns {
		title := c.Title
		if chosen { // what stands beside it explains nothing
			title = strings.ReplaceAll(c.Name, "-", " ")
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
	j.out.Table("", shown, append(texts, foot...))
}

// tableOutput refuses a name of a table that tells no form, before anything is read.
func (j *task) tableOutput(inputs []string) error {
	if j.output == "" || j.output == "-" {
		return nil
	}
	if ext := strings.ToLower(filepath.Ext(j.output)); !slices.Contains(column.Forms, ext) {
		return usageError("%s: -o writes the table as %s, and %s is not one of them", j.verb,
			strings.Join(column.Forms, ", "), j.output)
	}
	return j.free(j.verb, j.output, inputs)
}

// writeTable writes the table to the file that -o names, and says so. Nothing is done without one.
func writeTable[R any](j *task, sheet string, columns []*column.Column[R], rows []R, asJSON any) error {
	if j.output == "" {
		return nil
	}
	layout := j.layout()
	titles, cells := column.Data(columns, rows, &layout)
	ext := strings.ToLower(filepath.Ext(j.output))
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
	return j.writeContent(j.output, content, plural(len(rows), "row", "rows"))
}

// writeContent writes a file whole, keeps the one before it where it may be replaced, and says what stands in it.
func (j *task) writeContent(name string, content []byte, what string) error {
	if name == "-" {
		_, err := j.out.Write(content)
		return err
	}
	sink := j.sink(false)
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
	j.sayWrote(name, what, kept)
	return nil
}

// sayWrote says that a file that is no data was written.
func (j *task) sayWrote(name, what string, kept []string) {
	if j.quiet || j.json {
		return
	}
	word := j.err.Paint(console.Green, "wrote")
	if j.dryRun {
		word = "would write"
	}
	j.err.Printf("%s %s: %s\n", word, console.Show(name), what)
	if len(kept) > 0 {
		j.err.Printf("the old file is kept as %s\n", console.Show(strings.Join(kept, ", ")))
	}
}

// joined gives the errors of files, of which the rest was used.
func joined(faults []error) error {
	return errors.Join(slices.DeleteFunc(slices.Clone(faults), func(err error) bool { return err == nil })...)
}

// refusedInput refuses, under --strict, an input of which something is missing.
func (j *task) refusedInput(in *format.Loaded) error {
	if !j.strict {
		return nil
	}
	return job.RefuseRemarks(chain.Remarks([]*format.Loaded{in}), false)
}

// besideName tells of the file that a name is below: its folder, and its own name.
func besideName(rel string) (folder, file string) {
	if i := strings.LastIndexByte(rel, '/'); i >= 0 {
		return rel[:i], rel[i+1:]
	}
	return "", rel
}

// ofFiles counts the files that are data.
func ofFiles(files []input.File, others []bool) int {
	n := len(files)
	for _, o := range others {
		if o {
			n--
		}
	}
	return n
}
