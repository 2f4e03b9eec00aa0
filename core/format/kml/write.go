package kml

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/xmlwrite"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

type writer struct {
	*xmlwrite.Writer
	data     *nav.Dataset
	ledger   nav.Ledger
	scratch  *writer // of styles, before it is known whether one is shared
	done     format.Written
	dialect  dialect
	styles   map[string]string // the text of a shared style and its name
	prefixes map[string]string
	arrays   []string // the values of points that timed tracks carry
}

// dialect is how a version spells timed tracks.
type dialect struct{ version, space, track, multiTrack, coord, arrayData, arrayField, value string }

var dialects = map[string]dialect{
	"2.2": {"", "http://www.opengis.net/kml/2.2", "gx:Track", "gx:MultiTrack", "gx:coord", "gx:SimpleArrayData",
		"gx:SimpleArrayField", "gx:value"},
	"2.3": {"2.3", "http://www.opengis.net/kml/2.3", "Track", "MultiTrack", "coord", "SimpleArrayData",
		"SimpleArrayField", "value"},
}

const spaceGX = "http://www.google.com/kml/ext/2.2" // prescribed by KML 2.2 for its extensions

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	return writeTo(out, d, opt, "KML")
}

// writeTo writes the document of a KML file or of a KMZ, as the title says.
func writeTo(out io.Writer, d *nav.Dataset, opt *format.WriteOptions, title string) (*format.Written, error) {
	version := opt.Version
	if version == "" {
		version = "2.2"
	}
	dialect, ok := dialects[version]
	if !ok {
		return nil, fmt.Errorf("KML %s can't be written; 2.2 and 2.3 can", version)
	}
	w := &writer{Writer: xmlwrite.New(out), data: d, dialect: dialect, styles: map[string]string{}}
	w.survey()
	format.LoseKept(&w.ledger, d, "kml", title)
	format.LoseReferences(&w.ledger, d, "KML", func(o nav.VerticalDatum) bool { return o == nav.MeanSeaLevel })
	format.LoseEmpty(&w.ledger, d, "KML")
	w.document()
	err := w.Close()
	if w.Bad > 0 {
		w.ledger = append(w.ledger, nav.Entry{KindWord: "file", What: "characters",
			Why: "XML can't hold these control characters; written as \uFFFD", Count: w.Bad, Loss: true})
	}
	w.done.Ledger = w.ledger
	return &w.done, err
}

// survey finds the prefixes and the point values that the document has to declare, and what is lost.
func (w *writer) survey() {
	w.prefixes = map[string]string{format.Prefix: format.Namespace}
	if w.dialect.version == "" {
		w.prefixes["gx"] = spaceGX
	}
	note := func(kept []nav.Kept) {
		for i := range kept {
			if kept[i].Format != "kml" {
				continue
			}
			for _, s := range kept[i].Spaces {
				if _, taken := w.prefixes[s.Prefix]; !taken && s.Prefix != "" && s.Prefix != s.URI {
					w.prefixes[s.Prefix] = s.URI
				}
			}
		}
	}
	note(w.data.Meta.Kept)
	w.data.Each(func(_ nav.Kind, item *nav.Item) { note(item.Kept) })
	for i := range w.data.Tracks {
		t := &w.data.Tracks[i]
		values, names, times := 0, 0, 0
		for j := range t.Segments {
			seg := &t.Segments[j]
			timed := isTimed(seg)
			for k := range seg.Details {
				det := &seg.Details[k]
				if det.Item != nil {
					names++
				}
				switch {
				case timed:
					for _, f := range det.Values {
						if !slices.Contains(w.arrays, f.Key) {
							w.arrays = append(w.arrays, f.Key)
						}
					}
				case len(det.Values) > 0:
					values++
				}
			}
			if !timed {
				for k := range seg.Points {
					if seg.Points[k].HasTime() {
						times++
					}
				}
			}
		}
		lose := func(what nav.Property, why string, n int) {
			if n > 0 {
				w.ledger.Lost(nav.Tracks, t.Name, what, why, n)
			}
		}
		lose("times", "a KML track has a time at every point or at none", times)
		lose("point values", "a KML line without times has no place for them", values)
		lose("point names", "a KML line has no place for names of its points", names)
	}
	for i := range w.data.Routes {
		n := 0
		for j := range w.data.Routes[i].Points {
			if p := &w.data.Routes[i].Points[j]; len(p.Links) > 0 {
				n += len(p.Links)
			}
		}
		if n > 0 {
			w.ledger.Lost(nav.Routes, w.data.Routes[i].Name, "links", "a KML line has no place for links of its points", n)
		}
	}
}

