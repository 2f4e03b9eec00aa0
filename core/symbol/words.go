package symbol

import (
	"strings"
	"sync"
	"unicode"

	"gyrolith/core/nav"
)

// qualifiers say of a symbol how it is drawn, and not what it shows.
var qualifiers = func() map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq("small medium large big tiny dark bright pale solid hollow filled outline icon " +
		"symbol") {
		out[w] = true
	}
	return out
}()

var byPhrase = sync.OnceValue(func() map[string]string {
	m := map[string]string{}
	for _, s := range All {
		for _, w := range s.Said {
			m[strings.ReplaceAll(w, " ", "")] = s.Word
		}
	}
	for _, s := range All {
		m[strings.ReplaceAll(s.Word, "-", "")] = s.Word
	}
	return m
})

// Meaning gives the neutral word for what somebody calls a symbol: one of the words itself, or an everyday one for the
// same, in any case, with or without its colour: "Campground", "car park", "Flag, Blue". It is "" where nobody can
// tell.
func Meaning(text string) string {
	words := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) })
	if w := phrase(strings.Join(words, "")); w != "" {
		return w
	}
	bare := words[:0]
	for _, w := range words {
		if _, colour := nav.ParseColour(w); !colour && !qualifiers[w] {
			bare = append(bare, w)
		}
	}
	return phrase(strings.Join(bare, ""))
}

func phrase(text string) string {
	if w := byPhrase()[text]; w != "" {
		return w
	}
	return byPhrase()[strings.TrimSuffix(text, "s")]
}
