package all_test

import (
	"fmt"
	"math/rand/v2"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/format/holds"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// awkward are texts that formats have been known to change.
var awkward = []string{
	"Mark",
	" padded ",
	"1e5",
	"007",
	"=cmd",
	"it's",
	"'=x",
	"a\nb",
	`quote " ' < & >`,
	"Nørre Ås 深 😀",
	"-5",
	"12.50",
	"true",
	"null",
	"2026-03-14",
	"tab\tbed",
	"50%",
	"a/b",
	"semi;colon, comma",
}

// fieldKeys are keys that formats use themselves, or take for something else.
var fieldKeys = []string{"depth", "observer", "name", "description", "group", "kind", "symbol", "type", "comment",
	"Notes", "ele", "time", "date", "id", "lat", "line", "speed", "floor", "leg geometryType", "colour", "x", "fid",
	"segment", "ns"}

// generator makes datasets in which some properties are used.
type generator struct {
	*rand.Rand
	plain bool // texts and keys are the first ones of their lists
	far   bool // lines and areas cross the antimeridian
	n     int
}

func (g *generator) text() string {
	if g.plain {
		return "Plain words"
	}
	return awkward[g.IntN(len(awkward))]
}

func (g *generator) field() nav.Field {
	key := fieldKeys[0]
	if !g.plain {
		key = fieldKeys[g.IntN(len(fieldKeys))]
	}
	if key == "depth" {
		return nav.Field{Key: key, Value: "12.5", Literal: true}
	}
	if key == "floor" {
		return nav.Field{Key: key, Value: "GND"}
	}
	if key == "leg geometryType" {
		return nav.Field{Key: key, Value: "Loxodrome"}
	}
	return nav.Field{Key: key, Value: g.text()}
}

var epoch = time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC)

// point is a place apart from all others.
func (g *generator) point() nav.Point {
	g.n++
	lon := 11.3
	if g.far {
		lon = 179.975
	}
	p := nav.At(-47.6+float64(g.n)*0.01, lon+float64(g.n%7)*0.013)
	p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(6), decimal.PrecisionOf(6)
	return p
}

// base is a dataset of one item a kind, and two waypoints, with names and nothing else.
func (g *generator) base() *nav.Dataset {
	d := &nav.Dataset{}
	for i := range 2 {
		d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: fmt.Sprintf("ROCK%d", i+1)}, Point: g.point()})
	}
	r := nav.Route{Item: nav.Item{Name: "RUN"}}
	for i := range 3 {
		r.Points = append(r.Points, nav.Waypoint{Item: nav.Item{Name: fmt.Sprintf("FIX%d", i+1)}, Point: g.point()})
	}
	d.Routes = append(d.Routes, r)
	t := nav.Track{Item: nav.Item{Name: "WAKE"}, Segments: []nav.Segment{{}}}
	for range 4 {
		t.Segments[0].Points = append(t.Segments[0].Points, g.point())
	}
	d.Tracks = append(d.Tracks, t)
	d.Areas = append(d.Areas, nav.Area{Item: nav.Item{Name: "CLOSURE"}, Outline: g.ring(0.01)})
	return d
}

func (g *generator) ring(size float64) []nav.Point {
	c := g.point()
	out := make([]nav.Point, 4)
	for i := range out {
		out[i] = nav.At(c.Lat+size*[]float64{0, 0, 1, 1}[i], c.Lon+size*[]float64{0, 1, 1, 0}[i])
		out[i].LatPrecision, out[i].LonPrecision = decimal.PrecisionOf(6), decimal.PrecisionOf(6)
	}
	return out
}

