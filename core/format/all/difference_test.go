package all_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/holds"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// difference is something that came back otherwise than it went in.
type difference struct {
	at       holds.Place
	what     nav.Property
	also     nav.Property // another word for it
	name     string       // of the item that went in
	old, new string
}

func (d difference) String() string {
	return fmt.Sprintf("%v %q: %s: %.80q came back as %.80q", d.at, d.name, d.what, d.old, d.new)
}

// comparison gathers what is different.
type comparison struct {
	out    []difference
	ledger nav.Ledger // which tells the new keys of fields
	datums []nav.VerticalDatum
}

// gone is the property of a whole item.
func gone(at holds.Place) nav.Property { return nav.Property(at.String()) }

func (c *comparison) add(at holds.Place, what nav.Property, name, old, new string) {
	if trimmed(old) == trimmed(new) && old != new {
		what = holds.Blanks
	}
	c.out = append(c.out, difference{at: at, what: what, name: name, old: old, new: new})
}

// trimmed is a text, or a list of them, without blanks.
func trimmed(text string) string { return strings.ReplaceAll(text, " ", "") }

// differences compares what went in with what came back.
func differences(before, after *nav.Dataset, ledger nav.Ledger, datums []nav.VerticalDatum) []difference {
	c := &comparison{ledger: ledger, datums: datums}
	c.file(&before.Meta, &after.Meta)
	left := slices.Clone(after.Waypoints)
	pairs := map[*nav.Whole]*nav.Whole{}
	for i := range before.Waypoints {
		p := &before.Waypoints[i]
		j := slices.IndexFunc(left, func(q nav.Waypoint) bool { return near(&p.Point, &q.Point) })
		if j < 0 {
			c.add(holds.Waypoint, gone(holds.Waypoint), p.Name, "there", "gone")
			continue
		}
		c.waypoint(holds.Waypoint, p.Name, p, &left[j], pairs)
		left = slices.Delete(left, j, j+1)
	}
	for i := range left {
		c.add(holds.Waypoint, "more", left[i].Name, "", "there")
	}
	routes := slices.Clone(after.Routes)
	for i := range before.Routes {
		c.route(&before.Routes[i], &routes, pairs)
	}
	for i := range routes {
		c.add(holds.Route, "more", routes[i].Name, "", "there")
	}
	tracks := slices.Clone(after.Tracks)
	for i := range before.Tracks {
		c.track(&before.Tracks[i], &tracks, pairs)
	}
	for i := range tracks {
		c.add(holds.Track, "more", tracks[i].Name, "", "there")
	}
	areas := slices.Clone(after.Areas)
	for i := range before.Areas {
		c.area(&before.Areas[i], &areas, pairs)
	}
	for i := range areas {
		c.add(holds.Area, "more", areas[i].Name, "", "there")
	}
	return c.out
}

// near says whether two places are one but for rounding.
func near(p, q *nav.Point) bool { return geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon) < 5 }

// properties are the texts of an item's properties.
func properties(it *nav.Item) map[holds.Property]string {
	var links, texts strings.Builder
	for _, l := range it.Links {
		fmt.Fprintf(&links, "%s ", l.Href)
		if l.Text+l.Type != "" {
			fmt.Fprintf(&texts, "%s %s|", l.Text, l.Type)
		}
	}
	st := &it.Style
	number := func(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) }
	kept := 0
	for _, k := range it.Kept {
		if k.Format == "another" {
			kept++
		}
	}
	return map[holds.Property]string{holds.ID: it.ID, holds.Name: it.Name, holds.Comment: it.Comment,
		holds.Description: it.Desc,
		holds.Source:      it.Source, holds.Type: it.Type, holds.Number: it.Number, holds.Group: it.Group,
		holds.Links: links.String(), holds.LinkTexts: texts.String(), holds.Symbol: st.Symbol, holds.Icon: st.Icon,
		holds.IconScale: number(st.IconScale), holds.Colour: st.Colour.String(), holds.Width: number(st.Width),
		holds.Fill: st.Fill.String(), holds.Outline: fmt.Sprint(st.NoFill, st.NoOutline), holds.Details: fmt.Sprint(kept)}
}

