package gpx

import (
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/xmlwrite"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

type writer struct {
	*xmlwrite.Writer
	ledger   nav.Ledger
	prefixes map[string]string // declared on the document element
	layouts  map[layoutKey]*layout
	wholes   *format.Wholes
	clock    instant.Clock
	values   []string // of the last point
}

// part writes a part of the document, with its own clock.
func (w *writer) part(of *xmlwrite.Writer) *writer {
	return &writer{Writer: of, prefixes: w.prefixes, layouts: w.layouts, wholes: w.wholes}
}

// write gives valid GPX 1.1: the elements in the schema's order, foreign ones in extensions only.
func write(out io.Writer, d *nav.Dataset, _ *format.WriteOptions) (*format.Written, error) {
	done := &format.Written{}
	w := &writer{Writer: xmlwrite.New(out), wholes: &format.Wholes{}}
	w.collectPrefixes(d)

	attrs := []string{"version", "1.1", "creator", "Gyrolith", "xmlns", space11}
	prefixes := make([]string, 0, len(w.prefixes))
	for p := range w.prefixes {
		prefixes = append(prefixes, p)
	}
	slices.Sort(prefixes)
	for _, p := range prefixes {
		attrs = append(attrs, "xmlns:"+p, w.prefixes[p])
	}
	w.Open("gpx", attrs...)
	w.metadata(d)
	w.Items(len(d.Waypoints), func(part *xmlwrite.Writer, from, to int) {
		sub := w.part(part)
		for i := from; i < to; i++ {
			sub.waypoint("wpt", &d.Waypoints[i])
		}
	})
	done.Items[nav.Waypoints], done.Points = len(d.Waypoints), len(d.Waypoints)
	for i := range d.Routes {
		w.route(&d.Routes[i])
		done.Add(nav.Routes, len(d.Routes[i].Points))
	}
	for i := range d.Tracks {
		w.track(&d.Tracks[i])
		done.Add(nav.Tracks, d.Tracks[i].Len())
	}
	for i := range d.Areas {
		w.area(&d.Areas[i])
		done.Add(nav.Areas, d.Areas[i].Len())
	}
	if kept := ofGPX(d.Meta.Kept, ""); len(kept) > 0 {
		w.Open("extensions")
		w.keptPieces(kept)
		w.End("extensions")
	}
	w.End("gpx")
	err := w.Close()
	if w.Bad > 0 {
		w.ledger = append(w.ledger, nav.Entry{KindWord: "file", What: "characters",
			Why: "XML can't store these control characters; written as \uFFFD", Count: w.Bad, Loss: true})
	}
	done.Ledger = w.ledger
	return done, err
}

// collectPrefixes finds what has to be declared on the document element. Where kept pieces use one prefix
// for two addresses, the first one is declared there and the others on their own element.
func (w *writer) collectPrefixes(d *nav.Dataset) {
	w.prefixes, w.layouts = map[string]string{}, map[layoutKey]*layout{}
	needsOwn := false
	note := func(kept []nav.Kept) {
		for i := range kept {
			if kept[i].Format != "gpx" {
				continue
			}
			for _, s := range kept[i].Spaces {
				if _, taken := w.prefixes[s.Prefix]; !taken && s.Prefix != "" && s.Prefix != format.Prefix && s.Prefix != s.URI &&
					s.URI != space11 && s.URI != space10 {
					w.prefixes[s.Prefix] = s.URI
				}
			}
		}
	}
	note(d.Meta.Kept)
	d.Each(func(kind nav.Kind, item *nav.Item) {
		note(item.Kept)
		w.wholes.Number(item.Whole)
		needsOwn = needsOwn || w.hasOwn(kind, item, ownFields(item.Fields, item.Kept))
	})
	for i := range d.Routes {
		for j := range d.Routes[i].Points {
			p := &d.Routes[i].Points[j]
			note(p.Kept)
			needsOwn = needsOwn || w.hasOwn(nav.Waypoints, &p.Item, ownFields(p.Fields, p.Kept))
		}
	}
	for i := range d.Tracks {
		for j := range d.Tracks[i].Segments {
			seg := &d.Tracks[i].Segments[j]
			note(seg.Kept)
			for det := range seg.Samples(seg.Points) {
				note(det.Kept)
				item := det.Item
				if item == nil {
					item = &nobody
				}
				w.wholes.Number(item.Whole)
				fields := append(det.Values[:len(det.Values):len(det.Values)], item.Fields...)
				needsOwn = needsOwn || w.hasOwn(nav.Waypoints, item, ownFields(fields, det.Kept))
			}
			needsOwn = w.layoutsOf(seg) || needsOwn
		}
	}
	if needsOwn {
		w.prefixes[format.Prefix] = format.Namespace
	}
}

// spaceBare is the namespace of kept elements that were in GPX's own and are none of its elements.
const spaceBare = format.Namespace + ":bare"

func ofGPX(kept []nav.Kept, where string) []nav.Kept {
	var out []nav.Kept
	for _, k := range kept {
		if k.Format == "gpx" && k.Where == where {
			out = append(out, k)
		}
	}
	return out
}

func (w *writer) keptPieces(kept []nav.Kept) {
	for _, k := range kept {
		var declare [][2]string
		for _, s := range k.Spaces {
			switch {
			case s.URI == space11 || s.URI == space10 || s.URI == "": // not allowed in extensions by the schema
				s.URI = spaceBare
			case s.Prefix == s.URI: // nobody declared it in the source either
				s.URI = "urn:undeclared:" + s.Prefix
			case s.Prefix != "" && w.prefixes[s.Prefix] == s.URI:
				continue
			}
			declare = append(declare, [2]string{s.Prefix, s.URI})
		}
		w.Fragment(k.Text, declare)
	}
}

func (w *writer) metadata(d *nav.Dataset) {
	m := d.Meta
	lose := func(what nav.Property, why string, count int) {
		w.ledger = append(w.ledger, nav.Entry{KindWord: "file", What: what, Why: why, Count: count, Loss: true})
	}
	id, domain, _ := strings.Cut(m.AuthorEmail, "@")
	if m.AuthorEmail != "" && (id == "" || domain == "") {
		lose("author's e-mail address", fmt.Sprintf("%q is not an address, which GPX has as a name and a domain",
			m.AuthorEmail), 1)
		m.AuthorEmail = ""
	}
	if n := len(m.AuthorLinks); n > 1 {
		lose("author's links", "GPX has one link of the author; the first is written", n-1)
		m.AuthorLinks = m.AuthorLinks[:1]
	}
	kept := ofGPX(m.Kept, "metadata")
	if m.Blank() && len(kept) == 0 {
		return
	}
	w.Open("metadata")
	w.Leaf("name", m.Name)
	w.Leaf("desc", m.Desc)
	if m.Author != "" || m.AuthorEmail != "" || len(m.AuthorLinks) > 0 {
		w.Open("author")
		w.Leaf("name", m.Author)
		if m.AuthorEmail != "" {
			w.Line().Raw("<email").Attr("id", id).Attr("domain", domain).Raw("/>\n")
		}
		w.links(m.AuthorLinks)
		w.End("author")
	}
	if m.Copyright != "" || m.CopyrightYear != "" || m.Licence != "" {
		w.Line().Raw(`<copyright author="`).Text(m.Copyright).Raw("\">\n")
		in := w.Indent(1)
		w.Leaf("year", m.CopyrightYear)
		w.Leaf("license", m.Licence)
		w.Indent(in)
		w.Line().Raw("</copyright>\n")
	}
	w.links(m.Links)
	if m.Time.HasTime() {
		w.Leaf("time", string(instant.Append(nil, m.Time.UnixNano(), max(m.Time.TimeMark(), instant.Seconds))))
	}
	w.Leaf("keywords", m.Keywords)
	if len(kept) > 0 {
		w.Open("extensions")
		w.keptPieces(kept)
		w.End("extensions")
	}
	w.End("metadata")
}

func (w *writer) links(links []nav.Link) {
	for _, l := range links {
		if l.Href == "" && l.Text == "" {
			continue
		}
		w.Line().Raw(`<link href="`).Text(l.Href).Raw(`">`)
		if l.Text != "" {
			w.Raw("<text>").Text(l.Text).Raw("</text>")
		}
		if l.Type != "" {
			w.Raw("<type>").Text(l.Type).Raw("</type>")
		}
		w.Raw("</link>\n")
	}
}

// appendPosition writes the lat and lon attributes.
func appendPosition(dst []byte, p *nav.Point, exact string) []byte {
	dst = append(dst, ` lat="`...)
	if lat, lon, ok := format.Exact(p, exact); ok {
		return append(append(append(append(dst, lat...), `" lon="`...), lon...), '"')
	}
	dst = append(p.AppendLat(dst), `" lon="`...)
	return append(p.AppendLon(dst), '"')
}

func (w *writer) waypoint(tag string, p *nav.Waypoint) {
	w.Line().Raw("<").Raw(tag)
	w.Buf = append(appendPosition(w.Buf, &p.Point, p.Exact), ">\n"...)
	in := w.Indent(1)
	if p.HasHeight() || p.HasTime() {
		w.Line()
		w.Buf = append(appendEleTime(w.Buf, &p.Point, &w.clock), '\n')
	}
	w.pointRest(&p.Item, p.Fields, p.Kept, nav.Waypoints)
	w.Indent(in)
	w.Line().Raw("</").Raw(tag).Raw(">\n")
}

// appendEleTime writes the height and the time; a time of less than a whole instant is no xsd:dateTime, and
// stands for its start.
func appendEleTime(dst []byte, p *nav.Point, clock *instant.Clock) []byte {
	if p.HasHeight() {
		dst = append(p.AppendHeight(append(dst, "<ele>"...)), "</ele>"...)
	}
	if p.HasTime() {
		dst = append(clock.Append(append(dst, "<time>"...), p.UnixNano(), max(p.TimeMark(), instant.Seconds)), "</time>"...)
	}
	return dst
}

// pointRest writes what follows the time in a wptType.
func (w *writer) pointRest(item *nav.Item, fields []nav.Field, kept []nav.Kept, kind nav.Kind) {
	for _, key := range []string{"magvar", "geoidheight"} {
		w.standardField(fields, key)
	}
	w.texts(item)
	w.Leaf("sym", item.Style.Symbol)
	w.Leaf("type", item.Type)
	for _, key := range qualityKeys {
		w.standardField(fields, key)
	}
	w.itemExtensions(kind, item, fields, kept)
}

func (w *writer) texts(item *nav.Item) {
	w.Leaf("name", item.Name)
	w.Leaf("cmt", item.Comment)
	w.Leaf("desc", item.Desc)
	w.Leaf("src", item.Source)
	w.links(item.Links)
}

func (w *writer) standardField(fields []nav.Field, key string) {
	if v, ok := nav.Get(fields, key); ok && standard(key, v) {
		w.Leaf(key, v)
	}
}

// fixes are the words of the schema for how good a position is.
var fixes = []string{"none", "2d", "3d", "dgps", "pps"}

// isStandard says whether a field is an element of GPX where the schema allows its value.
func isStandard(key string) bool {
	return key == "magvar" || key == "geoidheight" || slices.Contains(qualityKeys, key)
}

// standard says whether a field is an element of GPX and its value is one that the schema allows.
func standard(key, value string) bool {
	number := func(low, high float64) bool {
		v, _, ok := decimal.Parse([]byte(value))
		return ok && v >= low && v <= high && !strings.ContainsAny(value, "eE ")
	}
	switch key {
	case "fix":
		return slices.Contains(fixes, value)
	case "sat":
		_, err := strconv.ParseUint(value, 10, 31)
		return err == nil
	case "dgpsid":
		n, err := strconv.ParseUint(value, 10, 31)
		return err == nil && n <= 1023
	case "magvar":
		return number(0, 359.9999999)
	case "geoidheight", "hdop", "vdop", "pdop", "ageofdgpsdata":
		return number(-math.MaxFloat64, math.MaxFloat64)
	}
	return false
}

// ownFields lists the fields that only Gyrolith's extension can carry: neither elements of GPX nor values
// that a kept extension holds already.
func ownFields(fields []nav.Field, kept []nav.Kept) []nav.Field {
	var out []nav.Field
next:
	for i, f := range fields {
		first := !slices.ContainsFunc(fields[:i], func(o nav.Field) bool { return o.Key == f.Key })
		if standard(f.Key, f.Value) && first {
			continue
		}
		for j := range kept {
			if kept[j].Format == "gpx" && says(kept[j].Text, f.Key, f.Value) {
				continue next
			}
		}
		out = append(out, f)
	}
	return out
}

const blanks = " \t\r\n"

// says whether a kept piece has a value in an element that is read as such a field.
func says(text, key, value string) bool {
	for at := 0; at <= len(text); at++ {
		n := strings.Index(text[at:], value)
		if n < 0 {
			break
		}
		at += n
		before, isWhole := strings.CutSuffix(strings.TrimRight(text[:at], blanks), ">")
		if !isWhole || !strings.HasPrefix(strings.TrimLeft(text[at+len(value):], blanks), "<") {
			continue
		}
		tag := before[strings.LastIndexByte(before, '<')+1:]
		if format.SensorKeys[localName(tag)] == key {
			return true
		}
	}
	return false
}

// localName is the name of an element, without a prefix, of what stands between the signs of its tag.
func localName(tag string) string {
	if end := strings.IndexAny(tag, blanks); end >= 0 {
		tag = tag[:end]
	}
	return tag[strings.IndexByte(tag, ':')+1:]
}

func hasLineStyle(kind nav.Kind, st *nav.Style) bool {
	return kind != nav.Waypoints && (st.Colour.Set || st.Width > 0)
}

// pointOwn and lineOwn are what Gyrolith's own extension says of points and of lines.
var (
	pointOwn = holds.SetOf(holds.ID, holds.Number, holds.Group, holds.Icon, holds.IconScale, holds.Colour,
		holds.Width, holds.Fill,
		holds.Outline)
	lineOwn = holds.SetOf(holds.ID, holds.Group, holds.Symbol, holds.Icon, holds.IconScale, holds.Fill, holds.Outline)
)

// own is what Gyrolith's extension says of an item.
func own(kind nav.Kind, item *nav.Item) holds.Set {
	switch {
	case kind == nav.Waypoints:
		return pointOwn
	case !isCount(item.Number):
		return lineOwn | holds.SetOf(holds.Number)
	}
	return lineOwn
}

// isCount says whether a text is a number as the schema has them in <number>.
func isCount(text string) bool {
	_, err := strconv.ParseUint(text, 10, 31)
	return err == nil
}

// hasOwn says whether an item needs Gyrolith's own extension; fields are its own ones.
func (w *writer) hasOwn(kind nav.Kind, item *nav.Item, fields []nav.Field) bool {
	return kind == nav.Areas || item.Whole != nil || holds.ItemUses(item)&own(kind, item) != 0 || len(fields) > 0
}

var nobody nav.Item

func (w *writer) itemExtensions(kind nav.Kind, item *nav.Item, fields []nav.Field, kept []nav.Kept) {
	st := &item.Style
	fields = ownFields(fields, kept)
	style, own, mine := hasLineStyle(kind, st), w.hasOwn(kind, item, fields), ofGPX(kept, "")
	if !style && !own && len(mine) == 0 {
		return
	}
	w.Open("extensions")
	if style {
		w.Open("line", "xmlns", spaceStyle)
		if c := st.Colour; c.Set {
			c.A = 255
			w.Leaf("color", c.String()[1:])
			if st.Colour.A != 255 {
				w.Leaf("opacity", string(decimal.AppendShort(nil, float64(st.Colour.A)/255, 4)))
			}
		}
		if st.Width > 0 {
			w.Leaf("width", string(decimal.AppendShort(nil, st.Width*mmPerPixel, 4)))
		}
		w.End("line")
	}
	if own {
		w.ownItem(kind, item, fields)
	}
	w.keptPieces(mine)
	w.End("extensions")
}

func (w *writer) ownItem(kind nav.Kind, item *nav.Item, fields []nav.Field) {
	w.Line().Raw("<gyro:item")
	if kind == nav.Areas {
		w.Attr("kind", kind.One())
	}
	w.Attr("part-of", w.wholes.Number(item.Whole))
	for pairs := format.Own(item, own(kind, item)); len(pairs) > 0; pairs = pairs[2:] {
		w.Attr(pairs[0], pairs[1])
	}
	if len(fields) == 0 {
		w.Raw("/>\n")
		return
	}
	w.Raw(">\n")
	in := w.Indent(1)
	for _, f := range fields {
		w.Line().Raw(`<gyro:field name="`).Text(f.Key).Raw(`"`)
		if f.Literal {
			w.Attr("type", "json")
		}
		w.Raw(">").Text(f.Value).Raw("</gyro:field>\n")
	}
	w.Indent(in)
	w.Line().Raw("</gyro:item>\n")
}

// lineHead writes what a rteType and a trkType begin with.
func (w *writer) lineHead(kind nav.Kind, item *nav.Item) {
	w.texts(item)
	if isCount(item.Number) {
		w.Leaf("number", item.Number)
	}
	w.Leaf("type", item.Type)
	w.itemExtensions(kind, item, item.Fields, item.Kept)
}

func (w *writer) route(r *nav.Route) {
	w.Open("rte")
	w.lineHead(nav.Routes, &r.Item)
	for i := range r.Points {
		w.waypoint("rtept", &r.Points[i])
	}
	w.End("rte")
}

func (w *writer) track(t *nav.Track) {
	w.Open("trk")
	w.lineHead(nav.Tracks, &t.Item)
	for i := range t.Segments {
		w.segment(&t.Segments[i])
	}
	w.End("trk")
}

// area writes an area as a closed track, marked so that Gyrolith finds the area again.
func (w *writer) area(a *nav.Area) {
	w.Open("trk")
	w.lineHead(nav.Areas, &a.Item)
	for _, ring := range a.Rings() {
		if len(ring) > 0 {
			w.segment(&nav.Segment{Points: append(ring[:len(ring):len(ring)], ring[0])})
		}
	}
	w.End("trk")
}

func (w *writer) segment(seg *nav.Segment) {
	w.Open("trkseg")
	if seg.Details() == 0 {
		w.Points(len(seg.Points), func(dst []byte, from, to int) []byte {
			var clock instant.Clock
			for i := from; i < to; i++ {
				p := &seg.Points[i]
				dst = append(appendPosition(append(dst, "   <trkpt"...), p, ""), '>')
				dst = append(appendEleTime(dst, p, &clock), "</trkpt>\n"...)
			}
			return dst
		})
	} else {
		rests := w.rests(seg)
		for _, f := range seg.Forms() {
			w.learnLayouts(f)
		}
		w.Items(len(seg.Points), func(part *xmlwrite.Writer, from, to int) {
			sub := w.part(part)
			for i := from; i < to; i++ {
				sub.detailedPoint(seg, &seg.Points[i], rests)
			}
		})
	}
	if kept := ofGPX(seg.Kept, ""); len(kept) > 0 {
		w.Open("extensions")
		w.keptPieces(kept)
		w.End("extensions")
	}
	w.End("trkseg")
}

// rests gives what follows height and time of points for each detail, where points share them; "" is not written yet.
func (w *writer) rests(seg *nav.Segment) []string {
	if !seg.Shares() {
		return nil
	}
	out := make([]string, seg.Details())
	for i := range out {
		sub := w.part(w.Part(nil))
		if sub.rest(seg.DetailAt(i)); sub.Bad == 0 { // bad characters are counted for each point
			out[i] = string(sub.Buf)
		}
	}
	return out
}

// detailedPoint writes a point; rests are what follows height and time, by detail, where that is known.
func (w *writer) detailedPoint(seg *nav.Segment, p *nav.Point, rests []string) {
	w.Line().Raw("<trkpt")
	w.Buf = append(appendPosition(w.Buf, p, seg.Exact(p)), '>')
	w.Buf = appendEleTime(w.Buf, p, &w.clock)
	index := p.DetailIndex()
	if !seg.HasDetail(p) {
		w.Raw(pointEnd + "\n")
		return
	}
	if index < len(rests) && rests[index] != "" {
		w.Raw(rests[index])
		return
	}
	var f *nav.Form
	if f, w.values = seg.FormAt(w.values[:0], index); f != nil {
		if l := w.layouts[keyOf(f, w.values)]; l.around != nil && l.fits(w.values) {
			w.Buf = l.append(w.Buf, w.values)
			return
		}
	}
	w.rest(seg.DetailAt(index))
}

// rest writes what follows the height and the time of a point of a track, with its end.
func (w *writer) rest(d *nav.Detail) {
	if len(d.Values) > 0 || len(d.Kept) > 0 || d.Item != nil {
		item := d.Item
		if item == nil {
			item = &nobody
		}
		w.Raw("\n")
		in := w.Indent(1)
		w.pointRest(item, append(d.Values[:len(d.Values):len(d.Values)], item.Fields...), d.Kept, nav.Waypoints)
		w.Indent(in)
		w.Line()
	}
	w.Raw(pointEnd + "\n")
}