// give sets one property of an item; it says whether it is one of items.
func (g *generator) give(it *nav.Item, p holds.Property) bool {
	st := &it.Style
	switch p {
	case holds.ID:
		g.n++
		it.ID = fmt.Sprintf([]string{"m%d", "%d", "Marks/%d", "a b%d"}[g.IntN(4)], g.n)
	case holds.Name:
		it.Name = g.text()
	case holds.Comment:
		it.Comment = g.text()
	case holds.Description:
		it.Desc = g.text()
	case holds.Source:
		it.Source = g.text()
	case holds.Type:
		it.Type = g.text()
	case holds.Number:
		it.Number = []string{"7", "12a"}[g.IntN(2)]
	case holds.Group:
		it.Group = "Season/North"
	case holds.Links:
		it.Links = append(it.Links, nav.Link{Href: "https://veldrin.example/a?b=1&c=2"})
	case holds.LinkTexts:
		it.Links = append(it.Links, nav.Link{Href: "https://veldrin.example/n", Text: g.text(), Type: "text/html"})
	case holds.Symbol:
		st.Symbol = []string{"hazard", "rock", "Blue Flag"}[g.IntN(3)]
	case holds.Icon:
		st.Icon = "https://veldrin.example/one.png"
	case holds.IconScale:
		st.IconScale = 1.25
	case holds.Colour:
		st.Colour = nav.Colour{R: 200, G: 16, B: 46, A: []uint8{255, 128}[g.IntN(2)], Set: true}
	case holds.Width:
		st.Width = 2.5
	case holds.Fill:
		st.Fill = nav.Colour{R: 1, G: 2, B: 3, A: 85, Set: true}
	case holds.Outline:
		st.NoFill, st.NoOutline = g.IntN(2) == 0, true
	case holds.Fields:
		it.Fields = append(it.Fields, g.field())
		if !g.plain {
			it.Fields = append(it.Fields, g.field())
		}
	case holds.FieldTypes:
		it.Fields = append(it.Fields, nav.Field{Key: "count", Value: []string{"12", "true", "[1,2]", "null"}[g.IntN(4)],
			Literal: true})
	case holds.Details:
		it.Kept = append(it.Kept, nav.Kept{Format: "another", Text: "<x/>"})
	case holds.Parts:
		it.Whole = &nav.Whole{}
	default:
		return false
	}
	return true
}

// fix sets one property of a position; it says whether it is one of positions.
func (g *generator) fix(p *nav.Point, prop holds.Property) bool {
	switch prop {
	case holds.Height:
		p.SetHeight(12.5+float64(g.IntN(3)), decimal.PrecisionOf(1), nav.DatumUnstated)
	case holds.HeightReference:
		p.SetHeight(-3.25, decimal.PrecisionOf(2), []nav.VerticalDatum{nav.MeanSeaLevel, nav.AboveEllipsoid,
			nav.PressureLevel}[g.IntN(3)])
	case holds.Time:
		g.n++
		p.SetTime(epoch.Add(time.Duration(g.n)*time.Second+time.Duration(g.IntN(3))*250*time.Millisecond).UnixNano(),
			instant.Seconds+3)
	case holds.TimePrecision:
		p.SetTime(epoch.Truncate(24*time.Hour).UnixNano(), instant.Day)
		if g.IntN(3) == 0 {
			p.SetTime(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).UnixNano(), instant.Year)
		}
	default:
		return false
	}
	return true
}

// fixAll gives every point of a line a property, as recordings have heights and times, half of the time.
func (g *generator) fixAll(points []nav.Point, p holds.Property) bool {
	if g.IntN(2) == 0 || !g.fix(&points[0], p) {
		return false
	}
	for i := range points {
		g.fix(&points[i], p)
	}
	return true
}

// set uses a property at a place; it says whether it knows how.
func (g *generator) set(d *nav.Dataset, at holds.Place, p holds.Property) bool {
	switch at {
	case holds.Waypoint:
		if p == holds.Parts {
			whole := &nav.Whole{}
			d.Waypoints[0].Whole, d.Waypoints[1].Whole = whole, whole
			if g.IntN(2) == 0 {
				d.Waypoints[1].Item = d.Waypoints[0].Item
			}
			return true
		}
		w := &d.Waypoints[g.IntN(2)]
		return g.give(&w.Item, p) || g.fix(&w.Point, p)
	case holds.Route:
		switch p {
		case holds.Empty:
			d.Routes = append(d.Routes, nav.Route{Item: nav.Item{Name: "NOTHING"}})
			return true
		case holds.OnePoint:
			d.Routes[0].Points = d.Routes[0].Points[:1]
			return true
		case holds.Parts:
			d.Routes[0].Whole = &nav.Whole{}
			return true
		}
		return g.give(&d.Routes[0].Item, p)
	case holds.RoutePoint:
		if points := d.Routes[0].Points; g.IntN(2) == 0 && g.fix(&points[0].Point, p) { // of every point
			for i := range points {
				g.fix(&points[i].Point, p)
			}
			return true
		}
		w := &d.Routes[0].Points[g.IntN(len(d.Routes[0].Points))]
		return p == holds.Parts || g.give(&w.Item, p) || g.fix(&w.Point, p)
	case holds.Track:
		return g.setTrack(d, p)
	case holds.TrackPoint:
		return g.setTrackPoint(&d.Tracks[0].Segments[0], p)
	case holds.Area:
		return g.setArea(d, p)
	}
	return g.setFile(&d.Meta, p)
}

