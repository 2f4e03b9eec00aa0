// Package lookup has the verbs that answer what is known: formats, symbols, coordinate systems, notations, recipes and
// schemas.
package lookup

import (
	"context"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// formatsTask is the work of formats.
type formatsTask struct {
	*frame.App
	json bool
}

// FormatsVerb is formats.
var FormatsVerb = frame.Verb{Name: "formats", Stage: frame.Know,
	Brief:    "formats, and what they can store",
	Usage:    "list the formats, or what one of them can store",
	Args:     "[NAME[:VERSION]]",
	Help:     "With a name it lists, property by property, what that format stores and what would be lost.",
	Examples: []string{"formats", "formats gpx"},
	Completes: frame.OneOf(func(a *frame.App) (out []frame.Candidate) {
		for _, f := range a.Kit.Formats {
			out = append(out, frame.Candidate{Word: f.Name, About: f.Title})
		}
		return
	}),
	Answers: []any{formatsAnswer{}, formatAnswer{}},
	Make:    makeFormats}

func makeFormats(a *frame.App, v *frame.Verb) frame.Made {
	f := &formatsTask{App: a}
	return frame.Made{Tables: []param.Table{{param.Switch("json", &f.json, "print the answer as JSON")}}, Run: f.run}
}

func (f *formatsTask) run(_ context.Context, l *frame.Line) error {
	switch len(l.Args) {
	case 0:
		return f.list()
	case 1:
		return f.one(l.Args[0])
	}
	return frame.UsageError("formats: name one format, or none for the list")
}

func (f *formatsTask) list() error {
	var rows []formatRow
	var cells [][]string
	word := map[bool]string{true: "yes", false: "no"}
	for _, x := range f.Kit.Formats {
		r := formatRow{x.Name, x.Title, append([]string{}, x.Extensions...), append([]string{}, x.Versions...),
			x.Read != nil, x.Writes(), x.Brief}
		rows = append(rows, r)
		cells = append(cells, []string{f.Out.Paint(console.Bold, r.Name), r.Title, strings.Join(r.Extensions, " "),
			word[r.Reads], word[r.Writes], r.Holds})
	}
	if f.json {
		return f.PrintJSON(formatsAnswer{rows})
	}
	f.Out.Table("", []console.Column{{Title: "word"}, {Title: "format"}, {Title: "names"}, {Title: "read"},
		{Title: "written"}, {Title: "holds"}}, cells)
	f.Out.Printf("Files are recognised by content, not by name. The word is for --read-as and --write-as.\n" +
		"'gyrolith formats WORD' lists what that format stores, property by property.\n")
	return nil
}

// one shows what a format declares.
func (f *formatsTask) one(word string) error {
	name, version, _ := strings.Cut(word, ":")
	x := f.Kit.Formats.ByName(name)
	switch {
	case x == nil:
		return frame.UsageError("formats: there is no format %q; there are %s", name, f.Kit.Formats.Names())
	case !x.Writes():
		return frame.UsageError("formats: %s is only read, so nothing can be lost in it", x.Name)
	}
	if err := x.CheckVersion(version); err != nil {
		return frame.UsageError("formats: %v", err)
	}
	table := x.Holds(&format.WriteOptions{Version: version}).Table()
	if f.json {
		return f.PrintJSON(newFormatAnswer(x, version, table))
	}
	f.Out.Printf("%s: %s\n\n", f.Out.Paint(console.Bold, word), x.Title)
	columns := []console.Column{{}}
	for _, at := range holds.Columns {
		columns = append(columns, console.Column{Title: at.String()})
	}
	paint := func(word string) string {
		switch word {
		case holds.Kept:
			return word
		case holds.Lost:
			return f.Out.Paint(console.Faint, word)
		}
		return f.Out.Paint(console.Yellow, word)
	}
	var rows [][]string
	for _, r := range table.Items {
		cells := []string{r.Property}
		for _, c := range r.Cells {
			cells = append(cells, paint(c))
		}
		rows = append(rows, cells)
	}
	f.Out.Table("", columns, rows)
	say := func(label string, properties []string) {
		if len(properties) > 0 {
			f.Out.Printf("%s: %s\n", f.Out.Paint(console.Bold, label), strings.Join(properties, ", "))
		}
	}
	held, lost := table.OfFile()
	say("of the file", held)
	say("not of the file", lost)
	for _, n := range table.Notes {
		f.Out.Printf("%s\n", n)
	}
	return nil
}

// formatAnswer is what formats WORD answers as JSON: what the format holds, by property and place.
type formatAnswer struct {
	Format  string                       `json:"format"`
	Version string                       `json:"version,omitempty"`
	Title   string                       `json:"title"`
	Notes   []string                     `json:"notes"`
	Holds   map[string]map[string]string `json:"holds"`
	File    map[string]string            `json:"file"`
}

func newFormatAnswer(x *format.Format, version string, t *holds.Table) *formatAnswer {
	out := &formatAnswer{x.Name, version, x.Title, append([]string{}, t.Notes...), map[string]map[string]string{},
		map[string]string{}}
	for _, r := range t.Items {
		of := map[string]string{}
		for i, c := range r.Cells {
			if c != "" {
				of[strings.ReplaceAll(holds.Columns[i].String(), " ", "_")] = c
			}
		}
		out.Holds[r.Property] = of
	}
	for _, r := range t.File {
		out.File[r.Property] = r.Cells[0]
	}
	return out
}

// formatsAnswer is what formats answers as JSON.
type formatsAnswer struct {
	Formats []formatRow `json:"formats"`
}

type formatRow struct {
	Name       string   `json:"name"`
	Title      string   `json:"title"`
	Extensions []string `json:"extensions"`
	Versions   []string `json:"versions,omitempty"`
	Reads      bool     `json:"reads"`
	Writes     bool     `json:"writes"`
	Holds      string   `json:"holds"`
}
