// Package symbol knows the neutral words for what a waypoint's symbol shows, and recognises them in the icons of
// planning files.
package symbol

import (
	"cmp"
	_ "embed"
	"path"
	"slices"
	"strings"
	"sync"
	"unicode"
)

// Realm is where a symbol is at home.
type Realm string

// The realms. What is of use in all of them is Everywhere.
const (
	Everywhere Realm = "everywhere"
	Land       Realm = "land"
	Sea        Realm = "sea"
	Air        Realm = "air"
)

// Symbol is one neutral symbol.
type Symbol struct {
	Word  string
	Realm Realm
	Shows string
	Icons []string // words that say it in the names of icons alone
	Said  []string // everyday words and phrases for what it shows
	like  string   // the broader symbol that stands for it
}

//go:embed symbols.txt
var table string

// All lists the symbols by realm.
var All = read(table)

func read(table string) (all []Symbol) {
	var realm Realm
	for line := range strings.Lines(table) {
		line = strings.TrimSpace(line)
		if name, ok := strings.CutPrefix(line, "["); ok {
			realm = Realm(strings.TrimSuffix(name, "]"))
		}
		cells := strings.Split(line, "|")
		if len(cells) != 5 || line[0] == '#' {
			continue
		}
		for i := range cells {
			cells[i] = strings.TrimSpace(cells[i])
		}
		all = append(all, Symbol{cells[0], realm, cells[2], list(cells[3]), list(cells[4]), cells[1]})
	}
	return all
}

func list(cell string) []string {
	return strings.FieldsFunc(cell, func(r rune) bool { return r == ',' })
}

// Like gives the broader symbol that stands for one; "mark" in the end, and "" for that.
func Like(word string) string {
	if s, ok := ByWord(word); ok {
		return s.like
	}
	return "mark"
}

// Words are the others that are understood for it: everyday ones, and those in the names of icons.
func (s *Symbol) Words() []string { return slices.Concat(s.Said, s.Icons) }

// ByWord finds a symbol by its word, without regard to case.
func ByWord(word string) (*Symbol, bool) {
	s := byWord()[strings.ToLower(word)]
	return s, s != nil
}

var byWord = sync.OnceValue(func() map[string]*Symbol {
	out := map[string]*Symbol{}
	for i := range All {
		out[All[i].Word] = &All[i]
	}
	return out
})

// byIcon are the words that say something in the names of icons alone.
var byIcon = sync.OnceValue(func() map[string]string {
	m := map[string]string{}
	for _, s := range All {
		for _, w := range s.Icons {
			m[w] = s.Word
		}
	}
	return m
})

// FromIcon tells what a picture shows by the words of its file's name; "" where they tell nothing. Of several words the
// one that says most counts: a plain mark only where nothing else is said.
func FromIcon(href string) string {
	if href == "" || strings.HasPrefix(href, "data:") {
		return ""
	}
	if i := strings.IndexAny(href, "?#"); i >= 0 {
		href = href[:i]
	}
	name := strings.ToLower(path.Base(strings.ReplaceAll(href, `\`, "/")))
	name = strings.TrimSuffix(name, path.Ext(name))
	words := strings.FieldsFunc(name, func(r rune) bool { return !unicode.IsLetter(r) })
	found := ""
	for _, w := range append(words, strings.Join(words, "")) {
		s := cmp.Or(byIcon()[w], byIcon()[strings.TrimSuffix(w, "s")], phrase(w))
		if s != "" && (found == "" || found == "mark" || found == "flag") {
			found = s
		}
	}
	return found
}

// Nearest gives the word that is most like another.
func Nearest(word string) string {
	best, distance := "", 3
	for _, s := range All {
		if d := Edits(strings.ToLower(word), s.Word); d < distance {
			best, distance = s.Word, d
		}
	}
	return best
}

// Edits counts the characters that must be changed, added or taken away (V. I. Levenshtein, 1966).
func Edits(a, b string) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range len(a) {
		before := row[0]
		row[0] = i + 1
		for j := range len(b) {
			cost := before
			if a[i] != b[j] {
				cost = 1 + min(before, row[j], row[j+1])
			}
			before, row[j+1] = row[j+1], cost
		}
	}
	return row[len(b)]
}
