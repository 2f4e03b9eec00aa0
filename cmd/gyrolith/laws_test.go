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
	"testing"
	"time"
)

// Data moved in longitude, over the antimeridian and over Greenwich, or mirrored at the equator with the insides of
// rings kept, have the same lengths, counts, visits, orders and findings in every verb.
func TestMovedDataHaveTheSameAnswers(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := rand.New(rand.NewPCG(20260314, 1))
	for i, lat := range []int{-47_600_000, 3_000_000, 71_000_000, -86_500_000} {
		g := aGround(r, lat)
		f.put("data.csv", g.table(30_000_000, false, 0))
		want := f.answersOf("data.csv")
		for _, c := range []struct {
			east     int
			mirrored bool
		}{{180_000_000, false}, {-310_000, true}, {-310_000, false}, {179_400_000, true}}[i%2*2:][:2] {
			f.put("data.csv", g.table(c.east, c.mirrored, 0))
			got := f.answersOf("data.csv")
			for verb := range want {
				if all := differ("", want[verb], got[verb]); len(all) > 0 {
					t.Errorf("about %d, moved by %+v, %s: %s", lat, c, verb, strings.Join(all[:min(len(all), 5)], "\n\t"))
				}
			}
		}
	}
}

// Every verb says the same of every place and area, about a pole, in a band and in a hole too: --inside, tally --areas,
// dress, legs, near, and lay, whose grids lie in their areas.
func TestInsideIsOneQuestion(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := rand.New(rand.NewPCG(20260314, 2))
	for _, lat := range []int{-47_600_000, 80_000_000} {
		for _, east := range []int{-11_000_000, 179_700_000} {
			g := aGround(r, lat)
			g.routes, g.tracks = nil, nil
			const step = 3 // millionths of a degree: a leg that stays where it is
			for _, s := range g.waypoints {
				there := []spot{s, {s.lat + step, s.lon}}
				g.routes, g.tracks = append(g.routes, there), append(g.tracks, there)
			}
			f.put("data.csv", g.table(east, false, 0))
			says := map[string]map[string]bool{}
			say := func(verb, place, area string) {
				key := "place " + place + " and " + area
				if says[key] == nil {
					says[key] = map[string]bool{}
				}
				says[key][verb] = true
			}
			for i := range g.areas {
				area := fmt.Sprint("A", i)
				f.run("convert", "data.csv", "--take", "waypoints", "--inside", "data.csv:"+area, "-o", "in.csv", "--replace")
				for _, row := range strings.Split(f.get("in.csv"), "\n")[1:] {
					if name := strings.Split(row+",", ",")[1]; name != "" {
						say("--inside", name[1:], area)
					}
				}
				os.Remove(f.path("in.csv"))
				f.put("rules.toml", fmt.Sprintf("[[rule]]\nmatch = \"waypoints\"\ninside = %q\n[rule.set]\ngroup = \"in\"\n", area))
				for _, row := range strings.Split(f.must("dress", "data.csv", "--rules", "rules.toml", "--take", "waypoints",
					"--take", "areas", "-o", "-", "--write-as", "csv").out, "\n") {
					if cells := strings.Split(strings.TrimSpace(row), ","); cells[0] == "waypoint" && cells[len(cells)-1] == "in" {
						say("dress", cells[1][1:], area)
					}
				}
			}
			for _, v := range f.answer("tally", "data.csv", "--areas", "data.csv", "--json")["visits"].([]any) {
				v := v.(map[string]any)
				say("tally", v["name"].(string)[1:], v["area"].(string))
			}
			for _, h := range f.answer("near", "--to", "data.csv", "data.csv", "--take", "areas", "--most", "9",
				"--json")["near"].([]any) {
				h := h.(map[string]any)
				if of := h["of"].(string); of[0] == 'W' && h["inside"] == true {
					say("near", of[1:], h["name"].(string))
				}
			}
			var planned struct {
				Routes []struct {
					Route    string
					Findings []struct{ Near struct{ Name string } }
				}
			}
			json.Unmarshal([]byte(f.run("legs", "data.csv", "--keep-out", "areas", "--json").out), &planned)
			for _, route := range planned.Routes {
				for _, finding := range route.Findings {
					say("legs", route.Route[1:], finding.Near.Name)
				}
			}
			for key, by := range says {
				if len(by) != 5 {
					t.Errorf("about %d, moved by %d: %s: inside only by %v", lat, east, key, slices.Sorted(maps.Keys(by)))
				}
			}
			if len(says) < 20 {
				t.Errorf("only %d places are in areas", len(says))
			}
			for _, i := range []int{0, 1, map[bool]int{true: 2, false: 3}[lat > 0]} { // others reach around the earth
				area := fmt.Sprint("areas:A", i)
				f.must("lay", "grid", "--over", "data.csv", "--take", area, "--pattern", "random", "--count", "20", "--spacing",
					"1m", "-o", "grid.csv", "--replace")
				r := f.must("convert", "grid.csv", "--inside", "data.csv:"+area[6:], "-o", "in.csv", "--replace")
				if !strings.Contains(r.err, "20 waypoints") {
					t.Errorf("of 20 places that are laid in %s: %s", area, r.err)
				}
			}
		}
	}
}

