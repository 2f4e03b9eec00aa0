// Package gpx reads and writes GPX, the GPS Exchange Format: versions 1.0 and 1.1 in, 1.1 out
// (www.topografix.com/GPX/1/1, gpx.xsd).
package gpx

import (
	"bytes"
	"errors"
	"slices"
	"strconv"

	"gyrolith/core/format"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/nav"
)

// Format is GPX in the registry.
var Format = &format.Format{
	Name:       "gpx",
	Title:      "GPX 1.0 and 1.1 (written as 1.1)",
	Extensions: []string{".gpx"},
	Holds:      "waypoints, routes, tracks; areas as marked closed tracks",
	Sniff:      func(h *format.Head) bool { return h.Root.Local == "gpx" },
	Read:       read,
	Write:      write,
}

const (
	space10    = "http://www.topografix.com/GPX/1/0"
	space11    = "http://www.topografix.com/GPX/1/1"
	spaceStyle = "http://www.topografix.com/GPX/gpx_style/0/2"
)

// qualityKeys are the elements of a point that Gyrolith holds as fields, in the schema's order after <type>.
var qualityKeys = []string{"fix", "sat", "hdop", "vdop", "pdop", "ageofdgpsdata", "dgpsid"}

// sensorKeys are values inside a point's extensions that are also understood, whatever their namespace.
var sensorKeys = map[string]string{
	"speed": "speed", "course": "course", "hr": "hr", "cad": "cad", "power": "power",
	"atemp": "temperature", "wtemp": "water-temperature", "depth": "depth",
}

type reader struct {
	*xmlscan.Scanner
	src    *format.Source
	opt    *format.ReadOptions
	data   *nav.Dataset
	line   format.Collector
	clock  nav.Clock
	spaces []nav.Space // the last set of prefixes that a kept piece needed, to share it
	own    string      // the namespace of the document element, whatever it is
}

func read(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	r := &reader{src: src, opt: opt, data: &nav.Dataset{}}
	err := r.document()
	if r.Scanner != nil && r.BadBytes > 0 {
		r.data.Note("encoding", "text that is not in the declared encoding was read as Windows-1252", 0, 0)
	}
	return r.data, r.located(err)
}

func (r *reader) located(err error) error {
	if x, ok := errors.AsType[*xmlscan.Error](err); ok {
		return &format.Error{Path: r.src.Path, Line: x.Line, Col: x.Col, Msg: x.Msg, Cut: x.Cut}
	}
	return err
}

func (r *reader) document() (err error) {
	if r.Scanner, err = xmlscan.New(r.src.Reader(), xmlscan.Limits{Depth: r.opt.Nesting()}); err != nil {
		return err
	}
	for kind, err := r.Next(); kind != xmlscan.Start; kind, err = r.Next() {
		if err != nil {
			return err
		}
		if kind == xmlscan.EOF {
			return r.Errorf("there is no <gpx> element")
		}
	}
	if r.Local() != "gpx" {
		return r.Errorf("the outermost element is <%s>, not <gpx>", r.Local())
	}
	r.own = r.Name().Space
	if err := r.children(r.topLevel); err != nil {
		return err
	}
	if line, col, found := r.Trailing(); found {
		r.data.Note("trailing", "something stands after the end of the document and was not read", line, col)
	}
	return nil
}

// children calls visit at each start tag inside the current element; visit reads that element to its end.
func (r *reader) children(visit func(local string) error) error {
	for {
		kind, err := r.Next()
		if err != nil {
			return err
		}
		switch kind {
		case xmlscan.Start:
			if err := visit(r.Local()); err != nil {
				return err
			}
		case xmlscan.End:
			return nil
		}
	}
}

func (r *reader) text(dst *string) (err error) {
	*dst, err = r.LeafString()
	return err
}

