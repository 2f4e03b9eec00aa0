package table

import (
	"strconv"

	"gyrolith/core/nav"
)

// valueCells makes the cells of the values that the points of a run have. A copy is for one goroutine.
type valueCells struct {
	run     *run
	sheet   *sheet
	columns []int               // those of values
	shown   map[*nav.Form][]int // which text of a form stands in each of these; -1 is none
	whole   map[int][]string    // the cells of details that have no form
	texts   []string            // of the last point
	cells   []string
}

func newValueCells(r *run, columns []int, t *sheet) *valueCells {
	c := &valueCells{run: r, sheet: t, columns: columns, shown: map[*nav.Form][]int{}}
	for _, f := range r.segment.Forms() {
		one := row{}
		for i := range f.Values {
			one.fields = append(one.fields, nav.Field{Key: f.Values[i].Key, Value: "n" + strconv.Itoa(f.Values[i].Text)})
		}
		texts := make([]int, len(columns))
		for i, column := range columns {
			texts[i] = -1
			if text, ok := one.value(t.Columns[column].Holds, t).(string); ok {
				texts[i], _ = strconv.Atoi(text[1:])
			}
		}
		c.shown[f] = texts
	}
	return c
}

// begin makes the cells of points that have details without a form.
func (c *valueCells) begin(points []nav.Point) {
	c.whole = map[int][]string{}
	one := c.run.row
	for i := range points {
		p := &points[i]
		k := p.DetailIndex()
		if !c.run.segment.HasDetail(p) || c.run.segment.HasForm(p) || c.whole[k] != nil {
			continue
		}
		one.fields = c.run.segment.Values(nil, p)
		texts := make([]string, len(c.columns))
		for j, column := range c.columns {
			texts[j] = cellText(one.value(c.sheet.Columns[column].Holds, c.sheet))
		}
		c.whole[k] = texts
	}
}

// of gives the cells of a point, as the columns; nil is none. They hold until it is asked again.
func (c *valueCells) of(p *nav.Point) []string {
	if !c.run.segment.HasDetail(p) {
		return nil
	}
	f, texts := c.run.segment.FormAt(c.texts[:0], p.DetailIndex())
	if f == nil {
		return c.whole[p.DetailIndex()]
	}
	c.texts, c.cells = texts, c.cells[:0]
	for _, k := range c.shown[f] {
		if k < 0 {
			c.cells = append(c.cells, "")
		} else {
			c.cells = append(c.cells, fieldText(texts[k]))
		}
	}
	return c.cells
}
