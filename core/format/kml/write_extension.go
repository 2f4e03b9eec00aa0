package kml

import (
	"slices"
	"strconv"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// fileData writes what is said of the file and KML has no word for, and what was kept beside it.
func (w *writer) fileData() {
	m := &w.data.Meta
	pairs := format.OwnFile(m)
	own := len(pairs)+len(m.Links)+len(m.AuthorLinks) > 0
	kept := slices.ContainsFunc(m.Kept, func(k nav.Kept) bool { return k.Format == "kml" && k.Where == documentData })
	if !own && !kept {
		return
	}
	w.Open("ExtendedData")
	w.pieces(m.Kept, documentData, nil)
	if own {
		w.Open("gyro:file", pairs...)
		w.links(m.AuthorLinks, "author")
		w.links(m.Links, "")
		w.End("gyro:file")
	}
	w.End("ExtendedData")
}

func (w *writer) links(links []nav.Link, of string) {
	for _, l := range links {
		w.Line().Raw("<gyro:link").Attr("of", of).Attr("href", l.Href).Attr("text", l.Text).Attr("type", l.Type).Raw("/>\n")
	}
}

// extendedData writes the fields of a placemark, what KML has no word for, and what was kept beside it.
func (w *writer) extendedData(m *mark) {
	item := m.item
	which := ownWords(m.kind, item)
	if !m.identified {
		which |= holds.SetOf(holds.ID)
	}
	words := format.Own(item, which)
	partOf := ""
	if m.alone {
		partOf = w.wholes.Number(item.Whole)
	}
	literal := slices.ContainsFunc(item.Fields, func(f nav.Field) bool { return f.Literal })
	points := m.kind == nav.Tracks && slices.ContainsFunc(m.details, w.saidOfPoints)
	own := m.kind == nav.Routes || len(words)+len(item.Links) > 0 || partOf != "" || literal || points || m.mixed ||
		isElements(item)
	kept := slices.ContainsFunc(item.Kept, func(k nav.Kept) bool { return k.Format == "kml" && k.Where == "ExtendedData" })
	if !own && !kept && len(item.Fields) == 0 {
		return
	}
	w.Open("ExtendedData")
	w.fields(m)
	if own {
		attrs := []string{}
		if m.kind == nav.Routes {
			attrs = append(attrs, "kind", m.kind.One())
		}
		if m.mixed {
			attrs = append(attrs, "heights", "sea")
		}
		if isElements(item) {
			attrs = append(attrs, "markup", "yes")
		}
		w.Open("gyro:item", append(append(attrs, "part-of", partOf), words...)...)
		w.links(item.Links, "")
		for _, f := range item.Fields {
			if f.Literal {
				w.Line().Raw("<gyro:field").Attr("name", f.Key).Raw(` type="json"/>` + "\n")
			}
		}
		for i := range m.points {
			w.routePoint(i, &m.points[i])
		}
		if points {
			w.trackPoints(m.details)
		}
		w.End("gyro:item")
	}
	w.pieces(item.Kept, "ExtendedData", nil)
	w.End("ExtendedData")
}

// fields writes the fields of a placemark, those of a kept schema under its address.
func (w *writer) fields(m *mark) {
	var bySchema []string // the fields that are written as those of a schema
	lists := 0
	for _, k := range m.item.Kept {
		if k.Format == "kml" && k.Where == typed {
			_, keys := typedFields(k)
			bySchema = append(bySchema, keys...)
			lists++
		}
	}
	for _, f := range m.item.Fields {
		if m.kind == nav.Areas && saysValidity(m.item, f) || slices.Contains(bySchema, f.Key) {
			continue
		}
		w.Line().Raw(`<Data name="`).Text(f.Key).Raw(`"><value>`).Text(f.Value).Raw("</value></Data>\n")
	}
	if lists == 0 {
		return
	}
	for _, k := range m.item.Kept {
		if k.Format != "kml" || k.Where != typed {
			continue
		}
		url, keys := typedFields(k)
		w.Open("SchemaData", "schemaUrl", url)
		for _, f := range m.item.Fields {
			if slices.Contains(keys, f.Key) {
				w.Line().Raw(`<SimpleData name="`).Text(f.Key).Raw(`">`).Text(f.Value).Raw("</SimpleData>\n")
			}
		}
		w.End("SchemaData")
	}
}

// routePoint writes what a point of a route has besides its place.
func (w *writer) routePoint(at int, p *nav.Waypoint) {
	w.point(at, &p.Item, p.Fields, &p.Point)
}

// point writes what is said of one position of a line; when is nil where its time stands elsewhere.
func (w *writer) point(at int, item *nav.Item, fields []nav.Field, when *nav.Point) {
	words := format.Own(item, pointWords)
	time := ""
	if when != nil && when.HasTime() {
		time = string(when.AppendTime(nil))
	}
	if len(words)+len(item.Links)+len(fields) == 0 && time == "" {
		return
	}
	w.Open("gyro:point", append([]string{"at", strconv.Itoa(at), "time", time}, words...)...)
	w.links(item.Links, "")
	for _, f := range fields {
		w.Line().Raw("<gyro:field").Attr("name", f.Key)
		if f.Literal {
			w.Attr("type", "json")
		}
		w.Raw(">").Text(f.Value).Raw("</gyro:field>\n")
	}
	w.End("gyro:point")
}

var nobody nav.Item

// saidOfPoints says whether something of a segment's points stands in the extension.
func (w *writer) saidOfPoints(s *nav.Segment) bool {
	points := w.traitsOf(s.Points)
	timed := points.allTimes
	if !timed && points.someTimes {
		return true
	}
	for d := range s.Samples(s.Points) {
		if d.Item != nil && holds.ItemUses(d.Item) != 0 || len(w.apart(d, timed)) > 0 {
			return true
		}
	}
	return false
}

// apart lists the values of a point that no array of a timed track holds.
func (w *writer) apart(d *nav.Detail, timed bool) (out []nav.Field) {
	for i := range d.Values {
		if !timed || !w.inArray(d.Values, i) {
			out = append(out, d.Values[i])
		}
	}
	return
}

// trackPoints writes what is said of the points of a track one by one: their names and the like, and times and values
// where a segment is no timed track.
func (w *writer) trackPoints(segments []*nav.Segment) {
	first := 0
	for _, s := range segments {
		timed := w.traitsOf(s.Points).allTimes
		for i := range s.Points {
			p := &s.Points[i]
			item, when := &nobody, p
			var fields []nav.Field
			if d := s.Detail(p); d != nil {
				if d.Item != nil {
					item = d.Item
				}
				fields = append(w.apart(d, timed), item.Fields...)
			}
			if timed {
				when = nil
			}
			w.point(first+i, item, fields, when)
		}
		first += len(s.Points)
	}
}
