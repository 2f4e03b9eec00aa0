package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/choose"
	"gyrolith/core/compare"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/recipe"
	"gyrolith/core/unit"
	"gyrolith/core/unit/card"
	"gyrolith/internal/cli/console"
)

// unitChoice is a unit with its card, as options name them.
type unitChoice struct {
	name    string
	version int
	card    string
}

// tables are the options that name a unit, its card, and the version of its cards.
func (u *unitChoice) tables() []param.Table {
	return []param.Table{kit.UnitParams(&u.name, &u.version), {cardParam(&u.card)}}
}

// ofTheCard are options that name the unit of a card, where an output is not fitted to it.
var ofTheCard = []string{"unit", "card-version"}

// cardParam is the option of a card, which a recipe makes as it makes a file.
func cardParam(to *string) param.Param {
	p := param.Text("card", to, "DIR", "the card's folder, `DIR`")
	p.Path, p.Local, p.Group = param.Written, true, "Unit"
	return p
}

// profile finds the unit that is named, or the one that the card was written for, for cards of the version that it has.
func (u *unitChoice) profile(a *app) (*unit.Profile, error) {
	name, version := u.name, u.version
	if u.card != "" {
		was, of := card.Of(u.card)
		if name == "" {
			name = was
		}
		if version == 0 && strings.EqualFold(was, name) {
			version = of
		}
		if _, err := os.Stat(u.card); name == "" && err == nil {
			return nil, usageError("the card in %s doesn't record which unit it was written for; add --unit NAME "+
				"'gyrolith units' lists them", u.card)
		} else if name == "" {
			return nil, fmt.Errorf("%s: no such folder; is the card inserted and mounted there?", u.card)
		}
	}
	return kit.FindUnit(a.kit.Units, name, version)
}

func cardMissing(verb string) error { return usageError("%s: no card given; add --card DIR", verb) }

