package lookup

import (
	"context"
	"slices"
	"strings"

	"gyrolith/core/param"
	"gyrolith/core/recipe"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// RecipesVerb is recipes.
var RecipesVerb = frame.Verb{Name: "recipes", Stage: frame.DrawAndAdd,
	Brief:     "the built-in recipes",
	Usage:     "list the built-in recipes, or print one to start your own from",
	Args:      "[NAME]",
	Examples:  []string{"recipes", "recipes archive-day"},
	Completes: func(_ *frame.App, first bool) frame.Choices { return frame.Choices{Words: RecipeWords(first)} },
	Answers:   []any{recipesAnswer{}},
	Make:      makeRecipes}

func makeRecipes(a *frame.App, v *frame.Verb) frame.Made {
	asJSON := false
	return frame.Made{Tables: []param.Table{jsonTable(&asJSON)}, Run: func(_ context.Context, l *frame.Line) error {
		all := recipe.Shipped()
		if name := frame.First(l.Args); name != "" {
			i := slices.IndexFunc(all, func(r *recipe.Recipe) bool { return r.Path == name })
			if i < 0 {
				return frame.UsageError("recipes: there is no recipe %q; 'gyrolith recipes' lists the built-in ones", name)
			}
			a.Out.Printf("%s", all[i].Source)
			return nil
		}
		list := []recipeRow{}
		var cells [][]string
		for _, r := range all {
			list = append(list, recipeRow{r.Path, r.About})
			var values []string
			for _, v := range r.Values {
				values = append(values, v.Name+"="+v.Text)
			}
			cells = append(cells, []string{a.Out.Paint(console.Bold, r.Path), r.About, strings.Join(values, " ")})
		}
		if asJSON {
			return a.PrintJSON(recipesAnswer{list})
		}
		a.Out.Table("", []console.Column{{Title: "recipe"}, {Title: "what it does"}, {Title: "values"}}, cells)
		a.Out.Printf("'gyrolith recipes NAME > mine.toml' starts your own from one; with --as-recipe any " +
			"verb that makes data prints the step that does the same.\n")
		return nil
	}}
}

// RecipeWords are the recipes that ship, where one is expected.
func RecipeWords(expected bool) (out []frame.Candidate) {
	if !expected {
		return nil
	}
	for _, r := range recipe.Shipped() {
		out = append(out, frame.Candidate{Word: r.Path, About: r.About})
	}
	return
}

// recipesAnswer is what recipes answers as JSON.
type recipesAnswer struct {
	Recipes []recipeRow `json:"recipes"`
}

type recipeRow struct {
	Name  string `json:"name"`
	About string `json:"about"`
}
