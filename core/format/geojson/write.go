package geojson

import (
	"io"
	"slices"
	"strconv"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/inorder"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/scratch"
	"gyrolith/core/shape"
)

type writer struct {
	out          io.Writer
	buf          []byte
	err          error
	keys         *format.FieldKeys // of waypoints, which have a time
	lined        *format.FieldKeys // of lines and areas
	wholes       *format.Wholes
	done         format.Written
	spelt        map[spelt]*spelling
	lastSpelt    spelt // of the item before, whose names are beside
	lastNames    []string
	lastSpelling *spelling
	meanings     meanings
	before       string // what stands before each feature
	after        string
	count        int
}

func write(out io.Writer, d *nav.Dataset, _ *format.WriteOptions) (*format.Written, error) {
	w := &writer{out: out, before: ",\n"}
	w.buf = append(w.buf, `{"type":"FeatureCollection"`...)
	own := newObject(nil)
	own.text("name", d.Meta.Name)
	own.text("description", d.Meta.Desc)
	for pairs := format.OwnFile(&d.Meta); len(pairs) > 0; pairs = pairs[2:] {
		own.text(pairs[0], pairs[1])
	}
	own.links("links", d.Meta.Links)
	own.links("author-links", d.Meta.AuthorLinks)
	if b := own.end(); len(b) > 2 {
		w.buf = append(append(w.buf, `,"gyrolith":`...), b...)
	}
	for _, k := range d.Meta.Kept {
		if k.Format == "geojson" {
			w.buf = append(append(appendText(append(w.buf, ','), k.Where), ':'), k.Text...)
		}
	}
	w.buf = append(w.buf, ",\"features\":[\n"...)
	w.features(d)
	w.buf = append(w.buf, "\n]}\n"...)
	w.flush(0)
	w.ownLosses(d)
	return &w.done, w.err
}

func writeSeq(out io.Writer, d *nav.Dataset, _ *format.WriteOptions) (*format.Written, error) {
	w := &writer{out: out, after: "\n", before: string(rune(recordSeparator))}
	w.count = 1 // the separator stands before the first as well
	return w.sequence(d)
}

func writeLines(out io.Writer, d *nav.Dataset, _ *format.WriteOptions) (*format.Written, error) {
	return (&writer{out: out, after: "\n"}).sequence(d)
}

func (w *writer) sequence(d *nav.Dataset) (*format.Written, error) {
	w.features(d)
	w.flush(0)
	w.ownLosses(d)
	return &w.done, w.err
}

// ownLosses gathers what the writer alone can tell.
func (w *writer) ownLosses(d *nav.Dataset) {
	w.done.Ledger = append(w.keys.Ledger, w.lined.Ledger...)
	format.PoleEdges(&w.done.Ledger, d.Areas)
}

func (w *writer) flush(limit int) {
	if len(w.buf) > limit {
		if w.err == nil {
			_, w.err = w.out.Write(w.buf)
		}
		w.buf = w.buf[:0]
	}
}

func (w *writer) features(d *nav.Dataset) {
	w.keys, w.lined = format.NewFieldKeys(d, append(properties, "time")...), format.NewFieldKeys(d, properties...)
	w.wholes = &format.Wholes{}
	format.Runs(len(d.Waypoints), func(i, j int) bool {
		a, b := &d.Waypoints[i], &d.Waypoints[j]
		return format.SameFeature(&a.Item, &b.Item) && a.UnixNano() == b.UnixNano() && a.TimeMark() == b.TimeMark()
	}, func(from, to int) { w.waypoints(d.Waypoints[from:to]) })
	for i := range d.Routes {
		if len(d.Routes[i].Points) > 0 {
			w.route(&d.Routes[i])
			w.done.Add(nav.Routes, len(d.Routes[i].Points))
		}
	}
	for i := range d.Tracks {
		if d.Tracks[i].Len() > 0 {
			w.track(&d.Tracks[i])
			w.done.Add(nav.Tracks, d.Tracks[i].Len())
		}
	}
	format.Runs(len(d.Areas), func(i, j int) bool {
		return format.SameFeature(&d.Areas[i].Item, &d.Areas[j].Item)
	}, func(from, to int) { w.areas(d.Areas[from:to]) })
}

