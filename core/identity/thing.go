// Package identity says what makes an item the one that it is, finds the same item in two datasets, and lists what is
// said of an item, property by property, so that two versions of it can be compared and joined.
package identity

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Thing is an item of any kind. One of the four is set.
type Thing struct {
	Kind     nav.Kind
	Item     *nav.Item
	Waypoint *nav.Waypoint
	Route    *nav.Route
	Track    *nav.Track
	Area     *nav.Area
}

// Things lists the items of one kind in their order. They are the dataset's own.
func Things(d *nav.Dataset, kind nav.Kind) (out []Thing) {
	switch kind {
	case nav.Waypoints:
		for i := range d.Waypoints {
			out = append(out, Thing{Kind: kind, Item: &d.Waypoints[i].Item, Waypoint: &d.Waypoints[i]})
		}
	case nav.Routes:
		for i := range d.Routes {
			out = append(out, Thing{Kind: kind, Item: &d.Routes[i].Item, Route: &d.Routes[i]})
		}
	case nav.Tracks:
		for i := range d.Tracks {
			out = append(out, Thing{Kind: kind, Item: &d.Tracks[i].Item, Track: &d.Tracks[i]})
		}
	case nav.Areas:
		for i := range d.Areas {
			out = append(out, Thing{Kind: kind, Item: &d.Areas[i].Item, Area: &d.Areas[i]})
		}
	}
	return
}

// All lists the items of all kinds, kind by kind.
func All(d *nav.Dataset) (out []Thing) {
	for _, kind := range nav.Kinds {
		out = append(out, Things(d, kind)...)
	}
	return
}

// AddTo adds a copy of the item to a dataset.
func (t *Thing) AddTo(d *nav.Dataset) {
	switch t.Kind {
	case nav.Waypoints:
		d.Waypoints = append(d.Waypoints, *t.Waypoint)
	case nav.Routes:
		d.Routes = append(d.Routes, *t.Route)
	case nav.Tracks:
		d.Tracks = append(d.Tracks, *t.Track)
	case nav.Areas:
		d.Areas = append(d.Areas, *t.Area)
	}
}

// Copy is a thing of its own, which may be changed without the dataset.
func (t Thing) Copy() Thing {
	d := &nav.Dataset{}
	t.AddTo(d)
	return Things(d, t.Kind)[0]
}

// Lines gives the positions: one for a waypoint, those of a route, of each segment, of each ring. Outlines go against
// the clock and holes with it, whichever way the source has them, but for those around a pole, which that tells apart.
func (t *Thing) Lines() [][]nav.Point {
	switch t.Kind {
	case nav.Waypoints:
		return [][]nav.Point{{t.Waypoint.Point}}
	case nav.Routes:
		return [][]nav.Point{t.Route.Line()}
	case nav.Tracks:
		var out [][]nav.Point
		for i := range t.Track.Segments {
			out = append(out, t.Track.Segments[i].Points)
		}
		return out
	}
	rings := slices.Clone(t.Area.Rings())
	for i, ring := range rings {
		if nav.Around(ring) == 0 && (shape.SignedArea(ring) < 0) == (i == 0) && len(ring) > 2 {
			rings[i] = slices.Clone(ring)
			slices.Reverse(rings[i][1:])
		}
	}
	return rings
}

// Points counts the positions.
func (t *Thing) Points() int {
	switch t.Kind {
	case nav.Waypoints:
		return 1
	case nav.Routes:
		return len(t.Route.Points)
	case nav.Tracks:
		return t.Track.Len()
	}
	return t.Area.Len()
}

// First gives the first position, if there is any.
func (t *Thing) First() (nav.Point, bool) {
	switch t.Kind {
	case nav.Waypoints:
		return t.Waypoint.Point, true
	case nav.Routes:
		if len(t.Route.Points) > 0 {
			return t.Route.Points[0].Point, true
		}
	case nav.Tracks:
		for i := range t.Track.Segments {
			if s := &t.Track.Segments[i]; len(s.Points) > 0 {
				return s.Points[0], true
			}
		}
	case nav.Areas:
		if len(t.Area.Outline) > 0 {
			return t.Area.Outline[0], true
		}
	}
	return nav.Point{}, false
}

// Times gives the first and the last time of a recording, in nanoseconds since 1970; ok is false without any.
func (t *Thing) Times() (first, last int64, ok bool) {
	see := func(p *nav.Point) {
		if !p.HasTime() {
			return
		}
		ns := p.UnixNano()
		if !ok || ns < first {
			first = ns
		}
		if !ok || ns > last {
			last = ns
		}
		ok = true
	}
	if t.Kind == nav.Waypoints {
		see(&t.Waypoint.Point)
	} else if t.Kind == nav.Tracks {
		for i := range t.Track.Segments {
			for j := range t.Track.Segments[i].Points {
				see(&t.Track.Segments[i].Points[j])
			}
		}
	}
	return
}

// Before identities that are not an item's own: made ones, and those of features, which hold within one file only.
const (
	made    = "made:"
	feature = "fid:"
)

// Own gives an identity if it is an item's own one; "" for one that was made.
func Own(id string) string {
	if strings.HasPrefix(id, made) {
		return ""
	}
	return id
}

// OfFeature is the identity that the number of a feature gives.
func OfFeature(layer string, number any) string {
	return fmt.Sprintf("%s%s/%v", feature, layer, number)
}

// Local says whether an identity holds within one file only.
func Local(id string) bool { return strings.HasPrefix(id, feature) }

// Of gives the identity of an item: its own, or one that is made from kind, group, name and place.
func Of(t *Thing) string {
	if t.Item.ID != "" {
		return t.Item.ID
	}
	p, _ := t.First()
	return Made(t.Kind, t.Item, &p)
}

// Made is the identity of an item that has none of its own: of kind, group, name and place (to 10⁻⁷ degrees).
func Made(kind nav.Kind, it *nav.Item, at *nav.Point) string {
	b := append(append(make([]byte, 0, 128), kind.One()...), 0)
	b = append(append(append(append(b, it.Group...), 0), it.Name...), 0)
	b = append(strconv.AppendFloat(b, at.Lat, 'f', 7, 64), 0)
	sum := sha256.Sum256(strconv.AppendFloat(b, at.Lon, 'f', 7, 64))
	return made + hex.EncodeToString(sum[:9])
}

// Unmake drops the made identities of items that still give them. Those of others lead to what the items were.
func Unmake(d *nav.Dataset) {
	has := [4]bool{}
	d.Each(func(kind nav.Kind, it *nav.Item) { has[kind] = has[kind] || strings.HasPrefix(it.ID, made) })
	for _, kind := range nav.Kinds {
		if !has[kind] {
			continue
		}
		for _, t := range Things(d, kind) {
			if p, _ := t.First(); strings.HasPrefix(t.Item.ID, made) && t.Item.ID == Made(kind, t.Item, &p) {
				t.Item.ID = ""
			}
		}
	}
}
