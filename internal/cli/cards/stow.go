package cards

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/choose"
	"gyrolith/core/compare"
	"gyrolith/core/export"
	"gyrolith/core/figure"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/param"
	"gyrolith/core/recipe"
	"gyrolith/core/unit"
	"gyrolith/core/unit/card"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// Unit is a unit with its card, as options name them.
type Unit struct {
	name    string
	version int
	Card    string
}

// Tables are the options that name a unit, its card, and the version of its cards.
func (u *Unit) Tables() []param.Table {
	return []param.Table{kit.UnitParams(&u.name, &u.version), {cardParam(&u.Card)}}
}

// OfTheCard are options that name the unit of a card, where an output is not fitted to it.
var OfTheCard = []string{"unit", "card-version"}

// cardParam is the option of a card, which a recipe makes as it makes a file.
func cardParam(to *string) param.Param {
	p := param.Text("card", to, "DIR", "the card's folder, `DIR`")
	p.Path, p.Local, p.Group = param.Written, true, "Unit"
	return p
}

// Profile finds the unit that is named, or the one that the card was written for, for cards of the version that it has.
func (u *Unit) Profile(a *frame.App) (*unit.Profile, error) {
	name, version := u.name, u.version
	if u.Card != "" {
		was, of := card.Of(u.Card)
		if name == "" {
			name = was
		}
		if version == 0 && strings.EqualFold(was, name) {
			version = of
		}
		if _, err := os.Stat(u.Card); name == "" && err == nil {
			return nil, frame.UsageError("the card in %s doesn't record which unit it was written for; add --unit NAME "+
				"'gyrolith units' lists them", u.Card)
		} else if name == "" {
			return nil, fmt.Errorf("%s: no such folder; is the card inserted and mounted there?", u.Card)
		}
	}
	return kit.FindUnit(a.Kit.Units, name, version)
}

func cardMissing(verb string) error {
	return frame.UsageError("%s: no card given; add --card DIR", verb)
}

