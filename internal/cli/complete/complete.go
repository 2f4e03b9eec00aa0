// Package complete answers shells that ask what can stand at the cursor.
package complete

import (
	"context"
	_ "embed"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/symbol"
	"gyrolith/core/unit"
	"gyrolith/internal/cli/frame"
)

// The scripts by which shells ask the program what can stand at the cursor.
var (
	//go:embed shell/bash.sh
	bashScript string
	//go:embed shell/zsh.sh
	zshScript string
	//go:embed shell/fish.sh
	fishScript string
	//go:embed shell/pwsh.ps1
	pwshScript string
)

var shells = []struct{ name, script string }{{"bash", bashScript}, {"zsh", zshScript}, {"fish", fishScript},
	{"pwsh", pwshScript}}

// CompletionVerb is completion.
var CompletionVerb = frame.Verb{Name: "completion", Stage: frame.Know,
	Brief: "for a shell",
	Usage: "print the completion script for a shell",
	Args:  "bash|zsh|fish|pwsh",
	Help: `Prints the script that makes a shell complete verbs, options, values, and the names and groups
of the items in the files on the line. For the current shell:

  source <(gyrolith completion bash)
  source <(gyrolith completion zsh)
  gyrolith completion fish | source
  gyrolith completion pwsh | Out-String | Invoke-Expression`,
	Completes: frame.OneOf(func(*frame.App) (out []frame.Candidate) {
		for _, s := range shells {
			out = append(out, frame.Candidate{Word: s.name})
		}
		return
	}),
	Make: makeCompletion}

func makeCompletion(a *frame.App, v *frame.Verb) frame.Made {
	var names []string
	for _, s := range shells {
		names = append(names, s.name)
	}
	return frame.Made{Run: func(_ context.Context, l *frame.Line) error {
		for _, s := range shells {
			if len(l.Args) == 1 && l.Args[0] == s.name {
				a.Out.Printf("%s", s.script)
				return nil
			}
		}
		return frame.UsageError("completion: name one shell: %s", strings.Join(names, ", "))
	}}
}

// Completing is the hidden verb that the scripts call.
const Completing = "__complete"

// Complete answers a shell: for bash with the line and the place of the cursor, for others with the words up to it. The
// first line says of what kind the answer is, and behind a tab what is to be completed; then come the words.
func Complete(a *frame.App, args []string) {
	if len(args) == 0 {
		return
	}
	shell, words := args[0], args[1:]
	at := cursor{}
	if shell == "bash" {
		if len(words) != 2 {
			return
		}
		point, err := strconv.Atoi(words[1])
		line := words[0]
		if err == nil && point >= 0 && point < len(line) {
			line = line[:point]
		}
		words, at = bashWords(line)
	}
	if len(words) == 0 {
		words = []string{""}
	}
	last := words[len(words)-1]
	var c frame.Choices
	if at.redirected {
		c.Files = true
	} else {
		c = choicesFor(a, words[:len(words)-1], last)
	}
	value := last
	if strings.HasPrefix(last, "--") && (c.Files || c.Folder) {
		_, value, _ = strings.Cut(last, "=")
	}
	kind := "words"
	switch {
	case c.Folder:
		kind = "folders"
	case c.Files:
		kind = "files"
	case c.Open:
		kind = "open"
	}
	if shell == "bash" && len(value) >= at.base && value == last {
		value = value[at.base:]
	}
	a.Out.Printf("%s\t%s\n", kind, value)
	for _, w := range c.Words {
		switch {
		case !strings.HasPrefix(strings.ToLower(w.Word), strings.ToLower(last)) || strings.ContainsAny(w.Word, "\n\t"):
		case shell == "bash":
			a.Out.Printf("%s\n", at.reply(w.Word))
		case w.About == "":
			a.Out.Printf("%s\n", w.Word)
		default:
			a.Out.Printf("%s\t%s\n", w.Word, w.About)
		}
	}
}

// cursor is how the word at the cursor stands on a line of bash.
type cursor struct {
	quote      byte // the one that is open; 0 is none
	base       int  // the bytes of the word that a reply does not repeat
	redirected bool // it is the file of a redirection
}