// The order of inputs and of rows does not matter.
func TestOrderDoesNotMatter(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := rand.New(rand.NewPCG(20260314, 3))
	g := aGround(r, -47_600_000)
	byName := func(answer map[string]any) []string {
		var all []string
		var walk func(v any)
		walk = func(v any) {
			switch v := v.(type) {
			case map[string]any:
				if v["name"] != nil || v["route"] != nil && v["legs"] != nil || v["of"] != nil {
					b, _ := json.Marshal(v)
					all = append(all, string(b))
				}
				for _, member := range v {
					walk(member)
				}
			case []any:
				for _, one := range v {
					walk(one)
				}
			}
		}
		walk(answer)
		slices.Sort(all)
		return all
	}
	f.put("data.csv", g.table(0, false, 0))
	want := f.answersOf("data.csv")
	for _, from := range []int{1, 5} {
		f.put("data.csv", g.table(0, false, from))
		got := f.answersOf("data.csv")
		for verb := range want {
			a, b := byName(map[string]any{"": want[verb]}), byName(map[string]any{"": got[verb]})
			if !slices.Equal(a, b) {
				for i := range a {
					if i >= len(b) || a[i] != b[i] {
						t.Errorf("rows from the %dth on, %s: %.300s\nnow %.300s", from, verb, a[i], strings.Join(b[min(i, len(b)):], " "))
						break
					}
				}
			}
		}
	}
	// Inputs.
	for i, list := range [][]spot{g.tracks[0], g.tracks[1]} {
		one := &ground{tracks: [][]spot{list}}
		f.put(fmt.Sprintf("t%d.csv", i), strings.ReplaceAll(one.table(0, false, 0), "T0", fmt.Sprint("T", i)))
	}
	for _, args := range [][]string{{"tally"}, {"look"}} {
		a := f.answer(append(args, "t0.csv", "t1.csv", "--json")...)
		b := f.answer(append(args, "t1.csv", "t0.csv", "--json")...)
		if !slices.Equal(byName(a), byName(b)) {
			t.Errorf("%v depends on the order of its inputs:\n%v\n%v", args, a, b)
		}
	}
}

// Parts of a recording that is cut while it moves add up to the whole: its length, its moving, standing and gaps.
func TestPartsAddUp(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := rand.New(rand.NewPCG(20260314, 4))
	keys := []string{"elapsed_s", "moving_s", "standing_s", "gaps_s", "length_m"}
	for n := range 4 {
		g := aGround(r, -47_600_000)
		walk := g.tracks[0]
		for range 200 { // a halt in the middle, with the scatter of a receiver
			at := walk[60]
			walk = slices.Insert(walk, 61, spot{at.lat + int(r.NormFloat64()*8), at.lon + int(r.NormFloat64()*8)})
		}
		row := func(name string, from, to int) string {
			var b strings.Builder
			for k := from; k < to; k++ {
				fmt.Fprintf(&b, "%s,%s,%s,%s\n", degrees(walk[k].lat), degrees(walk[k].lon),
					lawStart.Add(time.Duration(k)*time.Second).Format(time.RFC3339), name)
			}
			return b.String()
		}
		head := "lat,lon,time,line\n"
		cut := []int{20, 40, 280, 300}[n] // while it moves
		f.put("whole.csv", head+row("whole", 0, len(walk)))
		f.put("parts.csv", head+row("first", 0, cut+1)+row("second", cut, len(walk)))
		whole := f.answer("tally", "whole.csv", "--line-by", "line", "--json")["total"].(map[string]any)
		parts := f.answer("tally", "parts.csv", "--line-by", "line", "--json")["total"].(map[string]any)
		for _, key := range keys {
			a, _ := whole[key].(float64)
			b, _ := parts[key].(float64)
			if math.Abs(a-b) > 3 { // two fixes at the ends of a halt, whose radius is by the scatter of each part
				t.Errorf("cut at %d: %s is %v whole and %v in parts", cut, key, a, b)
			}
		}
		if standing, _ := whole["standing_s"].(float64); standing < 150 {
			t.Errorf("the halt is %v s", standing)
		}
	}
}