// properties are those of a feature that are no fields.
var properties = []string{"name", "description", "group"}

// waypoints writes a waypoint, or several that are one feature.
func (w *writer) waypoints(parts []nav.Waypoint) {
	p := &parts[0]
	w.feature(&thing{kind: nav.Waypoints, item: &p.Item, at: &p.Point, alone: len(parts) == 1}, func() {
		if len(parts) == 1 {
			w.geometry("Point")
			at := p.Point
			if w.lastSpelling.titles["height"] != nil {
				at.ClearHeight() // which is a property
			}
			w.position(&at, p.Exact)
			return
		}
		w.geometry("MultiPoint")
		w.list(len(parts), func(i int) { w.position(&parts[i].Point, parts[i].Exact) })
	})
	for range parts {
		w.done.Add(nav.Waypoints, 1)
	}
}

// thing is what a feature is made of around its geometry.
type thing struct {
	kind  nav.Kind
	item  *nav.Item
	at    *nav.Point // whose time is the feature's; nil for none
	line  []part     // the points of which it says times and values, of a line
	alone bool       // the one part that it is of another feature
}

func (w *writer) feature(t *thing, geometry func()) {
	item, at := t.item, t.at
	if w.count > 0 {
		w.buf = append(w.buf, w.before...)
	}
	w.count++
	w.flush(128 << 10)
	w.buf = append(w.buf, `{"type":"Feature"`...)
	if item.ID != "" {
		w.buf = append(w.buf, `,"id":`...)
		if slices.ContainsFunc(item.Kept, func(k nav.Kept) bool { return k.Format == "geojson" && k.Where == numericID }) {
			w.buf = append(w.buf, item.ID...)
		} else {
			w.buf = appendText(w.buf, item.ID)
		}
	}
	w.buf = append(w.buf, `,"properties":`...)
	props := newObject(w.buf)
	keys := w.lined
	if t.kind == nav.Waypoints {
		keys = w.keys
	}
	names := keys.Names(item.Fields)
	spelled := w.spell(item, at, names)
	props.as(spelled, "name", item.Name)
	props.as(spelled, "description", item.Desc)
	props.text("group", item.Group)
	if at != nil && at.HasTime() {
		props.as(spelled, "time", string(at.AppendTime(nil)))
	}
	if title := spelled.titles["height"]; title != nil {
		props.raw(title.Text, string(at.AppendHeight(nil)))
	}
	props.titled(item, at, spelled)
	inProperties := w.timeList(props, t)
	for i := range item.Fields {
		props.field(names[i], &item.Fields[i])
	}
	styled := props.simpleStyle(t.kind, item)
	w.buf = props.end()
	geometry()
	w.buf = append(w.buf, '}')
	w.ownMember(t, spelled.exact, inProperties, styled)
	for _, k := range item.Kept {
		if k.Format == "geojson" && k.Where != numericID {
			w.buf = append(append(appendText(append(w.buf, ','), k.Where), ':'), k.Text...)
		}
	}
	w.buf = append(append(w.buf, '}'), w.after...)
}

// said are the properties of an item that are ordinary ones of a feature; our own member says the others.
var said = holds.SetOf(holds.ID, holds.Name, holds.Description, holds.Group)

// ownMember writes what GeoJSON has no word for, as a foreign member (RFC 7946, 6.1).
func (w *writer) ownMember(t *thing, exact, timesSaid, styled bool) {
	o := newObject(nil)
	if exact {
		o.raw("exact", "true")
	}
	if t.kind == nav.Routes {
		o.text("kind", t.kind.One())
	}
	if t.alone {
		o.text("part-of", w.wholes.Number(t.item.Whole))
	}
	o.item(t.item, ^said)
	if styled {
		o.raw(ours, "true")
	}
	b := o.end()
	single := saidPoints(t.line)
	times := timed(t.line) && !timesSaid
	if len(b) > 2 || len(single) > 0 || times {
		w.buf = append(append(w.buf, `,"gyrolith":`...), b[:len(b)-1]...)
		first := len(b) == 2
		member := func() {
			if !first {
				w.buf = append(w.buf, ',')
			}
			first = false
		}
		if len(single) > 0 {
			member()
			w.points(t.line, single)
		}
		if times {
			member()
			w.times(t.line)
		}
		w.buf = append(w.buf, '}')
	}
}