// isTimed says whether a segment has a time at every point.
func isTimed(s *nav.Segment) bool {
	for i := range s.Points {
		if !s.Points[i].HasTime() {
			return false
		}
	}
	return len(s.Points) > 0
}

// folder is a node of the tree of groups.
type folder struct {
	name, path string
	folders    []*folder          // in the order in which they are first named
	byName     map[string]*folder // the same
	items      []func()
}

func (f *folder) at(path string) *folder {
	if path == "" {
		return f
	}
	for name := range strings.SplitSeq(path, "/") {
		sub := f.byName[name]
		if sub == nil {
			sub = &folder{name: name, path: strings.TrimPrefix(f.path+"/"+name, "/")}
			if f.byName == nil {
				f.byName = map[string]*folder{}
			}
			f.byName[name] = sub
			f.folders = append(f.folders, sub)
		}
		f = sub
	}
	return f
}

func (w *writer) document() {
	d := w.data
	attrs := []string{"xmlns", w.dialect.space}
	var names []string
	for p := range w.prefixes {
		names = append(names, p)
	}
	slices.Sort(names)
	for _, p := range names {
		attrs = append(attrs, "xmlns:"+p, w.prefixes[p])
	}
	w.Open("kml", append(attrs, "version", w.dialect.version)...)
	w.Open("Document")
	w.Leaf("name", d.Meta.Name)
	w.pieces(d.Meta.Kept, "Document", before("description"))
	w.Leaf("description", d.Meta.Desc)
	w.pieces(d.Meta.Kept, "Document", between("description", "Style"))
	w.sharedStyles()
	if len(w.arrays) > 0 {
		w.Open("Schema", "id", "points")
		for _, name := range w.arrays {
			w.Open(w.dialect.arrayField, "name", name, "type", "string")
			w.End(w.dialect.arrayField)
		}
		w.End("Schema")
	}
	w.pieces(d.Meta.Kept, "Document", after("Style"))
	root := &folder{}
	place := func(group string, put func()) {
		f := root.at(group)
		f.items = append(f.items, put)
	}
	for i := range d.Waypoints {
		place(d.Waypoints[i].Group, func() { w.waypoint(&d.Waypoints[i]) })
	}
	for i := range d.Routes {
		if len(d.Routes[i].Points) == 0 {
			continue
		}
		place(d.Routes[i].Group, func() { w.route(&d.Routes[i]) })
	}
	for i := range d.Tracks {
		if d.Tracks[i].Len() == 0 {
			continue
		}
		place(d.Tracks[i].Group, func() { w.track(&d.Tracks[i]) })
	}
	for i := range d.Areas {
		place(d.Areas[i].Group, func() { w.area(&d.Areas[i]) })
	}
	kept := map[string][]nav.Kept{} // of the folders
	for _, k := range d.Meta.Kept {
		if strings.HasPrefix(k.Where, "Folder ") {
			kept[k.Where] = append(kept[k.Where], k)
		}
	}
	w.folder(root, kept)
	w.End("Document")
	w.pieces(d.Meta.Kept, "kml", nil)
	w.End("kml")
}

// folder writes what is in a folder, and what was kept of the folders below it.
func (w *writer) folder(f *folder, kept map[string][]nav.Kept) {
	for _, put := range f.items {
		put()
	}
	for _, sub := range f.folders {
		w.Open("Folder")
		w.Leaf("name", strings.ReplaceAll(sub.name, divisionSlash, "/"))
		w.pieces(kept["Folder "+sub.path], "Folder "+sub.path, nil)
		w.folder(sub, kept)
		w.End("Folder")
	}
}

// placemark writes what all kinds have in common around a geometry.
func (w *writer) placemark(kind nav.Kind, item *nav.Item, at *nav.Point, points []nav.Waypoint, geometry func()) {
	w.Open("Placemark")
	w.Leaf("name", item.Name)
	for _, local := range order[1:rank("description")] {
		w.pieces(item.Kept, local, nil)
	}
	w.Leaf("description", item.Desc)
	for _, local := range []string{"LookAt", "Camera", "TimeSpan"} {
		w.pieces(item.Kept, local, nil)
	}
	if at != nil && at.HasTime() {
		w.Line().Raw("<TimeStamp><when>")
		w.Buf = at.AppendTime(w.Buf)
		w.Raw("</when></TimeStamp>\n")
	}
	if len(w.styles) > 0 {
		if id := w.styles[w.styleText(kind, item)]; id != "" {
			w.Leaf("styleUrl", "#"+id)
		}
	}
	w.pieces(item.Kept, "Region", nil)
	w.extendedData(kind, item, points)
	for _, k := range item.Kept {
		if k.Format == "kml" && rank(k.Where) < 0 && k.Where != "" && !strings.HasPrefix(k.Where, "Style/") {
			w.piece(k)
		}
	}
	geometry()
	w.End("Placemark")
}

