package format

import (
	"fmt"

	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// LoseKept notes in the ledger what was kept from other formats and can't be written in this one.
func LoseKept(l *nav.Ledger, d *nav.Dataset, name, title string) {
	why := "kept from another format; " + title + " has no place for it"
	lose := func(kind nav.Kind, item string, kept []nav.Kept) {
		n := 0
		for i := range kept {
			if kept[i].Format != name {
				n++
			}
		}
		if n > 0 {
			l.Lost(kind, item, "details", why, n)
		}
	}
	n := 0
	for i := range d.Meta.Kept {
		if d.Meta.Kept[i].Format != name {
			n++
		}
	}
	if n > 0 {
		*l = append(*l, nav.Entry{KindWord: "file", What: "details", Why: why, Count: n, Loss: true})
	}
	d.Each(func(kind nav.Kind, item *nav.Item) { lose(kind, item.Name, item.Kept) })
	for i := range d.Routes {
		for j := range d.Routes[i].Points {
			lose(nav.Routes, d.Routes[i].Name, d.Routes[i].Points[j].Kept)
		}
	}
	for i := range d.Tracks {
		for j := range d.Tracks[i].Segments {
			seg := &d.Tracks[i].Segments[j]
			lose(nav.Tracks, d.Tracks[i].Name, seg.Kept)
			for k := range seg.Details {
				lose(nav.Tracks, d.Tracks[i].Name, seg.Details[k].Kept)
			}
		}
	}
}

// LoseReferences notes, item by item, the heights whose reference a format can't tell.
func LoseReferences(l *nav.Ledger, d *nav.Dataset, title string, canSay func(nav.VerticalDatum) bool) {
	count := func(kind nav.Kind, name string, each func(func(*nav.Point))) {
		var n [4]int
		each(func(p *nav.Point) {
			if p.HasHeight() {
				n[p.VerticalDatum()]++
			}
		})
		for over, n := range n {
			if o := nav.VerticalDatum(over); n > 0 && o != nav.DatumUnstated && !canSay(o) {
				l.Lost(kind, name, "height reference",
					"heights above "+o.String()+" are written as they are; "+title+" can't say above what", n)
			}
		}
	}
	for i := range d.Waypoints {
		if w := &d.Waypoints[i]; w.HasHeight() && w.VerticalDatum() != nav.DatumUnstated {
			count(nav.Waypoints, w.Name, func(f func(*nav.Point)) { f(&w.Point) })
		}
	}
	for i := range d.Routes {
		count(nav.Routes, d.Routes[i].Name, func(f func(*nav.Point)) {
			for j := range d.Routes[i].Points {
				f(&d.Routes[i].Points[j].Point)
			}
		})
	}
	line := func(f func(*nav.Point), points []nav.Point) {
		for i := range points {
			f(&points[i])
		}
	}
	for i := range d.Tracks {
		count(nav.Tracks, d.Tracks[i].Name, func(f func(*nav.Point)) {
			for _, s := range d.Tracks[i].Segments {
				line(f, s.Points)
			}
		})
	}
	for i := range d.Areas {
		count(nav.Areas, d.Areas[i].Name, func(f func(*nav.Point)) {
			for _, ring := range d.Areas[i].Rings() {
				line(f, ring)
			}
		})
	}
}

// LoseEmpty notes the routes and tracks without any point, which a format can't hold.
func LoseEmpty(l *nav.Ledger, d *nav.Dataset, title string) {
	lose := func(kind nav.Kind, name string) {
		l.Lost(kind, name, nav.Property("empty "+kind.One()), title+" can't hold a "+kind.One()+" without points", 1)
	}
	for i := range d.Routes {
		if len(d.Routes[i].Points) == 0 {
			lose(nav.Routes, d.Routes[i].Name)
		}
	}
	for i := range d.Tracks {
		if d.Tracks[i].Len() == 0 {
			lose(nav.Tracks, d.Tracks[i].Name)
		}
	}
}

// NoteReach notes how many points lie beyond the reach of a coordinate system, and can't be written, and how many
// outside of the area that it is made for.
func NoteReach(l *nav.Ledger, s *crs.System, beyond, outside int) {
	if beyond > 0 {
		*l = append(*l, nav.Entry{KindWord: "point", What: "positions", Why: fmt.Sprintf("beyond the reach of %v", s),
			Count: beyond, Loss: true})
	}
	if outside > 0 {
		*l = append(*l, nav.Entry{KindWord: "point", What: "positions outside of the system's area",
			Why: fmt.Sprintf("%v is made for %s; they are written all the same, less exactly", s, s.Area.Name), Count: outside,
			Loss: true, Asked: true})
	}
}
