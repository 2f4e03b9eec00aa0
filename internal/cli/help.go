package cli

import (
	"context"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"

	"gyrolith/core/choose"
	"gyrolith/core/input"
	"gyrolith/core/param"
	"gyrolith/core/symbol"
	"gyrolith/internal/cli/console"
)

// helpVerb is help.
var helpVerb = verb{name: "help", stage: know,
	brief: "help for a verb or a topic",
	usage: "show help for the program, a verb or a topic",
	args:  "[VERB or TOPIC]",
	tried: []string{"manual"},
	completes: func(*app, bool) choices {
		c := choices{words: verbWords()}
		for _, t := range topics {
			c.words = append(c.words, candidate{t.name, t.title})
		}
		return c
	},
	make: (*app).help}

// help shows what --help shows, for those who type it as a verb, and the topics.
func (a *app) help(v *verb) made {
	return made{run: func(_ context.Context, l *commandLine) error {
		if len(l.args) == 0 {
			a.rootHelp(a.out)
			return nil
		}
		if len(l.args) > 1 {
			return usageError("help: name one verb or topic")
		}
		if i := slices.IndexFunc(topics, func(t topic) bool { return t.name == l.args[0] }); i >= 0 {
			a.topicHelp(&topics[i])
			return nil
		}
		if v := a.lineVerb(l.args); v != nil {
			a.verbHelp(a.out, v)
			return nil
		}
		return a.unknownVerb(l.args[0])
	}}
}

// askedForHelp finds a call for help anywhere on the line, and makes it one of its verb. All is asked for by
// --help=all.
func askedForHelp(args []string) (plain []string, all bool) {
	for _, arg := range args {
		switch arg {
		case "--":
			return args, false
		case "-h", "--help", "--help=all":
			if len(args) > 1 && !strings.HasPrefix(args[0], "-") && args[0] != "help" {
				return []string{"help", args[0]}, arg == "--help=all"
			}
			return []string{"help"}, false
		}
	}
	return args, false
}

// rootHelp is what the program says of itself.
func (a *app) rootHelp(out *console.Stream) {
	out.Printf("Gyrolith inspects, converts and cleans waypoints, routes, tracks and areas, and\n" +
		"writes the cards that navigation units load.\n\n  gyrolith VERB [options] FILES…\n\n")
	stage := ""
	for _, v := range verbs {
		title := ""
		if v.stage != stage {
			title, stage = v.stage, v.stage
		}
		out.Printf("%s%s %s\n", out.Paint(console.Faint, fmt.Sprintf("%-19s", title)),
			out.Paint(console.Bold, fmt.Sprintf("%-10s", v.name)), v.brief)
	}
	out.Printf("\nTo begin with:     gyrolith demo isles      run the example in a new folder\n" +
		"                   gyrolith look FILE       what is in it\n" +
		"                   gyrolith VERB --help     help for a verb, with examples\n")
	hanging(out, "Topics:", 19, "gyrolith help "+strings.Join(topicNames(), " | "))
}

// helpWidth is how wide help is: the window, or 80 where there is none.
func helpWidth(out *console.Stream) int {
	if !out.Terminal {
		return 80
	}
	return min(max(out.Width, 50), 100)
}

// hanging prints a label and a text behind it, broken at words under its beginning.
func hanging(out *console.Stream, label string, indent int, words string) {
	width := helpWidth(out) - indent
	lines := strings.Split(text.WrapSoft(words, width), "\n")
	pad := strings.Repeat(" ", indent)
	if len([]rune(label)) > indent-2 { // on a line of its own
		out.Printf("%s\n", out.Paint(console.Bold, label))
		label = ""
	}
	for i, l := range lines {
		lead := pad
		if i == 0 {
			lead = out.Paint(console.Bold, label) + strings.Repeat(" ", indent-len([]rune(label)))
		}
		out.Printf("%s%s\n", lead, strings.TrimRight(l, " "))
	}
}

