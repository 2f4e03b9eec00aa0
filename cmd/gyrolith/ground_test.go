package main

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"time"
)

// spot is a place in millionths of a degree.
type spot struct{ lat, lon int }

func degrees(millionths int) string { return fmt.Sprintf("%.6f", float64(millionths)/1e6) }

// moved gives the spot so far east; mirrored at the equator where that is asked for.
func (s spot) moved(east int, mirrored bool) spot {
	const turn = 360_000_000
	s.lon = ((s.lon+east+turn/2)%turn+turn)%turn - turn/2
	if mirrored {
		s.lat = -s.lat
	}
	return s
}

// ground is made-up data: recordings, routes, waypoints and areas in one region, which may be one around a pole.
type ground struct {
	waypoints []spot
	routes    [][]spot
	tracks    [][]spot // a fix a second
	areas     [][][]spot
}

// aGround makes data up about a latitude.
func aGround(r *rand.Rand, lat int) *ground {
	g := &ground{}
	near := func(far float64) spot {
		sin, cos := math.Sincos(2 * math.Pi * r.Float64())
		d := far * (0.2 + 0.8*r.Float64()) * 1e6
		wide := math.Max(math.Cos(float64(lat)/1e6*math.Pi/180), 0.05)
		return spot{lat + int(d*sin), int(d * cos / wide)}
	}
	for range 12 {
		g.waypoints = append(g.waypoints, near(2))
	}
	for range 4 {
		g.routes = append(g.routes, []spot{near(2), near(2), near(2)})
	}
	for range 2 { // walks at about 1.5 m a second, with the scatter of a receiver
		at, heading := near(0.5), 2*math.Pi*r.Float64()
		x, y := float64(at.lat), float64(at.lon)
		var track []spot
		for range 120 {
			heading += r.NormFloat64() / 10
			sin, cos := math.Sincos(heading)
			x, y = x+13.5*cos, y+13.5*sin/math.Cos(float64(lat)/1e6*math.Pi/180)
			track = append(track, spot{int(x + r.NormFloat64()*3), int(y + r.NormFloat64()*3)})
		}
		g.tracks = append(g.tracks, track)
	}
	star := func(middle spot, size float64) (ring []spot) {
		n := 4 + r.IntN(5)
		wide := math.Max(math.Cos(float64(middle.lat)/1e6*math.Pi/180), 0.05)
		for k := range n {
			sin, cos := math.Sincos(2 * math.Pi * float64(k) / float64(n))
			d := size * (0.4 + 0.6*r.Float64()) * 1e6
			ring = append(ring, spot{middle.lat + int(d*sin), middle.lon + int(d*cos/wide)})
		}
		return
	}
	girdle := func(lat int, east bool) (ring []spot) {
		for k := range 7 {
			ring = append(ring, spot{lat + r.IntN(600_000) - 300_000, k * 360_000_000 / 7}.moved(0, false))
		}
		if !east {
			slices.Reverse(ring)
		}
		return
	}
	g.areas = append(g.areas,
		[][]spot{star(spot{lat, 0}, 2), star(spot{lat, 0}, 0.3)},
		[][]spot{star(near(1), 1)},
		[][]spot{girdle(lat+800_000, true)},                              // all to the north
		[][]spot{girdle(lat-500_000, false)},                             // all to the south
		[][]spot{girdle(lat-900_000, true), girdle(lat+1_000_000, true)}, // a band
		[][]spot{{{lat - 700_000, -80_000_000}, {lat - 700_000, 0}, {lat - 700_000, 80_000_000}, {lat + 900_000, 80_000_000},
			{lat + 900_000, 0}, {lat + 900_000, -80_000_000}}})
	return g
}

var lawStart = time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)

// table writes the data as one table, moved and perhaps mirrored; mirrored rings are turned round, so that their inside
// stays to the left. From gives the row at which each list begins.
func (g *ground) table(east int, mirrored bool, from int) string {
	var b strings.Builder
	b.WriteString("kind,name,lat,lon,time,line,segment\n")
	row := func(kind, name string, s spot, at, line string, segment int) {
		s = s.moved(east, mirrored)
		part := ""
		if segment > 0 {
			part = fmt.Sprint(segment)
		}
		fmt.Fprintf(&b, "%s,%s,%s,%s,%s,%s,%s\n", kind, name, degrees(s.lat), degrees(s.lon), at, line, part)
	}
	for i := range g.waypoints {
		i := (i + from) % len(g.waypoints)
		row("waypoint", fmt.Sprint("W", i), g.waypoints[i], "", "", 0)
	}
	for i := range g.routes {
		i := (i + from) % len(g.routes)
		for k, s := range g.routes[i] {
			row("route", fmt.Sprintf("R%d-%d", i, k), s, "", fmt.Sprint("R", i), 1)
		}
	}
	for i := range g.tracks {
		i := (i + from) % len(g.tracks)
		for k, s := range g.tracks[i] {
			row("track", "", s, lawStart.Add(time.Duration(k+1000*i)*time.Second).Format(time.RFC3339), fmt.Sprint("T", i), 1)
		}
	}
	for i := range g.areas {
		i := (i + from) % len(g.areas)
		for k, ring := range g.areas[i] {
			ring = slices.Clone(ring)
			if mirrored {
				slices.Reverse(ring)
			}
			for _, s := range ring {
				row("area", "", s, "", fmt.Sprint("A", i), k+1)
			}
		}
	}
	return b.String()
}

