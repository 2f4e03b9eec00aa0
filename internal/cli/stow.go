package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/compare"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
	"gyrolith/core/unit/standin"
)

func unitFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "unit", Usage: "the unit's `NAME`; 'gyrolith units' lists them"},
		&cli.StringFlag{Name: "card", Usage: "the `DIR` that is the card"},
	}
}

func (a *app) stow() *cli.Command {
	return &cli.Command{
		Name:      "stow",
		Usage:     "fit data to a unit, write its card, read the card back and compare",
		ArgsUsage: "FILES… --unit NAME --card DIR",
		Flags: flags(unitFlags(), []cli.Flag{
			&cli.BoolFlag{Name: "replace", Category: writing, Usage: "write over files of the same name on the card; the old ones are archived first"},
			&cli.StringFlag{Name: "keep", Category: writing, Usage: "the `DIR` for archives of what is replaced (default: the user's data folder)"},
			&cli.BoolFlag{Name: "dry-run", Category: writing, Usage: "say what would be changed and written, and write nothing"},
		}, readFlags(), answerFlags()),
		Action: a.runStow,
	}
}

func unitAndCard(c *cli.Command) (*unit.Profile, string, error) {
	if c.String("unit") == "" {
		return nil, "", usageError("%s: say for which unit: --unit NAME; 'gyrolith units' lists them", c.Name)
	}
	p, err := unit.Find(c.String("unit"))
	if err != nil {
		return nil, "", usageError("%s: %v", c.Name, err)
	}
	if c.String("card") == "" {
		return nil, "", usageError("%s: say where the card is: --card DIR", c.Name)
	}
	return p, c.String("card"), nil
}

// keepFolder is where archives of cards are kept when the user names no folder.
func keepFolder() (string, error) {
	base := os.Getenv("XDG_DATA_HOME")
	if base == "" {
		home, err := os.UserHomeDir()
		if err != nil {
			return "", fmt.Errorf("there is no home folder to keep archives in; --keep DIR names one")
		}
		switch runtime.GOOS {
		case "windows":
			base = os.Getenv("LocalAppData")
		case "darwin":
			base = filepath.Join(home, "Library", "Application Support")
		}
		if base == "" {
			base = filepath.Join(home, ".local", "share")
		}
	}
	return filepath.Join(base, "gyrolith", "cards"), nil
}

func (a *app) runStow(_ context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	profile, card, err := unitAndCard(c)
	if err != nil {
		return err
	}
	keep := c.String("keep")
	if keep == "" {
		if keep, err = keepFolder(); err != nil {
			return err
		}
	}
	inputs, err := a.load(c.Name, c.Args().Slice(), o)
	if err != nil {
		return err
	}
	source := strings.TrimSuffix(filepath.Base(inputs[0].Path), filepath.Ext(inputs[0].Path))
	data, err := a.merged(inputs, o)
	if err != nil {
		return err
	}
	plan, err := unit.MakePlan(data, profile, source)
	if err != nil {
		return err
	}
	if n := plan.Ledger.Losses(); o.strict && n > 0 {
		a.ledger(plan.Ledger, o)
		return strictError("%s would not show all of this, refused by --strict; nothing was written", profile.Name)
	}
	if o.dryRun {
		return a.dryStow(plan, card, o)
	}
	done, err := plan.Stow(card, unit.StowOptions{Replace: o.replace, Keep: keep, Now: a.now()})
	if err != nil {
		return err
	}
	if o.json {
		err = a.printJSON(stowJSON(plan, done, card))
	} else {
		a.printStowed(plan, done, card, o)
	}
	if err == nil && o.strict && len(done.Result.Differences) > 0 {
		return strictError("%s: the unit does not show what was meant (%s)", card, plural(len(done.Result.Differences), "difference", "differences"))
	}
	return err
}

