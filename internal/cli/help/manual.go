package help

import (
	"fmt"
	"strings"

	"gyrolith/core/param"
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

// A manual page is in the macros of man (man-pages(7)). Text that has a meaning in them is escaped.
var signs = strings.NewReplacer(`\`, `\e`, "-", `\-`, "`", "")

// plain is a line of a page.
func plain(line string) string {
	line = signs.Replace(line)
	if strings.HasPrefix(line, ".") || strings.HasPrefix(line, "'") {
		return `\&` + line
	}
	return line
}

// paragraphs gives help as a page has it: what is indented is a block by itself.
func paragraphs(help string) string {
	var b strings.Builder
	b.WriteString(".PP\n")
	block := false
	for line := range strings.SplitSeq(strings.Trim(help, "\n"), "\n") {
		indented := strings.HasPrefix(line, "  ") || block && line == ""
		if indented != block {
			b.WriteString(map[bool]string{true: ".EX\n", false: ".EE\n"}[indented])
			block = indented
		}
		if line == "" && !block {
			b.WriteString(".PP\n")
			continue
		}
		b.WriteString(plain(line) + "\n")
	}
	if block {
		b.WriteString(".EE\n")
	}
	return b.String()
}

func heading(b *strings.Builder, macro, text string) { fmt.Fprintf(b, ".%s %s\n", macro, plain(text)) }

func entry(b *strings.Builder, what, about string) {
	fmt.Fprintf(b, ".TP\n.B %s\n%s\n", plain(what), plain(about))
}

// manPage is the manual page of a verb.
func manPage(a *frame.App, v *frame.Made) string {
	var b strings.Builder
	heading(&b, "TH", "gyrolith-"+v.Name+" 1")
	heading(&b, "SH", "NAME")
	b.WriteString(plain("gyrolith-"+v.Name+" - "+v.Usage) + "\n")
	heading(&b, "SH", "SYNOPSIS")
	b.WriteString(plain(synopsis(v)) + "\n")
	if v.Help != "" {
		heading(&b, "SH", "DESCRIPTION")
		b.WriteString(paragraphs(v.Help))
	}
	if list := v.Examples; len(list) > 0 {
		heading(&b, "SH", "EXAMPLES")
		b.WriteString(paragraphs("On the files of 'gyrolith demo isles':\n\n  " +
			strings.ReplaceAll(strings.TrimSpace(typed(list)), "\n", "\n  ")))
	}
	own, shared := sections(a, v)
	for i, s := range append(own, shared...) {
		if i == 0 {
			heading(&b, "SH", "OPTIONS")
		}
		heading(&b, "SS", s.title)
		for _, p := range s.options {
			entry(&b, label(p), wording(p))
		}
	}
	heading(&b, "SH", "SEE ALSO")
	b.WriteString("gyrolith(1)\n")
	return b.String()
}

// mainPage is the manual page of the program: the verbs, and the topics.
func mainPage(a *frame.App) string {
	var b strings.Builder
	heading(&b, "TH", "gyrolith 1")
	heading(&b, "SH", "NAME")
	b.WriteString(plain("gyrolith - "+Purpose) + "\n")
	heading(&b, "SH", "SYNOPSIS")
	b.WriteString("gyrolith VERB [options] FILES…\n")
	heading(&b, "SH", "VERBS")
	stage := ""
	for _, v := range a.All {
		if v.Stage != stage {
			stage = v.Stage
			heading(&b, "SS", stage)
		}
		entry(&b, "gyrolith-"+v.Name+"(1)", v.Brief)
	}
	for _, t := range topics() {
		if t.show == nil {
			heading(&b, "SH", strings.ToUpper(t.title))
			b.WriteString(paragraphs(t.text))
		}
	}
	return b.String()
}
