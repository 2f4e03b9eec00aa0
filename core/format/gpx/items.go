package gpx

import (
	"bytes"
	"slices"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/nav"
)

// position reads the lat and lon attributes of the current start tag.
func (r *reader) position(p *nav.Point) (exact, raw, why string) {
	lat, lon := r.AttrRaw("lat"), r.AttrRaw("lon")
	if exact, why = format.SetPosition(p, lat, lon); why != "" {
		raw = string(lat) + " " + string(lon)
	}
	return
}

// appendWaypoint reads a wpt or rtept to the end of a list, unless its position can't be used.
func (r *reader) appendWaypoint(to *[]nav.Waypoint, kind nav.Kind, owner string, number int) error {
	n := len(*to)
	list := append(format.Room(*to, r.Passed(), r.src.Size), nav.Waypoint{})
	ok, err := r.waypoint(&list[n], kind, owner, number)
	if !ok || err != nil {
		list[n] = nav.Waypoint{}
		list = list[:n]
	}
	*to = list
	return err
}

// waypoint reads a wpt or rtept, and says whether its position can be used.
func (r *reader) waypoint(w *nav.Waypoint, kind nav.Kind, owner string, number int) (bool, error) {
	line, col := r.Pos()
	exact, raw, why := r.position(&w.Point)
	w.Exact = exact
	err := r.Children(func(local string) error { return r.pointChild(local, &w.Item, &w.Point, &w.Fields, &w.Kept) })
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
		values, pieces := len(*fields), len(*kept)
		err := r.pieces(item, fields, kept, true, nil)
		if err == nil {
			r.extensions.learn(item, (*fields)[values:], (*kept)[pieces:])
		}
		return err
	}
	if slices.Contains(qualityKeys, local) {
		return r.field(fields, local)
	}
	return r.itemChild(local, item, kept)
}

