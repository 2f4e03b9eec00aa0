package cli

import (
	"context"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

func (a *app) units() *cli.Command {
	return &cli.Command{
		Name:      "units",
		Usage:     "list the units that cards can be made for, or show one in words and as its profile",
		ArgsUsage: "[NAME]",
		Action: func(_ context.Context, c *cli.Command) error {
			if c.Args().Len() > 1 {
				return usageError("units: name one unit, or none for the list")
			}
			if name := c.Args().First(); name != "" {
				p, err := unit.Find(name)
				if err != nil {
					return usageError("units: %v", err)
				}
				a.printUnit(p)
				return nil
			}
			var rows [][]string
			for _, p := range unit.Shipped() {
				rows = append(rows, []string{a.out.paint(bold, p.Name), p.Title})
			}
			a.out.table("", []column{{title: "unit"}, {title: "what it is"}}, rows)
			a.out.printf("'gyrolith units NAME' shows one in full.\n")
			return nil
		},
	}
}

func (a *app) printUnit(p *unit.Profile) {
	a.out.printf("%s\n%s\n\n", a.out.paint(faint, "the profile as it is written:"), strings.TrimSpace(p.Source))
	a.out.printf("%s\n", a.out.paint(bold, p.Title))
	if p.StandIn {
		a.out.printf("A stand-in that ships with the program reads its cards: gyrolith boot --unit %s --card DIR\n", p.Name)
	}
	number := func(n int) string {
		if n == 0 {
			return "any number"
		}
		return measure.Count(n)
	}
	var rows [][]string
	for _, kind := range nav.Kinds {
		k := p.Of(kind)
		switch as, _ := nav.ParseKind(k.As); {
		case k.As == "":
			rows = append(rows, []string{kind.String(), "not taken", "", "", ""})
		case as != kind:
			rows = append(rows, []string{kind.String(), "as closed " + as.String(), "", "", ""})
		default:
			points := ""
			if kind != nav.Waypoints {
				points = number(k.Points)
			}
			rows = append(rows, []string{kind.String(), k.Format, k.Folder + "/" + k.File, number(k.Most), points})
		}
	}
	a.out.table("", []column{{title: "kind"}, {title: "written as"}, {title: "in"}, {title: "items", right: true}, {title: "points each", right: true}}, rows)
	if p.Text.Length > 0 {
		a.out.printf("names      %d characters of %s\n", p.Text.Length, p.Text.Characters)
	}
	if p.Resolution > 0 {
		a.out.printf("positions  to %s degree\n", strconv.FormatFloat(p.Resolution, 'f', -1, 64))
	}
}
