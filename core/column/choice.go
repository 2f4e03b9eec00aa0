package column

import (
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/figure"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/param"
)

// List is all columns that a table may have.
type List[R any] []Column[R]

// Words are the words for the columns of a list.
func (l List[R]) Words(were map[string]string) *format.Words {
	out := &format.Words{Were: were}
	for i := range l {
		c := &l[i]
		if c.Field != nil {
			out.Fields = true
			continue
		}
		w := format.Word{Name: c.Name, Of: headings.None}
		if c.Of != nil {
			w.Of = c.Of(&Layout{}).Of
		}
		out.List = append(out.List, w)
	}
	return out
}

// Usual gives the columns of a table to be read, or of data, where nobody chooses.
func (l List[R]) Usual(data bool) (out []*Column[R]) {
	for i := range l {
		if c := &l[i]; data && c.Data || !data && c.Usual {
			out = append(out, c)
		}
	}
	return
}

// Named gives columns by their names.
func (l List[R]) Named(names ...string) (out []*Column[R]) {
	for _, name := range names {
		out = append(out, l.column(name))
	}
	return
}

// column makes the column of a word; the word is one of the list's.
func (l List[R]) column(word string) *Column[R] {
	if i := slices.IndexFunc(l, func(c Column[R]) bool { return c.Name == word }); i >= 0 {
		c := l[i]
		return &c
	}
	if key, ok := strings.CutPrefix(word, "field:"); ok {
		i := slices.IndexFunc(l, func(c Column[R]) bool { return c.Field != nil })
		of := l[i].Field
		return &Column[R]{Name: word, Title: key, Short: true, Value: func(r *R, _ *Layout) any { return of(r, key) }}
	}
	return &Column[R]{Name: word, Title: format.TitleOf(word), Value: func(*R, *Layout) any { return nil }}
}

// Choice is what was asked of a table: its columns, and the order of its rows.
type Choice[R any] struct {
	List  List[R]
	Were  map[string]string // words of earlier releases, and how they are called now
	Notes []string          // on words that were used

	columns []*Column[R]
	order   []figure.Key
}

// Given says whether columns were chosen.
func (c *Choice[R]) Given() bool { return len(c.columns) > 0 }

// Columns gives the columns that were chosen, or those of a table to be read or of data.
func (c *Choice[R]) Columns(data bool) []*Column[R] {
	if c.Given() {
		return c.columns
	}
	return c.List.Usual(data)
}

// Params are the parameters of the columns and the order of a table.
func (c *Choice[R]) Params() param.Table {
	words := c.List.Words(c.Were)
	columns := param.Func("columns", format.ColumnsValue, "the columns of the table, `"+format.ColumnsValue+
		"` such as name,along[nm]=Log; 'gyrolith help columns' lists the words", c.parse)
	columns.Words = words.Names()
	return append(param.Table{columns}, OrderParams(&c.order, words)...)
}

// parse reads the list of columns.
func (c *Choice[R]) parse(text string) error {
	chosen, notes, err := c.List.Words(c.Were).Parse(text)
	if err != nil {
		return err
	}
	c.Notes, c.columns = notes, nil
	for _, x := range chosen {
		col := c.List.column(x.Holds)
		if col.measure = x.Measure; x.Given {
			col.given = x.Title
		}
		c.columns = append(c.columns, col)
	}
	return nil
}

// Said gives what there is to say of the choice: words that are now called otherwise, the measures of columns whose
// titles were given and don't name them, and columns that no row has anything for.
func (c *Choice[R]) Said(rows []R, o *Layout) []string {
	out := slices.Clone(c.Notes)
	for _, x := range c.columns {
		known := func(r R) bool { return x.Cell(&r, o) != nil }
		if len(rows) > 0 && !strings.HasPrefix(x.Name, "blank:") && !slices.ContainsFunc(rows, known) {
			out = append(out, fmt.Sprintf("the column %s is empty: no row has a value for it", x.Name))
		}
		q := x.quantity(o)
		if m, _ := headings.MeasureOf(x.given, q.Of); x.given != "" && q.Of != headings.None && m.Factor != q.One {
			out = append(out, fmt.Sprintf("the column %q is in %s, which its title doesn't say", x.given, q.Measure))
		}
	}
	return out
}

// Sort puts rows in the order that was asked for.
func (c *Choice[R]) Sort(rows []R, o *Layout) {
	if len(c.order) == 0 {
		return
	}
	came := slices.Clone(rows)
	order := figure.Order(len(rows), c.order, func(i int) func(string) any {
		return func(word string) any { return c.List.column(word).Cell(&came[i], o) }
	})
	for to, from := range order {
		rows[to] = came[from]
	}
}

// OrderParams are the parameters of an order by words, in which they were given.
func OrderParams(to *[]figure.Key, words *format.Words) param.Table {
	one := func(name, help string, down bool) param.Param {
		p := param.Func(name, "WORD", help, func(text string) error {
			if _, ok := words.Find(text); !ok {
				return words.Unknown(text)
			}
			*to = append(*to, figure.Key{Word: text, Down: down})
			return nil
		})
		p.List, p.Words = true, words.Names()
		return p
	}
	return param.Table{
		one("sort", "in ascending order of this `WORD`, such as name or time; repeatable", false),
		one("sort-down", "in descending order of this `WORD`; repeatable", true),
	}
}