// verbHelp says help for a verb, with examples and its own options; those that it shares with others are named, and
// explained where all is asked for.
func (a *app) verbHelp(out *console.Stream, v *made) {
	title := folded("gyrolith "+v.name+": "+v.usage, helpWidth(out))
	out.Printf("%s%s\n\n  %s\n", out.Paint(console.Bold, "gyrolith "+v.name), title[len("gyrolith "+v.name):],
		v.synopsis())
	if v.help != "" {
		out.Printf("\n%s\n", folded(strings.TrimSpace(v.help), helpWidth(out)))
	}
	if list := v.examples; len(list) > 0 {
		out.Printf("\n%s\n", out.Paint(console.Faint, "Examples, using the files of 'gyrolith demo isles':"))
		for _, e := range list {
			out.Printf("  gyrolith %s\n", e)
		}
	}
	own, shared := a.sections(v)
	if a.helpAll {
		own, shared = append(own, shared...), nil
	}
	for _, s := range own {
		out.Printf("\n%s\n", out.Paint(console.Faint, s.title))
		for _, p := range s.options {
			printOption(out, p)
		}
	}
	var named []string
	for _, s := range shared {
		for _, p := range s.options {
			named = append(named, "--"+p.Name)
		}
	}
	if len(named) > 0 {
		out.Printf("\n%s\n", out.Paint(console.Faint, "Options shared by many verbs"))
		hanging(out, "", 2, strings.Join(named, ", "))
		hanging(out, "", 2, fmt.Sprintf("'gyrolith %s --help=all' explains them, as does 'gyrolith help options'.", v.name))
	}
}

// folded fills paragraphs to a width; lines that are indented stay as they are, but for what is wider.
func folded(words string, width int) string {
	var out, paragraph []string
	fill := func() {
		if len(paragraph) > 0 {
			for l := range strings.SplitSeq(text.WrapSoft(strings.Join(paragraph, " "), width), "\n") {
				out = append(out, strings.TrimRight(l, " "))
			}
		}
		paragraph = nil
	}
	for l := range strings.SplitSeq(words, "\n") {
		switch {
		case l == "" || strings.HasPrefix(l, " "):
			fill()
			out = append(out, hung(l, width)...)
		default:
			paragraph = append(paragraph, strings.TrimSpace(l))
		}
	}
	fill()
	return strings.Join(out, "\n")
}

// hung breaks a line that is indented; what follows two blanks in it is a column, under whose beginning it goes on.
func hung(l string, width int) (out []string) {
	if len([]rune(l)) <= width {
		return []string{l}
	}
	first := len(l) - len(strings.TrimLeft(l, " "))
	if at := strings.LastIndex(l[:min(len(l), width/2)], "  "); at > first {
		first = at + 2
	}
	lead := l[:first]
	for part := range strings.SplitSeq(text.WrapSoft(l[first:], width-len([]rune(lead))), "\n") {
		out = append(out, strings.TrimRight(lead+part, " "))
		lead = strings.Repeat(" ", len([]rune(lead)))
	}
	return out
}

func orOptions(group string) string {
	if group == "" {
		return "Options"
	}
	return group
}

const optionIndent = 27

func printOption(out *console.Stream, p *param.Param) {
	hanging(out, "  "+label(p), optionIndent, strings.ReplaceAll(wording(p), "`", ""))
}

// sharedOptions are those that a verb has in common with others: how files are read, what is chosen of them, how it
// answers; of verbs that change data also how the output is laid out.
func (a *app) sharedOptions(v *made) map[string]bool {
	j := a.newTask("convert")
	tables := []param.Table{j.reading.Params(), input.Choosing(&choose.Selection{}), j.answering(), j.recipeTable()}
	if v.name != "convert" {
		end, _ := a.kit.NewEnd("convert")
		tables = append(tables, end.Output.Params(), end.Parting())
	}
	out := map[string]bool{}
	if len(v.tables) < 2 { // all that it has is its own
		return out
	}
	for _, t := range tables {
		for _, p := range t {
			out[p.Name] = true
		}
	}
	for _, own := range v.own {
		delete(out, own)
	}
	return out
}

// unknownVerb says what somebody may mean by a word that is no verb.
func (a *app) unknownVerb(word string) error {
	if info, err := os.Stat(word); err == nil {
		what := "a file"
		if info.IsDir() {
			what = "a folder"
		}
		return usageError(
			"%s is %s, not a verb; 'gyrolith look %s' shows what is in it",
			word,
			what,
			word,
		)
	}
	if word == "version" {
		return usageError("there is no verb \"version\"; use 'gyrolith --version'")
	}
	lower := strings.ToLower(word)
	if i := slices.IndexFunc(verbs, func(v *verb) bool { return slices.Contains(v.tried, lower) }); i >= 0 {
		return usageError("there is no verb %q; did you mean %q? See 'gyrolith %s --help'", word, verbs[i].name, verbs[i].name)
	}
	best, least := "", 3
	for _, v := range verbs {
		if d := symbol.Edits(word, v.name); d < least && d < len(word)-1 {
			best, least = v.name, d
		}
	}
	if best != "" {
		return usageError("there is no verb %q; did you mean %q? 'gyrolith help' lists them", word, best)
	}
	return usageError("there is no verb %q; 'gyrolith help' lists them", word)
}