// keepFolder is where archives of cards are kept when the user names no folder.
func (a *app) keepFolder(asked string) (string, error) {
	if asked == "" {
		asked = a.keepIn
	}
	if asked != "" {
		return asked, nil
	}
	base := os.Getenv("XDG_DATA_HOME")
	if base == "" {
		home, err := os.UserHomeDir()
		if err != nil {
			return "", fmt.Errorf("there is no home folder for archives; give a folder with --archives DIR")
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

// keepParam is the option of the folder for archives.
func keepParam(to *string) param.Param {
	p := param.Text("archives", to, "DIR", "the `DIR` for archives of replaced files (default: your data folder)")
	p.Path = param.Written
	return p
}

const stowHelp = `Fits the data to the unit, writes the files where the unit expects them, reads the card
back as the unit would, and compares. On a card that already has data for the unit,
--add keeps it, updates matching items under their existing names, and adds new
ones; --replace removes what is not in the data; --drop removes items by name. Whatever
is removed is listed, and archived off the card.

A manifest on the card lists the files, their checksums, and what the unit shows. --verify checks
the card against it later, reports what was created, moved or deleted aboard, and writes nothing.

If the program is killed while files are being replaced, the next verb on that card reports it:
--finish completes the stow, --undo restores what was there.`

// stowTask is the work of stow.
type stowTask struct {
	*task
	unit                 unitChoice
	keep                 string
	add                  bool
	drop                 []choose.Choice
	names, namesFrom     string
	settled              *card.Names
	nameEnd              *chain.End
	verify, finish, undo bool
	prefer               card.Side
	deleted              []string // aboard, and written again
}

// stowVerb is stow.
var stowVerb = verb{name: "stow", stage: toUnits,
	brief: "write a unit's card and read it back",
	usage: "fit data to a unit, write its card, read it back and compare",
	args:  "FILES… --unit NAME --card DIR",
	help:  stowHelp,
	examples: []string{
		"stow next-week.csv --card card --add",
		"stow dressed.kmz run.gpx --take waypoints --card keel-card --add --dry-run",
		"stow --verify --card card",
	},
	tried: []string{"card"},
	own:   []string{"measure", "unit", "card-version"},
	make:  (*app).stow}

func (a *app) stow(v *verb) made {
	s := &stowTask{task: a.newTask(v.name)}
	return made{tables: append(append(s.unit.tables(), param.Table{
		param.Switch("verify", &s.verify, "check the card against its manifest; writes nothing"),
		param.Switch("finish", &s.finish, "complete an interrupted stow or restore"),
		param.Switch("undo", &s.undo, "restore what was on the card before an interrupted stow or restore"),
		param.Switch("add", &s.add, "keep what the unit shows, update matching items and add new ones"),
		param.Switch("replace", &s.replace, "remove what the unit shows but the data don't have, after archiving it"),
		param.Choices("drop", &s.drop,
			"remove items from the card, `KIND[:GLOB]` by their names on the unit; repeatable"),
		param.Word("prefer", &s.prefer, []card.Side{card.CardSide, card.DataSide}, "SIDE",
			"of items that the card has in another place than the data, the place of this `SIDE` is right: card or data"),
		param.Texts("restore-deleted", &s.deleted, "NAME",
			"write items with this `NAME` again that were deleted aboard; repeatable"),
		writtenFile("names", &s.names, "write a table of names in the data and on the unit to this `FILE`"),
		param.File("names-from", &s.namesFrom, "FILE", "use the names for the unit in this `FILE`, a table made by --names"),
		keepParam(&s.keep),
		s.dry(), s.waiting(),
	}.In("Card").ForOneRun()), append(s.readTables(), s.answering(), s.recipeTable())...), run: s.run}
}

func (s *stowTask) run(ctx context.Context, l *commandLine) error {
	release, err := s.hold(ctx, s.unit.card)
	if err != nil {
		return err
	}
	defer release()
	if done, err := s.mend(ctx, l.args); done || err != nil {
		return err
	}
	profile, err := s.unit.profile(s.app)
	if err != nil {
		return err
	}
	if s.asRecipe {
		return s.printRecipe(l)
	}
	if s.unit.card == "" {
		return cardMissing("stow")
	}
	keep, err := s.keepFolder(s.keep)
	if err != nil {
		return err
	}
	if err := s.checkNames(l.args); err != nil {
		return err
	}
	w, err := s.data(ctx, l.args)
	if err != nil {
		return err
	}
	if err := s.readNames(ctx, profile); err != nil {
		return err
	}
	on, err := s.on(keep, len(l.args))
	if err != nil {
		return err
	}
	if err := card.CheckFinished(s.unit.card); err != nil {
		return err
	}
	plan, err := card.MakeOn(ctx, w.Data, profile, w.Source, s.kit.Formats, on)
	if err != nil {
		if x, ok := errors.AsType[*card.Occupied](err); ok && !s.quiet {
			s.sayGone(x.Beside.Gone, "would no longer be shown")
		}
		if x, ok := errors.AsType[*card.Displaced](err); ok {
			if err := s.sayApart(x); err != nil {
				return err
			}
		}
		return err
	}
	if n := plan.Ledger.Losses(); s.strict && n > 0 {
		s.ledger(plan.Ledger)
		return strictError("%s would not show all of this, refused by --strict; nothing was written", profile.Name)
	}
	if s.strict {
		proof, err := plan.ProveOn(ctx, s.unit.card)
		if err != nil {
			return err
		}
		if err := unshown(s.unit.card, proof.Result.Differences); err != nil {
			return strictError("%v; refused by --strict, and nothing was written", err)
		}
	}
	if s.dryRun {
		return s.tryOut(plan)
	}
	if n := overfull(plan.Ledger); n > 0 && !s.quiet {
		s.err.Printf("%s %s not fit beside what the unit shows:\n", s.err.Paint(console.Yellow, "attention:"),
			plural(n, "item does", "items do"))
		for _, e := range plan.Ledger {
			if e.What == unit.LeftOut {
				s.err.Printf("  %s %s\n", e.KindWord, console.Show(e.Name))
			}
		}
	}
	opt := s.cardOptions(keep)
	opt.Replace = true // what becomes of what is there is settled
	done, err := plan.Stow(ctx, s.unit.card, opt)
	if err != nil {
		return err
	}
	if err := s.writeNames(ctx, plan); err != nil {
		return err
	}
	if s.json {
		err = s.printJSON(stowJSON(plan, done, s.unit.card))
	} else {
		s.printStowed(plan, done, s.unit.card)
	}
	if err != nil {
		return err
	}
	if n := overfull(plan.Ledger); n > 0 {
		return differsError("%s: %s not fit; choose less with --take, --leave or --inside, or make room with --drop",
			console.Show(s.unit.card), plural(n, "item does", "items do"))
	}
	return unshown(s.unit.card, done.Result.Differences)
}

// unshown is the error of a card of which a unit does not show all that was meant; nil where it does.
func unshown(card string, differences []compare.Difference) error {
	if len(differences) == 0 {
		return nil
	}
	d := &differences[0]
	return differsError("%s: the unit does not show what was intended (%s, the first: %s %q: %s)", console.Show(card),
		plural(len(differences), "difference", "differences"), d.Kind.One(), d.Name, d.What)
}

// differsError is an error of a card that was written, and holds or shows something else than was meant.
func differsError(text string, args ...any) error {
	return &failure{statusDiffers, fmt.Errorf(text, args...)}
}

// printRecipe prints the output that makes the same card.
func (s *stowTask) printRecipe(l *commandLine) error {
	end, key := s.kit.NewEnd("stow")
	name := "{folder}/{name}"
	if s.unit.card != "" {
		name += "-" + filepath.Base(s.unit.card)
	}
	table := append(s.reading.Params(), input.Choosing(&s.stage.Take)...)
	return s.print(false, &recipe.Printed{Do: "convert", Table: table, Settings: l.settings},
		&recipe.Printed{Do: "stow", Table: end.Output.Params(), Settings: l.settings,
			Name: param.Setting{Name: key, Values: []string{name}}})
}

// cardOptions says how a card is written.
func (j *task) cardOptions(keep string) card.Options {
	return card.Options{Replace: j.replace, Keep: keep, Now: j.now(), Step: breakOff()}
}

// mend does what needs no data: verify, finish, undo. It says whether that was asked for.
func (s *stowTask) mend(ctx context.Context, files []string) (bool, error) {
	asked := ""
	for _, x := range []struct {
		word string
		on   bool
	}{{"verify", s.verify}, {"finish", s.finish}, {"undo", s.undo}} {
		if !x.on {
			continue
		}
		if asked != "" {
			return true, usageError("stow: give only one of --%s and --%s", asked, x.word)
		}
		asked = x.word
	}
	switch {
	case asked == "":
		return false, nil
	case s.unit.card == "":
		return true, cardMissing("stow")
	case len(files) > 0:
		return true, usageError("stow: --%s takes no files; it works on the card alone", asked)
	case s.dryRun && asked != "verify":
		return true, usageError("stow: --%s can't be combined with --dry-run, which shows what a stow of files would do; "+
			"'gyrolith boot' "+
			"shows the state of the card", asked)
	case asked == "finish":
		m, err := card.Finish(s.unit.card)
		if err != nil {
			return true, err
		}
		text := fmt.Sprintf("the stow is complete: %s for %s in place", plural(len(m.Files), "file", "files"), m.Unit)
		if m.After != nil {
			text = fmt.Sprintf("the restore is complete: %s in place", plural(len(m.Files), "file", "files"))
		}
		return true, s.mended(text, asked, m)
	case asked == "undo":
		keep, err := s.keepFolder(s.keep)
		if err != nil {
			return true, err
		}
		m, archived, err := card.Undo(ctx, s.unit.card, s.cardOptions(keep))
		if err != nil {
			return true, err
		}
		text := "the card is as it was before the interrupted stow"
		if m.After != nil {
			text = "the card is as it was before the interrupted restore"
		}
		if archived != "" {
			text += "; what that had written is in " + console.Show(archived)
		}
		return true, s.mended(text, asked, m)
	}
	return true, s.check(ctx)
}

func (s *stowTask) mended(text, asked string, m *card.Manifest) error {
	if s.json {
		return s.printJSON(map[string]any{"card": s.unit.card, "unit": m.Unit, "files": len(m.Files), "done": asked})
	}
	if !s.quiet {
		s.err.Printf("%s: %s\n", console.Show(s.unit.card), text)
	}
	return nil
}

// check holds a card against its manifest, and says what was done aboard.
func (s *stowTask) check(ctx context.Context) error {
	m, files, err := card.Verify(s.unit.card)
	if err != nil {
		return err
	}
	aboard := s.aboard(ctx, m)
	var bad []card.Checked
	for _, f := range files {
		if f.Why != "" {
			bad = append(bad, f)
		}
	}
	if s.json {
		if err := s.printJSON(map[string]any{"card": s.unit.card, "unit": m.Unit, "files": len(files),
			"differences": append([]card.Checked{}, bad...), "aboard": append([]card.Aboard{}, aboard...)}); err != nil {
			return err
		}
	} else if !s.quiet {
		for _, f := range bad {
			s.err.Printf("%s %s %s\n", s.err.Paint(console.Red, "✗"), console.Show(f.Path), f.Why)
		}
		s.sayAboard(aboard, "changed aboard since")
		if len(bad)+len(aboard) == 0 {
			s.err.Printf("%s: %s for %s\n", console.Show(s.unit.card),
				s.err.Paint(console.Green, "as it was written, "+plural(len(files), "file", "files")), m.Unit)
		}
	}
	switch {
	case len(aboard) > 0:
		return &failure{statusDiffers, advice.About(advice.BringHome, s.unit.card, "%s: %s aboard since it was written",
			s.unit.card, plural(len(aboard), "item was changed", "items were changed"))}
	case len(bad) > 0:
		return differsError("%s: %d of %s not as written; stow again, or restore an archive with 'gyrolith unstow --restore'",
			s.unit.card, len(bad), plural(len(files), "file", "files"))
	}
	return nil
}

// aboard lists what was done on the unit since the card was written; nothing where the card can't be read so.
func (s *stowTask) aboard(ctx context.Context, m *card.Manifest) []card.Aboard {
	choice := s.unit
	if choice.name == "" {
		choice.name = m.Unit
	}
	profile, err := choice.profile(s.app)
	if err != nil {
		return nil
	}
	there, err := card.LookAt(ctx, profile, s.unit.card, "", s.kit.Formats)
	if err != nil {
		return nil
	}
	for _, err := range there.Unreadable {
		s.note(advisedError(err))
	}
	return there.Aboard()
}

// tryOut says what a stow would do.
func (s *stowTask) tryOut(plan *card.Plan) error {
	existing, err := plan.Existing(s.unit.card)
	if err != nil {
		return err
	}
	if s.json {
		return s.printJSON(stowJSON(plan, &card.Stowed{Replaced: existing}, s.unit.card))
	}
	s.ledger(plan.Ledger)
	s.sayBeside(plan, s.unit.card, "would be")
	for _, f := range plan.Files {
		s.err.Printf("would write %s (%s bytes)\n", console.Show(filepath.Join(s.unit.card, filepath.FromSlash(f.Path))),
			measure.Count(len(f.Content)))
	}
	for _, f := range plan.Gone {
		s.err.Printf("would archive and remove %s\n", console.Show(filepath.Join(s.unit.card, filepath.FromSlash(f))))
	}
	return nil
}

type fileJSON struct {
	Path  string `json:"path"`
	Bytes int    `json:"bytes"`
}

func stowJSON(plan *card.Plan, done *card.Stowed, dir string) any {
	files := []fileJSON{}
	for _, f := range plan.Files {
		files = append(files, fileJSON{f.Path, len(f.Content)})
	}
	b := plan.Beside
	return map[string]any{"kept": byKind(b.Kept), "updated": byKind(b.Updated), "added": byKind(b.Added),
		"dropped": byKind(b.Dropped), "gone": append([]card.Thing{}, b.Gone...),
		"aboard": append([]card.Aboard{}, b.Aboard...), "removed_files": append([]string{}, plan.Gone...),
		"unit": plan.Profile.Name, "card": dir, "files": files, "replaced": append([]string{},
			done.Replaced...),
		"archive": done.Archive, "ledger": append(nav.Ledger{}, told(plan.Ledger)...),
		"differences":     append([]compare.Difference{}, done.Result.Differences...),
		"largest_shift_m": max(done.Result.Largest, plan.Shift), "before": done.Before, "on_card": done.OnCard}
}

func (j *task) printStowed(plan *card.Plan, done *card.Stowed, dir string) {
	if j.quiet {
		return
	}
	if err := unshown(dir, done.Result.Differences); err != nil {
		j.err.Printf("%s %v\n", j.err.Paint(console.Red, "attention:"), err)
	}
	j.ledger(plan.Ledger)
	room := ""
	if done.Before.Free >= 0 {
		room = fmt.Sprintf(", %s free", bytesOf(done.Before.Free))
	}
	j.err.Printf("on the card before: %s, %s%s\n", plural(done.Before.Files, "file", "files"),
		bytesOf(done.Before.Bytes), room)
	j.err.Printf("%s\n", j.err.Paint(console.Bold, "written to the card in "+console.Show(dir)))
	var rows [][]string
	for _, f := range plan.Files {
		rows = append(rows, []string{console.Show(f.Path), measure.Count(len(f.Content)) + " bytes"})
	}
	const fewFiles = 10
	j.err.List("  ", []console.Column{{}, {Right: true}}, rows, fewFiles, "")
	if done.Archive != "" {
		words := []string{}
		if n := len(done.Replaced); n > 0 {
			words = append(words, plural(n, "file was replaced", "files were replaced"))
		}
		if n := len(plan.Gone); n > 0 {
			words = append(words, plural(n, "file was removed", "files were removed"))
		}
		j.err.Printf("%s; the old files are archived in %s\n", strings.Join(words, " and "), console.Show(done.Archive))
	}
	if done.Uncopied != nil {
		j.note("no copy of the card's record could be kept: " + advisedError(done.Uncopied))
	}
	j.sayBeside(plan, dir, "")
	visible := done.OnCard
	if done.Shown != nil {
		visible = done.Shown.Data.Counts()
	}
	rows = nil
	b := plan.Beside
	count := func(n int) string {
		if n == 0 {
			return ""
		}
		return measure.Count(n)
	}
	occupied := b.Before != [4]int{}
	for i, n := range plan.Meant.Counts() {
		if n+b.Before[i] == 0 {
			continue
		}
		row := []string{nav.Kind(i).String(), measure.Count(n), measure.Count(done.OnCard[i]), measure.Count(visible[i])}
		if occupied {
			row = slices.Insert(row, 1, count(b.Kept[i]), count(b.Updated[i]), count(b.Added[i]), count(b.Dropped[i]))
		}
		rows = append(rows, row)
	}
	last := "shown by the unit"
	if done.Shown == nil {
		last = "expected"
	}
	columns := []console.Column{{Title: "on the card"}, {Title: "meant", Right: true},
		{Title: "in its files", Right: true}, {Title: last, Right: true}}
	if occupied {
		columns = slices.Insert(columns, 1, console.Column{Title: "kept", Right: true},
			console.Column{Title: "updated", Right: true}, console.Column{Title: "added", Right: true},
			console.Column{Title: "dropped", Right: true})
	}
	j.err.Table("", columns, rows)
	switch {
	case done.Shown == nil:
		j.err.Printf("no stand-in reads these cards; check them on the unit itself\n")
	case len(done.Result.Differences) == 0:
		j.err.Printf("%s; the largest shift of a position is %s\n",
			j.err.Paint(console.Green, "the unit shows what was intended"), j.shift(max(done.Result.Largest, plan.Shift)))
	default:
		j.err.Printf("%s\n", j.err.Paint(console.Red, "the unit does not show what was intended"))
		j.sayDifferences(j.err, "meant", "shown", done.Result.Differences)
	}
	j.err.Printf("now take the card out, put it back in, and run 'gyrolith stow --verify --card %s'\n", console.Show(dir))
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
