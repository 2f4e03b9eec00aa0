// Package cards has the verbs of units and their cards.
package cards

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/unit"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// unitsTask is the work of units.
type unitsTask struct {
	*frame.App
	check, fresh, like string
	json               bool
}

// UnitsVerb is units.
var UnitsVerb = frame.Verb{Name: "units", Stage: frame.ToUnits,
	Brief: "units, and what they can show",
	Usage: "list the units, show one, check a profile or " +
		"start one",
	Args: "[NAME]",
	Help: "A unit is a profile, a file in TOML that describes what it can show; docs/formats/profile.md explains its " +
		"keys. " +
		"Your own\n" +
		"profiles go into the folder gyrolith/units of your configuration folder, and are then units like the built-in " +
		"ones.",
	Examples: []string{"units", "units ridge"},
	Tried:    []string{"device", "devices"},
	Completes: frame.OneOf(func(*frame.App) (out []frame.Candidate) {
		for _, name := range unit.ShippedNames() {
			out = append(out, frame.Candidate{Word: name})
		}
		return
	}),
	Answers: []any{unitsAnswer{}, profileAnswer{}},
	Make:    makeUnits}

func makeUnits(a *frame.App, v *frame.Verb) frame.Made {
	u := &unitsTask{App: a}
	return frame.Made{Tables: []param.Table{{
		param.File("check", &u.check, "FILE", "check the profile in this `FILE`"),
		param.Text("new", &u.fresh, "NAME", "start a profile with this `NAME` in your folder"),
		param.Text("like", &u.like, "UNIT", "the `UNIT` whose profile to start from (default: gpx-folder)"),
		param.Switch("json", &u.json, "print the list as JSON"),
	}}, Run: u.run}
}

func (u *unitsTask) run(_ context.Context, l *frame.Line) error {
	switch {
	case u.check != "":
		p, err := unit.Open(u.check)
		if err == nil {
			err = p.CheckFormats(u.Kit.Formats)
		}
		if err != nil {
			return err
		}
		u.Out.Printf("%s: a valid profile for %s\n\n", console.Show(u.check), console.Show(p.Name))
		printUnit(u.App, p)
		return nil
	case l.Given("new"):
		return u.start()
	case u.like != "":
		return frame.UsageError("units: --like needs --new NAME")
	case len(l.Args) > 1:
		return frame.UsageError("units: name one unit, or none for the list")
	case len(l.Args) == 1:
		p, err := u.Kit.Units(l.Args[0])
		if err != nil {
			return frame.UsageError("units: %v", err)
		}
		if u.json {
			var profile map[string]any
			if err := toml.Unmarshal([]byte(p.Source), &profile); err != nil {
				return err
			}
			return u.PrintJSON(profileAnswer{profile})
		}
		u.Out.Printf("%s\n%s\n\n", u.Out.Paint(console.Faint, "the profile as it is written:"), strings.TrimSpace(p.Source))
		printUnit(u.App, p)
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
	model, err := u.Kit.Units(like)
	if err != nil {
		return frame.UsageError("units: --like: %v", err)
	}
	dir := unit.UserFolder()
	if dir == "" {
		return fmt.Errorf("there is no configuration folder to put a profile in")
	}
	file, err := unit.New(u.fresh, model, dir)
	if err != nil && file == "" {
		return frame.UsageError("units: --new: %w", err)
	}
	if err != nil {
		return err
	}
	u.Err.Printf("%s %s; edit it, and check it with 'gyrolith units --check %s'\n", u.Err.Paint(console.Green, "wrote"),
		console.Show(file), console.Show(file))
	return nil
}

func (u *unitsTask) list() error {
	own, faults := unit.Own(unit.UserFolder())
	list := []unitRow{}
	for _, p := range append(unit.Shipped(), own...) {
		list = append(list, unitRow{p.Name, p.Title, p.StandIn, p.Path})
	}
	if u.json {
		return u.PrintJSON(unitsAnswer{list})
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
		rows = append(rows, []string{u.Out.Paint(console.Bold, console.Show(r.Name)), console.Show(r.Title), stands, where})
	}
	u.Out.Table("", []console.Column{{Title: "unit"}, {Title: "what it is"}, {Title: "stand-in"}, {Title: "profile"}},
		rows)
	for _, err := range faults {
		u.Err.Printf("%s %s\n", u.Err.Paint(console.Yellow, "note:"), console.Show(err.Error()))
	}
	u.Out.Printf("'gyrolith units NAME' shows one in full; 'gyrolith units --new NAME --like %s' starts one of your "+
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
func printUnit(a *frame.App, p *unit.Profile) {
	a.Out.Printf("%s\n", a.Out.Paint(console.Bold, console.Show(p.Title)))
	if p.StandIn {
		a.Out.Printf("A built-in stand-in reads its cards: gyrolith boot --unit %s --card DIR\n", p.Name)
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
	a.Out.Table("", []console.Column{{Title: "kind"}, {Title: "written as"}, {Title: "in"},
		{Title: "items", Right: true}, {Title: "points each", Right: true}, {}}, rows)
	if p.Text.Length > 0 {
		set := p.Text.Characters
		if set == "" {
			set = "any kind"
		}
		a.Out.Printf("names      %d characters of %s\n", p.Text.Length, set)
	}
	if len(p.Shows) > 0 {
		a.Out.Printf("shows      %s\n", strings.Join(p.Shows, ", "))
	}
	if p.Resolution > 0 {
		a.Out.Printf("positions  to %s degree\n", strconv.FormatFloat(p.Resolution, 'f', -1, 64))
	}
	if v := p.VersionNumbers(); len(v) > 1 {
		a.Out.Printf("versions   %s; --card-version says which\n", strings.Join(v, ", "))
	}
	if len(p.Symbols) > 0 {
		var words []string
		for word, own := range p.Symbols {
			if word != "default" && !slices.Contains(words, own) {
				words = append(words, own)
			}
		}
		slices.Sort(words)
		a.Out.Printf("symbols    %s\n", strings.Join(words, ", "))
	}
	if p.Table != nil {
		var titles []string
		for _, c := range p.Table.Columns {
			titles = append(titles, c.Title+" ("+c.Holds+")")
		}
		a.Out.Printf("columns    %s\n", strings.Join(titles, ", "))
	}
}

// unitsAnswer is what units answers as JSON.
type unitsAnswer struct {
	Units []unitRow `json:"units"`
}

type unitRow struct {
	Name    string `json:"name"`
	Title   string `json:"title"`
	StandIn bool   `json:"stand_in"`
	File    string `json:"file,omitempty"`
}

// profileAnswer is what units NAME answers as JSON: the profile as its file has it.
type profileAnswer struct {
	Profile map[string]any `json:"profile"`
}
