package format

import (
	"encoding/xml"
	"slices"
	"strings"

	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// SensorKeys are the values inside extensions of points that readers take as they are, by the local names of their
// elements, whatever their namespace.
var SensorKeys = map[string]string{
	"speed": "speed", "course": "course", "hr": "hr", "cad": "cad", "power": "power",
	"atemp": "temperature", "wtemp": "water-temperature", "depth": "depth",
}

// unfolded gives data in which the values of pieces that only other formats understand are fields, where the format
// holds fields: an element of an extension by its name, one that nests as address.city, an attribute as tide.unit. The
// data themselves stay as they are.
func (x *Format) unfolded(d *nav.Dataset, opt *WriteOptions) *nav.Dataset {
	places := x.Holds(opt).Holds
	can := func(at holds.Place) bool {
		part := places[at]
		if part == nil {
			return false
		}
		some, limited := part.Terms(holds.Fields)
		return part.Set().Has(holds.Fields) || limited && some.Keys == nil && some.Why == ""
	}
	out := *d
	if can(holds.Waypoint) {
		out.Waypoints = unfoldItems(d.Waypoints, func(w *nav.Waypoint) *nav.Item { return &w.Item }, x.Keeps)
	}
	if can(holds.Route) {
		out.Routes = unfoldItems(d.Routes, func(r *nav.Route) *nav.Item { return &r.Item }, x.Keeps)
	}
	if can(holds.RoutePoint) {
		for i := range out.Routes {
			points := unfoldItems(out.Routes[i].Points, func(w *nav.Waypoint) *nav.Item { return &w.Item }, x.Keeps)
			if len(points) > 0 && &points[0] != &out.Routes[i].Points[0] {
				if len(out.Routes) > 0 && &out.Routes[0] == &d.Routes[0] {
					out.Routes = slices.Clone(out.Routes)
				}
				out.Routes[i].Points = points
			}
		}
	}
	if can(holds.Track) {
		out.Tracks = unfoldItems(d.Tracks, func(t *nav.Track) *nav.Item { return &t.Item }, x.Keeps)
	}
	if can(holds.Area) {
		out.Areas = unfoldItems(d.Areas, func(a *nav.Area) *nav.Item { return &a.Item }, x.Keeps)
	}
	if can(holds.TrackPoint) {
		for i := range out.Tracks {
			for j := range out.Tracks[i].Segments {
				s, changed := unfoldPoints(&out.Tracks[i].Segments[j], x.Keeps)
				if !changed {
					continue
				}
				if &out.Tracks[0] == &d.Tracks[0] {
					out.Tracks = slices.Clone(out.Tracks)
				}
				if &out.Tracks[i].Segments[0] == &d.Tracks[i].Segments[0] {
					out.Tracks[i].Segments = slices.Clone(out.Tracks[i].Segments)
				}
				out.Tracks[i].Segments[j] = s
			}
		}
	}
	return &out
}

// foreign says whether there are pieces with values that a format that keeps its own does not understand.
func foreign(kept []nav.Kept, keeps string) bool {
	return slices.ContainsFunc(kept, func(k nav.Kept) bool { return k.Data && k.Format != keeps && !k.Free })
}

// unfoldItems gives the same slice where no item has such pieces, and else a copy.
func unfoldItems[T any](all []T, item func(*T) *nav.Item, keeps string) []T {
	var out []T
	for i := range all {
		it := item(&all[i])
		if !foreign(it.Kept, keeps) {
			continue
		}
		if out == nil {
			out = slices.Clone(all)
		}
		it = item(&out[i])
		it.Kept, it.Fields = unfoldKept(it.Kept, it.Fields, keeps)
	}
	if out == nil {
		return all
	}
	return out
}

// unfoldPoints gives a segment whose details have such values, and says whether there are any.
func unfoldPoints(s *nav.Segment, keeps string) (nav.Segment, bool) {
	any := false
	for d := range s.Samples(s.Points) {
		if any = any || foreign(d.Kept, keeps) && unsaid(d, keeps); any {
			break
		}
	}
	if !any {
		return *s, false
	}
	out := nav.Segment{Points: slices.Clone(s.Points), Kept: s.Kept}
	indices := make([]int, s.Details())
	for i := range indices {
		indices[i] = -1
	}
	for i := range out.Points {
		p := &out.Points[i]
		if !s.HasDetail(&s.Points[i]) {
			continue
		}
		at := s.Points[i].DetailIndex()
		if indices[at] < 0 {
			d := *s.DetailAt(at)
			d.Kept, d.Values = unfoldKept(d.Kept, d.Values, keeps)
			out.Attach(p, d)
			indices[at] = p.DetailIndex()
			continue
		}
		out.Share(p, indices[at])
	}
	return out, true
}

// unsaid says whether a detail has values in its pieces that are not fields already.
func unsaid(d *nav.Detail, keeps string) bool {
	_, fields := unfoldKept(d.Kept, d.Values, keeps)
	return len(fields) > len(d.Values)
}

// unfoldKept takes the values of pieces into fields; the pieces that were taken are gone.
func unfoldKept(kept []nav.Kept, fields []nav.Field, keeps string) ([]nav.Kept, []nav.Field) {
	var left []nav.Kept
	fields = slices.Clip(fields)
	for _, k := range kept {
		if !k.Data || k.Format == keeps || k.Free {
			left = append(left, k)
			continue
		}
		values, whole := leaves(k.Text)
		if !whole {
			left = append(left, k)
		}
		for _, f := range values {
			local := f.Key[strings.LastIndexByte(f.Key, '.')+1:]
			said := slices.ContainsFunc(fields, func(o nav.Field) bool {
				return o.Value == f.Value && (o.Key == f.Key || o.Key == local || o.Key == SensorKeys[local])
			})
			if !said {
				fields = append(fields, f)
			}
		}
	}
	return left, fields
}

// leaves gives the texts and attributes of a piece of XML by their paths, and says whether that is all of it.
func leaves(piece string) (out []nav.Field, whole bool) {
	in := xml.NewDecoder(strings.NewReader(piece))
	in.Strict = false
	var path []string
	var texts []string
	inner := false // the element that ends had others in it
	whole = true
	for {
		tok, err := in.Token()
		if err != nil {
			return out, whole && len(path) == 0
		}
		switch tok := tok.(type) {
		case xml.StartElement:
			if len(path) > 0 && strings.TrimSpace(texts[len(texts)-1]) != "" {
				whole = false // texts between elements
			}
			path, texts, inner = append(path, tok.Name.Local), append(texts, ""), false
			for _, a := range tok.Attr {
				if a.Name.Space != "xmlns" && a.Name.Local != "xmlns" && a.Value != "" {
					out = append(out, nav.Field{Key: strings.Join(path, ".") + "." + a.Name.Local, Value: a.Value})
				}
			}
		case xml.CharData:
			if len(texts) > 0 {
				texts[len(texts)-1] += string(tok)
			}
		case xml.EndElement:
			n := len(path) - 1
			if n < 0 {
				return out, false
			}
			text := strings.TrimSpace(texts[n])
			if inner && text != "" {
				whole = false
			}
			if text != "" && !inner {
				out = append(out, nav.Field{Key: strings.Join(path, "."), Value: text})
			}
			path, texts, inner = path[:n], texts[:n], true
		}
	}
}
