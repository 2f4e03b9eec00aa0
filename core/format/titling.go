package format

import (
	"slices"
	"strings"

	"gyrolith/core/format/headings"
	"gyrolith/core/nav"
)

// Titling settles what the columns of properties are called in a table or layer: as in the source, where all that have
// the property agree and the title is read as that property again, and else by our own word, with the source's column
// beside it.
type Titling struct {
	kept   map[string]*nav.Title // by property; nil where items disagree
	beside []string              // the titles of the others, each once
	exact  bool
}

// NewTitling begins. Exact is where only our own words are read as properties, so that titles of sources stand beside.
func NewTitling(exact bool) *Titling { return &Titling{kept: map[string]*nav.Title{}, exact: exact} }

// Titled says whether any item has titles of its source.
func Titled(d *nav.Dataset) (yes bool) {
	d.Each(func(_ nav.Kind, it *nav.Item) { yes = yes || it.Titles != nil })
	for i := range d.Routes {
		for j := range d.Routes[i].Points {
			yes = yes || d.Routes[i].Points[j].Titles != nil
		}
	}
	return
}

// See takes notice of an item that has a property.
func (t *Titling) See(property string, it *nav.Item) {
	title := it.Titles.Of(property)
	if title != nil && !strings.EqualFold(title.Text, property) && !slices.Contains(t.beside, title.Text) {
		t.beside = append(t.beside, title.Text)
	}
	old, known := t.kept[property]
	switch {
	case !known:
		t.kept[property] = title
	case old != nil && (title == nil || title.Text != old.Text):
		t.kept[property] = nil
	}
}

// Settle ends it. Others are the titles of fields, which may be taken for properties too.
func (t *Titling) Settle(others []string) {
	var words, titles []string
	for word, title := range t.kept {
		if title != nil && !t.exact {
			words, titles = append(words, word), append(titles, title.Text)
		}
	}
	meant := words
	if slices.Contains(words, "time") {
		meant = append(slices.Clone(words), "date") // which holds times as well
	}
	meanings := headings.Meanings(append(slices.Clone(titles), others...), meant...)
	settled := map[string]*nav.Title{}
	for i, word := range words {
		if (meanings[i] == word || word == "time" && meanings[i] == "date") && !slices.ContainsFunc(others,
			func(o string) bool { return strings.EqualFold(o, titles[i]) }) {
			settled[word] = t.kept[word]
		}
	}
	t.kept = settled
	t.beside = slices.DeleteFunc(t.beside, func(text string) bool {
		for _, title := range settled {
			if title.Text == text {
				return true
			}
		}
		return false
	})
}

// Of gives the title that the column of a property keeps; nil where it has our own.
func (t *Titling) Of(property string) *nav.Title {
	if t == nil {
		return nil
	}
	return t.kept[property]
}

// Beside lists the titles of columns that stand beside those of properties.
func (t *Titling) Beside() []string {
	if t == nil {
		return nil
	}
	return t.beside
}

// Stands says whether a title of an item is that of a column beside.
func (t *Titling) Stands(title *nav.Title) bool {
	return t != nil && slices.Contains(t.beside, title.Text)
}
