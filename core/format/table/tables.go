package table

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/nav"
)

// stretch is one of several tables among the rows of a text or a sheet, from its title on.
type stretch struct {
	title    string // in a row of its own above the heading; "" is none
	from, to int    // rows
}

// headingRow says whether a row is a heading with words for positions.
func headingRow(cells []string) bool {
	held := map[string]bool{}
	for _, c := range cells {
		if numeric(c) {
			return false
		}
		if h, ok := headings.Of(c); ok {
			held[h.Holds] = true
		}
	}
	return held["lat"] && held["lon"] || held["easting"] && held["northing"] || held["x"] && held["y"] ||
		held["position"] && len(held) > 1
}

// positioned says whether a row holds two numbers as those of positions are.
func positioned(cells []string) bool {
	n := 0
	for _, cell := range cells {
		v, _, ok := degrees(strings.TrimSpace(cell))
		if ok && (math.Abs(v) <= 360 && strings.ContainsAny(cell, ".,") || math.Abs(v) > 1e4) {
			n++
		}
	}
	return n > 1
}

// stretches finds the tables among rows. A heading that repeats the one before goes on with its table, unless a title
// stands above it.
func stretches(rows [][]string) (all []stretch) {
	last, begun := -1, 0 // the heading of the table that goes on, and its first row
	title := ""
	end := func(at int) {
		if slices.ContainsFunc(rows[begun:at], positioned) || last >= 0 && at > last+1 {
			all = append(all, stretch{title, begun, at})
		}
	}
	for i, cells := range rows {
		if !headingRow(cells) {
			continue
		}
		top, name := i, "" // its title, and what else stands above it that is no row of a table
		for top > max(last+1, begun) && !slices.ContainsFunc(rows[top-1], numeric) && !headingRow(rows[top-1]) &&
			(filled(rows[top-1]) < 2 || i-top < 1) {
			top--
			if filled(rows[top]) == 1 && name == "" {
				name = titleOf(rows[top])
			}
		}
		switch {
		case last >= 0 && name == "" && slices.Equal(bare(rows[last]), bare(cells)),
			last >= 0 && !slices.ContainsFunc(rows[last+1:top], func(c []string) bool { return !blank(c) }):
			continue // the same again, or a heading of two rows
		case last < 0 && !slices.ContainsFunc(rows[:i], positioned):
			title = name
		default:
			end(top)
			title, begun = name, top
		}
		last = i
	}
	end(len(rows))
	return all
}

func bare(cells []string) (out []string) {
	for _, c := range cells {
		if c = strings.TrimSpace(c); c != "" {
			out = append(out, c)
		}
	}
	return out
}

// titleOf is the one text of a row, without what may mark it as a title.
func titleOf(cells []string) string {
	return strings.Trim(strings.Join(bare(cells), " "), "[]#:=*- \t")
}

// several says whether rows above the heading that was found hold positions as well, as those of another table do.
func (r *reader) several(rows [][]string) bool {
	return len(r.opt.Columns) == 0 && slices.ContainsFunc(rows[:max(r.header, 0)], positioned)
}

// otherTable says whether a row that holds no position is the heading of another table, or a title above one.
func (r *reader) otherTable(cells [][]byte) bool {
	if r.header < 0 || len(r.opt.Columns) > 0 {
		return false
	}
	texts := make([]string, len(cells))
	for i, c := range cells {
		texts[i] = text(c)
	}
	return headingRow(texts)
}

// eachTable reads the tables of a text or a sheet into a dataset, each into a group of its title. Read is given the
// reader of a table and its rows; a table without positions is told.
func eachTable(d *nav.Dataset, rows [][]string, opt *format.ReadOptions, sheet string, lines func(row int) int,
	read func(r *reader, from, to int) error) error {
	some := 0
	all := stretches(rows)
	for n, s := range all {
		title := s.title
		if title == "" {
			title = fmt.Sprintf("Table %d", n+1)
		}
		before := d.Counts()
		of := lineOptions(opt, s.title, rows[s.from:s.to])
		r, err := newReader(d, rows[s.from:min(s.to, s.from+firstRows)], of, sheet)
		if err != nil {
			d.Note(nav.ProblemLeftOut, fmt.Sprintf("%s, rows %d to %d, was left out: %v", title, lines(s.from),
				lines(s.to-1), err), lines(s.from), 0)
			continue
		}
		some++
		if err := read(r, s.from, s.to); err != nil {
			return err
		}
		r.finish()
		if len(all) > 1 {
			inGroup(d, before, title)
		}
	}
	if some == 0 {
		return errNoColumns
	}
	return nil
}

// lineOptions has the rows of a table of lines belong to those that a column names, where the table is called so.
func lineOptions(opt *format.ReadOptions, title string, rows [][]string) *format.ReadOptions {
	called := strings.TrimSuffix(headings.Folded(title), "s")
	if opt.LineBy != "" || !slices.Contains(headings.OfLines, called) {
		return opt
	}
	for _, cells := range rows {
		if headingRow(cells) {
			for _, c := range cells {
				if slices.Contains(headings.OfLines, headings.Folded(c)) {
					of := *opt
					of.LineBy = strings.TrimSpace(c)
					return &of
				}
			}
			break
		}
	}
	return opt
}

// inGroup puts the items that came after so many into a group, where they have none.
func inGroup(d *nav.Dataset, before [4]int, group string) {
	seen := [4]int{}
	d.Each(func(kind nav.Kind, it *nav.Item) {
		if seen[kind]++; seen[kind] > before[kind] && it.Group == "" {
			it.Group = group
		}
	})
}

// readTables reads a text that holds several tables; the reader is that of the last.
func readTables(all *blocks, opt *format.ReadOptions, d *nav.Dataset) (*reader, error) {
	one, sep := all.first()
	body, line := slices.Clone(one.text), one.line
	for !one.last {
		if one = all.next(); one == nil {
			break
		}
		body = append(body, one.text...)
	}
	if all.err != nil {
		return nil, all.err
	}
	var rows [][]string
	var offsets, lines []int
	in := newScanner(body, sep)
	in.next = line
	for at := 0; in.scan(); at = len(body) - len(in.rest) {
		cells := make([]string, len(in.cells))
		for i, c := range in.cells {
			cells[i] = strings.Clone(text(c))
		}
		rows, offsets, lines = append(rows, cells), append(offsets, at), append(lines, in.line)
	}
	offsets = append(offsets, len(body))
	var last *reader
	err := eachTable(d, rows, opt, "", func(row int) int { return lines[row] }, func(r *reader, from, to int) error {
		last = r
		return r.block(&block{text: body[offsets[from]:offsets[to]], sep: sep, line: lines[from], last: to == len(rows)},
			r.header)
	})
	return last, err
}
