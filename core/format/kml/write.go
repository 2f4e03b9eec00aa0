package kml

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/xmlwrite"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
	"gyrolith/core/scratch"
	"gyrolith/core/shape"
	"gyrolith/core/symbol"
)

type writer struct {
	*xmlwrite.Writer
	data       *nav.Dataset
	ledger     nav.Ledger
	scratch    *writer                // of styles, before it is known whether one is shared
	styleTexts map[styleSource]string // those that were made
	done       format.Written
	dialect    dialect
	styles     map[string]string // the text of a shared style and its name
	prefixes   map[string]string
	arrays     []string // the values of points that timed tracks carry
	known      known
	item       *nav.Item       // whose placemark is being written
	ids        map[string]bool // that something of the document has
	texts      map[string]bool // which of them are not all numbers
	wholes     *format.Wholes
}

// dialect is how a version spells timed tracks.
type dialect struct{ version, space, track, multiTrack, coord, arrayData, arrayField, value, angles string }

var dialects = map[string]dialect{
	"2.2": {"", "http://www.opengis.net/kml/2.2", "gx:Track", "gx:MultiTrack", "gx:coord", "gx:SimpleArrayData",
		"gx:SimpleArrayField", "gx:value", "gx:angles"},
	"2.3": {"2.3", "http://www.opengis.net/kml/2.3", "Track", "MultiTrack", "coord", "SimpleArrayData",
		"SimpleArrayField", "value", "angles"},
}

const spaceGX = "http://www.google.com/kml/ext/2.2" // prescribed by KML 2.2 for its extensions

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	return writeTo(out, d, opt)
}

// writeTo writes the document of a KML file or of a KMZ.
func writeTo(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	version := opt.Version
	if version == "" {
		version = "2.2"
	}
	dialect, ok := dialects[version]
	if !ok {
		return nil, fmt.Errorf("KML %s can't be written; use 2.2 or 2.3", version)
	}
	w := &writer{Writer: xmlwrite.New(out), data: d, dialect: dialect, styles: map[string]string{},
		wholes: &format.Wholes{}, texts: map[string]bool{}, ids: map[string]bool{"points": true}}
	w.survey()
	w.document()
	err := w.Close()
	if w.Bad > 0 {
		w.ledger = append(w.ledger, nav.Entry{KindWord: "file", What: "characters",
			Why: "XML can't store these control characters; written as \uFFFD", Count: w.Bad, Loss: true})
	}
	format.PoleEdges(&w.ledger, d.Areas)
	w.done.Ledger = w.ledger
	return &w.done, err
}

// survey finds the prefixes and the point values that the document has to declare.
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
		for j := range t.Segments {
			if seg := &t.Segments[j]; seg.Details() > 0 && w.traitsOf(seg.Points).allTimes {
				for d := range seg.Samples(seg.Points) {
					for _, f := range d.Values {
						if !slices.Contains(w.arrays, f.Key) && f.Key != anglesKey {
							w.arrays = append(w.arrays, f.Key)
						}
						if !f.Literal || !decimal.IsNumber(f.Value) {
							w.texts[f.Key] = true
						}
					}
				}
			}
		}
	}
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
	w.pieces(d.Meta.Kept, "Document", between("Style", "ExtendedData"))
	w.fileData()
	w.pieces(d.Meta.Kept, "Document", between("Metadata", "NetworkLink"))
	if len(w.arrays) > 0 {
		w.Open("Schema", "id", "points")
		for _, name := range w.arrays {
			typ := "double"
			if w.texts[name] {
				typ = "string"
			}
			w.Open(w.dialect.arrayField, "name", name, "type", typ)
			w.End(w.dialect.arrayField)
		}
		w.End("Schema")
	}
	w.pieces(d.Meta.Kept, "Document", after("Schema"))
	root := &folder{}
	place := func(group string, put func()) {
		f := root.at(group)
		f.items = append(f.items, put)
	}
	format.Runs(len(d.Waypoints), func(i, j int) bool {
		a, b := &d.Waypoints[i], &d.Waypoints[j]
		return format.SameFeature(&a.Item, &b.Item) && a.UnixNano() == b.UnixNano() && a.TimeMark() == b.TimeMark()
	}, func(from, to int) {
		place(d.Waypoints[from].Group, func() { w.waypoints(d.Waypoints[from:to]) })
	})
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
	format.Runs(len(d.Areas), func(i, j int) bool {
		return format.SameFeature(&d.Areas[i].Item, &d.Areas[j].Item)
	}, func(from, to int) {
		place(d.Areas[from].Group, func() { w.areas(d.Areas[from:to]) })
	})
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