func (c *comparison) item(at holds.Place, name string, a, b *nav.Item, pairs map[*nav.Whole]*nav.Whole) {
	was, is := properties(a), properties(b)
	for p, old := range was {
		if is[p] == old {
			continue
		}
		c.add(at, holds.What(at, p), name, old, is[p])
	}
	c.fields(at, name, a.Fields, b.Fields)
	switch {
	case a.Whole == nil && b.Whole == nil:
	case a.Whole == nil || b.Whole == nil:
		c.add(at, holds.What(at, holds.Parts), name, fmt.Sprint(a.Whole != nil), fmt.Sprint(b.Whole != nil))
	case pairs[a.Whole] == nil:
		pairs[a.Whole] = b.Whole
	case pairs[a.Whole] != b.Whole:
		c.add(at, holds.What(at, holds.Parts), name, "one feature", "several")
	}
}

func (c *comparison) fields(at holds.Place, name string, a, b []nav.Field) {
	left := slices.Clone(b)
	for _, f := range a {
		keys := []string{f.Key}
		for _, e := range c.ledger { // a key may be changed twice
			if e.What == nav.PropertyFieldName && slices.Contains(keys, e.Old) {
				keys = append(keys, e.New)
			}
		}
		j := slices.IndexFunc(left,
			func(g nav.Field) bool { return slices.Contains(keys, g.Key) && sameValue(f.Value, g.Value) })
		if j < 0 {
			j = slices.IndexFunc(left,
				func(g nav.Field) bool { return slices.Contains(keys, g.Key) && trimmed(f.Value) == trimmed(g.Value) })
			if j >= 0 {
				c.add(at, holds.Blanks, name, f.Value, left[j].Value)
			}
		}
		if j < 0 {
			what := holds.FieldWord(at, f.Key)
			switch {
			case f.Literal && f.Value == "null":
				what = holds.What(at, holds.FieldTypes)
			case at == holds.TrackPoint:
				what = holds.What(at, holds.ReadingOf(f.Key))
			}
			c.add(at, what, name, f.Value, "")
			also := &c.out[len(c.out)-1].also
			if *also = holds.FieldWord(at, f.Key); at == holds.TrackPoint {
				*also = holds.What(at, holds.ReadingOf(f.Key))
			}
			continue
		}
		if f.Literal && !left[j].Literal {
			c.add(at, holds.What(at, holds.FieldTypes), name, f.Value, left[j].Value)
		}
		left = slices.Delete(left, j, j+1)
	}
	for _, g := range left {
		c.add(at, "field more", name, "", g.Key+"="+g.Value)
	}
}

func sameValue(a, b string) bool {
	if a == b {
		return true
	}
	x, err1 := strconv.ParseFloat(a, 64)
	y, err2 := strconv.ParseFloat(b, 64)
	if decimal.IsNumber(a) && decimal.IsNumber(b) && err1 == nil && err2 == nil {
		return x == y
	}
	var p, q bytes.Buffer
	return json.Compact(&p, []byte(a)) == nil && json.Compact(&q, []byte(b)) == nil && p.String() == q.String()
}

func (c *comparison) point(at holds.Place, name string, p, q *nav.Point) {
	if math.Abs(p.Lat-q.Lat) > 2e-8 || math.Abs(nav.WrapLon(p.Lon-q.Lon)) > 2e-8 {
		c.add(at, "positions", name, fmt.Sprint(p.Lat, p.Lon), fmt.Sprint(q.Lat, q.Lon))
	}
	switch {
	case p.HasHeight() != q.HasHeight():
		c.add(at, holds.What(at, holds.Height), name, fmt.Sprint(p.Height()), fmt.Sprint(q.Height()))
	case p.HasHeight() && math.Abs(p.Height()-q.Height()) > 1e-4:
		c.add(at, "heights", name, fmt.Sprint(p.Height()), fmt.Sprint(q.Height()))
	}
	switch {
	case p.HasHeight() && q.HasHeight() && p.VerticalDatum() != nav.DatumUnstated &&
		p.VerticalDatum() != q.VerticalDatum() &&
		!(q.VerticalDatum() == nav.DatumUnstated && slices.Contains(c.datums, p.VerticalDatum())): // by custom
		c.add(at, holds.What(at, holds.HeightReference), name, p.VerticalDatum().String(), q.VerticalDatum().String())
	}
	switch {
	case p.HasTime() != q.HasTime():
		c.add(at, holds.What(at, holds.Time), name, fmt.Sprint(p.Time()), fmt.Sprint(q.Time()))
	case p.UnixNano() != q.UnixNano():
		c.add(at, "times", name, fmt.Sprint(p.Time()), fmt.Sprint(q.Time()))
	case min(p.TimeMark(), instant.Seconds) != min(q.TimeMark(), instant.Seconds):
		c.add(at, holds.What(at, holds.TimePrecision), name, fmt.Sprint(p.TimeMark()), fmt.Sprint(q.TimeMark()))
	}
}