// reply gives a word as bash wants it: behind what its word breaks leave, with what it would take apart escaped.
func (p *cursor) reply(word string) string {
	word = word[min(p.base, len(word)):]
	if p.quote != 0 {
		return word
	}
	var b strings.Builder
	for _, r := range word {
		if strings.ContainsRune(" \t'\"\\$`&|;<>()*?[]{}!#~", r) {
			b.WriteByte('\\')
		}
		b.WriteRune(r)
	}
	return b.String()
}

// bashWords takes the words behind the program's name out of a line up to the cursor. Behind a pipe or the like a new
// command begins.
func bashWords(line string) (words []string, at cursor) {
	var word []byte
	begun, redirect := false, false
	end := func() {
		if begun && !redirect {
			words = append(words, string(word))
		}
		redirect = redirect && !begun
		word, begun, at.base = nil, false, 0
	}
	for i := 0; i < len(line); i++ {
		c := line[i]
		switch {
		case at.quote == '\'' && c != '\'', at.quote == '"' && c != '"' && c != '\\':
			word = append(word, c)
		case at.quote != 0 && c == at.quote:
			at.quote = 0
		case c == '\\':
			if i++; i < len(line) {
				word = append(word, line[i])
			}
			begun = true
		case c == '\'' || c == '"':
			at.quote, begun, at.base = c, true, len(word)
		case c == ' ' || c == '\t':
			end()
		case c == '|' || c == ';' || c == '&' && !redirect || c == '(' || c == ')' || c == '`' || c == '\n':
			end()
			words, redirect = nil, false
		case c == '>' || c == '<':
			if n, err := strconv.Atoi(string(word)); err == nil && n < 10 { // 2>
				word, begun = nil, false
			}
			end()
			redirect = true
		default:
			word, begun = append(word, c), true
			if c == ':' || c == '=' {
				at.base = len(word)
			}
		}
	}
	at.redirected = redirect
	words = append(words, string(word))
	for i, w := range words {
		if strings.TrimSuffix(filepath.Base(w), ".exe") == "gyrolith" && i < len(words)-1 {
			return words[i+1:], at
		}
	}
	if len(words) > 1 { // under another name
		words = words[1:]
	}
	return words, at
}

// choicesFor finds what can stand behind some words; the last one is begun.
func choicesFor(a *frame.App, before []string, last string) (c frame.Choices) {
	i := slices.IndexFunc(before, func(w string) bool { return !strings.HasPrefix(w, "-") })
	if i < 0 {
		c.Words = frame.VerbWords(a)
		if strings.HasPrefix(last, "-") {
			c.Words = []frame.Candidate{{Word: "--help", About: "help"}, {Word: "--version", About: "the version"}}
		}
		slices.SortFunc(c.Words, func(a, b frame.Candidate) int { return strings.Compare(a.Word, b.Word) })
		return
	}
	v := a.LineVerb(before[i:])
	if v == nil {
		return
	}
	rest := before[i+1:]
	if name, value, ok := strings.Cut(last, "="); ok && strings.HasPrefix(last, "--") {
		if p := v.Param(name[2:]); p != nil && !p.Switch() {
			c = valuesOf(a, v, p, value, rest)
			for i := range c.Words {
				c.Words[i].Word = name + "=" + c.Words[i].Word
			}
		}
		return
	}
	if n := len(rest); n > 0 && strings.HasPrefix(rest[n-1], "-") && !strings.Contains(rest[n-1], "=") {
		if p := v.Param(strings.TrimLeft(rest[n-1], "-")); p != nil && !p.Switch() {
			return valuesOf(a, v, p, last, rest[:n-1])
		}
	}
	if strings.HasPrefix(last, "-") {
		seen := map[string]bool{}
		for _, t := range v.Tables {
			for _, p := range t {
				if !seen[p.Name] {
					seen[p.Name] = true
					c.Words = append(c.Words, frame.Candidate{Word: "--" + p.Name, About: strings.ReplaceAll(p.Help, "`", "")})
				}
			}
		}
		c.Words = append(c.Words, frame.Candidate{Word: "--help", About: "help"})
		return
	}
	return argumentsOf(a, v, rest)
}

