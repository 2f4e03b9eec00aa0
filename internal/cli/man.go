package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"gyrolith/core/param"
	"gyrolith/core/safefile"
	"gyrolith/internal/cli/console"
)

// manVerb is man.
var manVerb = verb{name: "man", stage: know,
	brief:     "the manual pages",
	usage:     "write the manual pages, one per verb, into a folder",
	args:      "DIR",
	help:      "The pages are generated from the same tables as the options and the keys of recipes.",
	completes: folderNames,
	make:      (*app).man}

func (a *app) man(v *verb) made {
	replace := false
	return made{tables: []param.Table{{param.Switch("replace", &replace, "overwrite existing pages, and keep backups")}}, run: func(_ context.Context, l *commandLine) error {
		if len(l.args) != 1 {
			return usageError("man: name the folder for the pages")
		}
		return a.writeManual(l.args[0], replace)
	}}
}

func (a *app) writeManual(dir string, replace bool) error {
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return fmt.Errorf("%s: can't be made: %w", dir, err)
	}
	pages := map[string]string{"gyrolith": a.mainPage()}
	for _, v := range verbs {
		pages["gyrolith-"+v.name] = a.manPage(a.made(v))
	}
	for _, name := range sortedKeys(pages) {
		if _, err := safefile.WriteBytes(filepath.Join(dir, name+".1"), replace, roff(pages[name])); err != nil {
			return err
		}
	}
	a.err.Printf("%s %s in %s\n", a.err.Paint(console.Green, "wrote"), plural(len(pages), "page", "pages"),
		console.Show(dir))
	return nil
}
