package rtz

import (
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/xmlwrite"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	version := opt.Version
	if own, ours := strings.CutPrefix(d.Meta.Version, versionPrefix); version == "" && ours {
		version = own // of the source
	}
	if version == "" {
		version = versions[0]
	}
	if !slices.Contains(versions, version) {
		return nil, fmt.Errorf("RTZ has no version %s: use rtz:1.0, rtz:1.1 or rtz:1.2", version)
	}
	switch n := len(d.Routes); {
	case n == 0:
		return nil, fmt.Errorf("an RTZ file holds one route, but there is none; recast makes routes from tracks and " +
			"waypoints")
	case n > 1:
		return nil, advice.Errorf(advice.ChooseOne, "an RTZ file holds one route, but there are %d (%s)", n, names(d.Routes))
	case len(d.Routes[0].Points) < 2:
		return nil, fmt.Errorf("an RTZ file holds a route of at least two points; %q has %d", d.Routes[0].Name,
			len(d.Routes[0].Points))
	}
	r := &d.Routes[0]
	w := xmlwrite.New(out)
	w.Open("route", "version", version, "xmlns", spaces+strings.ReplaceAll(version, ".", "/"))
	w.Line().Raw("<routeInfo").Attr("routeName", nameOr(r.Name, "Route"))
	attributes(w, r.Fields, "", infoKeys)
	kept(w, r.Kept, "routeInfo", "routeInfo")
	w.Open("waypoints")
	defaults(w, r)
	ids := idsOf(r)
	for i := range r.Points {
		point(w, &r.Points[i], ids[i])
	}
	fragments(w, r.Kept, "waypoints")
	w.End("waypoints")
	schedule(w, r, ids)
	extensions(w, r.Kept)
	w.End("route")
	done := &format.Written{}
	done.Add(nav.Routes, len(r.Points))
	tellRenumbered(r, ids, &done.Ledger)
	return done, w.Close()
}

func names(routes []nav.Route) string {
	var out []string
	for i := range routes {
		if i == 5 {
			out = append(out, "…")
			break
		}
		out = append(out, strconv.Quote(routes[i].Name))
	}
	return strings.Join(out, ", ")
}

func nameOr(name, other string) string {
	if name == "" {
		return other
	}
	return name
}

// attributes writes the fields that are attributes.
func attributes(w *xmlwrite.Writer, fields []nav.Field, prefix string, keys []string) {
	for _, k := range keys {
		if v, ok := nav.Get(fields, prefix+k); ok && valid(k, v) {
			w.Attr(k, v)
		}
	}
}

// kept ends a start tag, with what was kept of its inside.
func kept(w *xmlwrite.Writer, all []nav.Kept, where, element string) {
	if !hasKept(all, where) {
		w.Raw("/>\n")
		return
	}
	w.Raw(">\n")
	w.Indent(1)
	fragments(w, all, where)
	w.End(element)
}

func isKept(k *nav.Kept, where string) bool { return k.Format == "rtz" && k.Where == where }

func hasKept(all []nav.Kept, where string) bool {
	return slices.ContainsFunc(all, func(k nav.Kept) bool { return isKept(&k, where) })
}

// fragments writes what was kept of the inside of the current element.
func fragments(w *xmlwrite.Writer, all []nav.Kept, where string) {
	for i := range all {
		if isKept(&all[i], where) {
			fragment(w, &all[i])
		}
	}
}

func fragment(w *xmlwrite.Writer, k *nav.Kept) {
	var declare [][2]string
	for _, s := range k.Spaces {
		if s.Prefix == "" && strings.HasPrefix(s.URI, spaces) {
			continue // the document's own
		}
		declare = append(declare, [2]string{s.Prefix, s.URI})
	}
	w.Fragment(k.Text, declare)
}

func extensions(w *xmlwrite.Writer, all []nav.Kept) {
	if hasKept(all, "") {
		w.Open("extensions")
		fragments(w, all, "")
		w.End("extensions")
	}
}

func defaults(w *xmlwrite.Writer, r *nav.Route) {
	var leg bool
	inside := hasKept(r.Kept, "defaultWaypoint")
	own := inside
	for i := range r.Fields {
		if key, ok := strings.CutPrefix(r.Fields[i].Key, defaultPrefix); ok {
			own = true
			leg = leg || strings.HasPrefix(key, legPrefix)
		}
	}
	if !own {
		return
	}
	w.Line().Raw("<defaultWaypoint")
	attributes(w, r.Fields, defaultPrefix, []string{"radius"})
	if !leg && !inside {
		w.Raw("/>\n")
		return
	}
	w.Raw(">\n")
	w.Indent(1)
	if leg {
		w.Line().Raw("<leg")
		attributes(w, r.Fields, defaultPrefix+legPrefix, legKeys)
		w.Raw("/>\n")
	}
	fragments(w, r.Kept, "defaultWaypoint")
	w.End("defaultWaypoint")
}

