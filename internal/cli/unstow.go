package cli

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
)

// unstowTask is the work of unstow.
type unstowTask struct {
	*task
	card, archive, keep string
	end                 *chain.End
	contents            bool // in an open format as well
}

// unstowVerb is unstow.
var unstowVerb = verb{name: "unstow", stage: toUnits,
	brief: "archive a card, or restore one",
	usage: "archive a whole card, export its contents in an open format, or " +
		"restore an " +
		"archive",
	args: "--card DIR -o ARCHIVE.zip",
	help: "The archive has every file of the card. With --write-as the contents that Gyrolith can read are written " +
		"beside it\n" +
		"in that format as well. --restore puts an archive back, made by unstow or by stow before replacing files.",
	examples: []string{"unstow --card vane-card -o aircraft.zip", "unstow --card keel-card -o plotter.zip --write-as gpx"},
	tried:    []string{"backup", "restore"},
	make:     (*app).unstow}

func (a *app) unstow(v *verb) made {
	u := &unstowTask{task: a.newTask(v.name)}
	u.end, _ = a.kit.NewEnd("convert")
	return made{tables: []param.Table{{cardParam(&u.card)}, param.Table{
		archiveParam(&u.archive),
		keepParam(&u.keep), u.waiting(),
	}.In("Card").ForOneRun(), kit.Target(u.end.Output).Params(),
		u.writing("the `FILE` of the archive, a .zip"), u.answering()}, run: u.run}
}

func archiveParam(to *string) param.Param {
	return param.File("restore", to, "ARCHIVE", "restore this `ARCHIVE` to the card")
}

func (u *unstowTask) run(ctx context.Context, l *commandLine) error {
	if u.card == "" {
		return cardMissing("unstow")
	}
	if len(l.args) > 0 {
		return usageError("unstow: takes no files; use --card, and -o or --restore")
	}
	release, err := u.hold(ctx, u.card) // while it is written it is half of each
	if err != nil {
		return err
	}
	defer release()
	if err := card.CheckFinished(u.card); err != nil && u.archive == "" {
		u.note(advisedError(err))
	}
	if u.archive != "" {
		return u.restore(ctx)
	}
	ext := filepath.Ext(u.output)
	switch {
	case u.output == "":
		return usageError("unstow: no output; add -o ARCHIVE.zip")
	case !strings.EqualFold(ext, ".zip"):
		return usageError("unstow: the archive is a zip file: call it %s.zip; --write-as gives the contents beside it",
			strings.TrimSuffix(u.output, ext))
	}
	target := kit.Target(u.end.Output)
	if u.contents = target.Format != nil; u.contents {
		u.end.Name = strings.TrimSuffix(u.output, ext) + target.Format.Extensions[0]
		if err := u.settle("unstow --write-as", u.end, nil); err != nil {
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
		u.note(filepath.Join(u.card, filepath.FromSlash(other)) + " is no regular file and is not in the archive")
	}
	if !u.contents {
		if u.json {
			return u.printJSON(map[string]any{"card": u.card, "archive": u.output, "files": all.Files,
				"left_out": append([]string{}, all.Others...)})
		}
		return nil
	}
	data := u.read(ctx, all.Files)
	if data.Points() == 0 {
		return faultIn(u.card, "has nothing that can be read as navigation data; the archive was written, but not %s",
			u.end.Name)
	}
	return u.write(ctx, u.end, &chain.Work{Data: data}, nil, false)
}

// pack writes the archive and says so.
func (u *unstowTask) pack(ctx context.Context) (all card.Listing, err error) {
	kept := ""
	if u.dryRun {
		all, err = card.List(u.card)
	} else {
		all, kept, err = card.Unstow(ctx, u.card, u.output, u.replace)
	}
	if err != nil || u.quiet || u.json {
		return all, err
	}
	word := u.err.Paint(console.Green, "archived in")
	if u.dryRun {
		word = "would archive in"
	}
	u.err.Printf("%s %s: %s of the card in %s\n", word, console.Show(u.output), plural(len(all.Files), "file", "files"),
		console.Show(u.card))
	if kept != "" {
		u.err.Printf("the old archive is kept as %s\n", console.Show(kept))
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
		in, err := u.reading.Load(ctx, filepath.Join(u.card, filepath.FromSlash(name)))
		if err != nil {
			u.note(advisedError(err))
			continue
		}
		u.remarks(in)
		data.Merge(in.Data)
	}
	return data
}

// restore puts an archive back.
func (u *unstowTask) restore(ctx context.Context) error {
	keep, err := u.keepFolder(u.keep)
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
	opt := u.cardOptions(keep)
	opt.DryRun = u.dryRun
	opt.Unit = func(name string) *unit.Profile {
		p, err := u.kit.Units(name)
		if err != nil {
			return nil
		}
		return p
	}
	done, err := card.Restore(ctx, u.card, u.archive, opt)
	if err != nil {
		return err
	}
	if u.json {
		return u.printJSON(map[string]any{"card": u.card, "restored": append([]string{}, done.Written...), "same": done.Same,
			"removed": append([]string{}, done.Gone...), "changed": append([]string{}, done.Changed...),
			"extra": append([]string{}, done.Extra...), "archive": done.Archive})
	}
	u.sayRestored(done)
	return nil
}

func (u *unstowTask) sayRestored(done *card.Restored) {
	if u.quiet {
		return
	}
	if u.dryRun {
		for _, f := range done.Written {
			u.err.Printf("would restore %s\n", console.Show(f))
		}
		for _, f := range done.Gone {
			u.err.Printf("would archive and remove %s, which came since\n", console.Show(f))
		}
		for _, f := range done.Extra {
			u.err.Printf("would leave %s, which is not in the archive and not the unit's\n", console.Show(f))
		}
		return
	}
	u.err.Printf("%s %s restored to the card in %s, %s already as in the archive\n",
		u.err.Paint(console.Green, "restored:"),
		plural(len(done.Written), "file", "files"), console.Show(u.card), measure.Count(done.Same))
	if done.Archive != "" {
		u.err.Printf("what was there is archived in %s\n", console.Show(done.Archive))
	}
	if n := len(done.Gone); n > 0 {
		u.err.Printf("%s that came since removed from the card, and archived too: %s\n", plural(n, "file", "files"),
			shownList(done.Gone))
	}
	if n := len(done.Changed); n > 0 {
		u.note(plural(n, "file", "files") + " of the unit changed since, which the archive does not hold: " +
			shownList(done.Changed))
	}
	if n := len(done.Extra); n > 0 {
		u.note(plural(n, "file", "files") + " on the card not in the archive and not the unit's, left as they are: " +
			shownList(done.Extra))
	}
	if done.Uncopied != nil {
		u.note("no copy of the card's record could be kept: " + done.Uncopied.Error())
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
