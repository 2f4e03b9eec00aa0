package cli

import (
	"context"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/format"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

func (a *app) unstow() *cli.Command {
	return &cli.Command{
		Name:      "unstow",
		Usage:     "archive a whole card, give its contents in an open format, or put an archive back",
		ArgsUsage: "--card DIR -o ARCHIVE.zip",
		Description: "The archive holds every file of the card. With --write-as the contents that Gyrolith reads are written beside it\n" +
			"in that format as well. --restore puts an archive back, one of unstow or one that stow made of what it replaced.",
		Flags: flags([]cli.Flag{
			&cli.StringFlag{Name: "card", Usage: "the `DIR` that is the card"},
			&cli.StringFlag{Name: "restore", Usage: "put this `ARCHIVE` back on the card"},
			&cli.StringFlag{Name: "keep", Category: writing, Usage: "the `DIR` for archives of what is replaced (default: the user's data folder)"},
		}, writeFlags(), answerFlags()),
		Action: a.runUnstow,
	}
}

func (a *app) runUnstow(_ context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	card, err := theCard(c)
	if err != nil {
		return err
	}
	if c.Args().Len() > 0 {
		return usageError("unstow: takes no files; --card names the card, and -o or --restore the archive")
	}
	unfinished := unit.CheckFinished(card)
	if unfinished != nil && !o.quiet {
		a.err.printf("%s %s\n", a.err.paint(yellow, "note:"), show(unfinished.Error()))
	}
	if c.String("restore") != "" {
		return a.restore(card, c, o)
	}
	if ext := filepath.Ext(o.output); !strings.EqualFold(ext, ".zip") {
		if o.output == "" {
			return usageError("unstow: say where the archive goes: -o ARCHIVE.zip")
		}
		return usageError("unstow: the archive is a zip file: call it %s.zip; --write-as gives the contents beside it", strings.TrimSuffix(o.output, ext))
	}
	contents := *o
	if o.writeAs != nil {
		contents.output = strings.TrimSuffix(o.output, filepath.Ext(o.output)) + o.writeAs.Extensions[0]
		if err := a.target("unstow --write-as", &contents, nil); err != nil {
			return err
		}
	}
	var files []string
	kept := ""
	if o.dryRun {
		files, err = unit.CardFiles(card)
	} else {
		files, kept, err = unit.Unstow(card, o.output, o.replace)
	}
	if err != nil {
		return err
	}
	if o.dryRun && !o.quiet && !o.json {
		a.err.printf("would archive in %s: %s of the card in %s\n", show(o.output), plural(len(files), "file", "files"), show(card))
	} else if !o.quiet && !o.json {
		a.err.printf("%s %s: %s of the card in %s\n", a.err.paint(green, "archived in"), show(o.output), plural(len(files), "file", "files"), show(card))
		if kept != "" {
			a.err.printf("the older archive is kept as %s\n", show(kept))
		}
	}
	if o.writeAs == nil {
		if o.json {
			return a.printJSON(map[string]any{"card": card, "archive": o.output, "files": files})
		}
		return nil
	}
	data := a.cardContents(card, files, o)
	if data.Points() == 0 {
		return faultIn(card, "holds nothing that can be read as navigation data; the archive was written, %s was not", contents.output)
	}
	return a.write(data, nil, &contents)
}

// cardContents reads all files of a card that are of a known format.
func (a *app) cardContents(card string, files []string, o *options) *nav.Dataset {
	data := &nav.Dataset{}
	for _, name := range files {
		if filepath.Base(name) == unit.ManifestName {
			continue
		}
		path := filepath.Join(card, filepath.FromSlash(name))
		src, err := format.Open(path, a.in)
		if err != nil {
			continue
		}
		in, err := formats.Load(src, "", false, &o.read)
		src.Close()
		if err != nil {
			if !o.quiet {
				a.err.printf("%s %s\n", a.err.paint(yellow, "note:"), show(err.Error()))
			}
			continue
		}
		a.remarks(in, o)
		data.Merge(in.Data)
	}
	return data
}

// restore puts an archive back.
func (a *app) restore(card string, c *cli.Command, o *options) error {
	keep, err := keepOption(c)
	if err != nil {
		return err
	}
	archive := c.String("restore")
	if _, err := os.Stat(archive); err != nil {
		return faultIn(archive, "there is no such archive")
	}
	opt := a.stowOptions(o, keep)
	opt.DryRun = o.dryRun
	done, err := unit.Restore(card, archive, opt)
	if err != nil {
		return err
	}
	if o.json {
		return a.printJSON(map[string]any{"card": card, "restored": append([]string{}, done.Written...), "same": done.Same, "extra": append([]string{}, done.Extra...), "removed": done.Removed, "archive": done.Archive})
	}
	if o.quiet {
		return nil
	}
	if o.dryRun {
		for _, f := range done.Written {
			a.err.printf("would put back %s\n", show(f))
		}
		for _, f := range done.Extra {
			a.err.printf("%s %s, which the archive does not hold\n", map[bool]string{true: "would archive and remove", false: "would leave"}[done.Removed], show(f))
		}
		return nil
	}
	a.err.printf("%s %s put back on the card in %s, %s as in the archive already\n", a.err.paint(green, "restored:"), plural(len(done.Written), "file", "files"), show(card), measure.Count(done.Same))
	if done.Archive != "" {
		a.err.printf("what was there instead is archived in %s\n", show(done.Archive))
	}
	if n := len(done.Extra); n > 0 && done.Removed {
		a.err.printf("%s that the archive does not hold went off the card, archived as well\n", plural(n, "file", "files"))
	} else if n > 0 {
		a.err.printf("%s %s on the card that the archive does not hold: %s; --replace archives and removes them\n", a.err.paint(yellow, "note:"), plural(n, "file is", "files are"), show(done.Extra[0]))
	}
	return nil
}