// KeepFolder is where archives of cards are kept when the user names no folder.
func KeepFolder(a *frame.App, asked string) (string, error) {
	if asked == "" {
		asked = a.KeepIn
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

// KeepParam is the option of the folder for archives.
func KeepParam(to *string) param.Param {
	p := param.Text("archives", to, "DIR", "the `DIR` for archives of replaced files (default: your data folder)")
	p.Path = param.Written
	return p
}

//go:embed texts/stow.txt
var stowHelp string

// stowTask is the work of stow.
type stowTask struct {
	order []figure.Key // of the items on the card
	*frame.Task
	unit                 Unit
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

// StowVerb is stow.
var StowVerb = frame.Verb{Name: "stow", Stage: frame.ToUnits,
	Brief: "write a unit's card and read it back",
	Usage: "fit data to a unit, write its card, read it back and compare",
	Args:  "FILES… --unit NAME --card DIR",
	Help:  stowHelp,
	Examples: []string{
		"stow next-week.csv --card card --add",
		"stow dressed.kmz run.gpx --take waypoints --card keel-card --add --dry-run",
		"stow --verify --card card",
	},
	Tried:   []string{"card"},
	Own:     []string{"measure", "unit", "card-version"},
	Answers: []any{stowAnswer{}, checkAnswer{}, mendAnswer{}, apartAnswer{}},
	Make:    makeStow}

func makeStow(a *frame.App, v *frame.Verb) frame.Made {
	s := &stowTask{Task: a.NewTask(v.Name)}
	return frame.Made{Tables: append(append(s.unit.Tables(), param.Table{
		param.Switch("verify", &s.verify, "check the card against its manifest; writes nothing"),
		param.Switch("finish", &s.finish, "complete an interrupted stow or restore"),
		param.Switch("undo", &s.undo, "restore what was on the card before an interrupted stow or restore"),
		param.Switch("add", &s.add, "keep what the unit shows, update matching items and add new ones"),
		param.Switch("replace", &s.Replace, "remove what the unit shows but the data don't have, after archiving it"),
		param.Choices("drop", &s.drop,
			"remove items from the card, `KIND[:GLOB]` by their names on the unit; repeatable"),
		param.Word("prefer", &s.prefer, []card.Side{card.CardSide, card.DataSide}, "SIDE",
			"of items that the card has in another place than the data, the place of this `SIDE` is right: card or data"),
		param.Texts("restore-deleted", &s.deleted, "NAME",
			"write items with this `NAME` again that were deleted aboard; repeatable"),
		writtenFile("names", &s.names, "write a table of names in the data and on the unit to this `FILE`"),
		param.File("names-from", &s.namesFrom, "FILE", "use the names for the unit in this `FILE`, a table made by --names"),
		KeepParam(&s.keep),
		s.Dry(), s.Waiting(),
	}.In("Card").ForOneRun(), export.OrderParams(&s.order).In("Card")), append(s.ReadTables(), s.Answering(),
		s.RecipeTable())...), Run: s.run}
}

func (s *stowTask) run(ctx context.Context, l *frame.Line) error {
	release, err := s.Hold(ctx, s.unit.Card)
	if err != nil {
		return err
	}
	defer release()
	if done, err := s.mend(ctx, l.Args); done || err != nil {
		return err
	}
	profile, err := s.unit.Profile(s.App)
	if err != nil {
		return err
	}
	if s.AsRecipe {
		return s.printRecipe(l)
	}
	if s.unit.Card == "" {
		return cardMissing("stow")
	}
	keep, err := KeepFolder(s.Task.App, s.keep)
	if err != nil {
		return err
	}
	if err := s.checkNames(l.Args); err != nil {
		return err
	}
	w, err := s.data(ctx, l.Args)
	if err != nil {
		return err
	}
	if err := s.readNames(ctx, profile); err != nil {
		return err
	}
	on, err := s.on(keep, len(l.Args))
	if err != nil {
		return err
	}
	if err := card.CheckFinished(s.unit.Card); err != nil {
		return err
	}
	plan, err := card.MakeOn(ctx, figure.Sorted(w.Data, s.order), profile, w.Source, s.Kit.Formats, on)
	if err != nil {
		if x, ok := errors.AsType[*card.Occupied](err); ok && !s.Quiet {
			sayGone(s.Task, x.Beside.Gone, "would no longer be shown")
		}
		if x, ok := errors.AsType[*card.Displaced](err); ok {
			if err := s.sayApart(x); err != nil {
				return err
			}
		}
		return err
	}
	if n := plan.Ledger.Losses(); s.Strict && n > 0 {
		s.Ledger(plan.Ledger)
		return frame.StrictError("%s would not show all of this, refused by --strict; nothing was written", profile.Name)
	}
	if s.Strict {
		proof, err := plan.ProveOn(ctx, s.unit.Card)
		if err != nil {
			return err
		}
		if err := unshown(s.unit.Card, proof.Result.Differences); err != nil {
			return frame.StrictError("%v; refused by --strict, and nothing was written", err)
		}
	}
	if s.DryRun {
		return s.tryOut(plan)
	}
	if n := overfull(plan.Ledger); n > 0 && !s.Quiet {
		s.Err.Printf("%s %s not fit beside what the unit shows:\n", s.Err.Paint(console.Yellow, "attention:"),
			measure.Counted(n, "item does", "items do"))
		for _, e := range plan.Ledger {
			if e.What == unit.LeftOut {
				s.Err.Printf("  %s %s\n", e.KindWord, console.Show(e.Name))
			}
		}
	}
	opt := cardOptions(s.Task, keep)
	opt.Replace = true // what becomes of what is there is settled
	done, err := plan.Stow(ctx, s.unit.Card, opt)
	if err != nil {
		return err
	}
	if err := s.writeNames(ctx, plan); err != nil {
		return err
	}
	if s.JSON {
		err = s.PrintJSON(stowJSON(plan, done, s.unit.Card))
	} else {
		printStowed(s.Task, plan, done, s.unit.Card)
	}
	if err != nil {
		return err
	}
	if n := overfull(plan.Ledger); n > 0 {
		return differsError("%s: %s not fit; choose less with --take, --leave or --inside, or make room with --drop",
			console.Show(s.unit.Card), measure.Counted(n, "item does", "items do"))
	}
	return unshown(s.unit.Card, done.Result.Differences)
}

// unshown is the error of a card of which a unit does not show all that was meant; nil where it does.
func unshown(card string, differences []compare.Difference) error {
	if len(differences) == 0 {
		return nil
	}
	d := &differences[0]
	return differsError("%s: the unit does not show what was intended (%s, the first: %s %q: %s)", console.Show(card),
		measure.Counted(len(differences), "difference", "differences"), d.Kind.One(), d.Name, d.What)
}

// differsError is an error of a card that was written, and holds or shows something else than was meant.
func differsError(text string, args ...any) error {
	return frame.Fail(frame.StatusDiffers, fmt.Errorf(text, args...))
}

// printRecipe prints the output that makes the same card.
func (s *stowTask) printRecipe(l *frame.Line) error {
	end, key := s.Kit.NewEnd("stow")
	name := "{folder}/{name}"
	if s.unit.Card != "" {
		name += "-" + filepath.Base(s.unit.Card)
	}
	table := append(s.Reading.Params(), input.Choosing(&s.Stage.Take)...)
	return s.Print(false, &recipe.Printed{Do: "convert", Table: table, Settings: l.Settings},
		&recipe.Printed{Do: "stow", Table: end.Output.Params(), Settings: l.Settings,
			Name: param.Setting{Name: key, Values: []string{name}}})
}

// cardOptions says how a card is written.
func cardOptions(j *frame.Task, keep string) card.Options {
	return card.Options{Replace: j.Replace, Keep: keep, Now: j.Now(), Step: frame.BreakOff()}
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
			return true, frame.UsageError("stow: give only one of --%s and --%s", asked, x.word)
		}
		asked = x.word
	}
	switch {
	case asked == "":
		return false, nil
	case s.unit.Card == "":
		return true, cardMissing("stow")
	case len(files) > 0:
		return true, frame.UsageError("stow: --%s takes no files; it works on the card alone", asked)
	case s.DryRun && asked != "verify":
		return true, frame.UsageError(
			"stow: --%s can't be combined with --dry-run, which shows what a stow of files would do; "+
				"'gyrolith boot' "+
				"shows the state of the card",
			asked,
		)
	case asked == "finish":
		m, err := card.Finish(s.unit.Card)
		if err != nil {
			return true, err
		}
		text := fmt.Sprintf("the stow is complete: %s for %s in place",
			measure.Counted(len(m.Files), "file", "files"), m.Unit)
		if m.After != nil {
			text = fmt.Sprintf("the restore is complete: %s in place", measure.Counted(len(m.Files), "file", "files"))
		}
		return true, s.mended(text, asked, m)
	case asked == "undo":
		keep, err := KeepFolder(s.Task.App, s.keep)
		if err != nil {
			return true, err
		}
		m, archived, err := card.Undo(ctx, s.unit.Card, cardOptions(s.Task, keep))
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
	if s.JSON {
		return s.PrintJSON(mendAnswer{s.unit.Card, m.Unit, len(m.Files), asked})
	}
	if !s.Quiet {
		s.Err.Printf("%s: %s\n", console.Show(s.unit.Card), text)
	}
	return nil
}

// check holds a card against its manifest, and says what was done aboard.
func (s *stowTask) check(ctx context.Context) error {
	m, files, err := card.Verify(s.unit.Card)
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
	if s.JSON {
		if err := s.PrintJSON(checkAnswer{s.unit.Card, m.Unit, len(files), append([]card.Checked{}, bad...),
			append([]card.Aboard{}, aboard...)}); err != nil {
			return err
		}
	} else if !s.Quiet {
		for _, f := range bad {
			s.Err.Printf("%s %s %s\n", s.Err.Paint(console.Red, "✗"), console.Show(f.Path), f.Why)
		}
		sayAboard(s.Task, aboard, "changed aboard since")
		if len(bad)+len(aboard) == 0 {
			s.Err.Printf("%s: %s for %s\n", console.Show(s.unit.Card),
				s.Err.Paint(console.Green, "as it was written, "+measure.Counted(len(files), "file", "files")), m.Unit)
		}
	}
	switch {
	case len(aboard) > 0:
		return frame.Fail(
			frame.StatusDiffers,
			advice.About(advice.BringHome, s.unit.Card, "%s: %s aboard since it was written",
				s.unit.Card, measure.Counted(len(aboard), "item was changed", "items were changed")),
		)
	case len(bad) > 0:
		return differsError("%s: %d of %s not as written; stow again, or restore an archive with 'gyrolith unstow --restore'",
			s.unit.Card, len(bad), measure.Counted(len(files), "file", "files"))
	}
	return nil
}

// aboard lists what was done on the unit since the card was written; nothing where the card can't be read so.
func (s *stowTask) aboard(ctx context.Context, m *card.Manifest) []card.Aboard {
	choice := s.unit
	if choice.name == "" {
		choice.name = m.Unit
	}
	profile, err := choice.Profile(s.App)
	if err != nil {
		return nil
	}
	there, err := card.LookAt(ctx, profile, s.unit.Card, "", s.Kit.Formats)
	if err != nil {
		return nil
	}
	for _, err := range there.Unreadable {
		s.Note(words.AdvisedError(err))
	}
	return there.Aboard()
}

// tryOut says what a stow would do.
func (s *stowTask) tryOut(plan *card.Plan) error {
	existing, err := plan.Existing(s.unit.Card)
	if err != nil {
		return err
	}
	if s.JSON {
		return s.PrintJSON(stowJSON(plan, &card.Stowed{Replaced: existing}, s.unit.Card))
	}
	s.Ledger(plan.Ledger)
	sayBeside(s.Task, plan, s.unit.Card, "would be")
	for _, f := range plan.Files {
		s.Err.Printf("would write %s (%s bytes)\n", console.Show(filepath.Join(s.unit.Card, filepath.FromSlash(f.Path))),
			measure.Count(len(f.Content)))
	}
	for _, f := range plan.Gone {
		s.Err.Printf("would archive and remove %s\n", console.Show(filepath.Join(s.unit.Card, filepath.FromSlash(f))))
	}
	return nil
}

type fileJSON struct {
	Path  string `json:"path"`
	Bytes int    `json:"bytes"`
}
