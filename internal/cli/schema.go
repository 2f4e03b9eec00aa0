package cli

import (
	"context"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/dress"
	"gyrolith/core/recipe"
	"gyrolith/core/unit"
)

const schemaHelp = `Prints the JSON Schema (draft 2020-12) of the TOML files that you write: recipes, rules of
dress, and profiles of units. Editors complete and check files with it, once the first line of the file names it:

  #:schema ./recipe.schema.json`

// schemas are the sorts of files that have one.
func (a *app) schemas() map[string]func() map[string]any {
	return map[string]func() map[string]any{"recipe": func() map[string]any { return recipe.Schema(a.kit) },
		"rules": dress.Schema, "profile": unit.Schema}
}

func (a *app) schema() *cli.Command {
	return a.verb(&verb{name: "schema", usage: "print the JSON Schema of recipes, rules or profiles, for editors",
		args: strings.Join(sortedKeys(a.schemas()), "|"), help: schemaHelp,
		run: func(_ context.Context, l *commandLine) error {
			if make := a.schemas()[first(l.args)]; make != nil && len(l.args) == 1 {
				return a.printJSON(make())
			}
			return usageError("schema: name one of %s", strings.Join(sortedKeys(a.schemas()), ", "))
		}})
}
