package help

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"gyrolith/core/measure"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// ManVerb is man.
var ManVerb = frame.Verb{Name: "man", Stage: frame.Know,
	Brief:     "the manual pages",
	Usage:     "write the manual pages, one per verb, into a folder",
	Args:      "DIR",
	Help:      "The pages are generated from the same tables as the options and the keys of recipes.",
	Completes: frame.FolderNames,
	Make:      makeMan}

func makeMan(a *frame.App, v *frame.Verb) frame.Made {
	replace := false
	return frame.Made{
		Tables: []param.Table{{param.Switch("replace", &replace, "overwrite existing pages, and keep backups")}},
		Run: func(_ context.Context, l *frame.Line) error {
			if len(l.Args) != 1 {
				return frame.UsageError("man: name the folder for the pages")
			}
			return writeManual(a, l.Args[0], replace)
		},
	}
}

func writeManual(a *frame.App, dir string, replace bool) error {
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return fmt.Errorf("%s: can't be made: %w", dir, err)
	}
	pages := map[string]string{"gyrolith": mainPage(a)}
	for _, v := range a.All {
		pages["gyrolith-"+v.Name] = manPage(a, a.Made(v))
	}
	for _, name := range words.SortedKeys(pages) {
		if _, err := safefile.WriteBytes(filepath.Join(dir, name+".1"), replace, []byte(pages[name])); err != nil {
			return err
		}
	}
	a.Err.Printf("%s %s in %s\n", a.Err.Paint(console.Green, "wrote"), measure.Counted(len(pages), "page", "pages"),
		console.Show(dir))
	return nil
}