// mark is what a placemark is made of around its geometry.
type mark struct {
	kind    nav.Kind
	item    *nav.Item
	at      *nav.Point     // whose time is the placemark's; nil for none
	points  []nav.Waypoint // of a route
	details []*nav.Segment // of a track
	mixed   bool           // only some positions have heights
	alone   bool           // the one part that it is of a feature

	identified bool // its id is the placemark's
}

// isFree says whether an identity can be the id of a placemark: an NCName of XML that nothing else has.
func (w *writer) isFree(id string) bool { return ncName.MatchString(id) && !w.ids[id] }

// ncName is a name without a colon (Namespaces in XML, 4), of letters that every reader takes.
var ncName = pattern.New(`^[\pL_][\pL\pN_.-]*$`)

// placemark writes what all kinds have in common around a geometry.
func (w *writer) placemark(m *mark, geometry func()) {
	item := m.item
	w.item = item
	id := ""
	if w.isFree(item.ID) {
		id, w.ids[item.ID] = item.ID, true
	}
	m.identified = id != ""
	w.Open("Placemark", "id", id)
	w.Leaf("name", item.Name)
	for _, local := range order[1:rank("description")] {
		w.pieces(item.Kept, local, nil)
	}
	w.Leaf("description", description(item))
	for _, local := range []string{"LookAt", "Camera", "TimeSpan"} {
		w.pieces(item.Kept, local, nil)
	}
	if m.at != nil && m.at.HasTime() {
		w.Line().Raw("<TimeStamp><when>")
		w.Buf = m.at.AppendTime(w.Buf)
		w.Raw("</when></TimeStamp>\n")
	}
	if len(w.styles) > 0 {
		if id := w.styles[w.styleText(m.kind, item)]; id != "" {
			w.Leaf("styleUrl", "#"+id)
		}
	}
	w.pieces(item.Kept, "Region", nil)
	w.extendedData(m)
	for _, k := range item.Kept {
		if k.Format == "kml" && rank(k.Where) >= rank(extending) && k.Where != "" && !unplaced[k.Where] &&
			!strings.HasPrefix(k.Where, "Style/") {
			w.piece(k)
		}
	}
	geometry()
	w.End("Placemark")
}

// unplaced are the places of what is kept and is no child of a placemark.
var unplaced = map[string]bool{typed: true, drawing: true, highlighted: true,
	original: true}