func (w *writer) geometry(typ string) {
	w.buf = append(append(append(w.buf, `,"geometry":{"type":"`...), typ...), `","coordinates":`...)
}

func (w *writer) position(p *nav.Point, exact string) { w.buf = appendPosition(w.buf, p, exact) }

func appendPosition(dst []byte, p *nav.Point, exact string) []byte {
	dst = append(dst, '[')
	if lat, lon, ok := format.Exact(p, exact); ok {
		dst = append(append(append(dst, lon...), ','), lat...)
	} else {
		dst = p.AppendLat(append(p.AppendLon(dst), ','))
	}
	if p.HasHeight() {
		dst = p.AppendHeight(append(dst, ','))
	}
	return append(dst, ']')
}

// list writes n things in brackets.
func (w *writer) list(n int, each func(int)) {
	w.buf = append(w.buf, '[')
	for i := range n {
		if i > 0 {
			w.buf = append(w.buf, ',')
		}
		each(i)
		w.flush(128 << 10)
	}
	w.buf = append(w.buf, ']')
}

// part is a line of a geometry: a segment, or a piece of one that was cut at the antimeridian.
type part struct {
	of     *nav.Segment
	points []nav.Point
}

// cut gives the lines that segments are written as.
func cut(segments []nav.Segment) (out []part) {
	for i := range segments {
		s := &segments[i]
		if len(s.Points) == 0 {
			continue
		}
		for _, points := range shape.CutLine(s.Points) {
			out = append(out, part{s, points})
		}
	}
	return
}

func (w *writer) lines(parts []part) {
	line := func(l *part) {
		w.many(len(l.points), func(dst []byte, i int, _ *instant.Clock) []byte {
			return appendPosition(dst, &l.points[i], l.of.Exact(&l.points[i]))
		})
	}
	if len(parts) == 1 {
		w.geometry("LineString")
		line(&parts[0])
		return
	}
	w.geometry("MultiLineString")
	w.list(len(parts), func(i int) { line(&parts[i]) })
}

// many writes n values in brackets, on all cores when there are many. The function must only read what it shares; the
// clock is its own.
func (w *writer) many(n int, value func(dst []byte, i int, clock *instant.Clock) []byte) {
	w.buf = append(w.buf, '[')
	w.values(n, true, value)
	w.buf = append(w.buf, ']')
}

// values writes n values with commas between them, and before the first unless it is the first of all.
func (w *writer) values(n int, first bool, value func(dst []byte, i int, clock *instant.Clock) []byte) {
	block := func(dst []byte, from, to int) []byte {
		var clock instant.Clock
		for i := from; i < to; i++ {
			if i > 0 || !first {
				dst = append(dst, ',')
			}
			dst = value(dst, i, &clock)
		}
		return dst
	}
	if inorder.Many(n) {
		w.flush(0)
		inorder.Each(n, block, func(b []byte) {
			if w.err == nil {
				_, w.err = w.out.Write(b)
			}
		})
		return
	}
	for from := 0; from < n; from += inorder.Block {
		w.buf = block(w.buf, from, min(from+inorder.Block, n))
		w.flush(128 << 10)
	}
}

// saidPoint is a position of which something is said: its part, its place there, and its number from 0 in all parts.
type saidPoint struct{ part, place, number int32 }

func saidPoints(parts []part) (out []saidPoint) {
	number := 0
	for k, l := range parts {
		for i := range l.points {
			if l.of.Details() == 0 {
				break
			}
			if l.of.Says(&l.points[i]) {
				out = append(out, saidPoint{int32(k), int32(i), int32(number + i)})
			}
		}
		number += len(l.points)
	}
	return out
}

