package format

import (
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// ownFileWords are what the extension says of a file as a whole, but for its links.
var ownFileWords = []struct {
	word string
	at   func(*nav.Meta) *string
}{
	{"author", func(m *nav.Meta) *string { return &m.Author }},
	{"email", func(m *nav.Meta) *string { return &m.AuthorEmail }},
	{"copyright", func(m *nav.Meta) *string { return &m.Copyright }},
	{"year", func(m *nav.Meta) *string { return &m.CopyrightYear }},
	{"licence", func(m *nav.Meta) *string { return &m.Licence }},
	{"keywords", func(m *nav.Meta) *string { return &m.Keywords }},
}

// OwnFile lists the words of the extension and their values for a file, but for its title, description and links.
func OwnFile(m *nav.Meta) (pairs []string) {
	for _, w := range ownFileWords {
		if v := *w.at(m); v != "" {
			pairs = append(pairs, w.word, v)
		}
	}
	if m.Time.HasTime() {
		pairs = append(pairs, "time", string(m.Time.AppendTime(nil)))
	}
	return
}

// SetOwnFile takes what a word of the extension says of a file, and says no to a word or a value that it does not know.
func SetOwnFile(m *nav.Meta, word, value string) bool {
	if word == "time" {
		ns, mark, _, ok := instant.Parse([]byte(value), time.UTC)
		if ok {
			m.Time.SetTime(ns, mark)
		}
		return ok
	}
	for _, w := range ownFileWords {
		if w.word == word {
			*w.at(m) = value
			return true
		}
	}
	return false
}
