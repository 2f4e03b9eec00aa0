package holds

import (
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/nav"
)

// Row is a property of a declaration as a table shows it: a word for each place that can have it.
type Row struct {
	Property string   `json:"property"`
	Cells    []string `json:"-"` // by Columns; "" where there can be none
}

// Columns are the places of a table's cells. The file has rows of its own.
var Columns = []Place{Waypoint, Route, RoutePoint, Track, TrackPoint, Area}

// Words of the cells.
const (
	Kept   = "yes"
	Lost   = "no"
	InPart = "in part"
)

// Table shows a declaration: the rows of items and their points, those of the file, and what there is to say besides.
type Table struct {
	Items, File []Row
	Notes       []string
}

// cell is the word for a property at a place, and what there is to say of it.
func (c *Declaration) cell(at Place, p Property) (word, note string) {
	if !Of(at).Has(p) || p == HeightReference {
		return "", ""
	}
	part := c.Holds[at]
	if part == nil {
		return Lost, ""
	}
	h, _ := part.Terms(p)
	switch {
	case h.Keys != nil:
		return InPart, h.KeyWords
	case h.Partly:
		return InPart, h.Why
	case !part.whole.Has(p):
		return Lost, ""
	case h.Text.Most > 0:
		return fmt.Sprintf("%d letters", h.Text.Most), h.Text.Letters
	}
	return Kept, h.Text.Letters
}

// Table makes the table of a declaration.
func (c *Declaration) Table() *Table {
	t := &Table{}
	said := map[string][]string{} // properties by what is said of them
	var order []string
	for p := range Property(count) {
		if p == Details || p == HeightReference {
			continue
		}
		row := Row{Property: p.String(), Cells: make([]string, len(Columns))}
		used := false
		for i, at := range Columns {
			word, note := c.cell(at, p)
			row.Cells[i] = word
			used = used || word != ""
			if note == "" {
				continue
			}
			if said[note] == nil {
				order = append(order, note)
			}
			if !slices.Contains(said[note], p.String()) {
				said[note] = append(said[note], p.String())
			}
		}
		if used {
			t.Items = append(t.Items, row)
		}
		if word, _ := c.cell(File, p); word != "" {
			t.File = append(t.File, Row{Property: p.String(), Cells: []string{word}})
		}
	}
	for _, note := range order {
		t.Notes = append(t.Notes, strings.Join(said[note], ", ")+": "+note)
	}
	t.Notes = append(t.Notes, c.numbers()...)
	return t
}

// numbers says what becomes of positions, heights and times.
func (c *Declaration) numbers() (out []string) {
	step := func(what string, s Step) {
		if s.Size == 0 {
			return
		}
		by := ""
		if s.Standard {
			by = ", by its definition"
		}
		out = append(out, what+" have steps of "+s.Words+by)
	}
	step("positions", c.Rounds.Position)
	step("heights", c.Rounds.Height)
	step("times", c.Rounds.Time)
	var datums []string
	for _, d := range c.Datums {
		datums = append(datums, d.String())
	}
	heights := slices.ContainsFunc(Columns, func(at Place) bool {
		word, _ := c.cell(at, Height)
		return word == Kept || word == InPart
	})
	switch {
	case !heights:
	case len(datums) == 0:
		out = append(out, "heights don't record their reference surface")
	case len(datums) < int(nav.PressureLevel):
		out = append(out, "heights are above "+strings.Join(datums, " or "))
	}
	if c.Trims {
		out = append(out, "readers drop blanks at the ends of texts")
	}
	return
}

// OfFile lists what is held of a file as a whole, and what isn't.
func (t *Table) OfFile() (held, lost []string) {
	for _, r := range t.File {
		if r.Cells[0] == Lost {
			lost = append(lost, r.Property)
		} else {
			held = append(held, r.Property)
		}
	}
	return
}

// Markdown writes the table for the documentation.
func (t *Table) Markdown() string {
	var b strings.Builder
	b.WriteString("| |")
	for _, at := range Columns {
		b.WriteString(" " + at.String() + " |")
	}
	b.WriteString("\n|---|" + strings.Repeat("---|", len(Columns)) + "\n")
	for _, r := range t.Items {
		b.WriteString("| " + r.Property + " | " + strings.Join(r.Cells, " | ") + " |\n")
	}
	held, lost := t.OfFile()
	b.WriteString("\n")
	if len(held) > 0 {
		b.WriteString("- of the file: " + strings.Join(held, ", ") + "\n")
	}
	if len(lost) > 0 {
		b.WriteString("- not of the file: " + strings.Join(lost, ", ") + "\n")
	}
	for _, n := range t.Notes {
		b.WriteString("- " + n + "\n")
	}
	return b.String()
}