// points writes what is said of single positions of a line. What several share is made once.
func (w *writer) points(parts []part, said []saidPoint) {
	const at = `{"at":`
	rest := func(dst []byte, values []nav.Field, item *nav.Item) []byte { // what follows the number
		o := object{buf: dst}
		if item != nil {
			o.item(item, ^holds.Set(0))
			values = append(values, item.Fields...)
		}
		o.fields(values)
		return o.end()
	}
	type shared struct {
		of    *nav.Segment
		index int
	}
	made := map[shared][]byte{}
	for k := range parts {
		if of := parts[k].of; of.Shares() {
			for i := range of.Details() {
				d := of.DetailAt(i)
				made[shared{of, i}] = rest(nil, slices.Clip(d.Values), d.Item)
			}
		}
	}
	w.buf = append(w.buf, `"points":[`...)
	w.values(len(said), true, func(dst []byte, i int, _ *instant.Clock) []byte {
		l := &parts[said[i].part]
		p := &l.points[said[i].place]
		dst = strconv.AppendInt(append(dst, at...), int64(said[i].number), 10)
		if text, ok := made[shared{l.of, p.DetailIndex()}]; ok {
			return append(dst, text...)
		}
		var room [8]nav.Field
		return rest(dst, l.of.Values(room[:0], p), l.of.Item(p))
	})
	w.buf = append(w.buf, ']')
}

func (w *writer) route(r *nav.Route) {
	s := nav.Segment{Points: make([]nav.Point, len(r.Points))}
	for i := range r.Points {
		p := &r.Points[i]
		s.Points[i] = p.Point.Loose()
		item := p.Item
		s.Attach(&s.Points[i], nav.Detail{Exact: p.Exact, Item: &item})
	}
	w.lineFeature(nav.Routes, &r.Item, []nav.Segment{s})
}

func (w *writer) track(t *nav.Track) { w.lineFeature(nav.Tracks, &t.Item, t.Segments) }

func (w *writer) lineFeature(kind nav.Kind, item *nav.Item, segments []nav.Segment) {
	parts := cut(segments)
	w.feature(&thing{kind: kind, item: item, alone: true, line: parts}, func() { w.lines(parts) })
}

// timed says whether any point of a line has a time.
func timed(parts []part) bool {
	return slices.ContainsFunc(parts, func(l part) bool { return scratch.Any(l.points, (*nav.Point).HasTime) })
}

// times writes the times of a line's points, null where one has none.
func (w *writer) times(parts []part) {
	w.buf = append(w.buf, `"times":[`...)
	for k := range parts {
		w.timeValues(parts[k].points, k == 0)
	}
	w.buf = append(w.buf, ']')
}

func (w *writer) timeValues(points []nav.Point, first bool) {
	w.values(len(points), first, func(dst []byte, i int, clock *instant.Clock) []byte {
		if p := &points[i]; p.HasTime() {
			return append(clock.Append(append(dst, '"'), p.UnixNano(), p.TimeMark()), '"')
		}
		return append(dst, "null"...)
	})
}

// areas writes an area, or several that are one feature: polygons with the outline against the clock and the holes with
// it (RFC 7946, 3.1.6), cut at the antimeridian (3.1.9).
func (w *writer) areas(parts []nav.Area) {
	var polygons [][][]nav.Point
	for i := range parts {
		rings := slices.DeleteFunc(parts[i].Rings(), func(ring []nav.Point) bool { return len(ring) == 0 })
		polygons = append(polygons, shape.CutArea(rings)...)
		w.done.Add(nav.Areas, parts[i].Len())
	}
	w.feature(&thing{kind: nav.Areas, item: &parts[0].Item, alone: len(parts) == 1}, func() {
		if len(polygons) == 1 {
			w.geometry("Polygon")
			w.polygon(polygons[0])
			return
		}
		w.geometry("MultiPolygon")
		w.list(len(polygons), func(i int) { w.polygon(polygons[i]) })
	})
}

func (w *writer) polygon(rings [][]nav.Point) {
	w.list(len(rings), func(i int) {
		ring := rings[i]
		backwards := (shape.PlainArea(ring) < 0) == (i == 0)
		w.list(len(ring)+1, func(j int) {
			if backwards {
				j = len(ring) - j
			}
			w.position(&ring[j%len(ring)], "")
		})
	})
}