func (g *generator) setTrack(d *nav.Dataset, p holds.Property) bool {
	t := &d.Tracks[0]
	switch p {
	case holds.Empty:
		d.Tracks = append(d.Tracks, nav.Track{Item: nav.Item{Name: "NOTHING"}})
	case holds.OnePoint:
		t.Segments = append(t.Segments, nav.Segment{Points: []nav.Point{g.point()}})
	case holds.Segments:
		t.Segments = append(t.Segments, nav.Segment{Points: []nav.Point{g.point(), g.point(), g.point()}})
	case holds.Parts:
		t.Whole = &nav.Whole{}
	default:
		return g.give(&t.Item, p)
	}
	return true
}

func (g *generator) setTrackPoint(s *nav.Segment, p holds.Property) bool {
	if g.fixAll(s.Points, p) {
		return true
	}
	q := &s.Points[g.IntN(len(s.Points))]
	if g.fix(q, p) || p == holds.Parts {
		return true
	}
	d := nav.Detail{}
	if old := s.Detail(q); old != nil {
		d = *old
	}
	value := func(key, value string) bool {
		d.Values = append(d.Values[:len(d.Values):len(d.Values)], nav.Field{Key: key, Value: value, Literal: true})
		return true
	}
	done := false
	switch p {
	case holds.Speed:
		done = value("speed", "3.5")
	case holds.Course:
		done = value("course", "271.5")
	case holds.FixQuality:
		done = value("hdop", "0.9") && value("sat", "9")
	case holds.Readings:
		done = value("temperature", "8.5")
	case holds.Details:
		d.Kept = append(d.Kept, nav.Kept{Format: "another", Text: "<x/>"})
		done = true
	default:
		item := nav.Item{}
		if d.Item != nil {
			item = *d.Item
		}
		done = g.give(&item, p)
		d.Values = append(d.Values[:len(d.Values):len(d.Values)], item.Fields...)
		item.Fields = nil
		if holds.ItemUses(&item) != 0 {
			d.Item = &item
		}
	}
	s.Attach(q, d)
	return done
}

func (g *generator) setArea(d *nav.Dataset, p holds.Property) bool {
	a := &d.Areas[0]
	switch p {
	case holds.Empty:
		d.Areas = append(d.Areas, nav.Area{Item: nav.Item{Name: "NOTHING"}})
	case holds.Holes:
		c := a.Outline[0]
		for _, at := range []float64{0.002, 0.006} {
			h := []nav.Point{nav.At(c.Lat+at, c.Lon+at), nav.At(c.Lat+at, c.Lon+at+0.001), nav.At(c.Lat+at+0.001, c.Lon+at)}
			a.Holes = append(a.Holes, h)
		}
	case holds.Parts:
		whole := &nav.Whole{}
		a.Whole = whole
		b := nav.Area{Item: a.Item, Outline: g.ring(0.02)}
		d.Areas = append([]nav.Area{*a, b}, d.Areas[1:]...)
	case holds.Height, holds.HeightReference, holds.Time, holds.TimePrecision:
		every := g.IntN(2) == 0
		for i := range a.Outline {
			if every || i == 0 {
				g.fix(&a.Outline[i], p)
			}
		}
	default:
		return g.give(&a.Item, p)
	}
	return true
}

func (g *generator) setFile(m *nav.Meta, p holds.Property) bool {
	switch p {
	case holds.Title:
		m.Name = g.text()
	case holds.Description:
		m.Desc = g.text()
	case holds.Author:
		m.Author, m.AuthorEmail = g.text(), "survey@veldrin.example"
		m.AuthorLinks = []nav.Link{{Href: "https://veldrin.example/us"}}
	case holds.Copyright:
		m.Licence = "https://veldrin.example/licence"
		if g.IntN(2) == 0 {
			m.Copyright, m.CopyrightYear = "Veldrin Survey", "2026"
		}
	case holds.Keywords:
		m.Keywords = "moss, rock"
	case holds.Links:
		m.Links = append(m.Links, nav.Link{Href: "https://veldrin.example/"})
	case holds.LinkTexts:
		m.Links = append(m.Links, nav.Link{Href: "https://veldrin.example/t", Text: g.text()})
	case holds.Attachments:
		m.Attachments = append(m.Attachments, nav.Attachment{Name: "files/rock.png", Data: []byte("picture")})
	case holds.Details:
		m.Kept = append(m.Kept, nav.Kept{Format: "another", Text: "<x/>"})
	default:
		return g.fix(&m.Time, p)
	}
	return true
}

// random uses each property with a chance of one in so many.
func (g *generator) random(in int) *nav.Dataset {
	d := g.base()
	for _, at := range holds.AllPlaces {
		for p := range holds.Of(at).Each() {
			if g.IntN(in) == 0 {
				g.set(d, at, p)
			}
		}
	}
	return d
}
