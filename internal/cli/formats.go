package cli

import (
	"context"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
)

func (a *app) formats() *cli.Command {
	asJSON := false
	return a.verb(&verb{name: "formats", usage: "list the formats that are read and written",
		tables: []param.Table{jsonTable(&asJSON)},
		run: func(context.Context, *commandLine) error {
			type row struct {
				Name       string   `json:"name"`
				Title      string   `json:"title"`
				Extensions []string `json:"extensions"`
				Reads      bool     `json:"reads"`
				Writes     bool     `json:"writes"`
				Holds      string   `json:"holds"`
			}
			var rows []row
			var cells [][]string
			word := map[bool]string{true: "yes", false: "no"}
			for _, f := range a.kit.Formats {
				r := row{f.Name, f.Title, f.Extensions, f.Read != nil, f.Writes(), f.Brief}
				rows = append(rows, r)
				cells = append(cells, []string{a.out.Paint(console.Bold, r.Name), r.Title, strings.Join(r.Extensions, " "),
					word[r.Reads],
					word[r.Writes], r.Holds})
			}
			if asJSON {
				return a.printJSON(map[string]any{"formats": rows})
			}
			a.out.Table("", []console.Column{{Title: "word"}, {Title: "format"}, {Title: "names"}, {Title: "read"},
				{Title: "written"},
				{Title: "holds"}}, cells)
			a.out.Printf("A file is read by its content, whatever its name; the word goes to --read-as and --write-as.\n")
			return nil
		}})
}
