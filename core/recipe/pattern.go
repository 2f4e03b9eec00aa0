package recipe

import (
	"fmt"
	"iter"
	"maps"
	"path"
	"slices"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/template"
)

func keysOf[V any](m map[string]V) iter.Seq[string] { return maps.Keys(m) }

// patternWords are what a pattern knows of an input: its name without extension, the folder below the one that was
// given, its number, and what its data tell once they are read.
var patternWords = append([]string{"name", "folder", "number"}, chain.DataWords...)

// fill puts the values into a text, and says which. Words of the input stay where they may stand.
func fill(text string, values map[string]string, ofInput bool) (filled string, used []string, err error) {
	var b strings.Builder
	for {
		before, rest, ok := strings.Cut(text, "{")
		b.WriteString(before)
		if !ok {
			return b.String(), used, nil
		}
		word, after, ok := strings.Cut(rest, "}")
		if !ok {
			return "", nil, fmt.Errorf("%q has a { without }", text)
		}
		text = after
		bare, _, _ := strings.Cut(word, "|")
		known := ofInput && slices.Contains(patternWords, bare)
		if value, has := values[bare]; has {
			b.WriteString(template.Replace("{"+word+"}", func(string) (string, bool) { return value, true }))
			used = append(used, bare)
			continue
		}
		// Braces of the verbs' own templates, such as those of dress, are theirs.
		if known || !ofInput {
			b.WriteString("{" + word + "}")
			continue
		}
		names := append([]string{}, patternWords...)
		for name := range values {
			names = append(names, name)
		}
		return "", nil, fmt.Errorf("{%s} is unknown; there are {%s}%s", word, strings.Join(names, "}, {"),
			near(word, names))
	}
}

// HasWords says whether a name has words of an input or of its data, in braces.
func HasWords(name string) bool { return template.Has(name, patternWords...) }

// Input is a file that the chain is done for.
type Input struct {
	Path   string // to open
	Rel    string // below the folder that was given, with slashes; its key in the journal
	Number int
	Size   int64 // bytes

	Found bool // in a folder: it need not be data
}

// Name is the name of the input without folder and extension.
func (in *Input) Name() string {
	name := strings.TrimSuffix(path.Base(in.Rel), ".gz") // of a compressed file that of what is in it
	return strings.TrimSuffix(name, path.Ext(name))
}

// Fill puts the words of the input into a pattern: {folder}/{name}-season.gpx becomes day1/walk-season.gpx. What it
// gives stays below the folder that is written to, on every system.
func (in *Input) Fill(pattern string) string {
	folder := path.Dir(in.Rel)
	if folder == "." {
		folder = ""
	}
	words := map[string]string{"name": in.Name(), "folder": folder, "number": fmt.Sprint(in.Number)}
	out := template.Replace(pattern, func(word string) (string, bool) { v, ok := words[word]; return v, ok })
	// Where a backslash separates folders, it must not lead out either; elsewhere it would be a letter of a name.
	out = strings.ReplaceAll(out, `\`, "/")
	if volume := strings.IndexByte(out, ':'); volume == 1 {
		out = out[:1] + out[2:]
	}
	return strings.TrimPrefix(path.Clean("/"+out), "/") // never above the folder that is written to
}