func (c *comparison) waypoint(at holds.Place, name string, p, q *nav.Waypoint, pairs map[*nav.Whole]*nav.Whole) {
	c.item(at, name, &p.Item, &q.Item, pairs)
	c.point(at, name, &p.Point, &q.Point)
}

func (c *comparison) route(a *nav.Route, routes *[]nav.Route, pairs map[*nav.Whole]*nav.Whole) {
	j := slices.IndexFunc(*routes, func(b nav.Route) bool {
		if len(a.Points) == 0 || len(b.Points) == 0 {
			return len(a.Points) == len(b.Points)
		}
		return near(&a.Points[0].Point, &b.Points[0].Point)
	})
	if j < 0 {
		c.missing(holds.Route, a.Name, len(a.Points))
		return
	}
	b := &(*routes)[j]
	c.item(holds.Route, a.Name, &a.Item, &b.Item, pairs)
	if len(a.Points) != len(b.Points) {
		c.add(holds.Route, "points", a.Name, fmt.Sprint(len(a.Points)), fmt.Sprint(len(b.Points)))
	}
	for i := range min(len(a.Points), len(b.Points)) {
		c.waypoint(holds.RoutePoint, a.Name, &a.Points[i], &b.Points[i], pairs)
	}
	*routes = slices.Delete(*routes, j, j+1)
}

func (c *comparison) missing(at holds.Place, name string, points int) {
	switch points {
	case 0:
		c.add(at, holds.EmptyWord(at), name, "there", "gone")
	case 1:
		c.add(at, holds.What(at, holds.OnePoint), name, "there", "gone")
	default:
		c.add(at, gone(at), name, "there", "gone")
	}
}

func (c *comparison) track(a *nav.Track, tracks *[]nav.Track, pairs map[*nav.Whole]*nav.Whole) {
	j := slices.IndexFunc(*tracks, func(b nav.Track) bool {
		if a.Len() == 0 || b.Len() == 0 {
			return a.Len() == b.Len()
		}
		return slices.ContainsFunc(a.Segments,
			func(s nav.Segment) bool { return near(&s.Points[0], &b.Segments[0].Points[0]) })
	})
	if j < 0 {
		c.missing(holds.Track, a.Name, a.Len())
		return
	}
	b := &(*tracks)[j]
	c.item(holds.Track, a.Name, &a.Item, &b.Item, pairs)
	if len(a.Segments) != len(b.Segments) {
		what := holds.What(holds.Track, holds.Segments)
		if slices.ContainsFunc(a.Segments, func(s nav.Segment) bool { return len(s.Points) == 1 }) {
			what = holds.What(holds.Track, holds.OnePoint)
		}
		c.add(holds.Track, what, a.Name, fmt.Sprint(len(a.Segments)), fmt.Sprint(len(b.Segments)))
	}
	kept := a.Segments
	if len(kept) > len(b.Segments) {
		kept = slices.DeleteFunc(slices.Clone(kept), func(s nav.Segment) bool { return len(s.Points) == 1 })
	}
	for i := range min(len(kept), len(b.Segments)) {
		c.segment(a.Name, &kept[i], &b.Segments[i], pairs)
	}
	*tracks = slices.Delete(*tracks, j, j+1)
}

