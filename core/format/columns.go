package format

import (
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"time"

	"gyrolith/core/format/headings"
	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/param"
)

// Word is a word for what a column holds, with what its numbers measure.
type Word struct {
	Name string
	Of   headings.Quantity // None of what has no measure to choose
}

// Words are those for the columns of one sort of table.
type Words struct {
	List   []Word
	Fields bool              // field:KEY holds a field
	Were   map[string]string // words of earlier releases, and how they are called now
}

// DataWords are the words of tables of data: of every row; of points, worked out; and of rows that are items.
var DataWords = Words{Fields: true, List: slices.Concat(plain("kind", "name", "lat", "lon", "position", "easting",
	"northing", "zone"), of(headings.Length, "height", "depth"), plain("time", "symbol", "colour", "description",
	"comment", "type", "group", "item id", "line", "item", "segment", "number"), of(headings.Speed, "speed"),
	plain("course", "file", "folder", "wkt", "wkb"),
	of(headings.Length, "along", "leg-distance"), of(headings.Span, "elapsed"), of(headings.Speed, "climb-rate"),
	plain("slope", "points"), of(headings.Length, "length"), of(headings.Span, "duration"), plain("first", "last"),
	of(headings.Area, "size"), of(headings.Length, "perimeter"), of(headings.Speed, "mean-speed"),
	of(headings.Length, "ascent", "descent"))}

// ItemWords are those of the words that rows of whole items alone have.
var ItemWords = []string{"points", "length", "duration", "first", "last", "size", "perimeter", "mean-speed", "ascent",
	"descent"}

func plain(names ...string) []Word { return of(headings.None, names...) }

func of(q headings.Quantity, names ...string) (out []Word) {
	for _, n := range names {
		out = append(out, Word{n, q})
	}
	return
}

// WordsOf are plain words, and those of fields.
func WordsOf(names ...string) *Words { return &Words{List: plain(names...), Fields: true} }

// Names lists the words.
func (w *Words) Names() (out []string) {
	for _, x := range w.List {
		out = append(out, x.Name)
	}
	return
}

// Find gives a word of the list, or one of a field or an empty column; false if it is none of them.
func (w *Words) Find(name string) (Word, bool) {
	if i := slices.IndexFunc(w.List, func(x Word) bool { return x.Name == name }); i >= 0 {
		return w.List[i], true
	}
	if key, ok := strings.CutPrefix(name, "field:"); ok && key != "" && w.Fields {
		q, _ := Measured(name)
		return Word{name, q}, true
	}
	title, ok := strings.CutPrefix(name, "blank:")
	return Word{Name: name}, ok && title != ""
}

// IsColumn says whether a word names what a column of data can hold.
func IsColumn(word string) bool {
	_, ok := DataWords.Find(word)
	return ok
}

// Column is one column of a table: its title, what it holds, and the measure of its numbers, "" for the usual one.
type Column struct {
	Title, Holds, Measure string
	Given                 bool // the title was given, and stays as it is
}

// ColumnsValue is how a list of columns is written.
const ColumnsValue = "WORD[MEASURE][=TITLE],…"

// Heading is a title over a column of data; one that was given stays as it is.
type Heading struct {
	Text  string
	Given bool
}

// TitleOf is the title of ours for a column: its word, without hyphens.
func TitleOf(holds string) string {
	for _, prefix := range []string{"field:", "blank:"} {
		if key, ok := strings.CutPrefix(holds, prefix); ok {
			return key
		}
	}
	return strings.ReplaceAll(holds, "-", " ")
}

// Measured says what the numbers of a column of data measure, by what it holds.
func Measured(holds string) (headings.Quantity, bool) {
	holds = strings.TrimPrefix(holds, "field:")
	i := slices.IndexFunc(DataWords.List, func(w Word) bool { return w.Name == holds })
	return At(DataWords.List, i).Of, At(DataWords.List, i).Of != headings.None
}

// At gives an element of a list; the zero value where there is none.
func At[T any](list []T, i int) (zero T) {
	if i < 0 || i >= len(list) {
		return zero
	}
	return list[i]
}