func (w *writer) extendedData(kind nav.Kind, item *nav.Item, points []nav.Waypoint) {
	word := item.Style.Symbol
	if word == symbol.FromIcon(item.Style.Icon) {
		word = "" // the icon says it
	}
	own := kind == nav.Routes || item.Comment != "" || item.Source != "" || item.Type != "" || item.Number != "" ||
		word != "" || len(item.Links) > 0
	kept := slices.ContainsFunc(item.Kept, func(k nav.Kept) bool { return k.Format == "kml" && k.Where == "ExtendedData" })
	if !own && !kept && len(item.Fields) == 0 {
		return
	}
	w.Open("ExtendedData")
	for _, f := range item.Fields {
		if kind == nav.Areas && saysValidity(item, f) {
			continue
		}
		w.Line().Raw(`<Data name="`).Text(f.Key).Raw(`"><value>`).Text(f.Value).Raw("</value></Data>\n")
	}
	if own {
		attrs := []string{"comment", item.Comment, "source", item.Source, "type", item.Type, "number", item.Number,
			"symbol", word}
		if kind == nav.Routes {
			attrs = append([]string{"kind", kind.One()}, attrs...)
		}
		w.Open("gyro:item", attrs...)
		for _, l := range item.Links {
			w.Line().Raw("<gyro:link").Attr("href", l.Href).Attr("text", l.Text).Attr("type", l.Type).Raw("/>\n")
		}
		for i := range points {
			w.routePoint(&points[i])
		}
		w.End("gyro:item")
	}
	w.pieces(item.Kept, "ExtendedData", nil)
	w.End("ExtendedData")
}

func (w *writer) routePoint(p *nav.Waypoint) {
	time := ""
	if p.HasTime() {
		time = string(p.AppendTime(nil))
	}
	w.Line().Raw("<gyro:point").Attr("name", p.Name).Attr("comment", p.Comment).Attr("desc", p.Desc).
		Attr("source", p.Source).Attr("type", p.Type).Attr("symbol", p.Style.Symbol).Attr("time", time)
	if len(p.Fields) == 0 {
		w.Raw("/>\n")
		return
	}
	w.Raw(">")
	for _, f := range p.Fields {
		w.Raw(`<gyro:field name="`).Text(f.Key).Raw(`">`).Text(f.Value).Raw("</gyro:field>")
	}
	w.Raw("</gyro:point>\n")
}

// appendTuple writes lon, lat and height with a separator.
func appendTuple(dst []byte, p *nav.Point, exact string, sep byte) []byte {
	if lat, lon, ok := format.Exact(p, exact); ok {
		dst = append(append(append(dst, lon...), sep), lat...)
	} else {
		dst = p.AppendLat(append(p.AppendLon(dst), sep))
	}
	if p.HasHeight() {
		dst = p.AppendHeight(append(dst, sep))
	}
	return dst
}

func anyHeight(points []nav.Point) bool {
	for i := range points {
		if points[i].HasHeight() {
			return true
		}
	}
	return false
}

func (w *writer) altitudeMode(points []nav.Point) {
	if anyHeight(points) {
		w.Leaf("altitudeMode", "absolute")
	}
}

func (w *writer) waypoint(p *nav.Waypoint) {
	w.placemark(nav.Waypoints, &p.Item, &p.Point, nil, func() {
		w.Open("Point")
		w.altitudeMode([]nav.Point{p.Point})
		w.Line().Raw("<coordinates>")
		w.Buf = appendTuple(w.Buf, &p.Point, p.Exact, ',')
		w.Raw("</coordinates>\n")
		w.End("Point")
	})
	w.done.Add(nav.Waypoints, 1)
}

func (w *writer) route(r *nav.Route) {
	w.done.Add(nav.Routes, len(r.Points))
	var seg nav.Segment
	seg.Points = make([]nav.Point, len(r.Points))
	for i := range r.Points {
		seg.Points[i] = r.Points[i].Point
		seg.Attach(&seg.Points[i], nav.Detail{Exact: r.Points[i].Exact})
	}
	w.placemark(nav.Routes, &r.Item, nil, r.Points, func() { w.lineString("LineString", &seg) })
}

