package geojson

import (
	"io"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

type writer struct {
	out    io.Writer
	buf    []byte
	err    error
	ledger nav.Ledger
	done   format.Written
	before string // what stands before each feature
	after  string
	count  int
}

func write(out io.Writer, d *nav.Dataset, _ *format.WriteOptions) (*format.Written, error) {
	w := &writer{out: out, before: ",\n"}
	w.buf = append(w.buf, `{"type":"FeatureCollection"`...)
	own := newObject(nil)
	own.text("name", d.Meta.Name)
	own.text("description", d.Meta.Desc)
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
	w.done.Ledger = w.ledger
	return &w.done, w.err
}

func writeSeq(out io.Writer, d *nav.Dataset, _ *format.WriteOptions) (*format.Written, error) {
	w := &writer{out: out, after: "\n", before: string(rune(recordSeparator))}
	w.count = 1 // the separator stands before the first as well
	w.features(d)
	w.flush(0)
	w.done.Ledger = w.ledger
	return &w.done, w.err
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
	format.LoseKept(&w.ledger, d, "geojson", "GeoJSON")
	format.LoseReferences(&w.ledger, d, "GeoJSON", func(o nav.VerticalDatum) bool { return o == nav.AboveEllipsoid })
	format.LoseEmpty(&w.ledger, d, "GeoJSON")
	w.losePoints(d)
	for i := range d.Waypoints {
		p := &d.Waypoints[i]
		w.feature(nav.Waypoints, &p.Item, &p.Point, nil, func() {
			w.geometry("Point")
			w.position(&p.Point, p.Exact)
		})
		w.done.Add(nav.Waypoints, 1)
	}
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
	for i := range d.Areas {
		w.area(&d.Areas[i])
		w.done.Add(nav.Areas, d.Areas[i].Len())
	}
}

// losePoints notes what single points of lines have and GeoJSON has no place for.
func (w *writer) losePoints(d *nav.Dataset) {
	for i := range d.Tracks {
		n := 0
		for j := range d.Tracks[i].Segments {
			for _, det := range d.Tracks[i].Segments[j].Details {
				if len(det.Values) > 0 || det.Item != nil {
					n++
				}
			}
		}
		if n > 0 {
			w.ledger.Lost(nav.Tracks, d.Tracks[i].Name, "point values",
				"GeoJSON has no place for values of single points of a line", n)
		}
	}
	for i := range d.Routes {
		n := 0
		for j := range d.Routes[i].Points {
			n += len(d.Routes[i].Points[j].Links)
		}
		if n > 0 {
			w.ledger.Lost(nav.Routes, d.Routes[i].Name, "links", "GeoJSON has no place for links of single points of a line", n)
		}
	}
}

func (w *writer) feature(kind nav.Kind, item *nav.Item, at *nav.Point, own func(*object), geometry func()) {
	if w.count > 0 {
		w.buf = append(w.buf, w.before...)
	}
	w.count++
	w.flush(128 << 10)
	w.buf = append(w.buf, `{"type":"Feature"`...)
	for _, k := range item.Kept {
		if k.Format == "geojson" && k.Where == "id" {
			w.buf = append(append(w.buf, `,"id":`...), k.Text...)
		}
	}
	w.buf = append(w.buf, `,"properties":`...)
	props := newObject(w.buf)
	props.text("name", item.Name)
	props.text("description", item.Desc)
	props.text("group", item.Group)
	if at != nil && at.HasTime() {
		props.text("time", string(at.AppendTime(nil)))
	}
	for _, f := range item.Fields {
		props.key(f.Key)
		if f.Literal {
			props.buf = append(props.buf, f.Value...)
		} else {
			props.buf = appendText(props.buf, f.Value)
		}
	}
	w.buf = props.end()
	geometry()
	w.buf = append(w.buf, '}')
	w.ownMember(kind, item, own)
	for _, k := range item.Kept {
		if k.Format == "geojson" && k.Where != "id" {
			w.buf = append(append(appendText(append(w.buf, ','), k.Where), ':'), k.Text...)
		}
	}
	w.buf = append(append(w.buf, '}'), w.after...)
}

// ownMember writes what GeoJSON has no word for, as a foreign member (RFC 7946, 6.1).
func (w *writer) ownMember(kind nav.Kind, item *nav.Item, more func(*object)) {
	st := &item.Style
	o := newObject(nil)
	if kind == nav.Routes {
		o.text("kind", kind.One())
	}
	o.text("comment", item.Comment)
	o.text("source", item.Source)
	o.text("type", item.Type)
	o.text("number", item.Number)
	o.text("symbol", st.Symbol)
	o.text("icon", st.Icon)
	if st.IconScale != 0 {
		o.raw("icon-scale", string(nav.AppendShort(nil, st.IconScale, 6)))
	}
	o.text("colour", st.Colour.String())
	if st.Width != 0 {
		o.raw("width", string(nav.AppendShort(nil, st.Width, 6)))
	}
	o.text("fill", st.Fill.String())
	if st.NoFill {
		o.raw("filled", "false")
	}
	if st.NoOutline {
		o.raw("outlined", "false")
	}
	if len(item.Links) > 0 {
		var parts []string
		for _, l := range item.Links {
			lo := newObject(nil)
			lo.text("href", l.Href)
			lo.text("text", l.Text)
			lo.text("type", l.Type)
			parts = append(parts, string(lo.end()))
		}
		o.raw("links", "["+strings.Join(parts, ",")+"]")
	}
	if more != nil {
		more(o)
	}
	if b := o.end(); len(b) > 2 {
		w.buf = append(append(w.buf, `,"gyrolith":`...), b...)
	}
}

func (w *writer) geometry(typ string) {
	w.buf = append(append(append(w.buf, `,"geometry":{"type":"`...), typ...), `","coordinates":`...)
}

func (w *writer) position(p *nav.Point, exact string) {
	w.buf = append(w.buf, '[')
	if lat, lon, ok := format.Exact(p, exact); ok {
		w.buf = append(append(append(w.buf, lon...), ','), lat...)
	} else {
		w.buf = p.AppendLat(append(p.AppendLon(w.buf), ','))
	}
	if p.HasHeight() {
		w.buf = p.AppendHeight(append(w.buf, ','))
	}
	w.buf = append(w.buf, ']')
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

func (w *writer) line(s *nav.Segment) {
	w.list(len(s.Points), func(i int) {
		exact := ""
		if d := s.Detail(&s.Points[i]); d != nil {
			exact = d.Exact
		}
		w.position(&s.Points[i], exact)
	})
}

func (w *writer) route(r *nav.Route) {
	w.feature(nav.Routes, &r.Item, nil, func(o *object) {
		var parts []string
		said := false
		times := make([]*nav.Point, len(r.Points))
		for i := range r.Points {
			p := &r.Points[i]
			times[i] = &p.Point
			po := newObject(nil)
			po.text("name", p.Name)
			po.text("comment", p.Comment)
			po.text("description", p.Desc)
			po.text("source", p.Source)
			po.text("type", p.Type)
			po.text("symbol", p.Style.Symbol)
			if len(p.Fields) > 0 {
				fo := newObject(nil)
				for _, f := range p.Fields {
					fo.key(f.Key)
					if f.Literal {
						fo.buf = append(fo.buf, f.Value...)
					} else {
						fo.buf = appendText(fo.buf, f.Value)
					}
				}
				po.raw("fields", string(fo.end()))
			}
			b := po.end()
			said = said || len(b) > 2
			parts = append(parts, string(b))
		}
		if said {
			o.raw("points", "["+strings.Join(parts, ",")+"]")
		}
		writeTimes(o, times)
	}, func() {
		w.geometry("LineString")
		w.list(len(r.Points), func(i int) { w.position(&r.Points[i].Point, r.Points[i].Exact) })
	})
}

// writeTimes writes the times of a line's points, null where one has none, if any has.
func writeTimes(o *object, points []*nav.Point) {
	any := false
	for _, p := range points {
		any = any || p.HasTime()
	}
	if !any {
		return
	}
	o.key("times")
	o.buf = append(o.buf, '[')
	for i, p := range points {
		if i > 0 {
			o.buf = append(o.buf, ',')
		}
		if p.HasTime() {
			o.buf = append(p.AppendTime(append(o.buf, '"')), '"')
		} else {
			o.buf = append(o.buf, "null"...)
		}
	}
	o.buf = append(o.buf, ']')
}

func (w *writer) track(t *nav.Track) {
	segments := slices.DeleteFunc(slices.Clone(t.Segments), func(s nav.Segment) bool { return len(s.Points) == 0 })
	w.feature(nav.Tracks, &t.Item, nil, func(o *object) {
		var points []*nav.Point
		for i := range t.Segments {
			for j := range t.Segments[i].Points {
				points = append(points, &t.Segments[i].Points[j])
			}
		}
		writeTimes(o, points)
	}, func() {
		if len(segments) == 1 {
			w.geometry("LineString")
			w.line(&segments[0])
			return
		}
		w.geometry("MultiLineString")
		w.list(len(segments), func(i int) { w.line(&segments[i]) })
	})
}

// area writes a polygon, the outline against the clock and the holes with it (RFC 7946, 3.1.6).
func (w *writer) area(a *nav.Area) {
	w.feature(nav.Areas, &a.Item, nil, nil, func() {
		w.geometry("Polygon")
		rings := slices.DeleteFunc(a.Rings(), func(ring []nav.Point) bool { return len(ring) == 0 })
		w.list(len(rings), func(i int) {
			ring := rings[i]
			backwards := (signedArea(ring) < 0) == (i == 0)
			w.list(len(ring)+1, func(j int) {
				if backwards {
					j = len(ring) - j
				}
				w.position(&ring[j%len(ring)], "")
			})
		})
	})
}

// signedArea is twice the plane area of a ring in square degrees, positive against the clock. An edge across
// the antimeridian goes the short way.
func signedArea(ring []nav.Point) (sum float64) {
	x := 0.0
	for i := range ring {
		p, q := &ring[i], &ring[(i+1)%len(ring)]
		dx := nav.WrapLon(q.Lon - p.Lon)
		sum += x*(q.Lat-ring[0].Lat) - (x+dx)*(p.Lat-ring[0].Lat)
		x += dx
	}
	return
}