// Parse reads a comma-separated list of columns: a word for what a column holds, with its measure in brackets where
// that is not the usual one, and with = and its title where that is another. A title with a comma stands in double
// quotes. The notes tell of words that are now called otherwise.
func (w *Words) Parse(text string) (out []Column, notes []string, err error) {
	in := csv.NewReader(strings.NewReader(text))
	in.LazyQuotes, in.TrimLeadingSpace = true, true
	words, err := in.Read()
	if err != nil {
		return nil, nil, fmt.Errorf("%q is not a list of columns such as name,lat=Breite,lon=Länge", text)
	}
	for _, x := range words {
		c, note, err := w.column(strings.TrimSpace(x))
		if err != nil {
			return nil, nil, err
		}
		if out = append(out, c); note != "" {
			notes = append(notes, note)
		}
	}
	return out, notes, nil
}

// column reads one column of a list.
func (w *Words) column(text string) (c Column, note string, err error) {
	holds, title, titled := strings.Cut(text, "=")
	title = strings.Trim(title, `"`)
	holds, rest, measured := strings.Cut(holds, "[")
	measure, _, _ := strings.Cut(rest, "]")
	if now, was := w.Were[holds]; was {
		note = fmt.Sprintf("the column %s is called %s now; its old name goes with the next release", holds, now)
		holds = now
	}
	word, ok := w.Find(holds)
	if !ok {
		return c, "", w.Unknown(holds)
	}
	if measured {
		if err := w.judge(word, measure); err != nil {
			return c, "", err
		}
	} else if m, is := headings.Named(title, word.Of); is && titled && m.Factor != 1 {
		return c, "", fmt.Errorf("%s=%s would put the title %q over other numbers; write %s[%s]", holds, title, title,
			holds, title)
	}
	if c = (Column{title, holds, measure, titled && title != ""}); !c.Given {
		c.Title = TitleOf(holds)
	}
	return c, note, nil
}

// Unknown is the error of a word that is none of the list's.
func (w *Words) Unknown(word string) error {
	names, more := w.Names(), ""
	if w.Fields {
		more = ", field:KEY"
	}
	return fmt.Errorf("%q is not a column%s; there are %s%s and blank:TITLE", word, param.DidYouMean(word, names),
		strings.Join(names, ", "), more)
}

// judge finds measures that a column can't have.
func (w *Words) judge(word Word, measure string) error {
	if word.Of == headings.None {
		var have []string
		for _, x := range w.List {
			if x.Of != headings.None {
				have = append(have, x.Name)
			}
		}
		return fmt.Errorf("%q has no measure to choose (%s have one)", word.Name, strings.Join(have, ", "))
	}
	if _, ok := headings.Named(measure, word.Of); !ok {
		examples := map[headings.Quantity]string{headings.Length: "m, ft, km or nm", headings.Speed: "m/s, km/h or kn",
			headings.Area: "m2, ha, km2, nm2 or ac", headings.Span: "s, min or h"}[word.Of]
		return fmt.Errorf("%q is not a measure for %s: write %s", measure, word.Name, examples)
	}
	return nil
}

// Table says how a table is laid out. The zero value has the usual columns.
type Table struct {
	Columns   []Column
	Sheet     string // of a workbook
	Template  string // the path of a workbook that is begun with
	FirstRow  int    // of the data, from 1; 0 is below the header
	NoHeader  bool
	Separator rune
	Notation  geodesy.Notation // of the column position
	Items     bool             // a row for each item, not for each point
	Measure   *measure.System  // of lengths, heights and speeds; nil is metres, and metres a second
	Zone      *time.Location   // of times; nil is UTC
}

// Summed says whether a column holds what whole items alone have.
func (t *Table) Summed() bool {
	return slices.ContainsFunc(t.Columns, func(c Column) bool { return slices.Contains(ItemWords, c.Holds) })
}

// Geometric says whether a column holds the geometry of its row.
func (t *Table) Geometric() bool {
	return slices.ContainsFunc(t.Columns, func(c Column) bool { return c.Holds == "wkt" || c.Holds == "wkb" })
}