// iconSays says whether the address of an item's icon says its symbol too.
func iconSays(item *nav.Item) bool {
	if word := symbol.OfIcon(item.Style.Icon); word != "" {
		return item.Style.Symbol == word
	}
	return item.Style.Symbol == symbol.FromIcon(item.Style.Icon)
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

// altitudeMode says that heights are above the sea, or above the ground where all of them are. Where only some
// positions have one it says nothing, since the others would stand at the level of the sea; the extension says it
// then.
func (w *writer) altitudeMode(points []nav.Point) {
	t := w.traitsOf(points)
	grounded := 0
	if t.someHeights {
		for block := range scratch.Blocks(points) {
			for i := range block {
				if block[i].HasHeight() && block[i].VerticalDatum() == nav.AboveGround {
					grounded++
				}
			}
		}
	}
	switch {
	case t.allHeights && grounded == len(points):
		w.Leaf("altitudeMode", "relativeToGround")
		return
	case t.allHeights:
		w.Leaf("altitudeMode", "absolute")
	}
	if grounded > 0 {
		w.done.Ledger = append(w.done.Ledger, nav.Entry{KindWord: "point", What: "height references", Count: grounded,
			Loss: true,
			Why:  "heights above the ground among others of one geometry, which KML gives one altitude mode"})
	}
}

// waypoints writes a waypoint, or several that are one feature.
func (w *writer) waypoints(parts []nav.Waypoint) {
	p := &parts[0]
	w.placemark(&mark{kind: nav.Waypoints, item: &p.Item, at: &p.Point, alone: len(parts) == 1}, func() {
		end := w.multi(len(parts))
		for i := range parts {
			p := &parts[i]
			w.Open("Point")
			w.pieces(w.item.Kept, drawing, nil)
			w.altitudeMode([]nav.Point{p.Point})
			w.Line().Raw("<coordinates>")
			w.Buf = appendTuple(w.Buf, &p.Point, p.Exact, ',')
			w.Raw("</coordinates>\n")
			w.End("Point")
		}
		end()
	})
	for range parts {
		w.done.Add(nav.Waypoints, 1)
	}
}

// multi puts several geometries into one, and gives what ends it.
func (w *writer) multi(n int) func() {
	if n < 2 {
		return func() {}
	}
	w.Open("MultiGeometry")
	return func() { w.End("MultiGeometry") }
}

func (w *writer) route(r *nav.Route) {
	w.done.Add(nav.Routes, len(r.Points))
	var seg nav.Segment
	seg.Points = make([]nav.Point, len(r.Points))
	for i := range r.Points {
		seg.Points[i] = r.Points[i].Point
		seg.Attach(&seg.Points[i], nav.Detail{Exact: r.Points[i].Exact})
	}
	m := &mark{kind: nav.Routes, item: &r.Item, points: r.Points, mixed: w.traitsOf(seg.Points).mixed(), alone: true}
	w.placemark(m, func() { w.lineString("LineString", &seg) })
}

// lineString writes a line, or a ring that is closed in the writing.
func (w *writer) lineString(tag string, seg *nav.Segment) {
	w.Open(tag)
	if tag == "LineString" {
		w.pieces(w.item.Kept, drawing, nil)
		w.altitudeMode(seg.Points)
	}
	w.Line().Raw("<coordinates>\n")
	w.Points(len(seg.Points), func(dst []byte, from, to int) []byte {
		for i := from; i < to; i++ {
			p := &seg.Points[i]
			dst = append(appendTuple(dst, p, seg.Exact(p), ','), '\n')
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
	segments := slices.DeleteFunc(slices.Clone(t.Segments), func(s nav.Segment) bool { return len(s.Points) == 0 })
	m := &mark{kind: nav.Tracks, item: &t.Item, alone: true}
	for i := range segments {
		m.details = append(m.details, &segments[i])
		m.mixed = m.mixed || w.traitsOf(segments[i].Points).mixed()
	}
	w.placemark(m, func() {
		timed := 0
		for i := range segments {
			if w.traitsOf(segments[i].Points).allTimes {
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
			if w.traitsOf(segments[i].Points).allTimes {
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
		var clock instant.Clock
		for i := from; i < to; i++ {
			p := &seg.Points[i]
			dst = append(clock.Append(append(dst, "<when>"...), p.UnixNano(), p.TimeMark()), "</when>\n"...)
		}
		return dst
	})
	open, end := "<"+w.dialect.coord+">", "</"+w.dialect.coord+">\n"
	w.Points(len(seg.Points), func(dst []byte, from, to int) []byte {
		for i := from; i < to; i++ {
			p := &seg.Points[i]
			dst = append(appendTuple(append(dst, open...), p, seg.Exact(p), ' '), end...)
		}
		return dst
	})
	w.angles(seg)
	w.pointValues(seg)
	w.End(w.dialect.track)
}

// angles writes where what moves points to, an element for every position if any has it.
func (w *writer) angles(seg *nav.Segment) {
	found := false
	for d := range seg.Samples(seg.Points) {
		_, has := nav.Get(d.Values, anglesKey)
		found = found || has
	}
	if !found {
		return
	}
	var values []nav.Field
	for i := range seg.Points {
		values = seg.Values(values[:0], &seg.Points[i])
		value, _ := nav.Get(values, anglesKey)
		w.Line().Raw("<").Raw(w.dialect.angles).Raw(">").Text(value).Raw("</").Raw(w.dialect.angles).Raw(">\n")
	}
}

// inArray says whether a value of a point stands in an array of a timed track: the first one of its key, unless it is a
// number, truth value or list among texts. Others stand in our extension.
func (w *writer) inArray(values []nav.Field, i int) bool {
	f := &values[i]
	return f.Value != "" && !(f.Literal && w.texts[f.Key]) &&
		!slices.ContainsFunc(values[:i], func(o nav.Field) bool { return o.Key == f.Key })
}

func (w *writer) pointValues(seg *nav.Segment) {
	var keys []string
	for d := range seg.Samples(seg.Points) {
		for _, f := range d.Values {
			if !slices.Contains(keys, f.Key) && f.Key != anglesKey {
				keys = append(keys, f.Key)
			}
		}
	}
	if len(keys) == 0 {
		return
	}
	w.Open("ExtendedData")
	w.Open("SchemaData", "schemaUrl", "#points")
	open, end := "<"+w.dialect.value+">", "</"+w.dialect.value+">\n"
	for _, key := range keys {
		w.Open(w.dialect.arrayData, "name", key)
		w.Items(len(seg.Points), func(part *xmlwrite.Writer, from, to int) {
			var values []nav.Field
			for i := from; i < to; i++ {
				values = seg.Values(values[:0], &seg.Points[i])
				value := ""
				if k := slices.IndexFunc(values, func(f nav.Field) bool { return f.Key == key }); k >= 0 &&
					w.inArray(values, k) {
					value = values[k].Value
				}
				part.Line().Raw(open).Text(value).Raw(end)
			}
		})
		w.End(w.dialect.arrayData)
	}
	w.End("SchemaData")
	w.End("ExtendedData")
}

// areas writes an area, or several that are one feature.
func (w *writer) areas(parts []nav.Area) {
	m := &mark{kind: nav.Areas, item: &parts[0].Item, alone: len(parts) == 1}
	for i := range parts {
		m.mixed = m.mixed || w.traitsOf(slices.Concat(parts[i].Rings()...)).mixed()
	}
	w.placemark(m, func() {
		end := w.multi(len(parts))
		for i := range parts {
			w.polygon(&parts[i])
		}
		end()
	})
}

// ringsOf gives the rings of an area, with the edge along the pole of one around it, which readers of longitudes and
// latitudes need. What crosses the antimeridian stays whole, as globes have it.
func ringsOf(a *nav.Area) [][]nav.Point {
	rings := a.Rings()
	if nav.Around(a.Outline) != 0 {
		if parts := shape.CutArea(rings); len(parts) == 1 {
			return parts[0]
		}
	}
	return rings
}

func (w *writer) polygon(a *nav.Area) {
	w.done.Add(nav.Areas, a.Len())
	w.Open("Polygon")
	w.pieces(w.item.Kept, drawing, nil)
	w.altitudeMode(slices.Concat(a.Rings()...))
	for i, ring := range ringsOf(a) {
		boundary := "outerBoundaryIs"
		if i > 0 {
			boundary = "innerBoundaryIs"
		}
		w.Open(boundary)
		w.lineString("LinearRing", &nav.Segment{Points: ring})
		w.End(boundary)
	}
	w.End("Polygon")
}
