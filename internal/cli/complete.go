package cli

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

// completionVerb is completion.
var completionVerb = verb{name: "completion", stage: know,
	brief: "for a shell",
	usage: "print the completion script for a shell",
	args:  "bash|zsh|fish|pwsh",
	help: `Prints the script that makes a shell complete verbs, options, values, and the names and groups
of the items in the files on the line. For the current shell:

  source <(gyrolith completion bash)
  source <(gyrolith completion zsh)
  gyrolith completion fish | source
  gyrolith completion pwsh | Out-String | Invoke-Expression`,
	completes: oneOf(func(*app) (out []candidate) {
		for _, s := range shells {
			out = append(out, candidate{word: s.name})
		}
		return
	}),
	make: (*app).completion}

func (a *app) completion(v *verb) made {
	var names []string
	for _, s := range shells {
		names = append(names, s.name)
	}
	return made{run: func(_ context.Context, l *commandLine) error {
		for _, s := range shells {
			if len(l.args) == 1 && l.args[0] == s.name {
				a.out.Printf("%s", s.script)
				return nil
			}
		}
		return usageError("completion: name one shell: %s", strings.Join(names, ", "))
	}}
}

// completing is the hidden verb that the scripts call.
const completing = "__complete"

// candidate is a word that can stand at the cursor.
type candidate struct{ word, about string }

// choices is what can stand at the cursor: some words, files or folders.
type choices struct {
	words  []candidate
	files  bool
	folder bool
	open   bool // the word goes on
}

