package cli

import (
	"context"
	"fmt"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
)

// formatsTask is the work of formats.
type formatsTask struct {
	*app
	json bool
}

// formatsVerb is formats.
var formatsVerb = verb{name: "formats", stage: know,
	brief:    "formats, and what they can store",
	usage:    "list the formats, or what one of them can store",
	args:     "[NAME[:VERSION]]",
	help:     "With a name it lists, property by property, what that format stores and what would be lost.",
	examples: []string{"formats", "formats gpx"},
	completes: oneOf(func(a *app) (out []candidate) {
		for _, f := range a.kit.Formats {
			out = append(out, candidate{f.Name, f.Title})
		}
		return
	}),
	make: (*app).formats}

func (a *app) formats(v *verb) made {
	f := &formatsTask{app: a}
	return made{tables: []param.Table{{param.Switch("json", &f.json, "print the answer as JSON")}}, run: f.run}
}

func (f *formatsTask) run(_ context.Context, l *commandLine) error {
	switch len(l.args) {
	case 0:
		return f.list()
	case 1:
		return f.one(l.args[0])
	}
	return usageError("formats: name one format, or none for the list")
}

func (f *formatsTask) list() error {
	type row struct {
		Name       string   `json:"name"`
		Title      string   `json:"title"`
		Extensions []string `json:"extensions"`
		Versions   []string `json:"versions,omitempty"`
		Reads      bool     `json:"reads"`
		Writes     bool     `json:"writes"`
		Holds      string   `json:"holds"`
	}
	var rows []row
	var cells [][]string
	word := map[bool]string{true: "yes", false: "no"}
	for _, x := range f.kit.Formats {
		r := row{x.Name, x.Title, x.Extensions, x.Versions, x.Read != nil, x.Writes(), x.Brief}
		rows = append(rows, r)
		cells = append(cells, []string{f.out.Paint(console.Bold, r.Name), r.Title, strings.Join(r.Extensions, " "),
			word[r.Reads], word[r.Writes], r.Holds})
	}
	if f.json {
		return f.printJSON(map[string]any{"formats": rows})
	}
	f.out.Table("", []console.Column{{Title: "word"}, {Title: "format"}, {Title: "names"}, {Title: "read"},
		{Title: "written"}, {Title: "holds"}}, cells)
	f.out.Printf("Files are recognised by content, not by name. The word is for --read-as and --write-as.\n" +
		"'gyrolith formats WORD' lists what that format stores, property by property.\n")
	return nil
}

// one shows what a format declares.
func (f *formatsTask) one(word string) error {
	name, version, _ := strings.Cut(word, ":")
	x := f.kit.Formats.ByName(name)
	switch {
	case x == nil:
		return usageError("formats: there is no format %q; there are %s", name, f.kit.Formats.Names())
	case !x.Writes():
		return usageError("formats: %s is only read, so nothing can be lost in it", x.Name)
	}
	if err := x.CheckVersion(version); err != nil {
		return usageError("formats: %v", err)
	}
	table := x.Holds(&format.WriteOptions{Version: version}).Table()
	if f.json {
		return f.printJSON(formatAnswer(x, version, table))
	}
	f.out.Printf("%s: %s\n\n", f.out.Paint(console.Bold, word), x.Title)
	columns := []console.Column{{}}
	for _, at := range holds.Columns {
		columns = append(columns, console.Column{Title: at.String()})
	}
	paint := func(word string) string {
		switch word {
		case holds.Kept:
			return word
		case holds.Lost:
			return f.out.Paint(console.Faint, word)
		}
		return f.out.Paint(console.Yellow, word)
	}
	var rows [][]string
	for _, r := range table.Items {
		cells := []string{r.Property}
		for _, c := range r.Cells {
			cells = append(cells, paint(c))
		}
		rows = append(rows, cells)
	}
	f.out.Table("", columns, rows)
	say := func(label string, properties []string) {
		if len(properties) > 0 {
			f.out.Printf("%s: %s\n", f.out.Paint(console.Bold, label), strings.Join(properties, ", "))
		}
	}
	held, lost := table.OfFile()
	say("of the file", held)
	say("not of the file", lost)
	for _, n := range table.Notes {
		f.out.Printf("%s\n", n)
	}
	return nil
}

func formatAnswer(x *format.Format, version string, t *holds.Table) map[string]any {
	answer := map[string]any{"format": x.Name, "title": x.Title, "notes": t.Notes}
	if version != "" {
		answer["version"] = version
	}
	items := map[string]map[string]string{}
	for _, r := range t.Items {
		of := map[string]string{}
		for i, c := range r.Cells {
			if c != "" {
				of[strings.ReplaceAll(holds.Columns[i].String(), " ", "_")] = c
			}
		}
		items[r.Property] = of
	}
	file := map[string]string{}
	for _, r := range t.File {
		file[r.Property] = r.Cells[0]
	}
	answer["holds"], answer["file"] = items, file
	return answer
}

// FormatTables is the page of the documentation that says what every format holds.
func FormatTables(formats format.Formats) string {
	var b strings.Builder
	b.WriteString(`# What the formats store

Generated from what each format declares, which is also what reports of losses are made from.
` + "`gyrolith formats NAME`" + ` prints one of these tables. *in part* is explained below the table,
and *no* is what a writing lists as not carried over. A format that keeps its own details gives them back to the same
format; to others they are lost.
`)
	for _, x := range formats {
		if !x.Writes() {
			continue
		}
		versions := x.Versions
		if len(versions) == 0 {
			versions = []string{""}
		}
		last := ""
		for _, v := range versions {
			text := x.Holds(&format.WriteOptions{Version: v}).Table().Markdown()
			if text == last {
				continue
			}
			title := x.Name
			if last = text; v != "" && len(versions) > 1 {
				title += ":" + v
			}
			fmt.Fprintf(&b, "\n## %s\n\n%s.\n\n%s", title, x.Title, text)
		}
	}
	return b.String()
}