func (r *reader) field(fields *[]nav.Field, key string) error {
	text, err := r.LeafString()
	if text != "" {
		*fields = append(*fields, nav.Field{Key: key, Value: text, Literal: decimal.IsNumber(text)})
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

// sensors makes fields of the values in a point's extensions that are known.
func sensors(fields *[]nav.Field) func(string, []byte) {
	return func(local string, text []byte) {
		if key, ok := format.SensorKeys[local]; ok {
			if _, _, ok := decimal.Parse(text); ok {
				value := string(bytes.TrimSpace(text))
				*fields = append(*fields, nav.Field{Key: key, Value: value, Literal: decimal.IsNumber(value)})
			}
		}
	}
}

// pieces reads an extensions element: Gyrolith's own, the published line style, and pieces to keep.
func (r *reader) pieces(item *nav.Item, fields *[]nav.Field, kept *[]nav.Kept, point bool, area *bool) error {
	return r.Children(func(local string) error {
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
	for _, a := range r.Attrs() {
		v, err := r.AttrValue(a)
		if err != nil {
			continue
		}
		switch name, value := string(a.Name), r.String(v); {
		case name == "part-of":
			item.Whole = r.wholes.Find(value)
		case name == "kind" && area != nil && value == nav.Areas.One():
			*area = true
		case !format.SetOwn(item, name, value):
			r.LeaveAttr(name)
		}
	}
	return r.Children(func(local string) error {
		if local != "field" {
			return r.Skip()
		}
		f := nav.Field{Key: r.AttrString("name"), Literal: r.AttrString("type") == "json"}
		if !f.Literal {
			r.LeaveAttr("type")
		}
		text, err := r.Leaf()
		f.Value = r.String(text)
		*fields = append(*fields, f)
		return err
	})
}

// lineStyle reads the line of the style extension: a colour of six hexadecimal digits, an opacity, a width in
// millimetres.
func (r *reader) lineStyle(st *nav.Style) error {
	return r.Children(func(local string) error {
		text, err := r.LeafString()
		v, _, ok := decimal.Parse([]byte(text))
		switch {
		case local == "color":
			var c nav.Colour
			if c, ok = nav.ParseColour("#" + text); ok {
				if st.Colour.Set {
					c.A = st.Colour.A
				}
				st.Colour = c
			}
		case local == "opacity" && ok && v >= 0 && v <= 1:
			st.Colour.A = uint8(v*255 + 0.5)
		case local == "width" && ok && v > 0:
			st.Width = float64(int(v/mmPerPixel*100+0.5)) / 100
		default:
			ok = false
		}
		if !ok {
			r.LeafUntaken(text)
		}
		return err
	})
}

// mmPerPixel is the reference pixel of CSS Values 3, 1/96 inch.
const mmPerPixel = 25.4 / 96

func (r *reader) route() error {
	var rt nav.Route
	number := 0
	err := r.Children(func(local string) error {
		switch {
		case r.foreign():
			return r.keep(&rt.Kept, "", nil)
		case local == "rtept":
			number++
			return r.appendWaypoint(&rt.Points, nav.Routes, rt.Name, number)
		case local == "extensions":
			return r.pieces(&rt.Item, &rt.Fields, &rt.Kept, false, nil)
		}
		return r.itemChild(local, &rt.Item, &rt.Kept)
	})
	if err == nil || len(rt.Points) > 0 {
		r.data.Routes = append(format.Room(r.data.Routes, r.Passed(), r.src.Size), rt)
	}
	return err
}

func (r *reader) track() error {
	var t nav.Track
	area := false
	loose := 0 // points that stand in no segment
	var bare nav.Segment
	end := func() {
		if loose > 0 {
			bare.Points = r.line.Take()
			t.Segments = append(t.Segments, bare)
			bare, loose = nav.Segment{}, 0
		}
	}
	err := r.Children(func(local string) error {
		switch {
		case r.foreign():
			return r.keep(&t.Kept, "", nil)
		case local == "trkpt":
			if loose++; loose == 1 {
				r.line.Begin(r.Passed())
				r.rests, r.extensions, r.forms = rests{}, extensions{}, nil
			}
			return r.trackPoint(&bare, t.Name, loose)
		}
		end()
		switch {
		case local == "trkseg":
			var seg nav.Segment
			err := r.segment(&seg, t.Name)
			if err == nil || len(seg.Points) > 0 {
				t.Segments = append(t.Segments, seg)
			}
			return err
		case local == "extensions":
			return r.pieces(&t.Item, &t.Fields, &t.Kept, false, &area)
		}
		return r.itemChild(local, &t.Item, &t.Kept)
	})
	end()
	if err != nil && t.Len() == 0 {
		return err
	}
	if a, ok := r.asArea(&t, area); ok {
		r.data.Areas = append(r.data.Areas, a)
	} else {
		r.data.Tracks = append(format.Room(r.data.Tracks, r.Passed(), r.src.Size), t)
	}
	return err
}

// asArea makes an area of a track that was marked as one when it was written.
func (r *reader) asArea(t *nav.Track, marked bool) (nav.Area, bool) {
	a := nav.Area{Item: t.Item}
	if !marked || slices.ContainsFunc(t.Segments, func(s nav.Segment) bool {
		n := len(s.Points)
		return n < 2 || !s.Points[0].SamePlace(&s.Points[n-1])
	}) {
		return a, false
	}
	for i := range t.Segments {
		s := &t.Segments[i]
		a.Kept = append(a.Kept, s.Kept...)
		if n := s.DropDetails(); n > 0 {
			r.data.Note(nav.ProblemLeftOut, format.CornerLeft, 0, 0).Count += n - 1
		}
		ring, n := s.Points, len(s.Points)
		if i == 0 {
			a.Outline = ring[:n-1]
		} else {
			a.Holes = append(a.Holes, ring[:n-1])
		}
	}
	return a, true
}

// segment reads a trkseg. What stands before a cut-off end is in the segment even when there is an error.
func (r *reader) segment(seg *nav.Segment, owner string) error {
	r.line.Begin(r.Passed())
	r.rests = rests{}
	if scope := r.AppendScope(r.scope[1][:0]); !bytes.Equal(scope, r.scope[0]) {
		r.scope[0], r.scope[1] = scope, r.scope[0]
		r.extensions, r.forms = extensions{}, nil
	} else {
		r.scope[1] = scope
	}
	number := 0
	plain := r.Raw() == "trkseg" // without a prefix, points can be read in one step
	for {
		if plain {
			number += r.plainPoints(seg)
		}
		kind, err := r.Next()
		if err != nil {
			seg.Points = r.line.Take()
			return err
		}
		switch kind {
		case xmlscan.Text:
			r.TextUntaken()
		case xmlscan.End:
			seg.Points = r.line.Take()
			return nil
		case xmlscan.Start:
			switch {
			case r.Local() == "trkpt":
				number++
				err = r.trackPoint(seg, owner, number)
			case r.Local() == "extensions" && !r.foreign():
				err = r.Children(func(string) error { return r.keep(&seg.Kept, "", nil) })
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
		if kind == xmlscan.Text {
			r.TextUntaken()
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
		if holds.ItemUses(&more.item) != 0 {
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
