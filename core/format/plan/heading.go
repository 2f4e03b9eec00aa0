package plan

import (
	"fmt"
	"strings"

	"gyrolith/core/format/headings"
	"gyrolith/core/nav"
)

// The words that planners write above columns, by what the column holds.
var planWords = func() map[string]string {
	out := map[string]string{}
	for holds, words := range map[string]string{
		"number":   "no nr # seq leg",
		"name":     "ident id identifier fix wpt waypoint name point navaid from to station",
		"lat":      "lat latitude",
		"lon":      "lon long longitude lng",
		"position": "position pos coordinates coord coords",
		"altitude": "alt altitude level lvl",
		"height":   "height elev elevation hgt",
		"speed":    "gs speed spd groundspeed",
		"wind":     "wind w/v wv",
		"time":     "time eta ata ato etd atd",
		"remarks":  "remarks remark rmk rmks notes note comment comments",
		"field": "freq frequency hdg heading mh th mc tc crs course trk track brg dist distance dst dis nm tas ias ete " +
			"fuel airway awy via atc msa mora var type rem total cum chan channel",
	} {
		for w := range strings.FieldsSeq(words) {
			out[w] = holds
		}
	}
	return out
}()

// planColumn is a column of a pasted table.
type planColumn struct {
	holds, title string
	measure      headings.Measure // that the heading names; the zero value is none
	start, end   int              // of the title in its line
}

// planHeading is the heading of a pasted table whose columns blanks part: those before the position and those behind.
type planHeading struct {
	before, after []planColumn
	row           *row
}

// measureIn finds the measure that a text is, of heights or of speeds.
func measureIn(text string) (m headings.Measure, ok bool) {
	for _, q := range []headings.Quantity{headings.Length, headings.Speed} {
		if m, ok = headings.Named(text, q); ok {
			break
		}
	}
	return m, ok
}

// headingOf reads a row as a heading: it has the words for a position, and one at least for something else.
func headingOf(r *row) *planHeading {
	var all []planColumn
	known := 0
	for _, t := range r.tokens {
		word := strings.ToLower(strings.Trim(t.text, ",;:."))
		if strings.ContainsAny(word, "0123456789") {
			return nil
		}
		title, inside, _ := strings.Cut(strings.TrimSuffix(word, ")"), "(")
		if n := len(all) - 1; n >= 0 && (title == "" || planWords[title] == "") {
			if m, ok := measureIn(word); ok {
				all[n].measure, all[n].title = m, all[n].title+" "+t.text // a field keeps its measure in its name
				continue
			}
		}
		c := planColumn{holds: planWords[title], title: strings.Trim(t.text, ",;:."), start: t.start, end: t.end}
		c.measure, _ = measureIn(inside)
		if c.holds != "" {
			known++
		}
		all = append(all, c)
	}
	lat, lon := -1, -1
	for i, c := range all {
		switch c.holds {
		case "lat":
			lat = i
		case "lon":
			lon = i
		case "position":
			lat, lon = i, i
		}
	}
	if lat < 0 || lon < 0 || lon-lat > 1 || lat-lon > 1 || len(all) < 3 || 2*known <= len(all) {
		return nil
	}
	h := &planHeading{row: r, before: all[:min(lat, lon)], after: all[max(lat, lon)+1:]}
	if !h.hasName() {
		return nil
	}
	return h
}

func (h *planHeading) hasName() bool {
	for _, c := range h.before {
		if c.holds == "name" {
			return true
		}
	}
	return false
}

// findHeading finds the heading above the rows with positions.
func (p *listing) findHeading() *planHeading {
	for i := range p.rows {
		if len(p.rows[i].places) > 0 {
			return nil
		}
		if h := headingOf(&p.rows[i]); h != nil {
			return h
		}
	}
	return nil
}

// cell is a column of a row, with its words.
type cell struct {
	*planColumn
	text string
}