func (r *reader) topLevel(local string) error {
	m := &r.data.Meta
	if r.foreign() {
		return r.keep(&m.Kept, "", nil)
	}
	switch local {
	case "wpt":
		var w nav.Waypoint
		ok, err := r.waypoint(&w, nav.Waypoints, "", 0)
		if ok && err == nil {
			r.data.Waypoints = append(r.data.Waypoints, w)
		}
		return err
	case "rte":
		return r.route()
	case "trk":
		return r.track()
	case "metadata":
		return r.children(r.metadata)
	case "extensions":
		return r.children(func(string) error { return r.keep(&m.Kept, "", nil) })
	}
	return r.metadata(local)
}

func (r *reader) metadata(local string) error {
	m := &r.data.Meta
	switch local {
	case "name":
		return r.text(&m.Name)
	case "desc":
		return r.text(&m.Desc)
	case "keywords":
		return r.text(&m.Keywords)
	case "email":
		return r.text(&m.AuthorEmail)
	case "time":
		text, err := r.Leaf()
		if err == nil {
			r.setTime(&m.Time, text)
		}
		return err
	case "author":
		return r.author()
	case "copyright":
		m.Copyright = r.AttrString("author")
		return r.children(func(local string) error {
			switch local {
			case "year":
				return r.text(&m.CopyrightYear)
			case "license":
				return r.text(&m.Licence)
			}
			return r.Skip()
		})
	case "link":
		return r.link(&m.Links)
	case "url", "urlname":
		return r.oldLink(&m.Links, local)
	case "extensions":
		return r.children(func(string) error { return r.keep(&m.Kept, "metadata", nil) })
	case "bounds": // worked out again when written
		return r.Skip()
	}
	return r.keep(&m.Kept, "metadata", nil)
}

// author is a name alone in 1.0, a person in 1.1.
func (r *reader) author() error {
	m := &r.data.Meta
	var text []byte
	for {
		kind, err := r.Next()
		if err != nil {
			return err
		}
		switch kind {
		case xmlscan.Text:
			text = append(text, r.Text()...)
		case xmlscan.End:
			if m.Author == "" {
				m.Author = r.String(bytes.TrimSpace(text))
			}
			return nil
		case xmlscan.Start:
			switch r.Local() {
			case "name":
				err = r.text(&m.Author)
			case "email":
				id, domain := r.AttrString("id"), r.AttrString("domain")
				if id != "" || domain != "" {
					m.AuthorEmail = id + "@" + domain
				}
				err = r.Skip()
			case "link":
				err = r.link(&m.AuthorLinks)
			default:
				err = r.Skip()
			}
			if err != nil {
				return err
			}
		}
	}
}

func (r *reader) link(links *[]nav.Link) error {
	l := nav.Link{Href: r.AttrString("href")}
	err := r.children(func(local string) error {
		switch local {
		case "text":
			return r.text(&l.Text)
		case "type":
			return r.text(&l.Type)
		}
		return r.Skip()
	})
	*links = append(*links, l)
	return err
}

// oldLink reads the url and urlname of 1.0, which make one link.
func (r *reader) oldLink(links *[]nav.Link, local string) error {
	text, err := r.LeafString()
	if text == "" {
		return err
	}
	if len(*links) == 0 {
		*links = append(*links, nav.Link{})
	}
	if l := &(*links)[len(*links)-1]; local == "url" {
		l.Href = text
	} else {
		l.Text = text
	}
	return err
}

// foreign says whether the current element is of a namespace that is not GPX's.
func (r *reader) foreign() bool {
	s := r.Name().Space
	return s != r.own && s != space11 && s != space10 && s != ""
}

// keep stores the current element as it is written.
func (r *reader) keep(to *[]nav.Kept, where string, visit func(string, []byte)) error {
	text, used, err := r.Capture(visit)
	if err != nil {
		return err
	}
	spaces := make([]nav.Space, len(used))
	for i, u := range used {
		spaces[i] = nav.Space(u)
	}
	if slices.Equal(spaces, r.spaces) {
		spaces = r.spaces
	} else {
		r.spaces = spaces
	}
	*to = append(*to, nav.Kept{Format: "gpx", Where: where, Text: text, Spaces: spaces})
	return nil
}

