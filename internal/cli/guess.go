package cli

import (
	_ "embed"
	"os"
	"slices"
	"strings"

	"gyrolith/core/symbol"
	"gyrolith/internal/cli/frame"
)

//go:embed guesses.txt
var guesses string

// meant are options by the words that people bring along from elsewhere, the likeliest first.
func meant(word string) []string {
	for line := range strings.Lines(guesses) {
		if options, words, _ := strings.Cut(strings.TrimSpace(line), ": "); slices.Contains(strings.Fields(words), word) {
			return strings.Fields(options)
		}
	}
	return nil
}

// guess finds the option of a verb that somebody means: by meaning, else by a slip or two of the finger, else not at
// all.
func guess(v *frame.Made, word string) string {
	has := map[string]bool{}
	for _, t := range v.Tables {
		for _, p := range t {
			has[p.Name] = true
		}
	}
	for _, name := range meant(strings.ToLower(word)) {
		if has[name] {
			return "--" + name
		}
	}
	best, least := "", min(3, (len(word)+1)/2)
	for name := range has {
		if d := symbol.Edits(word, name); d < least || d == least && best != "" && name < best {
			best, least = name, d
		}
	}
	if len(best) < 2 {
		return ""
	}
	return "--" + best
}

// looksLikeFile says whether what was taken for an option is the name of a file that begins with a dash.
func looksLikeFile(word string) bool {
	_, err := os.Stat(word)
	return err == nil || strings.Contains(word, ".") && !strings.Contains(word, "=")
}
