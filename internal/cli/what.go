package cli

import (
	"fmt"
	"strings"

	"gyrolith/internal/cli/frame"
)

// what is a word that says what a verb makes, and stands before the files.
type what interface {
	~string
	Explain() string
}

// explained lists words with what they mean, a line each.
func explained[T what](list []T) string {
	var b strings.Builder
	wide := 0
	for _, w := range list {
		wide = max(wide, len(w))
	}
	for _, w := range list {
		fmt.Fprintf(&b, "  %-*s  %s\n", wide, w, w.Explain())
	}
	return b.String()
}

// listed names words, comma-separated.
func listed[T what](list []T) string {
	var out []string
	for _, w := range list {
		out = append(out, string(w))
	}
	return strings.Join(out, ", ")
}

// wordFirst completes one of the words, and then files.
func wordFirst[T what](list []T) func(*frame.App, bool) frame.Choices {
	return func(_ *frame.App, first bool) frame.Choices {
		if !first {
			return frame.Choices{Files: true}
		}
		var words []frame.Candidate
		for _, w := range list {
			words = append(words, frame.Candidate{Word: string(w), About: w.Explain()})
		}
		return frame.Choices{Words: words}
	}
}