// lineString writes a line, or a ring that is closed in the writing.
func (w *writer) lineString(tag string, seg *nav.Segment) {
	w.Open(tag)
	if tag == "LineString" {
		w.altitudeMode(seg.Points)
	}
	w.Line().Raw("<coordinates>\n")
	w.Points(len(seg.Points), func(dst []byte, from, to int) []byte {
		for i := from; i < to; i++ {
			p, exact := &seg.Points[i], ""
			if d := seg.Detail(p); d != nil {
				exact = d.Exact
			}
			dst = append(appendTuple(dst, p, exact, ','), '\n')
		}
		return dst
	})
	if tag == "LinearRing" && len(seg.Points) > 0 {
		w.Buf = append(appendTuple(w.Buf, &seg.Points[0], "", ','), '\n')
	}
	w.Line().Raw("</coordinates>\n")
	w.End(tag)
}

func (w *writer) track(t *nav.Track) {
	w.done.Add(nav.Tracks, t.Len())
	w.placemark(nav.Tracks, &t.Item, nil, nil, func() {
		segments := slices.DeleteFunc(slices.Clone(t.Segments), func(s nav.Segment) bool { return len(s.Points) == 0 })
		timed := 0
		for i := range segments {
			if isTimed(&segments[i]) {
				timed++
			}
		}
		around := ""
		switch {
		case len(segments) > 1 && timed == len(segments):
			around = w.dialect.multiTrack
		case len(segments) > 1:
			around = "MultiGeometry"
		}
		if around != "" {
			w.Open(around)
		}
		for i := range segments {
			if isTimed(&segments[i]) {
				w.timedTrack(&segments[i])
			} else {
				w.lineString("LineString", &segments[i])
			}
		}
		if around != "" {
			w.End(around)
		}
	})
}

func (w *writer) timedTrack(seg *nav.Segment) {
	w.Open(w.dialect.track)
	w.altitudeMode(seg.Points)
	w.Points(len(seg.Points), func(dst []byte, from, to int) []byte {
		for i := from; i < to; i++ {
			dst = append(seg.Points[i].AppendTime(append(dst, "<when>"...)), "</when>\n"...)
		}
		return dst
	})
	open, end := "<"+w.dialect.coord+">", "</"+w.dialect.coord+">\n"
	w.Points(len(seg.Points), func(dst []byte, from, to int) []byte {
		for i := from; i < to; i++ {
			p, exact := &seg.Points[i], ""
			if d := seg.Detail(p); d != nil {
				exact = d.Exact
			}
			dst = append(appendTuple(append(dst, open...), p, exact, ' '), end...)
		}
		return dst
	})
	w.pointValues(seg)
	w.End(w.dialect.track)
}

func (w *writer) pointValues(seg *nav.Segment) {
	var keys []string
	for i := range seg.Details {
		for _, f := range seg.Details[i].Values {
			if !slices.Contains(keys, f.Key) {
				keys = append(keys, f.Key)
			}
		}
	}
	if len(keys) == 0 {
		return
	}
	w.Open("ExtendedData")
	w.Open("SchemaData", "schemaUrl", "#points")
	for _, key := range keys {
		w.Open(w.dialect.arrayData, "name", key)
		for i := range seg.Points {
			value := ""
			if d := seg.Detail(&seg.Points[i]); d != nil {
				value, _ = nav.Get(d.Values, key)
			}
			w.Line().Raw("<").Raw(w.dialect.value).Raw(">").Text(value).Raw("</").Raw(w.dialect.value).Raw(">\n")
		}
		w.End(w.dialect.arrayData)
	}
	w.End("SchemaData")
	w.End("ExtendedData")
}

func (w *writer) area(a *nav.Area) {
	w.done.Add(nav.Areas, a.Len())
	w.placemark(nav.Areas, &a.Item, nil, nil, func() {
		w.Open("Polygon")
		w.altitudeMode(a.Outline)
		for i, ring := range a.Rings() {
			boundary := "outerBoundaryIs"
			if i > 0 {
				boundary = "innerBoundaryIs"
			}
			w.Open(boundary)
			w.lineString("LinearRing", &nav.Segment{Points: ring})
			w.End(boundary)
		}
		w.End("Polygon")
	})
}
