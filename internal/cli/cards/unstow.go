package cards

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/format"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
	"gyrolith/core/unit"
	"gyrolith/core/unit/card"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// unstowTask is the work of unstow.
type unstowTask struct {
	*frame.Task
	card, archive, keep string
	end                 *chain.End
	contents            bool // in an open format as well
}

// UnstowVerb is unstow.
var UnstowVerb = frame.Verb{Name: "unstow", Stage: frame.ToUnits,
	Brief: "archive a card, or restore one",
	Usage: "archive a whole card, export its contents in an open format, or " +
		"restore an " +
		"archive",
	Args: "--card DIR -o ARCHIVE.zip",
	Help: "The archive has every file of the card. With --write-as the contents that Gyrolith can read are written " +
		"beside it\n" +
		"in that format as well. --restore puts an archive back, made by unstow or by stow before replacing files.",
	Examples: []string{
		"unstow --card vane-card -o aircraft.zip",
		"unstow --card keel-card -o plotter.zip --write-as gpx",
	},
	Tried:   []string{"backup", "restore"},
	Answers: []any{packAnswer{}, restoreAnswer{}, frame.WroteAnswer{}},
	Make:    makeUnstow}

func makeUnstow(a *frame.App, v *frame.Verb) frame.Made {
	u := &unstowTask{Task: a.NewTask(v.Name)}
	u.end, _ = a.Kit.NewEnd("convert")
	return frame.Made{Tables: []param.Table{{cardParam(&u.card)}, param.Table{
		archiveParam(&u.archive),
		KeepParam(&u.keep), u.Waiting(),
	}.In("Card").ForOneRun(), kit.Target(u.end.Output).Params(),
		u.Writing("the `FILE` of the archive, a .zip"), u.Answering()}, Run: u.run}
}

func archiveParam(to *string) param.Param {
	return param.File("restore", to, "ARCHIVE", "restore this `ARCHIVE` to the card")
}

func (u *unstowTask) run(ctx context.Context, l *frame.Line) error {
	if u.card == "" {
		return cardMissing("unstow")
	}
	if len(l.Args) > 0 {
		return frame.UsageError("unstow: takes no files; use --card, and -o or --restore")
	}
	release, err := u.Hold(ctx, u.card) // while it is written it is half of each
	if err != nil {
		return err
	}
	defer release()
	if err := card.CheckFinished(u.card); err != nil && u.archive == "" {
		u.Note(words.AdvisedError(err))
	}
	if u.archive != "" {
		return u.restore(ctx)
	}
	ext := filepath.Ext(u.Output)
	switch {
	case u.Output == "":
		return frame.UsageError("unstow: no output; add -o ARCHIVE.zip")
	case !strings.EqualFold(ext, ".zip"):
		return frame.UsageError("unstow: the archive is a zip file: call it %s.zip; --write-as gives the contents beside it",
			strings.TrimSuffix(u.Output, ext))
	}
	target := kit.Target(u.end.Output)
	if u.contents = target.Format != nil; u.contents {
		u.end.Name = strings.TrimSuffix(u.Output, ext) + target.Format.Extensions[0]
		if err := u.Settle("unstow --write-as", u.end, nil); err != nil {
			return err
		}
		if err := target.Open(); err != nil {
			return err
		}
	}
	all, err := u.pack(ctx)
	if err != nil {
		return err
	}
	for _, other := range all.Others {
		u.Note(filepath.Join(u.card, filepath.FromSlash(other)) + " is no regular file and is not in the archive")
	}
	if !u.contents {
		if u.JSON {
			return u.PrintJSON(packAnswer{u.card, u.Output, all.Files, append([]string{}, all.Others...)})
		}
		return nil
	}
	data := u.read(ctx, all.Files)
	if data.Points() == 0 {
		return frame.FaultIn(u.card, "has nothing that can be read as navigation data; the archive was written, but not %s",
			u.end.Name)
	}
	return u.Write(ctx, u.end, &chain.Work{Data: data}, nil, false)
}

// pack writes the archive and says so.
func (u *unstowTask) pack(ctx context.Context) (all card.Listing, err error) {
	kept := ""
	if u.DryRun {
		all, err = card.List(u.card)
	} else {
		all, kept, err = card.Unstow(ctx, u.card, u.Output, u.Replace)
	}
	if err != nil || u.Quiet || u.JSON {
		return all, err
	}
	word := u.Err.Paint(console.Green, "archived in")
	if u.DryRun {
		word = "would archive in"
	}
	u.Err.Printf("%s %s: %s of the card in %s\n", word, console.Show(u.Output),
		measure.Counted(len(all.Files), "file", "files"), console.Show(u.card))
	if kept != "" {
		u.Err.Printf("the old archive is kept as %s\n", console.Show(kept))
	}
	return all, nil
}