// argumentsOf is what can stand where no option does.
func argumentsOf(a *frame.App, v *frame.Made, before []string) (c frame.Choices) {
	if v.Completes == nil {
		return frame.Choices{Files: true}
	}
	c = v.Completes(a, !slices.ContainsFunc(before, func(w string) bool { return !strings.HasPrefix(w, "-") }))
	slices.SortFunc(c.Words, func(a, b frame.Candidate) int { return strings.Compare(a.Word, b.Word) })
	return
}

// valuesOf is what can be the value of an option.
func valuesOf(a *frame.App, v *frame.Made, p *param.Param, value string, before []string) (c frame.Choices) {
	for _, w := range p.Words {
		c.Words = append(c.Words, frame.Candidate{Word: w})
	}
	switch {
	case strings.HasPrefix(p.Value, "WORD[MEASURE]"): // a list, of which the last word is completed
		given := value[:strings.LastIndexByte(value, ',')+1]
		for i := range c.Words {
			c.Words[i].Word = given + c.Words[i].Word
		}
		c.Words = append(c.Words, frame.Candidate{Word: given + "field:"}, frame.Candidate{Word: given + "blank:"})
		c.Open = true
	case p.Value == "KIND[:GLOB]":
		kind, _, named := strings.Cut(value, ":")
		if named {
			return frame.Choices{Words: namesOn(a, v, kind, before)}
		}
		for _, k := range append(kindWords(), "all") {
			c.Words = append(c.Words, frame.Candidate{Word: k})
		}
		c.Open = true
	case p.Value == "SYSTEM" && p.Path == param.Maybe: // a coordinate system, or its file
		c.Files = false
		if value == "" || strings.HasPrefix("utm", value) {
			c.Words = append(c.Words, frame.Candidate{Word: "utm", About: "the zone of the data"})
		}
		if value != "" {
			for _, s := range crs.Search(nil) {
				if code := strconv.Itoa(s.Code); strings.HasPrefix(code, value) {
					c.Words = append(c.Words, frame.Candidate{Word: code, About: s.Name})
				}
			}
		}
		if len(c.Words) == 0 {
			c.Files = true
		}
	case p.Value == "UNIT" && len(c.Words) == 0:
		for _, name := range unit.ShippedNames() {
			c.Words = append(c.Words, frame.Candidate{Word: name})
		}
	case p.Name == "symbol" && len(c.Words) == 0:
		for _, s := range symbol.All {
			c.Words = append(c.Words, frame.Candidate{Word: s.Word, About: s.Shows})
		}
	case p.Path != param.NoPath && len(c.Words) == 0:
		c.Folder = p.Value == "DIR"
		c.Files = !c.Folder
	}
	return
}

func kindWords() (out []string) {
	for _, k := range nav.Kinds {
		out = append(out, k.String())
	}
	return
}

// The most that is read of files for the sake of a completion, which must be there at once.
const (
	mostCompleted = 16 << 20
	mostNames     = 500
	longest       = 2 * time.Second
)

// namesOn lists the names and groups of the items of a kind in the files on the line.
func namesOn(a *frame.App, v *frame.Made, kind string, before []string) (out []frame.Candidate) {
	k, one := nav.ParseKind(kind)
	if !one && kind != "all" {
		return nil
	}
	seen := map[string]bool{}
	add := func(name, about string) {
		if name != "" && !seen[name] && len(out) < mostNames {
			seen[name] = true
			out = append(out, frame.Candidate{Word: kind + ":" + name, About: about})
		}
	}
	ctx, cancel := context.WithTimeout(context.Background(), longest)
	defer cancel()
	reading := a.NewTask(v.Name).Reading
	if reading.Open(ctx) != nil {
		return nil
	}
	for _, path := range before {
		info, err := os.Stat(path)
		if err != nil || !info.Mode().IsRegular() || info.Size() > mostCompleted || ctx.Err() != nil {
			continue
		}
		in, err := reading.Load(ctx, path)
		if err != nil {
			continue
		}
		in.Data.Each(func(of nav.Kind, item *nav.Item) {
			if one && of != k {
				return
			}
			add(item.Name, "")
			add(item.Group, fmt.Sprintf("a group of %s", filepath.Base(path)))
		})
	}
	slices.SortFunc(out, func(a, b frame.Candidate) int { return strings.Compare(a.Word, b.Word) })
	return out
}