func (a *app) dryStow(plan *unit.Plan, card string, o *options) error {
	existing, err := plan.Existing(card)
	if err != nil {
		return err
	}
	if o.json {
		return a.printJSON(stowJSON(plan, &unit.Stowed{Replaced: existing}, card))
	}
	a.ledger(plan.Ledger, o)
	for _, f := range plan.Files {
		a.err.printf("would write %s (%s bytes)\n", show(filepath.Join(card, filepath.FromSlash(f.Path))), measure.Count(len(f.Content)))
	}
	if len(existing) > 0 {
		a.err.printf("%s of these are on the card already: --replace archives and replaces them\n", measure.Count(len(existing)))
	}
	return nil
}

type fileJSON struct {
	Path  string `json:"path"`
	Bytes int    `json:"bytes"`
}

func stowJSON(plan *unit.Plan, done *unit.Stowed, card string) any {
	files := []fileJSON{}
	for _, f := range plan.Files {
		files = append(files, fileJSON{f.Path, len(f.Content)})
	}
	return map[string]any{"unit": plan.Profile.Name, "card": card, "files": files, "replaced": append([]string{}, done.Replaced...),
		"archive": done.Archive, "ledger": append(nav.Ledger{}, plan.Ledger...), "differences": append([]compare.Difference{}, done.Result.Differences...),
		"largest_shift_m": done.Result.Largest}
}

func (a *app) printStowed(plan *unit.Plan, done *unit.Stowed, card string, o *options) {
	if o.quiet {
		return
	}
	a.ledger(plan.Ledger, o)
	a.err.printf("%s\n", a.err.paint(bold, "written to the card in "+show(card)))
	var rows [][]string
	for _, f := range plan.Files {
		rows = append(rows, []string{show(f.Path), measure.Count(len(f.Content)) + " bytes"})
	}
	const fewFiles = 10
	shown := rows[:min(len(rows), fewFiles)]
	a.err.table("  ", []column{{}, {right: true}}, shown)
	if n := len(rows) - len(shown); n > 0 {
		a.err.printf("  … and %s more\n", plural(n, "file", "files"))
	}
	if done.Archive != "" {
		a.err.printf("%s replaced; the old ones are archived in %s\n", plural(len(done.Replaced), "file was", "files were"), show(done.Archive))
	}
	if done.Shown == nil {
		return
	}
	lost := map[nav.Kind]int{}
	for _, d := range done.Result.Differences {
		if d.What == "lost" {
			lost[d.Kind]++
		}
	}
	rows = nil
	for i, n := range plan.Meant.Counts() {
		if kind := nav.Kind(i); n > 0 {
			rows = append(rows, []string{kind.String(), measure.Count(n), measure.Count(n - lost[kind])})
		}
	}
	a.err.table("", []column{{title: "read back"}, {title: "meant", right: true}, {title: "shown by the unit", right: true}}, rows)
	if len(done.Result.Differences) == 0 {
		a.err.printf("%s; the largest shift of a position is %s\n", a.err.paint(green, "the unit shows what was meant"), shift(done.Result.Largest, o))
		return
	}
	a.err.printf("%s\n", a.err.paint(red, "the unit does not show what was meant"))
	printDifferences(a.err, done.Result.Differences, o)
}

// shift writes a small distance to the centimetre.
func shift(metres float64, o *options) string {
	switch {
	case metres == 0:
		return "0 m"
	case metres < 1:
		return fmt.Sprintf("%.2f m", metres)
	}
	return o.measure.Length(metres)
}

// printDifferences prints what tells one dataset from another, a row each.
func printDifferences(s *stream, differences []compare.Difference, o *options) {
	var rows [][]string
	for _, d := range differences {
		var details []string
		if d.Old != "" || d.New != "" {
			details = append(details, oneLine(d.Old, 40)+" → "+oneLine(d.New, 40))
		}
		if d.Metres > 0 {
			details = append(details, fmt.Sprintf("%s at most, at %s", shift(d.Metres, o), o.notation.Format(d.Lat, d.Lon)))
		}
		detail := strings.Join(details, "; ")
		count := ""
		if d.Count > 0 && d.Kind != nav.Waypoints {
			count = plural(d.Count, "point", "points")
		}
		rows = append(rows, []string{d.Word, oneLine(d.Name, 40), d.What, count, detail})
	}
	s.table("  ", []column{{}, {}, {}, {right: true}, {}}, rows)
}

