package unit

import (
	_ "embed"
	"strings"
	"sync"

	"github.com/pelletier/go-toml/v2"
)

//go:embed short-forms.toml
var shortFormsText []byte

// shipShortForms are the short forms that come with the program: those of directions, and those of other words.
var shippedShortForms = sync.OnceValues(func() (directions, words map[string]string) {
	var tables map[string]map[string]string
	if err := toml.Unmarshal(shortFormsText, &tables); err != nil {
		panic(err) // the table is part of the program
	}
	directions, words = tables["directions"], map[string]string{}
	for name, table := range tables {
		if name == "directions" {
			continue
		}
		for word, form := range table {
			words[word] = form
		}
	}
	return
})

// direction gives the short form of a direction; "" where a word is none.
func (t *Text) direction(word string) string {
	word = folded(word)
	if form, own := t.shortForms[word]; own {
		return form
	}
	directions, _ := shippedShortForms()
	return directions[word]
}

// shortForm gives the usual short form of a word, with a capital where the word has one; "" where there is none.
func (t *Text) shortForm(word string) string {
	form, own := t.shortForms[folded(word)]
	if !own {
		_, words := shippedShortForms()
		form = words[folded(word)]
	}
	if form == "" || !strings.ContainsRune(word[:1], rune(strings.ToLower(word)[0])) {
		return form
	}
	return strings.ToLower(form[:1]) + form[1:]
}

// folded is a word as it stands in the tables.
func folded(word string) string {
	return strings.ToLower(spelled(&Text{Characters: "A-Za-z"}, word))
}