// reject notes a position that can't be used.
func (r *reader) reject(kind nav.Kind, name string, number int, line, col int, raw, why string) {
	x := nav.Reject{Kind: kind, Name: name, Number: number, Raw: raw, Why: why, Line: line, Col: col}
	if last := r.line.Last(); kind == nav.Tracks && last != nil {
		x.Near, x.HasNear = *last, true
	}
	r.data.Rejects = append(r.data.Rejects, x)
}

func (r *reader) setTime(p *nav.Point, text []byte) {
	ns, mark, zoned, ok := nav.ParseTime(text, r.opt.Zone)
	if !ok {
		if len(bytes.TrimSpace(text)) > 0 {
			line, col := r.Pos()
			r.data.Note("times", "a time that can't be read was left out", line, col)
		}
		return
	}
	if !zoned && r.opt.Zone == nil {
		line, col := r.Pos()
		r.data.Note("times", "a time names no zone and was taken as UTC; --clock says otherwise", line, col)
	}
	p.SetTime(ns, mark)
}

func (r *reader) setHeight(p *nav.Point, text []byte) {
	v, digits, ok := nav.ParseDecimal(text)
	if !ok {
		if len(bytes.TrimSpace(text)) > 0 {
			line, col := r.Pos()
			r.data.Note("heights", "a height that is not a number was left out", line, col)
		}
		return
	}
	p.SetHeight(v, digits, nav.OverUnsaid)
}

// position reads the lat and lon attributes of the current start tag.
func (r *reader) position(p *nav.Point) (exact, raw, why string) {
	var lat, lon []byte
	for _, a := range r.Attrs() {
		switch string(a.Name) {
		case "lat":
			lat = a.Raw
		case "lon":
			lon = a.Raw
		}
	}
	if exact, why = format.SetPosition(p, lat, lon); why != "" {
		raw = string(lat) + " " + string(lon)
	}
	return
}

// waypoint reads a wpt or rtept, and says whether its position can be used.
func (r *reader) waypoint(w *nav.Waypoint, kind nav.Kind, owner string, number int) (bool, error) {
	line, col := r.Pos()
	exact, raw, why := r.position(&w.Point)
	w.Exact = exact
	err := r.children(func(local string) error { return r.pointChild(local, &w.Item, &w.Point, &w.Fields, &w.Kept) })
	if why != "" {
		if kind == nav.Waypoints {
			owner = w.Name
		}
		r.reject(kind, owner, number, line, col, raw, why)
	}
	return why == "", err
}

// pointChild reads one child of a wpt, rtept or trkpt.
func (r *reader) pointChild(local string, item *nav.Item, p *nav.Point, fields *[]nav.Field, kept *[]nav.Kept) error {
	if r.foreign() {
		return r.keep(kept, "", sensors(fields))
	}
	switch local {
	case "ele":
		text, err := r.Leaf()
		if err == nil {
			r.setHeight(p, text)
		}
		return err
	case "time":
		text, err := r.Leaf()
		if err == nil {
			r.setTime(p, text)
		}
		return err
	case "sym":
		return r.text(&item.Style.Symbol)
	case "magvar", "geoidheight", "course", "speed":
		return r.field(fields, local)
	case "extensions":
		return r.extensions(item, fields, kept, true, nil)
	}
	if slices.Contains(qualityKeys, local) {
		return r.field(fields, local)
	}
	return r.itemChild(local, item, kept)
}

func (r *reader) field(fields *[]nav.Field, key string) error {
	text, err := r.LeafString()
	if text != "" {
		*fields = append(*fields, nav.Field{Key: key, Value: text})
	}
	return err
}

// itemChild reads one child that points, routes and tracks have in common.
func (r *reader) itemChild(local string, item *nav.Item, kept *[]nav.Kept) error {
	switch local {
	case "name":
		return r.text(&item.Name)
	case "cmt":
		return r.text(&item.Comment)
	case "desc":
		return r.text(&item.Desc)
	case "src":
		return r.text(&item.Source)
	case "type":
		return r.text(&item.Type)
	case "number":
		return r.text(&item.Number)
	case "link":
		return r.link(&item.Links)
	case "url", "urlname":
		return r.oldLink(&item.Links, local)
	}
	return r.keep(kept, "", nil)
}

