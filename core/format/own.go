package format

import (
	"reflect"
	"strconv"

	"gyrolith/core/decimal"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// Namespace is the address of Gyrolith's own small extension of XML formats, in which travels what a
// format has no word for. docs/formats/extension.md specifies it.
const Namespace = "urn:gyrolith:1"

// Prefix is the prefix that it is written with.
const Prefix = "gyro"

// ownWord is one word of the extension: the property that it says, and how it stands in an item.
type ownWord struct {
	word string
	of   holds.Property
	get  func(*nav.Item) string
	set  func(*nav.Item, string) bool // no is a value that can't be read
}

func ownText(word string, of holds.Property, at func(*nav.Item) *string) ownWord {
	return ownWord{word, of, func(it *nav.Item) string { return *at(it) }, func(it *nav.Item, v string) bool {
		*at(it) = v
		return true
	}}
}

func ownNumber(word string, of holds.Property, at func(*nav.Item) *float64) ownWord {
	return ownWord{word, of, func(it *nav.Item) string {
		if v := *at(it); v != 0 {
			return string(decimal.AppendShort(nil, v, 6))
		}
		return ""
	}, func(it *nav.Item, text string) bool {
		v, _, ok := decimal.Parse([]byte(text))
		if ok {
			*at(it) = v
		}
		return ok
	}}
}

func ownColour(word string, of holds.Property, at func(*nav.Item) *nav.Colour) ownWord {
	return ownWord{word, of, func(it *nav.Item) string { return at(it).String() }, func(it *nav.Item, text string) bool {
		c, ok := nav.ParseColour(text)
		if ok {
			*at(it) = c
		}
		return ok
	}}
}

// ownOff says that something is not drawn.
func ownOff(word string, at func(*nav.Item) *bool) ownWord {
	return ownWord{word, holds.Outline, func(it *nav.Item) string {
		if *at(it) {
			return "no"
		}
		return ""
	}, func(it *nav.Item, text string) bool {
		*at(it) = text == "no" || text == "false"
		return *at(it) || text == "yes" || text == "true"
	}}
}

// ownWords are all that the extension can say of an item, but for its links and fields.
var ownWords = []ownWord{
	ownText("id", holds.ID, func(it *nav.Item) *string { return &it.ID }),
	ownText("name", holds.Name, func(it *nav.Item) *string { return &it.Name }),
	ownText("comment", holds.Comment, func(it *nav.Item) *string { return &it.Comment }),
	ownText("desc", holds.Description, func(it *nav.Item) *string { return &it.Desc }),
	ownText("source", holds.Source, func(it *nav.Item) *string { return &it.Source }),
	ownText("type", holds.Type, func(it *nav.Item) *string { return &it.Type }),
	ownText("number", holds.Number, func(it *nav.Item) *string { return &it.Number }),
	ownText("group", holds.Group, func(it *nav.Item) *string { return &it.Group }),
	ownText("symbol", holds.Symbol, func(it *nav.Item) *string { return &it.Style.Symbol }),
	ownText("icon", holds.Icon, func(it *nav.Item) *string { return &it.Style.Icon }),
	ownNumber("icon-scale", holds.IconScale, func(it *nav.Item) *float64 { return &it.Style.IconScale }),
	ownColour("colour", holds.Colour, func(it *nav.Item) *nav.Colour { return &it.Style.Colour }),
	ownNumber("width", holds.Width, func(it *nav.Item) *float64 { return &it.Style.Width }),
	ownColour("fill", holds.Fill, func(it *nav.Item) *nav.Colour { return &it.Style.Fill }),
	ownOff("filled", func(it *nav.Item) *bool { return &it.Style.NoFill }),
	ownOff("outlined", func(it *nav.Item) *bool { return &it.Style.NoOutline }),
}

// Own lists words of the extension and their values for the properties of an item that are in a set.
func Own(it *nav.Item, which holds.Set) (pairs []string) {
	for i := range ownWords {
		if w := &ownWords[i]; which.Has(w.of) {
			if v := w.get(it); v != "" {
				pairs = append(pairs, w.word, v)
			}
		}
	}
	return
}

// SetOwn gives an item what a word of the extension says, and says no to a word or a value that it does not know.
func SetOwn(it *nav.Item, word, value string) bool {
	if word == "description" { // as JSON has it
		word = "desc"
	}
	for i := range ownWords {
		if ownWords[i].word == word {
			return ownWords[i].set(it, value)
		}
	}
	return false
}

// Wholes numbers the features of which items are parts, and finds them again.
type Wholes struct {
	numbers map[*nav.Whole]string
	found   map[string]*nav.Whole
}

// Number gives the number of a feature as a text; "" where there is none.
func (w *Wholes) Number(of *nav.Whole) string {
	if of == nil {
		return ""
	}
	n := w.numbers[of]
	if n == "" {
		if w.numbers == nil {
			w.numbers = map[*nav.Whole]string{}
		}
		n = strconv.Itoa(len(w.numbers) + 1)
		w.numbers[of] = n
	}
	return n
}

// Find gives the feature of a number.
func (w *Wholes) Find(number string) *nav.Whole {
	if number == "" {
		return nil
	}
	if w.found == nil {
		w.found = map[string]*nav.Whole{}
	}
	if w.found[number] == nil {
		w.found[number] = &nav.Whole{}
	}
	return w.found[number]
}

// SameFeature says whether two items are parts of one feature that nothing but their geometry tells apart.
func SameFeature(a, b *nav.Item) bool {
	return a.Whole != nil && a.Whole == b.Whole && reflect.DeepEqual(a, b)
}

// Runs visits the items from 0 to n in runs that are written as one feature each.
func Runs(n int, same func(i, j int) bool, visit func(from, to int)) {
	for from := 0; from < n; {
		to := from + 1
		for to < n && same(from, to) {
			to++
		}
		visit(from, to)
		from = to
	}
}