func (c *comparison) segment(name string, a, b *nav.Segment, pairs map[*nav.Whole]*nav.Whole) {
	if len(a.Points) != len(b.Points) {
		c.add(holds.Track, "points", name, fmt.Sprint(len(a.Points)), fmt.Sprint(len(b.Points)))
	}
	for i := range min(len(a.Points), len(b.Points)) {
		p, q := &a.Points[i], &b.Points[i]
		c.point(holds.TrackPoint, name, p, q)
		x, y := detail(a, p), detail(b, q)
		if x.kept != y.kept {
			c.add(holds.TrackPoint, holds.What(holds.TrackPoint, holds.Details), name, fmt.Sprint(x.kept), fmt.Sprint(y.kept))
		}
		x.Fields, y.Fields = x.values, y.values
		c.item(holds.TrackPoint, name, &x.Item, &y.Item, pairs)
	}
}

type detailed struct {
	nav.Item
	values []nav.Field
	kept   int
}

func detail(s *nav.Segment, p *nav.Point) (out detailed) {
	d := s.Detail(p)
	if d == nil {
		return
	}
	if d.Item != nil {
		out.Item = *d.Item
	}
	out.values = append(slices.Clone(d.Values), out.Fields...)
	for _, k := range d.Kept {
		if k.Format == "another" {
			out.kept++
		}
	}
	return
}

func (c *comparison) area(a *nav.Area, areas *[]nav.Area, pairs map[*nav.Whole]*nav.Whole) {
	at := -1
	j := slices.IndexFunc(*areas, func(b nav.Area) bool {
		if len(a.Outline) == 0 || len(b.Outline) == 0 {
			return len(a.Outline) == len(b.Outline)
		}
		at = slices.IndexFunc(b.Outline, func(q nav.Point) bool { return near(&a.Outline[0], &q) })
		return at >= 0
	})
	if j < 0 {
		c.missing(holds.Area, a.Name, len(a.Outline))
		return
	}
	b := &(*areas)[j]
	c.item(holds.Area, a.Name, &a.Item, &b.Item, pairs)
	c.ring(a.Name, a.Outline, b.Outline)
	if len(a.Holes) != len(b.Holes) {
		c.add(holds.Area, holds.What(holds.Area, holds.Holes), a.Name, fmt.Sprint(len(a.Holes)), fmt.Sprint(len(b.Holes)))
	}
	for i := range min(len(a.Holes), len(b.Holes)) {
		c.ring(a.Name, a.Holes[i], b.Holes[i])
	}
	*areas = slices.Delete(*areas, j, j+1)
}

// ring compares two rings that may begin elsewhere and go the other way.
func (c *comparison) ring(name string, a, b []nav.Point) {
	if len(a) != len(b) {
		c.add(holds.Area, "points", name, fmt.Sprint(len(a)), fmt.Sprint(len(b)))
		return
	}
	if len(a) == 0 {
		return
	}
	from := slices.IndexFunc(b, func(q nav.Point) bool { return near(&a[0], &q) })
	if from < 0 {
		c.add(holds.Area, "points", name, "a ring", "another")
		return
	}
	n, step := len(a), 1
	if n > 2 && near(&a[1], &b[(from+n-1)%n]) {
		step = n - 1
	}
	for i := range a {
		c.point(holds.Area, name, &a[i], &b[(from+i*step)%n])
	}
}

func (c *comparison) file(a, b *nav.Meta) {
	text := func(m *nav.Meta) map[holds.Property]string {
		var links, texts string
		for _, l := range m.Links {
			links += l.Href + " "
			texts += l.Text + l.Type
		}
		kept := 0
		for _, k := range m.Kept {
			if k.Format == "another" {
				kept++
			}
		}
		return map[holds.Property]string{holds.Title: m.Name, holds.Description: m.Desc,
			holds.Author:    fmt.Sprint(m.Author, m.AuthorEmail, m.AuthorLinks),
			holds.Copyright: m.Copyright + m.CopyrightYear + m.Licence, holds.Keywords: m.Keywords, holds.Links: links,
			holds.LinkTexts: texts, holds.Attachments: fmt.Sprint(m.Attachments), holds.Details: fmt.Sprint(kept)}
	}
	was, is := text(a), text(b)
	for p, old := range was {
		if is[p] != old {
			c.add(holds.File, holds.What(holds.File, p), "", old, is[p])
		}
	}
	c.point(holds.File, "", &a.Time, &b.Time)
}