func (a *app) boot() *cli.Command {
	return &cli.Command{
		Name:      "boot",
		Usage:     "start a stand-in unit with a card in it and show its lists",
		ArgsUsage: "--unit NAME --card DIR",
		Flags: flags(unitFlags(), []cli.Flag{
			&cli.StringFlag{Name: "notation", Category: answering, Usage: "the `NOTATION` of coordinates: deg, min or sec"},
			&cli.StringFlag{Name: "measure", Category: answering, Usage: "the `SYSTEM` of lengths, heights and speeds: metric, nautical or flight"},
			&cli.BoolFlag{Name: "json", Category: answering, Usage: "what the unit shows as JSON, in the form of look"},
			&cli.BoolFlag{Name: "all", Category: answering, Usage: "scroll through long lists to their end"},
		}),
		Action: func(_ context.Context, c *cli.Command) error {
			o, err := a.options(c)
			if err != nil {
				return err
			}
			if c.Args().Len() > 0 {
				return usageError("boot: takes no files; --card names the card")
			}
			profile, card, err := unitAndCard(c)
			if err != nil {
				return err
			}
			shown, err := unit.Boot(profile, card)
			if err != nil {
				return err
			}
			if o.json {
				return a.printJSON(bootJSON(shown, card))
			}
			a.printScreens(profile, shown, o, c.Bool("all"))
			return nil
		},
	}
}

func bootJSON(s *standin.Shown, card string) any {
	type ignored struct {
		File string `json:"file"`
		Why  string `json:"why"`
	}
	left := []ignored{}
	for _, i := range s.Ignored {
		left = append(left, ignored(i))
	}
	return map[string]any{"unit": s.Unit, "card": card, "shows": lookJSON([]*view{newView(shownFile(s, card), 0)}), "ignored": left}
}

// screenLines is what fits on a screen of the stand-in before one has to scroll.
const screenLines = 12

// printScreens shows the unit's lists as its screen would.
func (a *app) printScreens(p *unit.Profile, s *standin.Shown, o *options, all bool) {
	a.out.printf("%s\n", a.out.paint(bold, strings.ToUpper(p.Name)))
	v := newView(shownFile(s, ""), 0)
	for _, kind := range nav.Kinds {
		limit := s.Limits[kind]
		if limit == 0 {
			continue
		}
		var rows [][]string
		for _, e := range v.entries {
			if e.kind != kind {
				continue
			}
			row := []string{marks[kind] + " " + show(e.item.Name), "", "", "", ""}
			if kind == nav.Waypoints {
				row[1], row[4] = o.notation.Format(e.at.Lat, e.at.Lon), e.item.Style.Symbol
				if e.at.HasHeight() {
					row[3] = o.measure.Height(e.at.Height())
				}
			} else {
				row[1], row[2], row[3] = plural(e.sum.Points, "point", "points"), o.measure.Length(e.sum.Length), heightRange(e.sum, o.measure)
			}
			rows = append(rows, row)
		}
		title := fmt.Sprintf("%s %d of %s", strings.ToUpper(kind.String()), len(rows), measure.Count(limit))
		a.out.printf("%s\n", a.out.paint(cyan, title))
		shown := rows
		if !all && len(rows) > screenLines {
			shown = rows[:screenLines]
		}
		a.out.table("  ", []column{{}, {}, {right: true}, {right: true}, {}}, shown)
		if n := len(rows) - len(shown); n > 0 {
			a.out.printf("  %s\n", a.out.paint(faint, fmt.Sprintf("↓ %d more; --all scrolls", n)))
		}
	}
	if len(s.Ignored) > 0 {
		a.out.printf("%s\n", a.out.paint(yellow, "passed over without a word by the unit"))
		var rows [][]string
		for _, i := range s.Ignored {
			rows = append(rows, []string{show(i.File), show(i.Why)})
		}
		a.out.table("  ", []column{{}, {}}, rows)
	}
}