// sameButFor are the members of answers that moving data changes: places, directions and what hangs on them.
func sameButFor(v any, leave map[string]bool) any {
	switch v := v.(type) {
	case map[string]any:
		for key := range v {
			if leave[key] {
				delete(v, key)
			} else {
				v[key] = sameButFor(v[key], leave)
			}
		}
	case []any:
		for i := range v {
			v[i] = sameButFor(v[i], leave)
		}
	}
	return v
}

// differ finds where two answers differ by more than rounding.
func differ(path string, a, b any) (out []string) {
	switch a := a.(type) {
	case map[string]any:
		other, _ := b.(map[string]any)
		for _, key := range slices.Sorted(maps.Keys(a)) {
			out = append(out, differ(path+"."+key, a[key], other[key])...)
		}
		for key := range other {
			if _, ok := a[key]; !ok {
				out = append(out, path+"."+key+" is there only once")
			}
		}
	case []any:
		other, _ := b.([]any)
		if len(a) != len(other) {
			return []string{fmt.Sprintf("%s: %d and %d", path, len(a), len(other))}
		}
		for i := range a {
			out = append(out, differ(fmt.Sprintf("%s[%d]", path, i), a[i], other[i])...)
		}
	case float64:
		other, ok := b.(float64)
		if !ok || math.Abs(a-other) > 0.002+1e-6*math.Abs(a) {
			out = append(out, fmt.Sprintf("%s: %v and %v", path, a, b))
		}
	default:
		if fmt.Sprint(a) != fmt.Sprint(b) {
			out = append(out, fmt.Sprintf("%s: %v and %v", path, a, b))
		}
	}
	return
}

// answersOf asks the verbs about a file of data, without what moving it changes.
func (f *folder) answersOf(name string) map[string]any {
	f.t.Helper()
	leave := map[string]bool{"file": true, "path": true, "lat": true, "lon": true, "bounds": true, "read_as": true,
		"course_true": true, "course_magnetic": true, "course_on_arrival": true, "declination": true, "heading_true": true,
		"heading_magnetic": true, "from_at": true, "to_at": true, "side": true, "in_at": true,
		"along_m": true, // of a foot that is far off: a millimetre less of distance is decimetres along
		"out_at":  true, "leg": true,
		"problems": true} // the last two tell of corners and rows by their order
	out := map[string]any{}
	for _, made := range f.list() {
		if strings.HasSuffix(made, "-"+name) {
			os.Remove(f.path(made))
		}
	}
	for verb, args := range map[string][]string{
		"look":  {"look", name},
		"tally": {"tally", name, "--areas", name},
		"legs": {"legs", name, "--keep-out", "areas:A0", "--keep-out", "areas:A2", "--hazards", name,
			"--hazards-take", "waypoints", "--clear", "2km"},
		"near":     {"near", "--to", name, name, "--within", "40km"},
		"clean":    {"clean", name, "-o", "clean-" + name},
		"inside":   {"convert", name, "--inside", name + ":A0", "-o", "inside-" + name},
		"step":     {"recast", name, "--routes-to", "tracks", "--step", "20km", "-o", "step-" + name},
		"thin":     {"recast", name, "--tracks-to", "routes", "--thin-within", "5m", "-o", "thin-" + name},
		"points":   {"lay", "points", name, "--take", "routes", "--spacing", "10km", "-o", "points-" + name},
		"corridor": {"lay", "corridor", name, "--take", "routes:R0", "--width", "20m", "-o", "wide-" + name},
	} {
		r := f.run(append(args, "--json")...)
		var answer any
		if r.status != 0 && r.status != 1 || json.Unmarshal([]byte(r.out), &answer) != nil {
			f.t.Fatalf("%s: status %d\n%s%s", strings.Join(args, " "), r.status, r.out, r.err)
		}
		out[verb] = []any{float64(r.status), sameButFor(answer, leave)}
	}
	return out
}