// cells gives the columns of a row. It is false where the row has fewer words than columns, and they stand under no
// titles either.
func (h *planHeading) cells(r *row) (out []cell, ok bool) {
	at := r.places[0]
	name := 0
	for i := range h.before {
		if h.before[i].holds == "name" {
			name = i
			break
		}
	}
	right := len(h.before) - name - 1
	if at.from < len(h.before) {
		return nil, false
	}
	for i := range h.before {
		from, to := i, i+1
		switch {
		case i == name:
			to = at.from - right
		case i > name:
			from = at.from - (len(h.before) - i)
			to = from + 1
		}
		out = append(out, cell{&h.before[i], r.words(from, to)})
	}
	words := len(r.tokens) - at.to
	n := len(h.after)
	if words != n && !(n > 0 && words > n && h.after[n-1].holds == "remarks") || !h.sound(r) {
		below, ok := h.below(r)
		return append(out, below...), ok
	}
	for i := range h.after {
		to := at.to + i + 1
		if i == n-1 {
			to = len(r.tokens)
		}
		out = append(out, cell{&h.after[i], r.words(at.to+i, to)})
	}
	return out, true
}

// sound says whether the words behind the position fit the columns one by one: altitudes are numbers or levels.
func (h *planHeading) sound(r *row) bool {
	for i, c := range h.after {
		k := r.places[0].to + i
		if (c.holds == "altitude" || c.holds == "height") && k < len(r.tokens) &&
			!strings.ContainsAny(r.tokens[k].text, "0123456789") {
			return false
		}
	}
	return true
}

// below gives the words behind the position by the titles under which they stand, where all of them do.
func (h *planHeading) below(r *row) (out []cell, ok bool) {
	for k := r.places[0].to; k < len(r.tokens); k++ {
		t := &r.tokens[k]
		under := -1
		for i := range h.after {
			if t.start < h.after[i].end && t.end > h.after[i].start {
				if under >= 0 {
					return nil, false
				}
				under = i
			}
		}
		n := len(out) - 1
		if under < 0 && n >= 0 && out[n].holds == "remarks" { // which go on
			under = len(h.after) - 1
		}
		switch {
		case under < 0:
			return nil, false
		case n >= 0 && out[n].planColumn == &h.after[under]:
			out[n].text += " " + t.text
		default:
			out = append(out, cell{&h.after[under], t.text})
		}
	}
	return out, true
}

// headed makes the fix of a row under a heading. False is a row that does not fit it.
func (p *listing) headed(r *row, d *nav.Dataset) (fix, bool) {
	cells, ok := p.heading.cells(r)
	if !ok {
		d.Note(nav.ProblemRows, "rows have other columns than the heading; what is beside their names and positions was "+
			"kept as a comment", r.line, 0)
		return fix{}, false
	}
	f := r.fixAt(&r.places[0])
	var comments []string
	for _, c := range cells {
		text := strings.Trim(c.text, " ,;")
		if text == "" || text == "-" || text == "--" {
			continue
		}
		switch c.holds {
		case "name":
			f.Name = text
		case "number":
		case "altitude", "height":
			if !f.HasHeight() && !p.altitudeOf(&f.Point, c, text, d) {
				f.Fields = append(f.Fields, nav.Field{Key: c.title, Value: text})
			}
		case "time", "remarks":
			comments = append(comments, text)
		default:
			f.Fields = append(f.Fields, nav.Field{Key: c.title, Value: text})
		}
	}
	f.Comment = strings.Join(comments, " ")
	return f, true
}

// altitudeOf reads a cell of altitudes: a level, a number with its measure, or one in that of the heading. An
// altitude is in feet where nothing else is said, a height or elevation in metres.
func (p *listing) altitudeOf(at *nav.Point, c cell, text string, d *nav.Dataset) bool {
	if height(at, text) == "" && at.HasHeight() {
		return true
	}
	measure, guessed := c.measure, ""
	if measure.Factor == 0 {
		word := "m"
		if c.holds == "altitude" {
			word = "ft"
		}
		measure, _ = headings.Named(word, headings.Length)
		guessed = fmt.Sprintf("numbers under %s were read as %s above the sea", c.title, measure.Name)
	}
	if plainHeight(at, strings.ReplaceAll(text, ",", ""), measure.Factor) != "" || !at.HasHeight() {
		return false
	}
	if guessed != "" {
		for i := range d.Problems {
			if d.Problems[i].Text == guessed {
				return true
			}
		}
		d.Tell(nav.ProblemColumns, guessed)
	}
	return true
}
