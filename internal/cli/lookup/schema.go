package lookup

import (
	"context"
	_ "embed"
	"strings"

	"gyrolith/core/dress"
	"gyrolith/core/recipe"
	"gyrolith/core/schema"
	"gyrolith/core/unit"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

//go:embed texts/schema.txt
var schemaHelp string

// schemas are the sorts of files that have one.
func schemas(a *frame.App) map[string]func() map[string]any {
	out := map[string]func() map[string]any{"recipe": func() map[string]any { return recipe.Schema(a.Kit) },
		"rules": dress.Schema, "profile": unit.Schema}
	for _, v := range a.All {
		if len(v.Answers) > 0 {
			out[v.Name] = func() map[string]any { return schema.Answers("gyrolith "+v.Name+" --json", v.Answers...) }
		}
	}
	return out
}

// SchemaVerb is schema.
var SchemaVerb = frame.Verb{Name: "schema", Stage: frame.Know,
	Brief:    "JSON Schemas of files and answers",
	Usage:    "print the JSON Schema of recipes, rules or profiles, for editors, or of a verb's answer",
	Args:     "profile|recipe|rules|VERB",
	Help:     schemaHelp,
	Examples: []string{"schema recipe", "schema rules", "schema legs"},
	Completes: frame.OneOf(func(a *frame.App) (out []frame.Candidate) {
		for _, name := range words.SortedKeys(schemas(a)) {
			out = append(out, frame.Candidate{Word: name})
		}
		return
	}),
	Make: makeSchema}

func makeSchema(a *frame.App, v *frame.Verb) frame.Made {
	return frame.Made{Run: func(_ context.Context, l *frame.Line) error {
		if make := schemas(a)[frame.First(l.Args)]; make != nil && len(l.Args) == 1 {
			return a.PrintJSON(make())
		}
		return frame.UsageError("schema: name one of %s", strings.Join(words.SortedKeys(schemas(a)), ", "))
	}}
}
