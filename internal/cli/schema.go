package cli

import (
	"context"
	"strings"

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

// schemaVerb is schema.
var schemaVerb = verb{name: "schema", stage: know,
	brief:    "JSON Schemas of recipes, rules and profiles",
	usage:    "print the JSON Schema of recipes, rules or profiles, for editors",
	args:     "profile|recipe|rules",
	help:     schemaHelp,
	examples: []string{"schema recipe", "schema rules"},
	completes: oneOf(func(a *app) (out []candidate) {
		for _, name := range sortedKeys(a.schemas()) {
			out = append(out, candidate{word: name})
		}
		return
	}),
	make: (*app).schema}

func (a *app) schema(v *verb) made {
	return made{run: func(_ context.Context, l *commandLine) error {
		if make := a.schemas()[first(l.args)]; make != nil && len(l.args) == 1 {
			return a.printJSON(make())
		}
		return usageError("schema: name one of %s", strings.Join(sortedKeys(a.schemas()), ", "))
	}}
}
