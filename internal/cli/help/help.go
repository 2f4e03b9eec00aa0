// Package help explains verbs and topics, in the terminal, as manual pages and as the reference.
package help

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
	"gyrolith/internal/cli/frame"
)

// Purpose is what the program is for, in a line.
const Purpose = "inspect, convert, clean and prepare waypoints, routes, tracks and areas for navigation units"

// HelpVerb is help.
var HelpVerb = frame.Verb{Name: "help", Stage: frame.Know,
	Brief: "help for a verb or a topic",
	Usage: "show help for the program, a verb or a topic",
	Args:  "[VERB or TOPIC]",
	Tried: []string{"manual"},
	Completes: func(a *frame.App, _ bool) frame.Choices {
		c := frame.Choices{Words: frame.VerbWords(a)}
		for _, t := range topics() {
			c.Words = append(c.Words, frame.Candidate{Word: t.name, About: t.title})
		}
		return c
	},
	Make: makeHelp}

// makeHelp has shown what --help shows, for those who type it as a verb, and the topics.
func makeHelp(a *frame.App, v *frame.Verb) frame.Made {
	return frame.Made{Run: func(_ context.Context, l *frame.Line) error {
		if len(l.Args) == 0 {
			RootHelp(a, a.Out)
			return nil
		}
		if len(l.Args) > 1 {
			return frame.UsageError("help: name one verb or topic")
		}
		if i := slices.IndexFunc(topics(), func(t topic) bool { return t.name == l.Args[0] }); i >= 0 {
			topicHelp(a, &topics()[i])
			return nil
		}
		if v := a.LineVerb(l.Args); v != nil {
			VerbHelp(a, a.Out, v)
			return nil
		}
		return UnknownVerb(a, l.Args[0])
	}}
}

// AskedForHelp finds a call for help anywhere on the line, and makes it one of its verb. All is asked for by
// --help=all.
func AskedForHelp(args []string) (plain []string, all bool) {
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

// RootHelp is what the program says of itself.
func RootHelp(a *frame.App, out *console.Stream) {
	out.Printf("Gyrolith inspects, converts and cleans waypoints, routes, tracks and areas, and\n" +
		"writes the cards that navigation units load.\n\n  gyrolith VERB [options] FILES…\n\n")
	stage := ""
	for _, v := range a.All {
		title := ""
		if v.Stage != stage {
			title, stage = v.Stage, v.Stage
		}
		out.Printf("%s%s %s\n", out.Paint(console.Faint, fmt.Sprintf("%-19s", title)),
			out.Paint(console.Bold, fmt.Sprintf("%-10s", v.Name)), v.Brief)
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

// VerbHelp says help for a verb, with examples and its own options; those that it shares with others are named, and
// explained where all is asked for.
func VerbHelp(a *frame.App, out *console.Stream, v *frame.Made) {
	title := folded("gyrolith "+v.Name+": "+v.Usage, helpWidth(out))
	out.Printf("%s%s\n\n  %s\n", out.Paint(console.Bold, "gyrolith "+v.Name), title[len("gyrolith "+v.Name):],
		synopsis(v))
	if v.Help != "" {
		out.Printf("\n%s\n", folded(strings.TrimSpace(v.Help), helpWidth(out)))
	}
	if list := v.Examples; len(list) > 0 {
		out.Printf("\n%s\n", out.Paint(console.Faint, "Examples, using the files of 'gyrolith demo isles':"))
		for _, e := range list {
			out.Printf("  gyrolith %s\n", e)
		}
	}
	own, shared := sections(a, v)
	if a.HelpAll {
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
		hanging(out, "", 2, fmt.Sprintf("'gyrolith %s --help=all' explains them, as does 'gyrolith help options'.", v.Name))
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
func sharedOptions(a *frame.App, v *frame.Made) map[string]bool {
	j := a.NewTask("convert")
	tables := []param.Table{j.Reading.Params(), input.Choosing(&choose.Selection{}), j.Answering(), j.RecipeTable()}
	if v.Name != "convert" {
		end, _ := a.Kit.NewEnd("convert")
		tables = append(tables, end.Output.Params(), end.Parting())
	}
	out := map[string]bool{}
	if len(v.Tables) < 2 { // all that it has is its own
		return out
	}
	for _, t := range tables {
		for _, p := range t {
			out[p.Name] = true
		}
	}
	for _, own := range v.Own {
		delete(out, own)
	}
	return out
}

// UnknownVerb says what somebody may mean by a word that is no verb.
func UnknownVerb(a *frame.App, word string) error {
	if info, err := os.Stat(word); err == nil {
		what := "a file"
		if info.IsDir() {
			what = "a folder"
		}
		return frame.UsageError("%s is %s, not a verb; 'gyrolith look %s' shows what is in it", word, what, word)
	}
	if word == "version" {
		return frame.UsageError("there is no verb \"version\"; use 'gyrolith --version'")
	}
	lower := strings.ToLower(word)
	if i := slices.IndexFunc(a.All, func(v *frame.Verb) bool { return slices.Contains(v.Tried, lower) }); i >= 0 {
		return frame.UsageError("there is no verb %q; did you mean %q? See 'gyrolith %s --help'", word, a.All[i].Name,
			a.All[i].Name)
	}
	best, least := "", 3
	for _, v := range a.All {
		if d := symbol.Edits(word, v.Name); d < least && d < len(word)-1 {
			best, least = v.Name, d
		}
	}
	if best != "" {
		return frame.UsageError("there is no verb %q; did you mean %q? 'gyrolith help' lists them", word, best)
	}
	return frame.UsageError("there is no verb %q; 'gyrolith help' lists them", word)
}