// sensors makes fields of the values in a point's extensions that are understood.
func sensors(fields *[]nav.Field) func(string, []byte) {
	return func(local string, text []byte) {
		if key, ok := sensorKeys[local]; ok {
			if _, _, ok := nav.ParseDecimal(text); ok {
				*fields = append(*fields, nav.Field{Key: key, Value: string(bytes.TrimSpace(text))})
			}
		}
	}
}

// extensions reads an extensions element: Gyrolith's own, the published line style, and pieces to keep.
func (r *reader) extensions(item *nav.Item, fields *[]nav.Field, kept *[]nav.Kept, point bool, area *bool) error {
	return r.children(func(local string) error {
		switch name := r.Name(); {
		case name.Space == format.Namespace && local == "item":
			return r.ownItem(item, fields, area)
		case name.Space == spaceStyle && local == "line":
			return r.lineStyle(&item.Style)
		case point:
			return r.keep(kept, "", sensors(fields))
		}
		return r.keep(kept, "", nil)
	})
}

func (r *reader) ownItem(item *nav.Item, fields *[]nav.Field, area *bool) error {
	if area != nil {
		*area = r.AttrString("kind") == nav.Areas.One()
	}
	item.Group = r.AttrString("group")
	st := &item.Style
	st.Icon = r.AttrString("icon")
	st.IconScale, _ = strconv.ParseFloat(r.AttrString("icon-scale"), 64)
	if c, ok := nav.ParseColour(r.AttrString("colour")); ok {
		st.Colour = c
	}
	st.Fill, _ = nav.ParseColour(r.AttrString("fill"))
	st.NoFill = r.AttrString("filled") == "no"
	st.NoOutline = r.AttrString("outlined") == "no"
	return r.children(func(local string) error {
		if local != "field" {
			return r.Skip()
		}
		key := r.AttrString("name")
		text, err := r.Leaf()
		*fields = append(*fields, nav.Field{Key: key, Value: r.String(text)})
		return err
	})
}

// lineStyle reads the line of the style extension: a colour of six hexadecimal digits, an opacity, a width in
// millimetres.
func (r *reader) lineStyle(st *nav.Style) error {
	return r.children(func(local string) error {
		text, err := r.LeafString()
		switch local {
		case "color":
			if c, ok := nav.ParseColour("#" + text); ok {
				if st.Colour.Set {
					c.A = st.Colour.A
				}
				st.Colour = c
			}
		case "opacity":
			if v, _, ok := nav.ParseDecimal([]byte(text)); ok && v >= 0 && v <= 1 {
				st.Colour.A = uint8(v*255 + 0.5)
			}
		case "width":
			if v, _, ok := nav.ParseDecimal([]byte(text)); ok && v > 0 {
				st.Width = float64(int(v/mmPerPixel*100+0.5)) / 100
			}
		}
		return err
	})
}

// mmPerPixel is the reference pixel of CSS Values 3, 1/96 inch.
const mmPerPixel = 25.4 / 96

func (r *reader) route() error {
	var rt nav.Route
	number := 0
	err := r.children(func(local string) error {
		switch {
		case r.foreign():
			return r.keep(&rt.Kept, "", nil)
		case local == "rtept":
			number++
			var w nav.Waypoint
			ok, err := r.waypoint(&w, nav.Routes, rt.Name, number)
			if ok && err == nil {
				rt.Points = append(rt.Points, w)
			}
			return err
		case local == "extensions":
			return r.extensions(&rt.Item, &rt.Fields, &rt.Kept, false, nil)
		}
		return r.itemChild(local, &rt.Item, &rt.Kept)
	})
	if err == nil || len(rt.Points) > 0 {
		r.data.Routes = append(r.data.Routes, rt)
	}
	return err
}