// idsOf gives the numbers of the waypoints: their own where these are numbers and no two are the same.
func idsOf(r *nav.Route) []string {
	out := make([]string, len(r.Points))
	seen := map[string]bool{}
	for i := range r.Points {
		id, _ := nav.Get(r.Points[i].Fields, "id")
		if n, err := strconv.Atoi(id); err != nil || n < 0 || seen[id] {
			for j := range out {
				out[j] = strconv.Itoa(j + 1)
			}
			return out
		}
		seen[id] = true
		out[i] = id
	}
	return out
}

// tellRenumbered says how many points had numbers and got others.
func tellRenumbered(r *nav.Route, ids []string, l *nav.Ledger) {
	n := 0
	for i := range r.Points {
		if id, _ := nav.Get(r.Points[i].Fields, "id"); id != "" && id != ids[i] && valid("id", id) {
			n++
		}
	}
	if n > 0 {
		e := l.Lost(nav.Routes, r.Name, holds.FieldWord(holds.RoutePoint, "id"),
			"every point of an RTZ needs its own number, so all were renumbered", n)
		e.KindWord = holds.RoutePoint.String()
	}
}

func point(w *xmlwrite.Writer, p *nav.Waypoint, id string) {
	of := func(key string) string {
		v, _ := nav.Get(p.Fields, key)
		if !valid(key, v) {
			return ""
		}
		return v
	}
	w.Open("waypoint", "id", id, "revision", of("revision"), "name", p.Name, "radius", of("radius"))
	lat, lon := string(p.AppendLat(nil)), string(p.AppendLon(nil))
	if a, o, ok := format.Exact(&p.Point, p.Exact); ok {
		lat, lon = a, o
	}
	w.Line().Raw("<position").Attr("lat", lat).Attr("lon", lon).Raw("/>\n")
	leg := false
	for i := range p.Fields {
		leg = leg || known(&p.Fields[i], legPrefix)
	}
	if leg || hasKept(p.Kept, "leg") {
		w.Line().Raw("<leg")
		attributes(w, p.Fields, legPrefix, legKeys)
		kept(w, p.Kept, "leg", "leg")
	}
	fragments(w, p.Kept, "waypoint")
	extensions(w, p.Kept)
	w.End("waypoint")
}

// schedule writes the times of the points as a manual schedule, or a calculated one if they were read from such: the
// departure of the first, the arrivals of the others.
func schedule(w *xmlwrite.Writer, r *nav.Route, ids []string) {
	timed, word := false, "manual"
	for i := range r.Points {
		timed = timed || r.Points[i].HasTime()
		for _, f := range r.Points[i].Fields {
			if strings.HasPrefix(f.Key, "calculated ") {
				word = "calculated"
			}
			timed = timed || strings.HasPrefix(f.Key, word+" ")
		}
	}
	if !timed && !hasKept(r.Kept, "schedules") {
		return
	}
	w.Open("schedules")
	if timed {
		times(w, r, ids, word)
	}
	fragments(w, r.Kept, "schedules")
	w.End("schedules")
}

// leaves says whether the departure that stands beside a point's time says it, too, so that no arrival was given.
func leaves(p *nav.Waypoint, word string) bool {
	text, ok := nav.Get(p.Fields, word+" etd")
	if !ok {
		return false
	}
	ns, _, _, ok := instant.Parse([]byte(text), nil)
	return ok && ns-int64(nav.StayOf(p.Fields)) == p.UnixNano()
}

// times writes a schedule of manual or calculated times.
func times(w *xmlwrite.Writer, r *nav.Route, ids []string, word string) {
	name, _ := nav.Get(r.Fields, "schedule")
	w.Open("schedule", "id", "1", "name", name)
	w.Open(word)
	for i := range r.Points {
		p := &r.Points[i]
		w.Line().Raw("<scheduleElement").Attr("waypointId", ids[i])
		if p.HasTime() {
			key := "eta"
			if i == 0 {
				key = "etd"
			}
			if _, ok := nav.Get(p.Fields, word+" "+key); !ok && (i == 0 || !leaves(p, word)) {
				w.Attr(key, string(instant.Append(nil, p.UnixNano(), max(p.TimeMark(), instant.Seconds))))
			}
		}
		attributes(w, p.Fields, word+" ", timeKeys)
		w.Raw("/>\n")
	}
	w.End(word)
	fragments(w, r.Kept, inSchedule)
	w.End("schedule")
}
