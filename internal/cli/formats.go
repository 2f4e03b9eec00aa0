package cli

import (
	"context"
	"strings"

	"github.com/urfave/cli/v3"
)

func (a *app) formats() *cli.Command {
	return &cli.Command{
		Name:  "formats",
		Usage: "list the formats that are read and written",
		Flags: []cli.Flag{&cli.BoolFlag{Name: "json", Usage: "as JSON"}},
		Action: func(_ context.Context, c *cli.Command) error {
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
			for _, f := range formats {
				r := row{f.Name, f.Title, f.Extensions, f.Read != nil, f.Writes(), f.Holds}
				rows = append(rows, r)
				cells = append(cells, []string{a.out.paint(bold, r.Name), r.Title, strings.Join(r.Extensions, " "), word[r.Reads], word[r.Writes], r.Holds})
			}
			if c.Bool("json") {
				return a.printJSON(map[string]any{"formats": rows})
			}
			a.out.table("", []column{{title: "word"}, {title: "format"}, {title: "names"}, {title: "read"}, {title: "written"}, {title: "holds"}}, cells)
			a.out.printf("A file is read by its content, whatever its name; the word goes to --read-as and --write-as.\n")
			return nil
		},
	}
}
