package help

import (
	_ "embed"
	"slices"
	"strings"

	"gyrolith/core/template"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

//go:embed columns.txt
var meanings string

// showColumns lists the words and the verbs that have them.
func showColumns(a *frame.App) {
	type of struct {
		verb  string
		words []string
	}
	var tables []of
	for _, v := range a.All {
		if p := a.Made(v).Param("columns"); p != nil && !slices.ContainsFunc(tables, func(t of) bool {
			return slices.Equal(t.words, p.Words)
		}) {
			tables = append(tables, of{v.Name, p.Words})
		}
	}
	a.Out.Printf("\n%s\n\n", folded("The words, what they are, and the verbs in whose tables they can stand (every verb "+
		"that writes data has those of convert):", helpWidth(a.Out)))
	for line := range strings.Lines(meanings) {
		list, about, found := strings.Cut(strings.TrimSpace(line), ": ")
		if !found {
			continue
		}
		words := strings.Split(list, ", ")
		var verbs []string
		for _, t := range tables {
			if slices.ContainsFunc(words, func(w string) bool { return slices.Contains(t.words, w) }) {
				verbs = append(verbs, t.verb)
			}
		}
		a.Out.Printf("%s\n%s\n", folded("  "+strings.Join(words, " "), helpWidth(a.Out)),
			a.Out.Paint(console.Faint, folded("      "+about+" ("+strings.Join(verbs, ", ")+")", helpWidth(a.Out))))
	}
}

// showFunctions lists what can be done to the values of templates.
func showFunctions(a *frame.App) {
	var rows [][]string
	for _, f := range template.Functions {
		rows = append(rows, []string{"  " + a.Out.Paint(console.Bold, "|"+f[0]), f[1]})
	}
	a.Out.Table("", []console.Column{{}, {}}, rows)
}
