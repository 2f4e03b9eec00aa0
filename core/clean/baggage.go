package clean

import "gyrolith/core/nav"

// Baggage is the word of this fault.
const Baggage Fault = "baggage"

var baggage = fault{
	word:  Baggage,
	help:  "extensions, fields and links that simple units can't handle",
	found: "extensions, fields and links",
	done:  "removed",
	count: "pieces of baggage",
	last:  func(_ *Step, d *nav.Dataset) *Result { return dropBaggage(d) },
}

// dropBaggage takes out what simple units choke on: extensions, fields, links, and the values of single points.
func dropBaggage(d *nav.Dataset) *Result {
	out := &Result{}
	strip := func(kind nav.Kind, item *nav.Item, n int) {
		n += len(item.Fields) + len(item.Kept) + len(item.Links)
		item.Fields, item.Kept, item.Links = nil, nil, nil
		out.add(Row{Fault: Baggage, Kind: kind, Item: item.Name, Count: n, Text: "fields, links and extensions"})
	}
	for i := range d.Waypoints {
		strip(nav.Waypoints, &d.Waypoints[i].Item, 0)
	}
	for i := range d.Routes {
		r, n := &d.Routes[i], 0
		for j := range r.Points {
			p := &r.Points[j]
			n += len(p.Fields) + len(p.Kept) + len(p.Links)
			p.Fields, p.Kept, p.Links = nil, nil, nil
		}
		strip(nav.Routes, &r.Item, n)
	}
	for i := range d.Tracks {
		t, n := &d.Tracks[i], 0
		for j := range t.Segments {
			n += t.Segments[j].DropDetails() + len(t.Segments[j].Kept)
			t.Segments[j].Kept = nil
		}
		strip(nav.Tracks, &t.Item, n)
	}
	for i := range d.Areas {
		strip(nav.Areas, &d.Areas[i].Item, 0)
	}
	d.Meta.Kept, d.Meta.Attachments = nil, nil
	return out
}
