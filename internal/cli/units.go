package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
	"gyrolith/core/unit"
)

func (a *app) units() *cli.Command {
	return &cli.Command{
		Name:      "units",
		Usage:     "list the units that cards can be made for, show one, judge a profile or start one",
		ArgsUsage: "[NAME]",
		Description: "A unit is a profile, a file in TOML that says what it can take; docs/formats/profile.md tells its keys. Your own\n" +
			"profiles go into the folder gyrolith/units of your configuration folder, and are then units like those that ship.",
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "check", Usage: "judge the profile in this `FILE` and point at what is wrong"},
			&cli.StringFlag{Name: "new", Usage: "start a profile of this `NAME` in your folder"},
			&cli.StringFlag{Name: "like", Usage: "the `UNIT` whose profile it is begun with (default: gpx-folder)"},
			&cli.BoolFlag{Name: "json", Usage: "the list as JSON on standard output"},
		},
		Action: a.runUnits,
	}
}

func (a *app) runUnits(_ context.Context, c *cli.Command) error {
	switch {
	case c.IsSet("check"):
		p, err := unit.Open(c.String("check"))
		if err != nil {
			return err
		}
		a.out.printf("%s: a sound profile for %s\n\n", show(c.String("check")), show(p.Name))
		a.printUnit(p)
		return nil
	case c.IsSet("new"):
		return a.newUnit(c.String("new"), c.String("like"))
	case c.IsSet("like"):
		return usageError("units: --like says what --new NAME is begun with, and --new is missing")
	case c.Args().Len() > 1:
		return usageError("units: name one unit, or none for the list")
	}
	if name := c.Args().First(); name != "" {
		p, err := findUnit(name)
		if err != nil {
			return usageError("units: %v", err)
		}
		a.out.printf("%s\n%s\n\n", a.out.paint(faint, "the profile as it is written:"), strings.TrimSpace(p.Source))
		a.printUnit(p)
		return nil
	}
	own, faults := unit.Own(unitsFolder())
	type row struct {
		Name    string `json:"name"`
		Title   string `json:"title"`
		StandIn bool   `json:"stand_in"`
		File    string `json:"file,omitempty"`
	}
	list := []row{}
	for _, p := range append(unit.Shipped(), own...) {
		list = append(list, row{p.Name, p.Title, p.StandIn, p.Path})
	}
	if c.Bool("json") {
		return a.printJSON(map[string]any{"units": list})
	}
	var rows [][]string
	for _, r := range list {
		stands := ""
		if r.StandIn {
			stands = "yes"
		}
		where := "ships"
		if r.File != "" {
			where = show(homely(r.File))
		}
		rows = append(rows, []string{a.out.paint(bold, show(r.Name)), show(r.Title), stands, where})
	}
	a.out.table("", []column{{title: "unit"}, {title: "what it is"}, {title: "stand-in"}, {title: "profile"}}, rows)
	for _, err := range faults {
		a.err.printf("%s %s\n", a.err.paint(yellow, "note:"), show(err.Error()))
	}
	a.out.printf("'gyrolith units NAME' shows one in full; 'gyrolith units --new NAME --like %s' starts one of your own in %s\n", "ridge", show(homely(unitsFolder())))
	return nil
}

// homely writes a path below the home folder in short.
func homely(path string) string {
	home, err := os.UserHomeDir()
	if err != nil {
		return path
	}
	if rel, err := filepath.Rel(home, path); err == nil && filepath.IsLocal(rel) {
		return filepath.Join("~", rel)
	}
	return path
}

var unitName = regexp.MustCompile(`^[a-z0-9][a-z0-9-]*$`)

// newUnit starts a profile in the user's folder.
func (a *app) newUnit(name, like string) error {
	if !unitName.MatchString(name) {
		return usageError("units: --new: %q is no name for a unit: small letters, digits and hyphens make one", name)
	}
	if like == "" {
		like = "gpx-folder"
	}
	model, err := findUnit(like)
	if err != nil {
		return usageError("units: --like: %v", err)
	}
	dir := unitsFolder()
	if dir == "" {
		return fmt.Errorf("there is no configuration folder to put a profile in")
	}
	text := regexp.MustCompile(`(?m)^name = .*$`).ReplaceAllLiteralString(model.Source, "name = "+strconv.Quote(name))
	text = regexp.MustCompile(`(?m)^stand-in = .*\n`).ReplaceAllLiteralString(text, "")
	text = regexp.MustCompile(`(?m)^title = .*$`).ReplaceAllLiteralString(text, fmt.Sprintf("title = %q", name+", like "+model.Name))
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return fmt.Errorf("%s: can't be made: %w", dir, err)
	}
	file := filepath.Join(dir, name+".toml")
	p, err := safefile.Create(file, false)
	if err != nil {
		return err
	}
	defer p.Discard()
	if _, err := p.Write([]byte(text)); err != nil {
		return err
	}
	if _, err := p.Commit(); err != nil {
		return err
	}
	a.err.printf("%s %s; edit it, and judge it with 'gyrolith units --check %s'\n", a.err.paint(green, "wrote"), show(file), show(file))
	return nil
}

// printUnit tells in words what a profile says.
func (a *app) printUnit(p *unit.Profile) {
	a.out.printf("%s\n", a.out.paint(bold, show(p.Title)))
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
			rows = append(rows, []string{kind.String(), "not taken", "", "", "", ""})
		case as != kind:
			word := as.String()
			if kind == nav.Areas && as == nav.Tracks {
				word = "closed tracks"
			}
			rows = append(rows, []string{kind.String(), "as " + word, "", "", "", ""})
		default:
			points, over := "", ""
			if kind != nav.Waypoints {
				points = number(k.Points)
				if k.Points > 0 {
					over = "longer ones are split"
					if k.Over == "thin" || kind == nav.Areas {
						over = "longer ones are thinned"
					}
				}
			}
			rows = append(rows, []string{kind.String(), k.Format, strings.TrimPrefix(k.Folder+"/"+k.File, "/"), number(k.Most), points, over})
		}
	}
	a.out.table("", []column{{title: "kind"}, {title: "written as"}, {title: "in"}, {title: "items", right: true}, {title: "points each", right: true}, {}}, rows)
	if p.Text.Length > 0 {
		set := p.Text.Characters
		if set == "" {
			set = "any kind"
		}
		a.out.printf("names      %d characters of %s\n", p.Text.Length, set)
	}
	if len(p.Shows) > 0 {
		a.out.printf("shows      %s\n", strings.Join(p.Shows, ", "))
	}
	if p.Resolution > 0 {
		a.out.printf("positions  to %s degree\n", strconv.FormatFloat(p.Resolution, 'f', -1, 64))
	}
	if v := p.VersionNumbers(); len(v) > 1 {
		a.out.printf("versions   %s; --card-version says which\n", strings.Join(v, ", "))
	}
	if len(p.Symbols) > 0 {
		var words []string
		for word, own := range p.Symbols {
			if word != "default" && !slices.Contains(words, own) {
				words = append(words, own)
			}
		}
		slices.Sort(words)
		a.out.printf("symbols    %s\n", strings.Join(words, ", "))
	}
	if p.Table != nil {
		var titles []string
		for _, c := range p.Table.Columns {
			titles = append(titles, c.Title+" ("+c.Holds+")")
		}
		a.out.printf("columns    %s\n", strings.Join(titles, ", "))
	}
}
