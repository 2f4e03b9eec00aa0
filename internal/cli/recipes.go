package cli

import (
	"context"
	"slices"
	"strings"

	"gyrolith/core/param"
	"gyrolith/core/recipe"
	"gyrolith/internal/cli/console"
)

// recipesVerb is recipes.
var recipesVerb = verb{name: "recipes", stage: drawAndAdd,
	brief:     "the built-in recipes",
	usage:     "list the built-in recipes, or print one to start your own from",
	args:      "[NAME]",
	examples:  []string{"recipes", "recipes archive-day"},
	completes: func(_ *app, first bool) choices { return choices{words: recipeWords(first)} },
	make:      (*app).recipes}

func (a *app) recipes(v *verb) made {
	asJSON := false
	return made{tables: []param.Table{jsonTable(&asJSON)}, run: func(_ context.Context, l *commandLine) error {
		all := recipe.Shipped()
		if name := first(l.args); name != "" {
			i := slices.IndexFunc(all, func(r *recipe.Recipe) bool { return r.Path == name })
			if i < 0 {
				return usageError("recipes: there is no recipe %q; 'gyrolith recipes' lists the built-in ones", name)
			}
			a.out.Printf("%s", all[i].Source)
			return nil
		}
		type row struct {
			Name  string `json:"name"`
			About string `json:"about"`
		}
		var list []row
		var cells [][]string
		for _, r := range all {
			list = append(list, row{r.Path, r.About})
			var values []string
			for _, v := range r.Values {
				values = append(values, v.Name+"="+v.Text)
			}
			cells = append(cells, []string{a.out.Paint(console.Bold, r.Path), r.About, strings.Join(values, " ")})
		}
		if asJSON {
			return a.printJSON(map[string]any{"recipes": list})
		}
		a.out.Table("", []console.Column{{Title: "recipe"}, {Title: "what it does"}, {Title: "values"}}, cells)
		a.out.Printf("'gyrolith recipes NAME > mine.toml' starts your own from one; with --as-recipe any " +
			"verb that makes data prints the step that does the same.\n")
		return nil
	}}
}

// recipeWords are the recipes that ship, where one is expected.
func recipeWords(expected bool) (out []candidate) {
	if !expected {
		return nil
	}
	for _, r := range recipe.Shipped() {
		out = append(out, candidate{r.Path, r.About})
	}
	return
}
