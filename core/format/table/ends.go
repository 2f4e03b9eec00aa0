package table

import (
	"slices"
	"strings"

	"gyrolith/core/format/headings"
	"gyrolith/core/nav"
)

// ends finds the columns of lines whose start and end stand in one row, by titles such as Start Lat and End Lon: those
// of the start become the columns of positions and times, those of the end are kept apart.
func (f *found) findEnds(given map[int]bool) {
	if f.has("lat") || f.has("position") {
		return
	}
	start, end := map[string][]int{}, map[string][]int{}
	for i, t := range f.titles {
		if given[i] {
			continue
		}
		if holds, isEnd := headings.EndOf(t); isEnd {
			end[holds] = append(end[holds], i)
		} else if holds != "" {
			start[holds] = append(start[holds], i)
		}
	}
	for _, words := range [][]string{{"lat", "lon"}, {"easting", "northing"}, {"position"}} {
		both := !slices.ContainsFunc(words, func(w string) bool { return len(start[w]) != 1 || len(end[w]) != 1 })
		if !both {
			continue
		}
		f.ends = map[string][]int{}
		for _, w := range append(words, "time") {
			if len(start[w]) == 1 && len(end[w]) == 1 && (w != "time" || !f.has(w)) {
				f.at[w], f.ends[w] = start[w], end[w]
			}
		}
		return
	}
}

// toEnd makes a line of the row that was read last, the last waypoint of the dataset, from its start to its end.
func (r *reader) toEnd(w *nav.Waypoint, cells [][]byte, line int) {
	at := *r
	at.found = &found{header: r.header, titles: r.titles, at: r.ends}
	one := func(word string) int {
		if columns := r.ends[word]; len(columns) > 0 {
			return columns[0]
		}
		return -1
	}
	at.lat, at.lon, at.position, at.east, at.north = one("lat"), one("lon"), one("position"), one("easting"),
		one("northing")
	at.when, at.parts = r.ends["time"], nil
	end := nav.Waypoint{}
	if !at.place(&end, cells) {
		if raw, why, used := at.placeSlowly(&end, cells, line); why != "" || !used {
			r.d.Rejects = append(r.d.Rejects, nav.Reject{Kind: nav.Tracks, Name: w.Name, Raw: raw,
				Why: "the end of the line " + why, Line: line})
			r.drop()
			return
		}
	}
	if len(at.when) > 0 {
		at.setTime(&end, cells, line)
	}
	t := nav.Track{Item: w.Item, Segments: []nav.Segment{{Points: []nav.Point{w.Point, end.Point}}}}
	t.Fields = slices.Concat(w.Fields, end.Fields)
	r.d.Tracks = append(r.d.Tracks, t)
	r.drop()
}

// drop takes the row that was read last off the waypoints.
func (r *reader) drop() { r.d.Waypoints = r.d.Waypoints[:len(r.d.Waypoints)-1] }

// sayEnds says where lines end.
func (r *reader) sayEnds() string {
	if len(r.ends) == 0 {
		return ""
	}
	var parts []string
	for _, w := range []string{"lat", "lon", "position", "easting", "northing", "time"} {
		for _, i := range r.ends[w] {
			parts = append(parts, w+" from "+r.title(i))
		}
	}
	return "; each row is a line, whose end has " + strings.Join(parts, ", ")
}
