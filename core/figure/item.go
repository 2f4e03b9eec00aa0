// Package figure says what there is to say of an item, and of each point of a line, by a word: how long it is, when it
// began, how fast it went. Tables, templates, rules and orders ask it, so that all of them say the same.
package figure

import (
	"math"
	"path"
	"strings"
	"time"

	"gyrolith/core/identity"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// Words are those that an item can be asked for; field:KEY gives the text of a field.
var Words = []string{"kind", "name", "group", "description", "comment", "type", "symbol", "colour", "item id", "file",
	"folder", "number", "lat", "lon", "height", "time", "points", "length", "duration", "first", "last", "size",
	"perimeter", "mean-speed", "ascent", "descent"}

// Item is an item with what is worked out of it, once it is asked for.
type Item struct {
	identity.Thing
	Data   *nav.Dataset
	Number int // its place in its kind, from 1

	sum   *nav.Summary
	moved *motion.Motion
}

// Items lists the items of all kinds, kind by kind.
func Items(d *nav.Dataset) (out []*Item) {
	for _, kind := range nav.Kinds {
		for i, t := range identity.Things(d, kind) {
			out = append(out, &Item{Thing: t, Data: d, Number: i + 1})
		}
	}
	return
}

// At gives an item of the data by its kind and its place in it, from 0.
func At(d *nav.Dataset, kind nav.Kind, i int) *Item {
	t := identity.Thing{Kind: kind}
	switch kind {
	case nav.Waypoints:
		t.Waypoint, t.Item = &d.Waypoints[i], &d.Waypoints[i].Item
	case nav.Routes:
		t.Route, t.Item = &d.Routes[i], &d.Routes[i].Item
	case nav.Tracks:
		t.Track, t.Item = &d.Tracks[i], &d.Tracks[i].Item
	default:
		t.Area, t.Item = &d.Areas[i], &d.Areas[i].Item
	}
	return &Item{Thing: t, Data: d, Number: i + 1}
}

// Summary adds the item up: of a recording the length is the way that was gone, without the scatter of halts.
func (it *Item) Summary() nav.Summary {
	if it.sum != nil {
		return *it.sum
	}
	var s nav.Summary
	switch it.Kind {
	case nav.Waypoints:
		s = it.Waypoint.Summary()
	case nav.Routes:
		s = it.Route.Summary()
	case nav.Areas:
		s = it.Area.Summary()
	default:
		if s = it.Track.Summary(); s.Times > 1 {
			it.moved = motion.Of(it.Track.Segments, motion.Limits{})
			s.Length = it.moved.Length()
		}
	}
	it.sum = &s
	return s
}

// Value gives what a word asks for: a text, a number (metres, metres a second, square metres, degrees), a span, or a
// point for its time; nil where it is not known.
func (it *Item) Value(word string) any {
	switch word {
	case "kind":
		return it.Kind.One()
	case "item id":
		return identity.Of(&it.Thing)
	case "file", "folder":
		at := strings.ReplaceAll(it.Item.From(it.Data), `\`, "/")
		switch {
		case at == "":
			return ""
		case word == "file":
			return strings.TrimSuffix(path.Base(at), path.Ext(at))
		}
		return path.Base(path.Dir(at))
	case "number":
		return float64(it.Number)
	case "lat", "lon":
		if p, ok := it.First(); ok && word == "lat" {
			return p.Lat
		} else if ok {
			return p.Lon
		}
		return nil
	case "name", "group", "description", "comment", "type", "symbol", "colour":
		return it.Item.Text(word)
	}
	if key, ok := strings.CutPrefix(word, "field:"); ok {
		v, _ := nav.Get(it.Item.Fields, key)
		return v
	}
	return it.summed(word)
}

// summed gives what a word asks for of all points together.
func (it *Item) summed(word string) any {
	s := it.Summary()
	line := it.Kind != nav.Waypoints
	switch {
	case word == "points" && line:
		return float64(s.Points)
	case word == "height" && s.Heights > 0:
		return s.Low
	case word == "length" && line && s.Points >= 2, word == "perimeter" && it.Kind == nav.Areas:
		return s.Length
	case word == "size" && it.Kind == nav.Areas && !math.IsNaN(s.Size):
		return s.Size
	case (word == "time" || word == "first") && s.Times > 0:
		return s.First
	case word == "last" && s.Times > 0:
		return s.Last
	case word == "duration" && s.Times > 1:
		return s.Last.Since(&s.First)
	case word == "ascent" && line && s.Heights > 1:
		return s.Ascent
	case word == "descent" && line && s.Heights > 1:
		return s.Descent
	case word == "mean-speed" && it.moved != nil:
		if v := it.moved.MeanSpeed(); !math.IsNaN(v) {
			return v
		}
	}
	return nil
}

// Begun is when the item begins, in a zone; the zero time where that is not known.
func (it *Item) Begun(zone *time.Location) time.Time {
	if p, ok := it.Value("first").(nav.Point); ok {
		return p.Time().In(zone)
	}
	return time.Time{}
}