// One clock and one measure give the same figures in any verb and output, and a table that is written and read again
// has the same data, to the digits printed.
func TestOneClockAndMeasure(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "counting.txt")
	f.must("clean", "walk.gpx", "-o", "plain.csv")
	heights := map[string]float64{"metric": 1, "nautical": 1, "flight": 0.3048}
	lengths := map[string]float64{"metric": 1000, "nautical": 1852, "flight": 1852}
	type fixed struct {
		lat, lon, height string
		at               time.Time
	}
	read := func(name string) (out []fixed) {
		lines := strings.Split(strings.TrimSpace(f.must("convert", name, "--take", "tracks", "-o", "-", "--write-as", "csv",
			"--columns", "lat,lon,height,time").out), "\n")
		for _, line := range lines[1:] {
			c := strings.Split(strings.TrimSpace(line), ",")
			at, err := time.Parse(time.RFC3339, c[3])
			if err != nil {
				t.Fatal(err)
			}
			out = append(out, fixed{c[0], c[1], c[2], at})
		}
		return
	}
	want := read("plain.csv")
	for system, one := range heights {
		for _, clock := range []string{"UTC", "+05:45", "Europe/Zurich"} {
			asked := []string{"--measure", system, "--clock", clock}
			for _, name := range []string{"back.csv", "back.xlsx"} {
				f.must(append([]string{"convert", "plain.csv", "-o", name, "--replace"}, asked...)...)
				got := read(name)
				if len(got) != len(want) {
					t.Fatalf("%s by %v: %d fixes of %d", name, asked, len(got), len(want))
				}
				for i := range want {
					var a, b float64
					fmt.Sscan(want[i].height, &a)
					fmt.Sscan(got[i].height, &b)
					if got[i].lat != want[i].lat || got[i].lon != want[i].lon || !got[i].at.Equal(want[i].at) ||
						math.Abs(a-b) > 0.051*one {
						t.Fatalf("%s by %v: fix %d is %v, not %v", name, asked, i, got[i], want[i])
					}
				}
			}
			// The same sums and times in a table, in JSON, in names and in a page.
			total := f.answer(append([]string{"tally", "plain.csv", "--json"}, asked...)...)["rows"].([]any)[0].(map[string]any)
			table := strings.Split(f.must(append([]string{"tally", "plain.csv", "--columns", "date,start,length", "-o", "-"},
				asked...)...).out, "\n")
			cells := strings.Split(strings.TrimSpace(table[1]), ",")
			var length float64
			fmt.Sscan(cells[2], &length)
			if cells[0] != total["date"] || cells[1] != total["start"] ||
				math.Abs(length*lengths[system]-total["length_m"].(float64)) > 0.51*lengths[system]/1000 {
				t.Errorf("tally by %v: %s and %v", asked, table[1], total)
			}
			looked := f.answer(append([]string{"look", "plain.csv", "--json"}, asked...)...)["files"].([]any)[0].(map[string]any)
			if looked["time"].([]any)[0] != total["start"] {
				t.Errorf("look by %v: %v, not %v", asked, looked["time"], total["start"])
			}
			f.must(append([]string{"dress", "plain.csv", "--match", "tracks", "--rename", "{date} {time} {length}", "-o",
				"{date} {time} {length}.gpx", "--replace"}, asked...)...)
			start := total["start"].(string)
			i := slices.IndexFunc(f.list(), func(name string) bool {
				return strings.HasPrefix(name, total["date"].(string)+" "+strings.ReplaceAll(start[11:19], ":", "."))
			})
			if i < 0 {
				t.Fatalf("by %v there is no file of %s: %v", asked, start, f.list())
			}
			made := f.list()[i]
			inside := strings.ReplaceAll(made[:len(made)-4], ".", ":") // as a name of a file has it
			inside = made[:10] + " " + inside[11:19] + made[19:len(made)-4]
			if !strings.Contains(f.get(made), "<name>"+inside+"</name>") {
				t.Errorf("by %v: %s does not have the name %s", asked, made, inside)
			}
			os.Remove(f.path(made))
			for _, p := range f.answer(append([]string{"when", start, "--along", "plain.csv", "--json"},
				asked...)...)["positions"].([]any) {
				if at := p.(map[string]any)["time"]; at != start {
					t.Errorf("when by %v: %v, not %s", asked, at, start)
				}
			}
		}
	}
}

