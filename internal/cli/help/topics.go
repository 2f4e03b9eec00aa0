package help

import (
	_ "embed"
	"slices"
	"strings"
	"sync"

	"gyrolith/core/choose"
	"gyrolith/core/dress"
	"gyrolith/core/input"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// topic is something that several verbs have in common, explained by itself.
type topic struct {
	name, title, text string
	show              func(*frame.App) // behind the text; nil for nothing
}

func topicNames() (out []string) {
	for _, t := range topics() {
		out = append(out, t.name)
	}
	return
}

func topicHelp(a *frame.App, t *topic) {
	a.Out.Printf("%s\n\n%s\n", a.Out.Paint(console.Bold, t.title), folded(strings.Trim(t.text, "\n"), helpWidth(a.Out)))
	if t.show != nil {
		t.show(a)
	}
}

//go:embed topics.txt
var topicTexts string

var topics = sync.OnceValue(func() (list []topic) {
	shows := map[string]func(*frame.App){"options": sharedHelp, "columns": showColumns, "templates": showFunctions}
	for part := range strings.SplitSeq(topicTexts, "=== ") {
		head, body, _ := strings.Cut(part, "\n")
		if name, title, ok := strings.Cut(head, ": "); ok {
			body = strings.ReplaceAll(body, "{words of templates}", templateWords())
			list = append(list, topic{name, title, body, shows[name]})
		}
	}
	return list
})

// templateWords lists the values that templates have, a few a line.
func templateWords() string {
	var b strings.Builder
	width := 0
	for _, w := range append(slices.Clone(dress.TemplateWords), "field:KEY") {
		if width += len(w) + 3; width > 74 {
			b.WriteString("\n  ")
			width = len(w) + 3
		}
		b.WriteString("{" + w + "} ")
	}
	return strings.TrimRight(b.String(), " ")
}

// sharedHelp explains the options that many verbs share.
func sharedHelp(a *frame.App) {
	for _, t := range sharedTables(a) {
		last := ""
		for i := range t {
			if t[i].Group != last {
				a.Out.Printf("\n%s\n", a.Out.Paint(console.Faint, orOptions(t[i].Group)))
				last = t[i].Group
			}
			printOption(a.Out, &t[i])
		}
	}
}

func sharedTables(a *frame.App) []param.Table {
	j := a.NewTask("convert")
	end, _ := a.Kit.NewEnd("convert")
	return []param.Table{input.Choosing(&choose.Selection{}), j.Reading.Params(), end.Output.Params(), end.Parting(),
		j.Answering(), j.RecipeTable()}
}