func (r *reader) track() error {
	var t nav.Track
	area := false
	err := r.children(func(local string) error {
		switch {
		case r.foreign():
			return r.keep(&t.Kept, "", nil)
		case local == "trkseg":
			var seg nav.Segment
			err := r.segment(&seg, t.Name)
			if err == nil || len(seg.Points) > 0 {
				t.Segments = append(t.Segments, seg)
			}
			return err
		case local == "extensions":
			return r.extensions(&t.Item, &t.Fields, &t.Kept, false, &area)
		}
		return r.itemChild(local, &t.Item, &t.Kept)
	})
	if err != nil && t.Len() == 0 {
		return err
	}
	if a, ok := asArea(&t); area && ok {
		r.data.Areas = append(r.data.Areas, a)
	} else {
		r.data.Tracks = append(r.data.Tracks, t)
	}
	return err
}

// asArea makes an area of a track that was marked as one when it was written.
func asArea(t *nav.Track) (nav.Area, bool) {
	a := nav.Area{Item: t.Item}
	for i := range t.Segments {
		ring := t.Segments[i].Points
		n := len(ring)
		if n < 4 || !ring[0].SamePlace(&ring[n-1]) {
			return a, false
		}
		if i == 0 {
			a.Outline = ring[:n-1]
		} else {
			a.Holes = append(a.Holes, ring[:n-1])
		}
	}
	return a, len(a.Outline) > 0
}

// segment reads a trkseg. What stands before a cut-off end is in the segment even when there is an error.
func (r *reader) segment(seg *nav.Segment, owner string) error {
	r.line.Begin(r.Passed())
	number := 0
	plain := r.Raw() == "trkseg" // without a prefix, points can be read in one step
	for {
		if plain {
			number += r.plainPoints()
		}
		kind, err := r.Next()
		if err != nil {
			seg.Points = r.line.Take()
			return err
		}
		switch kind {
		case xmlscan.End:
			seg.Points = r.line.Take()
			return nil
		case xmlscan.Start:
			switch {
			case r.Local() == "trkpt":
				number++
				err = r.trackPoint(seg, owner, number)
			case r.Local() == "extensions" && !r.foreign():
				err = r.children(func(string) error { return r.keep(&seg.Kept, "", nil) })
			default:
				err = r.keep(&seg.Kept, "", nil)
			}
			if err != nil {
				seg.Points = r.line.Take()
				return err
			}
		}
	}
}

// trackPoint reads one trkpt. Position, height and time are all that nearly every point has: for them
// nothing is allocated.
func (r *reader) trackPoint(seg *nav.Segment, owner string, number int) error {
	var p nav.Point
	exact, raw, why := r.position(&p)
	var line, col int
	if why != "" {
		line, col = r.Pos()
	}
	var more *trackPointMore
	if exact != "" {
		more = &trackPointMore{Detail: nav.Detail{Exact: exact}}
	}
	for {
		kind, err := r.Next()
		if err != nil {
			return err
		}
		if kind == xmlscan.End {
			break
		}
		if kind != xmlscan.Start {
			continue
		}
		switch r.Local() {
		case "ele":
			text, err := r.Leaf()
			if err != nil {
				return err
			}
			r.setHeight(&p, text)
		case "time":
			text, err := r.Leaf()
			if err != nil {
				return err
			}
			r.setTime(&p, text)
		default:
			if more == nil {
				more = &trackPointMore{}
			}
			if err := r.pointChild(r.Local(), &more.item, &p, &more.Values, &more.Kept); err != nil {
				return err
			}
		}
	}
	if why != "" {
		r.reject(nav.Tracks, owner, number, line, col, raw, why)
		return nil
	}
	to := r.line.Add(r.Passed(), r.src.Size)
	*to = p
	if more != nil {
		if more.item.Name != "" || more.item.Desc != "" || more.item.Comment != "" || more.item.Source != "" ||
			more.item.Type != "" || more.item.Links != nil || more.item.Style != (nav.Style{}) {
			item := more.item
			more.Item = &item
		}
		seg.Attach(to, more.Detail)
	}
	return nil
}

type trackPointMore struct {
	nav.Detail
	item nav.Item
}
