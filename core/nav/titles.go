package nav

import "strings"

// Title is what a source calls the column that holds a property of its items: CODE for their names.
type Title struct {
	Of     string // the property: name, description, comment, type, group, symbol, colour, time or height
	Text   string // as the source spells it
	Number bool   // its values are numbers there
}

// Titles are those of one table or layer, which its items share. They are not changed.
type Titles []Title

// Of gives the title of a property; nil where the source has none of its own.
func (t *Titles) Of(property string) *Title {
	if t == nil {
		return nil
	}
	for i := range *t {
		if (*t)[i].Of == property {
			return &(*t)[i]
		}
	}
	return nil
}

// Text gives a property of an item that is a text, by its word; "" of any other.
func (it *Item) Text(property string) string {
	switch property {
	case "name":
		return it.Name
	case "description":
		return it.Desc
	case "comment":
		return it.Comment
	case "type":
		return it.Type
	case "group":
		return it.Group
	case "symbol":
		return it.Style.Symbol
	case "colour":
		return it.Style.Colour.String()
	}
	return ""
}

// Keep takes a title up, unless it is our own word for the property, whole, with our own measure, or cut to the ten
// letters of a shapefile.
func (t *Titles) Keep(property, text string, number bool) {
	text = strings.TrimSpace(text)
	const cut = 10
	bare, _, _ := strings.Cut(text, " (")
	if text == "" || strings.EqualFold(bare, property) && bare != text || text == property || text == property+" m" ||
		len(property) > cut &&
			text == property[:cut] {
		return
	}
	*t = append(*t, Title{property, text, number})
}
