package unit

import (
	"math"
	"strconv"
	"strings"
	"unicode"

	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

// naming gives the items of one fitting their names.
type naming struct {
	*Fitted
	profile *Profile
	namers  map[nav.Kind]*Namer
	all     *Namer          // of the kinds whose names differ from one another
	fixes   map[fix]string  // the names of waypoints and of points of routes
	places  map[fix]string  // the names that the unit has at places
	next    map[partOf]int  // how many parts of an item have their names
	others  map[string]bool // the names of all points of the data, as they are compared
}

// partOf is an item that may be in parts.
type partOf struct {
	kind nav.Kind
	id   string
}

// fix is a name at a place, in units of 10⁻⁷ degrees.
type fix struct {
	name     string
	lat, lon int64
}

func fixAt(name string, p *nav.Point) fix {
	const perDegree = 1e7
	return fix{name, int64(math.Round(p.Lat * perDegree)), int64(math.Round(p.Lon * perDegree))}
}

// name brings the names to the unit's characters and length, different from one another within a kind, or over all.
// What is on the unit already keeps its name. A route's point gets the name of the waypoint that it is, so that the
// unit finds the two to be one. Descriptions get the unit's characters and length as well.
func (f *Fitted) name(p *Profile) {
	n := &naming{Fitted: f, profile: p, namers: map[nav.Kind]*Namer{}, all: NewNamer(p.TextOf(nav.Waypoints)),
		fixes: map[fix]string{}, places: map[fix]string{}, next: map[partOf]int{}, others: map[string]bool{}}
	points := n.ofPoints(nil)
	for _, name := range f.source {
		n.others[points.key(name)] = true
	}
	points.others = n.others
	for _, t := range f.there.Taken {
		if t.Fix && p.Text.Unique != "all" {
			continue
		}
		namer := n.of(t.Kind)
		namer.Take(t.Name)
		if t.Kind == nav.Waypoints {
			n.fixes[fixAt(namer.Plain(t.Name), &t.At)] = t.Name
			n.places[fixAt("", &t.At)] = t.Name
		}
	}
	f.Data.Each(func(kind nav.Kind, item *nav.Item) {
		if len(f.there.Given[item.ID]) == 0 {
			n.of(kind).Learn(item.Name)
		}
	})
	for i := range f.Data.Routes {
		for j := range f.Data.Routes[i].Points {
			n.ofPoints(nil).Learn(f.Data.Routes[i].Points[j].Name)
		}
	}
	f.Data.Each(func(kind nav.Kind, item *nav.Item) {
		for _, name := range f.there.Given[item.ID] {
			n.of(kind).Take(name)
		}
	})
	for i := range f.Data.Waypoints {
		w := &f.Data.Waypoints[i]
		plain := n.of(nav.Waypoints).Plain(w.Name)
		n.item(nav.Waypoints, &w.Item)
		if at := fixAt(plain, &w.Point); n.fixes[at] == "" {
			n.fixes[at] = w.Name
		}
	}
	f.Data.Each(func(kind nav.Kind, item *nav.Item) {
		if kind != nav.Waypoints {
			n.item(kind, item)
		}
	})
	for i := range f.Data.Routes {
		n.points(&f.Data.Routes[i])
	}
}

// of gives the namer of a kind.
func (n *naming) of(kind nav.Kind) *Namer {
	if n.profile.Text.Unique == "all" && n.profile.Of(kind).Text == nil {
		return n.all
	}
	if n.namers[kind] == nil {
		n.namers[kind] = NewNamer(n.profile.TextOf(kind))
	}
	return n.namers[kind]
}

// ofPoints gives the namer of the points of a route: that of the waypoints where one name is one place, else the
// route's own.
func (n *naming) ofPoints(own *Namer) *Namer {
	if own == nil || n.profile.Text.Unique == "all" {
		return n.of(nav.Waypoints)
	}
	return own
}

// item names one item, and fits its group and description.
func (n *naming) item(kind nav.Kind, item *nav.Item) {
	n.group(kind, item, n.profile)
	old := item.Name
	given, part := n.there.Given[item.ID], partOf{kind, item.ID}
	if i := n.next[part]; item.ID != "" && i < len(given) {
		item.Name, n.next[part] = given[i], i+1
	} else {
		item.Name = n.of(kind).Fit(old, thing(kind, item))
		n.original(item, old, n.of(kind))
	}
	if item.Name != old {
		n.Ledger.Changed(kind, old, "name", old, item.Name, "")
	}
	n.note(kind, item, n.profile)
}

// thing is the word for what an item is, of which a name is made where its own can't be shown.
func thing(kind nav.Kind, item *nav.Item) string {
	if word := symbol.Meaning(item.Style.Symbol); word != "" {
		return word
	}
	return kind.One()
}

// original puts a name of which nothing can be shown in front of the description, where the unit shows descriptions.
func (n *naming) original(item *nav.Item, old string, namer *Namer) {
	old = strings.TrimSpace(strings.Map(func(r rune) rune {
		if unicode.IsPrint(r) {
			return r
		}
		return -1
	}, old))
	if old == "" || namer.Plain(old) != "" || !n.profile.ShowsA("description") {
		return
	}
	if item.Desc != "" {
		old += ": "
	}
	item.Desc = old + item.Desc
}

// points names the points of a route.
func (n *naming) points(r *nav.Route) {
	own := NewNamer(n.profile.TextOf(nav.Waypoints))
	for j := range r.Points {
		own.Learn(r.Points[j].Name)
	}
	own.others = n.others
	namer := n.ofPoints(own)
	for j := range r.Points {
		w := &r.Points[j]
		old := w.Name
		name := old
		if name == "" {
			name = strconv.Itoa(j + 1)
		}
		at := fixAt(namer.Plain(name), &w.Point)
		if w.Name = n.fixes[at]; w.Name == "" {
			w.Name = n.marked(at)
		}
		known := w.Name != ""
		if !known {
			if old == "" && namer.reserved(namer.key(name)) { // another point of the data has it
				w.Name = namer.numbered("point", false)
			} else {
				w.Name = namer.Fit(name, "point")
			}
			if namer != own {
				n.fixes[at] = w.Name
			}
		}
		if w.Name != old && old != "" && !known {
			n.Ledger.Changed(nav.Routes, r.Name, "point name", old, w.Name, "")
		}
		n.note(nav.Routes, &w.Item, n.profile)
	}
}

// marked finds the name that the unit has at a place, if it is the plain one with a mark that told it from another.
func (n *naming) marked(at fix) string {
	there := n.places[fix{"", at.lat, at.lon}]
	const sure = 3 // letters that both begin with
	if len(at.name) >= sure && len(there) >= sure && strings.EqualFold(at.name[:sure], there[:sure]) {
		return there
	}
	return ""
}