// A verb, a folder of one file and a recipe give the same.
func TestThreeWaysAreOne(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := rand.New(rand.NewPCG(20260314, 5))
	for n, lat := range []int{-47_600_000, 64_000_000} {
		g := aGround(r, lat)
		f.put("in/data.csv", g.table(179_500_000, false, 0))
		for k, args := range [][]string{
			{"convert", "--inside", "in/data.csv:A1", "--clock", "+02:00", "--measure", "flight"},
			{"clean", "--thin-within", "3m"},
			{"recast", "--tracks-to", "routes", "--thin-within", "9m"},
			{"dress", "--match", "tracks", "--rename", "{file} {length} {date}", "--measure", "nautical", "--clock", "+11:00"},
			{"convert", "--take", "tracks"},
		} {
			for _, ext := range []string{"csv", "gpx", "geojson"} {
				way := fmt.Sprintf("%d-%d-%s", n, k, ext)
				one := fmt.Sprintf("one-%s/data.%s", way, ext)
				if err := os.MkdirAll(f.path("one-"+way), 0o777); err != nil {
					t.Fatal(err)
				}
				verb := append([]string{args[0], "in/data.csv", "-o", one}, args[1:]...)
				f.must(verb...)
				want := f.get(one)
				f.must(append([]string{args[0], "in", "-o", "folder-" + way + "/", "--write-as", ext}, args[1:]...)...)
				if got := f.get("folder-" + way + "/data." + ext); got != want {
					t.Errorf("%v: a folder gives other %s than a file", args, ext)
				}
				f.put("recipe-"+way+".toml", f.must(append(verb, "--as-recipe", "--replace")...).out)
				f.must("run", "recipe-"+way+".toml", "in/data.csv", "--into", "recipe-"+way)
				made := ""
				for _, name := range f.list() {
					if strings.HasPrefix(name, "recipe-"+way+"/") && strings.HasSuffix(name, "data."+ext) {
						made = name
					}
				}
				if made == "" || f.get(made) != want {
					t.Errorf("%v: a recipe gives other %s than a verb (%q)", args, ext, made)
				}
			}
		}
	}
}

// Areas are the same set of places after they went through any format, about a pole, in a band and across the
// antimeridian too; and lines have the same points, one at exactly 180 degrees among them.
func TestInsideThroughFormats(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := rand.New(rand.NewPCG(20260314, 6))
	g := aGround(r, 64_000_000)
	g.tracks = [][]spot{{{10_000_000, 179_900_000}, {10_100_000, 180_000_000}, {10_300_000, -179_900_000}}}
	g.routes = nil
	f.put("data.csv", strings.ReplaceAll(g.table(0, false, 0), ",180.000000,", ",-180.000000,"))
	f.put("moved.csv", g.table(179_800_000, false, 0))
	inside := func(name, of string, i int) string {
		f.run("convert", of, "--take", "waypoints", "--inside", fmt.Sprint(name, ":A", i), "-o", "in.csv", "--replace")
		out := ""
		if _, err := os.Stat(f.path("in.csv")); err == nil {
			for _, row := range strings.Split(f.get("in.csv"), "\n")[1:] {
				out += strings.Split(row+",", ",")[1] + " "
			}
		}
		os.Remove(f.path("in.csv"))
		return out
	}
	for _, of := range []string{"data.csv", "moved.csv"} {
		var want []string
		for i := range g.areas {
			want = append(want, inside(of, of, i))
		}
		for _, ext := range []string{"geojson", "gpkg", "kml", "kmz", "shp", "gpx", "fgb", "geoparquet", "gml", "xlsx"} {
			if of == "moved.csv" && ext == "kmz" {
				continue
			}
			name := "through." + ext
			f.must("convert", of, "--take", "areas", "-o", name, "--replace")
			for i := range g.areas {
				if got := inside(name, of, i); got != want[i] {
					t.Errorf("%s as %s: in A%d are %q, not %q", of, ext, i, got, want[i])
				}
			}
			f.must("convert", of, "--take", "tracks", "-o", "line."+ext, "--replace")
			line := f.look("line." + ext).Files[0]
			if line.Points != 3 || line.Tracks != 1 {
				t.Errorf("%s as %s: %d tracks of %d points, not one of 3", of, ext, line.Tracks, line.Points)
			}
		}
	}
}
