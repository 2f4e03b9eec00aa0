package picture

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/measure"
)

// Sheet is one sort of sheet of a document.
type Sheet string

// The sorts of sheets.
const (
	MapSheet     Sheet = "map"
	LegsSheet    Sheet = "legs"
	PointsSheet  Sheet = "points"
	SectionSheet Sheet = "section"
)

// AllSheets lists them.
var AllSheets = []string{string(MapSheet), string(LegsSheet), string(PointsSheet), string(SectionSheet)}

// mostTiles bounds how many sheets a map may have.
const mostTiles = 200

// overlap is the part of a sheet that the next one shows as well.
const overlap = 0.08

// MapSheets draws the map on as many sheets as its scale needs: one, or an index and sheets with some overlap, row by
// row from the north-west, A1, A2 … B1.
func (m *Map) MapSheets(ctx context.Context) (sheets []*Scene, notes []string, err error) {
	whole := *m
	whole.Section = Section{}
	first, err := whole.Draw(ctx)
	if err != nil {
		return nil, nil, err
	}
	if m.Scale == 0 || first.fits {
		return []*Scene{first.Scene}, first.Notes, nil
	}
	frame, metres := first.frame, first.metres
	wide, high := frame.W*metres*(1-overlap), frame.H*metres*(1-overlap)
	e := first.extent
	columns, rows := int(math.Ceil(e.W/wide)), int(math.Ceil(e.H/high))
	if columns*rows > mostTiles {
		return nil, nil, fmt.Errorf("at this scale the map would have %d sheets; choose a smaller scale or a larger sheet",
			columns*rows)
	}
	index := whole
	index.Scale, index.Title, index.Imprint = 0, m.Title+": sheets", ""
	over, err := index.Draw(ctx)
	if err != nil {
		return nil, nil, err
	}
	names := map[string]Rect{}
	for row := range rows {
		for column := range columns {
			name := fmt.Sprintf("%s%d", rowName(row), column+1)
			tile := whole
			// The middle of the sheet, in metres from that of all.
			tile.Shift = XY{(float64(column) - float64(columns-1)/2) * wide, (float64(rows-1)/2 - float64(row)) * high}
			tile.Title = m.Title + "  " + name
			drawn, err := tile.Draw(ctx)
			if err != nil {
				return nil, nil, err
			}
			sheets = append(sheets, drawn.Scene)
			for _, note := range drawn.Notes {
				if strings.Contains(note, "omitted") { // the rest is the same on every sheet, or meant so
					notes = append(notes, "sheet "+name+": "+note)
				}
			}
			names[name] = drawn.ground
		}
	}
	over.outlineTiles(names, index.Theme)
	notes = append(notes, fmt.Sprintf("an index and %d sheets at 1:%s", len(sheets), measure.Count(int(m.Scale))))
	return append([]*Scene{over.Scene}, sheets...), notes, nil
}

func rowName(n int) string {
	name := ""
	for n++; n > 0; n = (n - 1) / 26 {
		name = string(rune('A'+(n-1)%26)) + name
	}
	return name
}

// outlineTiles draws the sheets on the index.
func (d *Drawn) outlineTiles(tiles map[string]Rect, t *Theme) {
	for name, r := range tiles {
		at := func(x, y float64) XY {
			return XY{d.frame.X + d.frame.W/2 + (x-d.middle.X)/d.metres, d.frame.Y + d.frame.H/2 - (y-d.middle.Y)/d.metres}
		}
		a, b := at(r.X, r.Y), at(r.X+r.W, r.Y+r.H)
		d.Scene.add(Shape{Layer: "sheets", Path: append(polyline(a, XY{b.X, a.Y}, b, XY{a.X, b.Y}), closed), Stroke: t.Ink,
			Width: 1.2, Clip: &d.frame},
			Shape{Layer: "sheets", Text: name, At: XY{(a.X + b.X) / 2, (a.Y+b.Y)/2 + 8}, Anchor: 0.5, Size: 22, Bold: true,
				Fill: faded(t.Ink, 150), Clip: &d.frame})
	}
}

// Listing is a table that is printed on sheets.
type Listing struct {
	Title  string
	Heads  []string
	Right  []bool // columns whose cells stand at the right
	Rows   [][]string
	Footer string
}

// cut brings a cell to a length that a sheet has room for.
func cut(text string) string {
	const most = 64
	text = strings.Join(strings.Fields(text), " ")
	if r := []rune(text); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return text
}

// dropEmpty takes out the columns in which nothing stands.
func (l *Listing) dropEmpty() {
	for i := len(l.Heads) - 1; i >= 0; i-- {
		if slices.ContainsFunc(l.Rows, func(r []string) bool { return r[i] != "" }) {
			continue
		}
		l.Heads = slices.Delete(slices.Clone(l.Heads), i, i+1)
		if i < len(l.Right) {
			l.Right = slices.Delete(slices.Clone(l.Right), i, i+1)
		}
		for k := range l.Rows {
			l.Rows[k] = slices.Delete(slices.Clone(l.Rows[k]), i, i+1)
		}
	}
}

// Sheets prints a table on as many sheets as it needs, each with its heads.
func (l *Listing) Sheets(width, height int, t *Theme) (out []*Scene) {
	const size, line, margin = 12.0, 19.0, 40.0
	fonts := faces{}
	l.dropEmpty()
	widths := make([]float64, len(l.Heads))
	see := func(cells []string, bold bool) {
		for i, c := range cells {
			widths[i] = max(widths[i], fonts.width(cut(c), size, bold))
		}
	}
	see(l.Heads, true)
	for _, r := range l.Rows {
		see(r, false)
	}
	gap := 14.0
	total := -gap
	for _, w := range widths {
		total += w + gap
	}
	shrink := min(1, (float64(width)-2*margin)/max(total, 1))
	perPage := max(int((float64(height)-2*margin-3*line)/line), 1)
	pages := max((len(l.Rows)+perPage-1)/perPage, 1)
	for page := range pages {
		s := &Scene{Width: float64(width), Height: float64(height), Paper: t.Paper}
		title := l.Title
		if pages > 1 {
			title = fmt.Sprintf("%s  (%d of %d)", title, page+1, pages)
		}
		s.add(Shape{Text: title, At: XY{margin, margin + 8}, Size: 18, Bold: true, Fill: t.Ink})
		row := func(cells []string, y float64, bold bool) {
			x := margin
			for i, c := range cells {
				at, anchor := x, 0.0
				if i < len(l.Right) && l.Right[i] {
					at, anchor = x+widths[i]*shrink, 1
				}
				s.add(Shape{Text: cut(c), At: XY{at, y}, Anchor: anchor, Size: size * shrink, Bold: bold, Fill: t.Ink})
				x += (widths[i] + gap) * shrink
			}
		}
		y := margin + 2.4*line
		row(l.Heads, y, true)
		s.line("", t.Ink, 0.8, XY{margin, y + 6}, XY{float64(width) - margin, y + 6})
		for _, r := range l.Rows[page*perPage : min((page+1)*perPage, len(l.Rows))] {
			y += line
			row(r, y+4, false)
		}
		if l.Footer != "" {
			s.add(Shape{Text: l.Footer, At: XY{margin, float64(height) - margin + 12}, Size: 10, Fill: t.Faint})
		}
		out = append(out, s)
	}
	return
}
