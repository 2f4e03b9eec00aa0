package cli

import (
	"context"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"runtime"
	"strconv"
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

const stowHelp = `Fits the data to the unit, writes the files where the unit expects them, reads the card
back as the unit would, and compares. Files of the same name are archived off the card
first, with --replace. A manifest on the card lists the files and their sums; --verify
holds the card against it later, and writes nothing.

If the program dies while the files get their names, the next verb on that card says so:
--finish carries the stow through, --undo puts back what was there.`

func (a *app) stow() *cli.Command {
	return &cli.Command{
		Name:        "stow",
		Usage:       "fit data to a unit, write its card, read the card back and compare",
		ArgsUsage:   "FILES… --unit NAME --card DIR",
		Description: stowHelp,
		Flags: flags(unitFlags(), []cli.Flag{
			&cli.IntFlag{Name: "card-version", Usage: "the `VERSION` of the unit's cards to write, for older units"},
			&cli.BoolFlag{Name: "verify", Usage: "hold the card against its manifest and write nothing"},
			&cli.BoolFlag{Name: "finish", Usage: "carry a stow through that was broken off"},
			&cli.BoolFlag{Name: "undo", Usage: "put back what was on the card before a stow that was broken off"},
			&cli.BoolFlag{Name: "replace", Category: writing, Usage: "write over files of the same name on the card; the old ones are archived first"},
			&cli.StringFlag{Name: "keep", Category: writing, Usage: "the `DIR` for archives of what is replaced (default: the user's data folder)"},
			&cli.BoolFlag{Name: "dry-run", Category: writing, Usage: "say what would be changed and written, and write nothing"},
		}, readFlags(), answerFlags()),
		Action: a.runStow,
	}
}

// unitsFolder is where the user's own profiles are.
func unitsFolder() string {
	base, err := os.UserConfigDir()
	if err != nil {
		return ""
	}
	return filepath.Join(base, "gyrolith", "units")
}

func findUnit(name string) (*unit.Profile, error) { return unit.Find(name, unitsFolder()) }

func theUnit(c *cli.Command) (*unit.Profile, error) {
	if c.String("unit") == "" {
		return nil, usageError("%s: say for which unit: --unit NAME; 'gyrolith units' lists them", c.Name)
	}
	p, err := findUnit(c.String("unit"))
	if err != nil {
		return nil, usageError("%s: %v", c.Name, err)
	}
	if p, err = p.ForVersion(int(c.Int("card-version"))); err != nil {
		return nil, usageError("%s: --card-version: %v", c.Name, err)
	}
	return p, nil
}

func theCard(c *cli.Command) (string, error) {
	if c.String("card") == "" {
		return "", usageError("%s: say where the card is: --card DIR", c.Name)
	}
	return c.String("card"), nil
}

func unitAndCard(c *cli.Command) (*unit.Profile, string, error) {
	p, err := theUnit(c)
	if err != nil {
		return nil, "", err
	}
	card, err := theCard(c)
	return p, card, err
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
	if done, err := a.mendCard(c, o); done || err != nil {
		return err
	}
	profile, card, err := unitAndCard(c)
	if err != nil {
		return err
	}
	keep, err := keepOption(c)
	if err != nil {
		return err
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
	done, err := plan.Stow(card, a.stowOptions(o, keep))
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

func keepOption(c *cli.Command) (string, error) {
	if keep := c.String("keep"); keep != "" {
		return keep, nil
	}
	return keepFolder()
}

// stowOptions says how a card is written. Tests break a stow off at a step by the variable GYROLITH_DIE_AT, the number of
// the step: the program is then killed as a power cut would.
func (a *app) stowOptions(o *options, keep string) unit.StowOptions {
	opt := unit.StowOptions{Replace: o.replace, Keep: keep, Now: a.now()}
	if at, err := strconv.Atoi(os.Getenv("GYROLITH_DIE_AT")); err == nil {
		n := 0
		opt.Step = func(string) {
			if n++; n == at {
				if p, err := os.FindProcess(os.Getpid()); err == nil {
					p.Kill()
					select {}
				}
			}
		}
	}
	return opt
}

// mendCard does what needs no data: verify, finish, undo. It says whether that was asked for.
func (a *app) mendCard(c *cli.Command, o *options) (bool, error) {
	asked := ""
	for _, word := range []string{"verify", "finish", "undo"} {
		if !c.Bool(word) {
			continue
		}
		if asked != "" {
			return true, usageError("stow: --%s and --%s are two different things: take one", asked, word)
		}
		asked = word
	}
	if asked == "" {
		return false, nil
	}
	card, err := theCard(c)
	if err != nil {
		return true, err
	}
	if c.Args().Len() > 0 {
		return true, usageError("stow: --%s takes no files; it looks at the card alone", asked)
	}
	if o.dryRun && asked != "verify" {
		return true, usageError("stow: --%s is done or left; --dry-run says what a stow of files would do, and 'gyrolith boot' tells how the card stands", asked)
	}
	say := func(text string, m *unit.Manifest) error {
		if o.json {
			return a.printJSON(map[string]any{"card": card, "unit": m.Unit, "files": len(m.Files), "done": asked})
		}
		if !o.quiet {
			a.err.printf("%s: %s\n", show(card), text)
		}
		return nil
	}
	switch asked {
	case "finish":
		m, err := unit.Finish(card)
		if err != nil {
			return true, err
		}
		return true, say(fmt.Sprintf("the stow is finished: %s for %s in place", plural(len(m.Files), "file", "files"), m.Unit), m)
	case "undo":
		m, err := unit.Undo(card)
		if err != nil {
			return true, err
		}
		return true, say("the card is as it was before the stow that was broken off", m)
	}
	return true, a.verify(card, o)
}

// verify holds a card against its manifest.
func (a *app) verify(card string, o *options) error {
	m, files, err := unit.Verify(card)
	if err != nil {
		return err
	}
	var bad []unit.Checked
	for _, f := range files {
		if f.Why != "" {
			bad = append(bad, f)
		}
	}
	if o.json {
		if err := a.printJSON(map[string]any{"card": card, "unit": m.Unit, "files": len(files), "differences": append([]unit.Checked{}, bad...)}); err != nil {
			return err
		}
	} else if !o.quiet {
		for _, f := range bad {
			a.err.printf("%s %s %s\n", a.err.paint(red, "✗"), show(f.Path), f.Why)
		}
		if len(bad) == 0 {
			a.err.printf("%s: %s for %s\n", show(card), a.err.paint(green, "as it was written, "+plural(len(files), "file", "files")), m.Unit)
		}
	}
	if len(bad) > 0 {
		return &failure{statusInput, fmt.Errorf("%s: %d of %s not as written; stow again, or restore an archive with 'gyrolith unstow --restore'", card, len(bad), plural(len(files), "file", "files"))}
	}
	return nil
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
		"largest_shift_m": done.Result.Largest, "before": done.Before, "leftovers": append([]unit.Leftover{}, done.Leftovers...), "on_card": done.OnCard}
}

func (a *app) printStowed(plan *unit.Plan, done *unit.Stowed, card string, o *options) {
	if o.quiet {
		return
	}
	a.ledger(plan.Ledger, o)
	room := ""
	if done.Before.Free >= 0 {
		room = fmt.Sprintf(", %s free", bytesOf(done.Before.Free))
	}
	a.err.printf("on the card before: %s, %s%s\n", plural(done.Before.Files, "file", "files"), bytesOf(done.Before.Bytes), room)
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
	a.printLeftovers(plan, done)
	lost := map[nav.Kind]int{}
	for _, d := range done.Result.Differences {
		if d.What == "lost" {
			lost[d.Kind]++
		}
	}
	rows = nil
	for i, n := range plan.Meant.Counts() {
		if kind := nav.Kind(i); n > 0 {
			rows = append(rows, []string{kind.String(), measure.Count(n), measure.Count(done.OnCard[i]), measure.Count(n - lost[kind])})
		}
	}
	last := "shown by the unit"
	if done.Shown == nil {
		last = "expected"
	}
	a.err.table("", []column{{title: "read back"}, {title: "meant", right: true}, {title: "on the card", right: true}, {title: last, right: true}}, rows)
	switch {
	case done.Shown == nil:
		a.err.printf("no stand-in reads these cards: look at them on the unit itself\n")
	case len(done.Result.Differences) == 0:
		a.err.printf("%s; the largest shift of a position is %s\n", a.err.paint(green, "the unit shows what was meant"), shift(done.Result.Largest, o))
	default:
		a.err.printf("%s\n", a.err.paint(red, "the unit does not show what was meant"))
		printDifferences(a.err, done.Result.Differences, o)
	}
	a.err.printf("now take the card out, put it back, and run 'gyrolith stow --verify --card %s'\n", show(card))
}

// bytesOf writes a number of bytes in short.
func bytesOf(n int64) string {
	switch {
	case n < 10_000:
		return measure.Count(int(n)) + " bytes"
	case n < 10_000_000:
		return measure.Count(int(n/1000)) + " kB"
	}
	return measure.Count(int(n/1_000_000)) + " MB"
}

// printLeftovers tells of files that were on the card before and that the unit may load as well.
func (a *app) printLeftovers(plan *unit.Plan, done *unit.Stowed) {
	if len(done.Leftovers) == 0 {
		return
	}
	ours := 0
	var names []string
	for _, l := range done.Leftovers {
		if l.Ours {
			ours++
		}
		if len(names) < 4 {
			names = append(names, show(l.Path))
		}
	}
	list := strings.Join(names, ", ")
	if n := len(done.Leftovers) - len(names); n > 0 {
		list += fmt.Sprintf(" and %d more", n)
	}
	whose := ""
	switch {
	case ours == len(done.Leftovers):
		whose = ", all of an earlier stow"
	case ours > 0:
		whose = fmt.Sprintf(", %d of an earlier stow", ours)
	}
	a.err.printf("%s %s on the card before and stay%s; the unit may load them as well: %s\n", a.err.paint(yellow, "note:"), plural(len(done.Leftovers), "file was", "files were"), whose, list)
}

// shift writes a small distance to the centimetre.
func shift(metres float64, o *options) string {
	switch {
	case metres == 0:
		return "0 m"
	case metres < 0.005:
		return "less than 1 cm"
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
		Usage:     "start a stand-in unit with a card in it, or with its talker line open, and show its lists",
		ArgsUsage: "--unit NAME --card DIR",
		Flags: flags(unitFlags(), []cli.Flag{
			&cli.IntFlag{Name: "card-version", Usage: "the unit is an older one, which reads cards up to this `VERSION`"},
			&cli.StringFlag{Name: "listen", Usage: "wait for talker sentences on this `ADDRESS` instead, such as 127.0.0.1:10110"},
			&cli.BoolFlag{Name: "all", Category: answering, Usage: "scroll through long lists to their end"},
		}, writeFlags(), answerFlags()),
		Action: a.runBoot,
	}
}

func (a *app) runBoot(ctx context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	if c.Args().Len() > 0 {
		return usageError("boot: takes no files; --card names the card")
	}
	if o.output != "" {
		if err := a.target(c.Name, o, nil); err != nil {
			return err
		}
	}
	shown, card, err := a.started(ctx, c, o)
	if err != nil {
		return err
	}
	if o.output != "" {
		return a.write(shown.Data, nil, o)
	}
	if o.json {
		return a.printJSON(bootJSON(shown, card))
	}
	a.printScreens(shown, o, c.Bool("all"))
	return nil
}

// started starts the unit and gives what it shows.
func (a *app) started(ctx context.Context, c *cli.Command, o *options) (*standin.Shown, string, error) {
	if address := c.String("listen"); address != "" {
		if name := c.String("unit"); name != "" && name != "keel" {
			return nil, "", usageError("boot: only the keel has a talker line to listen on, not %s", name)
		}
		in, err := net.Listen("tcp", address)
		if err != nil {
			return nil, "", usageError("boot: --listen: %s can't be listened on: %v", address, err)
		}
		if !o.quiet {
			a.err.printf("the keel listens on %s; 'gyrolith send FILES… --to tcp://%s' uploads to it\n", in.Addr(), in.Addr())
		}
		shown, err := (&standin.Listener{}).Listen(ctx, in)
		return shown, "tcp://" + address, err
	}
	profile, card, err := unitAndCard(c)
	if err != nil {
		return nil, "", err
	}
	if err := unit.CheckFinished(card); err != nil && !o.quiet {
		a.err.printf("%s %s\n", a.err.paint(yellow, "note:"), show(err.Error()))
	}
	shown, err := unit.Boot(profile, card)
	return shown, card, err
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

// bounds says between which heights and when an area holds.
func bounds(item *nav.Item) string {
	var parts []string
	for _, key := range []string{nav.FieldFloor, nav.FieldCeiling, nav.FieldFrom, nav.FieldUntil} {
		if v, ok := nav.Get(item.Fields, key); ok {
			parts = append(parts, strings.TrimPrefix(key, "valid ")+" "+show(v))
		}
	}
	return strings.Join(parts, ", ")
}

// screenLines is what fits on a screen of the stand-in before one has to scroll.
const screenLines = 12

// printScreens shows the unit's lists as its screen would.
func (a *app) printScreens(s *standin.Shown, o *options, all bool) {
	a.out.printf("%s\n", a.out.paint(bold, strings.ToUpper(s.Unit)))
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
				if kind == nav.Areas {
					row[4] = bounds(e.item)
				}
			}
			rows = append(rows, row)
		}
		word := s.Words[kind]
		if word == "" {
			word = kind.String()
		}
		title := fmt.Sprintf("%s %d of %s", strings.ToUpper(word), len(rows), measure.Count(limit))
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