// complete answers a shell: for bash with the line and the place of the cursor, for others with the words up to it. The
// first line says of what kind the answer is, and behind a tab what is to be completed; then come the words.
func (a *app) complete(args []string) {
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
	var c choices
	if at.redirected {
		c.files = true
	} else {
		c = a.choicesFor(words[:len(words)-1], last)
	}
	value := last
	if strings.HasPrefix(last, "--") && (c.files || c.folder) {
		_, value, _ = strings.Cut(last, "=")
	}
	kind := "words"
	switch {
	case c.folder:
		kind = "folders"
	case c.files:
		kind = "files"
	case c.open:
		kind = "open"
	}
	if shell == "bash" && len(value) >= at.base && value == last {
		value = value[at.base:]
	}
	a.out.Printf("%s\t%s\n", kind, value)
	for _, w := range c.words {
		switch {
		case !strings.HasPrefix(strings.ToLower(w.word), strings.ToLower(last)) || strings.ContainsAny(w.word, "\n\t"):
		case shell == "bash":
			a.out.Printf("%s\n", at.reply(w.word))
		case w.about == "":
			a.out.Printf("%s\n", w.word)
		default:
			a.out.Printf("%s\t%s\n", w.word, w.about)
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
func (a *app) choicesFor(before []string, last string) (c choices) {
	i := slices.IndexFunc(before, func(w string) bool { return !strings.HasPrefix(w, "-") })
	if i < 0 {
		c.words = verbWords()
		if strings.HasPrefix(last, "-") {
			c.words = []candidate{{"--help", "help"}, {"--version", "the version"}}
		}
		slices.SortFunc(c.words, func(a, b candidate) int { return strings.Compare(a.word, b.word) })
		return
	}
	v := a.lineVerb(before[i:])
	if v == nil {
		return
	}
	rest := before[i+1:]
	if name, value, ok := strings.Cut(last, "="); ok && strings.HasPrefix(last, "--") {
		if p := v.param(name[2:]); p != nil && !p.Switch() {
			c = a.valuesOf(v, p, value, rest)
			for i := range c.words {
				c.words[i].word = name + "=" + c.words[i].word
			}
		}
		return
	}
	if n := len(rest); n > 0 && strings.HasPrefix(rest[n-1], "-") && !strings.Contains(rest[n-1], "=") {
		if p := v.param(strings.TrimLeft(rest[n-1], "-")); p != nil && !p.Switch() {
			return a.valuesOf(v, p, last, rest[:n-1])
		}
	}
	if strings.HasPrefix(last, "-") {
		seen := map[string]bool{}
		for _, t := range v.tables {
			for _, p := range t {
				if !seen[p.Name] {
					seen[p.Name] = true
					c.words = append(c.words, candidate{"--" + p.Name, strings.ReplaceAll(p.Help, "`", "")})
				}
			}
		}
		c.words = append(c.words, candidate{"--help", "help"})
		return
	}
	return a.argumentsOf(v, rest)
}

// param finds an option of a verb by its name or letter.
func (v *made) param(name string) *param.Param {
	for _, t := range v.tables {
		for i := range t {
			if p := &t[i]; p.Name == name || p.Short != "" && p.Short == name {
				return p
			}
		}
	}
	return nil
}

// argumentsOf is what can stand where no option does.
func (a *app) argumentsOf(v *made, before []string) (c choices) {
	if v.completes == nil {
		return choices{files: true}
	}
	c = v.completes(a, !slices.ContainsFunc(before, func(w string) bool { return !strings.HasPrefix(w, "-") }))
	slices.SortFunc(c.words, func(a, b candidate) int { return strings.Compare(a.word, b.word) })
	return
}

// verbWords are the verbs as words on a line.
func verbWords() (out []candidate) {
	for _, v := range verbs {
		out = append(out, candidate{v.name, v.usage})
	}
	return
}

// noWords and folderNames are what can stand behind verbs that take nothing, and a folder.
func noWords(*app, bool) choices     { return choices{} }
func folderNames(*app, bool) choices { return choices{folder: true} }

// oneOf are words behind a verb.
func oneOf(words func(*app) []candidate) func(*app, bool) choices {
	return func(a *app, _ bool) choices { return choices{words: words(a)} }
}

// valuesOf is what can be the value of an option.
func (a *app) valuesOf(v *made, p *param.Param, value string, before []string) (c choices) {
	for _, w := range p.Words {
		c.words = append(c.words, candidate{word: w})
	}
	switch {
	case p.Value == "KIND[:GLOB]":
		kind, _, named := strings.Cut(value, ":")
		if named {
			return choices{words: a.namesOn(v, kind, before)}
		}
		for _, k := range append(kindWords(), "all") {
			c.words = append(c.words, candidate{word: k})
		}
		c.open = true
	case p.Value == "SYSTEM" && p.Path == param.Maybe: // a coordinate system, or its file
		c.files = false
		if value == "" || strings.HasPrefix("utm", value) {
			c.words = append(c.words, candidate{"utm", "the zone of the data"})
		}
		if value != "" {
			for _, s := range crs.Search(nil) {
				if code := strconv.Itoa(s.Code); strings.HasPrefix(code, value) {
					c.words = append(c.words, candidate{code, s.Name})
				}
			}
		}
		if len(c.words) == 0 {
			c.files = true
		}
	case p.Value == "UNIT" && len(c.words) == 0:
		for _, name := range unit.ShippedNames() {
			c.words = append(c.words, candidate{word: name})
		}
	case p.Name == "symbol" && len(c.words) == 0:
		for _, s := range symbol.All {
			c.words = append(c.words, candidate{s.Word, s.Shows})
		}
	case p.Path != param.NoPath && len(c.words) == 0:
		c.folder = p.Value == "DIR"
		c.files = !c.folder
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
func (a *app) namesOn(v *made, kind string, before []string) (out []candidate) {
	k, one := nav.ParseKind(kind)
	if !one && kind != "all" {
		return nil
	}
	seen := map[string]bool{}
	add := func(name, about string) {
		if name != "" && !seen[name] && len(out) < mostNames {
			seen[name] = true
			out = append(out, candidate{kind + ":" + name, about})
		}
	}
	ctx, cancel := context.WithTimeout(context.Background(), longest)
	defer cancel()
	reading := a.newTask(v.name).reading
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
	slices.SortFunc(out, func(a, b candidate) int { return strings.Compare(a.word, b.word) })
	return out
}