// read reads all files of a card that are of a known format.
func (u *unstowTask) read(ctx context.Context, files []string) *nav.Dataset {
	data := &nav.Dataset{}
	for _, name := range files {
		if filepath.Base(name) == card.ManifestName {
			continue
		}
		in, err := u.Reading.Load(ctx, filepath.Join(u.card, filepath.FromSlash(name)))
		if err != nil {
			u.Note(words.AdvisedError(err))
			continue
		}
		u.Remarks(in)
		data.Merge(in.Data)
	}
	return data
}

// restore puts an archive back.
func (u *unstowTask) restore(ctx context.Context) error {
	keep, err := KeepFolder(u.Task.App, u.keep)
	if err != nil {
		return err
	}
	if !safefile.IsStream(u.archive) { // which is refused below
		src, err := format.Open(ctx, u.archive, nil)
		if err != nil {
			return err
		}
		src.Close()
	}
	opt := cardOptions(u.Task, keep)
	opt.DryRun = u.DryRun
	opt.Unit = func(name string) *unit.Profile {
		p, err := u.Kit.Units(name)
		if err != nil {
			return nil
		}
		return p
	}
	done, err := card.Restore(ctx, u.card, u.archive, opt)
	if err != nil {
		return err
	}
	if u.JSON {
		return u.PrintJSON(restoreAnswer{u.card, append([]string{}, done.Written...), done.Same,
			append([]string{}, done.Gone...), append([]string{}, done.Changed...), append([]string{}, done.Extra...),
			done.Archive})
	}
	u.sayRestored(done)
	return nil
}

func (u *unstowTask) sayRestored(done *card.Restored) {
	if u.Quiet {
		return
	}
	if u.DryRun {
		for _, f := range done.Written {
			u.Err.Printf("would restore %s\n", console.Show(f))
		}
		for _, f := range done.Gone {
			u.Err.Printf("would archive and remove %s, which came since\n", console.Show(f))
		}
		for _, f := range done.Extra {
			u.Err.Printf("would leave %s, which is not in the archive and not the unit's\n", console.Show(f))
		}
		return
	}
	u.Err.Printf("%s %s restored to the card in %s, %s already as in the archive\n",
		u.Err.Paint(console.Green, "restored:"),
		measure.Counted(len(done.Written), "file", "files"), console.Show(u.card), measure.Count(done.Same))
	if done.Archive != "" {
		u.Err.Printf("what was there is archived in %s\n", console.Show(done.Archive))
	}
	if n := len(done.Gone); n > 0 {
		u.Err.Printf("%s that came since removed from the card, and archived too: %s\n", measure.Counted(n, "file", "files"),
			shownList(done.Gone))
	}
	if n := len(done.Changed); n > 0 {
		u.Note(measure.Counted(n, "file", "files") + " of the unit changed since, which the archive does not hold: " +
			shownList(done.Changed))
	}
	if n := len(done.Extra); n > 0 {
		u.Note(
			measure.Counted(n, "file", "files") + " on the card not in the archive and not the unit's, left as they are: " +
				shownList(done.Extra),
		)
	}
	if done.Uncopied != nil {
		u.Note("no copy of the card's record could be kept: " + done.Uncopied.Error())
	}
}

// shownList names the first of some files.
func shownList(files []string) string {
	const few = 3
	shown := make([]string, 0, few)
	for _, f := range files[:min(len(files), few)] {
		shown = append(shown, console.Show(f))
	}
	list := strings.Join(shown, ", ")
	if len(files) > few {
		list += fmt.Sprintf(" and %d more", len(files)-few)
	}
	return list
}

// packAnswer is what unstow answers as JSON.
type packAnswer struct {
	Card    string   `json:"card"`
	Archive string   `json:"archive"`
	Files   []string `json:"files"`
	LeftOut []string `json:"left_out"`
}

// restoreAnswer is what unstow --restore answers as JSON.
type restoreAnswer struct {
	Card     string   `json:"card"`
	Restored []string `json:"restored"`
	Same     int      `json:"same"`
	Removed  []string `json:"removed"`
	Changed  []string `json:"changed"`
	Extra    []string `json:"extra"`
	Archive  string   `json:"archive"`
}
