package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/unit"
	"gyrolith/internal/cli/console"
)

// unitsTask is the work of units.
type unitsTask struct {
	*app
	check, fresh, like string
	json               bool
}

// unitsVerb is units.
var unitsVerb = verb{name: "units", stage: toUnits,
	brief: "units, and what they can show",
	usage: "list the units, show one, check a profile or " +
		"start one",
	args: "[NAME]",
	help: "A unit is a profile, a file in TOML that describes what it can show; docs/formats/profile.md explains its " +
		"keys. " +
		"Your own\n" +
		"profiles go into the folder gyrolith/units of your configuration folder, and are then units like the built-in " +
		"ones.",
	examples: []string{"units", "units ridge"},
	tried:    []string{"device", "devices"},
	completes: oneOf(func(*app) (out []candidate) {
		for _, name := range unit.ShippedNames() {
			out = append(out, candidate{word: name})
		}
		return
	}),
	make: (*app).units}

func (a *app) units(v *verb) made {
	u := &unitsTask{app: a}
	return made{tables: []param.Table{{
		param.File("check", &u.check, "FILE", "check the profile in this `FILE`"),
		param.Text("new", &u.fresh, "NAME", "start a profile with this `NAME` in your folder"),
		param.Text("like", &u.like, "UNIT", "the `UNIT` whose profile to start from (default: gpx-folder)"),
		param.Switch("json", &u.json, "print the list as JSON"),
	}}, run: u.run}
}

func (u *unitsTask) run(_ context.Context, l *commandLine) error {
	switch {
	case u.check != "":
		p, err := unit.Open(u.check)
		if err == nil {
			err = p.CheckFormats(u.kit.Formats)
		}
		if err != nil {
			return err
		}
		u.out.Printf("%s: a valid profile for %s\n\n", console.Show(u.check), console.Show(p.Name))
		u.printUnit(p)
		return nil
	case l.given("new"):
		return u.start()
	case u.like != "":
		return usageError("units: --like needs --new NAME")
	case len(l.args) > 1:
		return usageError("units: name one unit, or none for the list")
	case len(l.args) == 1:
		p, err := u.kit.Units(l.args[0])
		if err != nil {
			return usageError("units: %v", err)
		}
		u.out.Printf("%s\n%s\n\n", u.out.Paint(console.Faint, "the profile as it is written:"), strings.TrimSpace(p.Source))
		u.printUnit(p)
		return nil
	}
	return u.list()
}

// start begins a profile in the user's folder.
func (u *unitsTask) start() error {
	like := u.like
	if like == "" {
		like = "gpx-folder"
	}
	model, err := u.kit.Units(like)
	if err != nil {
		return usageError("units: --like: %v", err)
	}
	dir := unit.UserFolder()
	if dir == "" {
		return fmt.Errorf("there is no configuration folder to put a profile in")
	}
	file, err := unit.New(u.fresh, model, dir)
	if err != nil && file == "" {
		return usageError("units: --new: %w", err)
	}
	if err != nil {
		return err
	}
	u.err.Printf("%s %s; edit it, and check it with 'gyrolith units --check %s'\n", u.err.Paint(console.Green, "wrote"),
		console.Show(file), console.Show(file))
	return nil
}

func (u *unitsTask) list() error {
	own, faults := unit.Own(unit.UserFolder())
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
	if u.json {
		return u.printJSON(map[string]any{"units": list})
	}
	var rows [][]string
	for _, r := range list {
		stands := ""
		if r.StandIn {
			stands = "yes"
		}
		where := "ships"
		if r.File != "" {
			where = console.Show(underHome(r.File))
		}
		rows = append(rows, []string{u.out.Paint(console.Bold, console.Show(r.Name)), console.Show(r.Title), stands, where})
	}
	u.out.Table("", []console.Column{{Title: "unit"}, {Title: "what it is"}, {Title: "stand-in"}, {Title: "profile"}},
		rows)
	for _, err := range faults {
		u.err.Printf("%s %s\n", u.err.Paint(console.Yellow, "note:"), console.Show(err.Error()))
	}
	u.out.Printf("'gyrolith units NAME' shows one in full; 'gyrolith units --new NAME --like %s' starts one of your "+
		"own in %s\n", "ridge",
		console.Show(underHome(unit.UserFolder())))
	return nil
}

// underHome writes a path below the home folder in short.
func underHome(path string) string {
	home, err := os.UserHomeDir()
	if err != nil {
		return path
	}
	if rel, err := filepath.Rel(home, path); err == nil && filepath.IsLocal(rel) {
		return filepath.Join("~", rel)
	}
	return path
}

// printUnit tells in words what a profile says.
func (a *app) printUnit(p *unit.Profile) {
	a.out.Printf("%s\n", a.out.Paint(console.Bold, console.Show(p.Title)))
	if p.StandIn {
		a.out.Printf("A built-in stand-in reads its cards: gyrolith boot --unit %s --card DIR\n", p.Name)
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
			rows = append(rows, []string{kind.String(), k.Format, strings.TrimPrefix(k.Folder+"/"+k.File, "/"), number(k.Most),
				points, over})
		}
	}
	a.out.Table("", []console.Column{{Title: "kind"}, {Title: "written as"}, {Title: "in"},
		{Title: "items", Right: true}, {Title: "points each", Right: true}, {}}, rows)
	if p.Text.Length > 0 {
		set := p.Text.Characters
		if set == "" {
			set = "any kind"
		}
		a.out.Printf("names      %d characters of %s\n", p.Text.Length, set)
	}
	if len(p.Shows) > 0 {
		a.out.Printf("shows      %s\n", strings.Join(p.Shows, ", "))
	}
	if p.Resolution > 0 {
		a.out.Printf("positions  to %s degree\n", strconv.FormatFloat(p.Resolution, 'f', -1, 64))
	}
	if v := p.VersionNumbers(); len(v) > 1 {
		a.out.Printf("versions   %s; --card-version says which\n", strings.Join(v, ", "))
	}
	if len(p.Symbols) > 0 {
		var words []string
		for word, own := range p.Symbols {
			if word != "default" && !slices.Contains(words, own) {
				words = append(words, own)
			}
		}
		slices.Sort(words)
		a.out.Printf("symbols    %s\n", strings.Join(words, ", "))
	}
	if p.Table != nil {
		var titles []string
		for _, c := range p.Table.Columns {
			titles = append(titles, c.Title+" ("+c.Holds+")")
		}
		a.out.Printf("columns    %s\n", strings.Join(titles, ", "))
	}
}
