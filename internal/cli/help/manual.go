package help

import (
	"fmt"
	"strings"

	"github.com/cpuguy83/go-md2man/v2/md2man"

	"gyrolith/core/param"
	"gyrolith/core/pattern"
	"gyrolith/internal/cli/frame"
)

// section is the options of a verb under one heading.
type section struct {
	title   string
	options []*param.Param
}

// sections gives the options of a verb in their order: those of its own, and those that it shares with others.
func sections(a *frame.App, v *frame.Made) (own, shared []section) {
	common := sharedOptions(a, v)
	seen := map[string]bool{}
	for _, t := range v.Tables {
		for i := range t {
			p := &t[i]
			if seen[p.Name] {
				continue
			}
			seen[p.Name] = true
			to := &own
			if common[p.Name] {
				to = &shared
			}
			*to = under(*to, p)
		}
	}
	return own, shared
}

// under adds an option to the last section, or to a new one where its heading differs.
func under(list []section, p *param.Param) []section {
	title := orOptions(p.Group)
	if n := len(list); n == 0 || list[n-1].title != title {
		list = append(list, section{title: title})
	}
	last := &list[len(list)-1]
	last.options = append(last.options, p)
	return list
}

var special = pattern.New(`[\\*_\[\]<>|#]`)

// escaped keeps what has a meaning in Markdown as it is, but for text in backquotes.
func escaped(text string) string {
	parts := strings.Split(text, "`")
	for i := range parts {
		if i%2 == 0 {
			parts[i] = special.ReplaceAllString(parts[i], `\$0`)
		}
	}
	return strings.Join(parts, "`")
}

// prose makes Markdown of help: what is indented there is a block by itself.
func prose(help string) string {
	var b strings.Builder
	inBlock := false
	for l := range strings.Lines(strings.Trim(help, "\n") + "\n") {
		l = strings.TrimRight(l, "\n")
		switch indented := strings.HasPrefix(l, "  "); {
		case indented && !inBlock:
			b.WriteString("```\n")
			inBlock = true
		case !indented && l != "" && inBlock:
			text := strings.TrimRight(b.String(), "\n")
			b.Reset()
			b.WriteString(text + "\n```\n\n")
			inBlock = false
		}
		if inBlock {
			b.WriteString(strings.TrimPrefix(l, "  ") + "\n")
		} else {
			b.WriteString(escaped(l) + "\n")
		}
	}
	out := strings.TrimRight(b.String(), "\n") + "\n"
	if inBlock {
		out += "```\n"
	}
	return out
}

// synopsis is how a verb is called.
func synopsis(v *frame.Made) string {
	options := ""
	if len(v.Tables) > 0 {
		options = "[options] "
	}
	return strings.TrimSpace("gyrolith " + v.Name + " " + options + v.Args)
}

// label is an option as it is typed.
func label(p *param.Param) string {
	out := "--" + p.Name
	if p.Short != "" {
		out = "-" + p.Short + ", " + out
	}
	if p.Value != "" {
		out += " " + p.Value
	}
	return out
}

func wording(p *param.Param) string {
	out := p.Help
	if p.Default != "" {
		out += " (default: " + p.Default + ")"
	}
	return out
}

// typed gives examples as lines to type.
func typed(list []string) (out string) {
	for _, e := range list {
		out += "gyrolith " + e + "\n"
	}
	return out
}

// manPage is the manual page of a verb, in Markdown as the maker of roff wants it.
func manPage(a *frame.App, v *frame.Made) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%% gyrolith-%s 1\n\n# NAME\n\ngyrolith-%s - %s\n\n# SYNOPSIS\n\n`%s`\n\n", v.Name, v.Name,
		escaped(v.Usage), synopsis(v))
	if v.Help != "" {
		fmt.Fprintf(&b, "# DESCRIPTION\n\n%s\n", prose(v.Help))
	}
	if list := v.Examples; len(list) > 0 {
		fmt.Fprintf(&b, "# EXAMPLES\n\nOn the files of `gyrolith demo isles`:\n\n```\n%s```\n\n", typed(list))
	}
	own, shared := sections(a, v)
	for i, s := range append(own, shared...) {
		if i == 0 {
			b.WriteString("# OPTIONS\n\n")
		}
		fmt.Fprintf(&b, "## %s\n\n", s.title)
		for _, p := range s.options {
			fmt.Fprintf(&b, "`%s`\n: %s\n\n", label(p), escaped(strings.ReplaceAll(wording(p), "`", "")))
		}
	}
	b.WriteString("# SEE ALSO\n\n`gyrolith(1)`\n")
	return b.String()
}

// mainPage is the manual page of the program: the verbs, and the topics.
func mainPage(a *frame.App) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%% gyrolith 1\n\n# NAME\n\ngyrolith - %s\n\n# SYNOPSIS\n\n`gyrolith VERB [options] FILES…`\n\n"+
		"# VERBS\n\n", Purpose)
	stage := ""
	for _, v := range a.All {
		if v.Stage != stage {
			stage = v.Stage
			fmt.Fprintf(&b, "## %s\n\n", stage)
		}
		fmt.Fprintf(&b, "`gyrolith-%s(1)`\n: %s\n\n", v.Name, escaped(v.Brief))
	}
	for i := range topics {
		if t := &topics[i]; t.show == nil {
			fmt.Fprintf(&b, "# %s\n\n%s\n", strings.ToUpper(t.title), prose(t.text))
		}
	}
	return b.String()
}

// roff makes a page for man.
func roff(markdown string) []byte { return md2man.Render([]byte(markdown)) }
