package help

import (
	"fmt"
	"strings"

	"gyrolith/core/pattern"
	"gyrolith/internal/cli/frame"
)

// Reference is the reference of all verbs and options, as Markdown.
func Reference(a *frame.App) string {
	var b strings.Builder
	b.WriteString("# Reference\n\nEvery verb and its options, generated from the program. `gyrolith VERB --help` shows " +
		"the same, and\n`gyrolith man DIR` writes manual pages.\n\n")
	for i, v := range a.All {
		lead := ", "
		if i == 0 || v.Stage != a.All[i-1].Stage {
			lead = "- " + v.Stage + ": "
		}
		if i > 0 && v.Stage != a.All[i-1].Stage {
			lead = "\n" + lead
		}
		fmt.Fprintf(&b, "%s[%s](#%s)", lead, v.Name, v.Name)
	}
	b.WriteString("\n")
	b.WriteString("- [Options shared by many verbs](#options-shared-by-many-verbs)\n")
	for i := range topics() {
		if t := &topics()[i]; t.show == nil {
			fmt.Fprintf(&b, "- [%s](#%s)\n", t.title, strings.ReplaceAll(strings.ToLower(t.title), " ", "-"))
		}
	}
	for _, v := range a.All {
		b.WriteString("\n" + chapter(a, a.Made(v)))
	}
	b.WriteString("\n## Options shared by many verbs\n\n")
	for _, t := range sharedTables(a) {
		var list []section
		for i := range t {
			list = under(list, &t[i])
		}
		bullets(&b, list)
	}
	for i := range topics() {
		if t := &topics()[i]; t.show == nil {
			fmt.Fprintf(&b, "\n## %s\n\n%s", t.title, prose(t.text))
		}
	}
	return b.String()
}

// chapter is what the reference says of a verb.
func chapter(a *frame.App, v *frame.Made) string {
	var b strings.Builder
	fmt.Fprintf(&b, "## %s\n\n%s.\n\n```\n%s\n```\n", v.Name, sentence(escaped(v.Usage)), synopsis(v))
	if v.Help != "" {
		b.WriteString("\n" + prose(v.Help))
	}
	if list := v.Examples; len(list) > 0 {
		fmt.Fprintf(&b, "\nExamples:\n\n```sh\n%s```\n", typed(list))
	}
	own, shared := sections(a, v)
	if len(own) > 0 {
		b.WriteString("\n")
	}
	bullets(&b, own)
	var names []string
	for _, s := range shared {
		for _, p := range s.options {
			names = append(names, "`--"+p.Name+"`")
		}
	}
	if len(names) > 0 {
		fmt.Fprintf(&b, "\nAnd [options shared by many verbs](#options-shared-by-many-verbs): %s.\n",
			strings.Join(names, ", "))
	}
	return b.String()
}

func bullets(b *strings.Builder, list []section) {
	for i, s := range list {
		if i > 0 {
			b.WriteString("\n")
		}
		fmt.Fprintf(b, "%s:\n\n", s.title)
		for _, p := range s.options {
			fmt.Fprintf(b, "- `%s`: %s\n", label(p), escaped(wording(p)))
		}
	}
}

// sentence begins with a capital letter.
func sentence(text string) string { return strings.ToUpper(text[:1]) + text[1:] }

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
