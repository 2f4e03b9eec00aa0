package kml

import (
	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// extension is what Gyrolith's own element in a placemark's extended data says: all that KML has no word for.
type extension struct {
	present                                    bool
	kind, comment, source, typ, number, symbol string
	links                                      []nav.Link
	points                                     []nav.Waypoint // what a route's points are called
	fields                                     []nav.Field
	kept                                       []nav.Kept
}

// extendedData reads the fields of a placemark.
func (r *reader) extendedData(p *placemark) error {
	e := &p.extension
	return r.Children(func(local string) error {
		switch {
		case r.Name().Space == format.Namespace && local == "item":
			return r.ownItem(e)
		case local == "Data":
			f := nav.Field{Key: r.AttrString("name")}
			err := r.Children(func(local string) error {
				if local == "value" {
					text, err := r.Leaf()
					f.Value = r.String(text)
					return err
				}
				return r.Skip() // displayName: the key, dressed up
			})
			e.fields = append(e.fields, f)
			return err
		case local == "SchemaData":
			return r.Children(func(local string) error {
				f := nav.Field{Key: r.AttrString("name")}
				if local != "SimpleData" {
					return r.Skip()
				}
				text, err := r.Leaf()
				f.Value = r.String(text)
				e.fields = append(e.fields, f)
				return err
			})
		}
		return r.keep(&e.kept, "ExtendedData")
	})
}

func (r *reader) ownItem(e *extension) error {
	e.present = true
	e.kind = r.AttrString("kind")
	e.comment, e.source, e.typ = r.AttrString("comment"), r.AttrString("source"), r.AttrString("type")
	e.number, e.symbol = r.AttrString("number"), r.AttrString("symbol")
	return r.Children(func(local string) error {
		switch local {
		case "link":
			e.links = append(e.links, nav.Link{Href: r.AttrString("href"), Text: r.AttrString("text"),
				Type: r.AttrString("type")})
		case "point":
			return r.ownPoint(e)
		}
		return r.Skip()
	})
}

func (r *reader) ownPoint(e *extension) error {
	var w nav.Waypoint
	w.Name, w.Comment, w.Desc = r.AttrString("name"), r.AttrString("comment"), r.AttrString("desc")
	w.Source, w.Type = r.AttrString("source"), r.AttrString("type")
	w.Style.Symbol = r.AttrString("symbol")
	if t := r.AttrString("time"); t != "" {
		r.setTime(&w.Point, []byte(t))
	}
	err := r.Children(func(local string) error {
		key := r.AttrString("name")
		text, err := r.Leaf()
		if local == "field" {
			w.Fields = append(w.Fields, nav.Field{Key: key, Value: r.String(text)})
		}
		return err
	})
	e.points = append(e.points, w)
	return err
}

func (e *extension) apply(item *nav.Item) {
	item.Fields = append(item.Fields, e.fields...)
	item.Kept = append(item.Kept, e.kept...)
	if e.present {
		item.Comment, item.Source, item.Type, item.Number = e.comment, e.source, e.typ, e.number
		item.Links = e.links
		if e.symbol != "" {
			item.Style.Symbol = e.symbol
		}
	}
}

// route makes a route of a line that was marked as one when it was written.
func (e *extension) route(t *nav.Track) nav.Route {
	rt := nav.Route{Item: t.Item}
	seg := &t.Segments[0]
	for i := range seg.Points {
		var w nav.Waypoint
		if i < len(e.points) {
			w = e.points[i]
		}
		at, mark := w.UnixNano(), w.TimeMark()
		w.Point = seg.Points[i]
		w.SetTime(at, mark)
		if d := seg.Detail(&seg.Points[i]); d != nil {
			w.Exact = d.Exact
		}
		rt.Points = append(rt.Points, w)
	}
	return rt
}
