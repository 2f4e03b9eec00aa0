package main

import (
	"encoding/csv"
	"encoding/json"
	"math"
	"os"
	"strings"
	"testing"
)

func TestRecast(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	r := f.must("recast", "planning.kmz", "--tracks-to", "routes", "--take", "tracks:Paths", "--take", "waypoints",
		"--thin-within", "20m", "-o", "routes.gpx")
	if !strings.Contains(r.err, "the route stays within") {
		t.Errorf("it is not said how far the route is off:\n%s", r.err)
	}
	if text := f.get("routes.gpx"); strings.Count(text, "<rte>") != 3 || strings.Contains(text, "<trk>") ||
		!strings.Contains(text, "<name>Sorrel Landing</name>\n   <sym>landing</sym>") &&
			!strings.Contains(text, "Sorrel Landing") {
		t.Errorf("routes.gpx:\n%s", text)
	}
	f.must("recast", "planning.kmz", "--areas-to", "tracks", "-o", "outlines.gpx")
	f.must("recast", "outlines.gpx", "--tracks-to", "areas", "--take", "tracks:Nesting*", "-o", "back.gpx")
	r = f.must("compare", "planning.kmz", "back.gpx", "--take", "areas", "--strict", "--not", "fill")
	if !strings.Contains(r.out, "no difference") {
		t.Errorf("outlines and back:\n%s", r.out)
	}
	f.must("recast", "walk.gpx", "--take", "tracks", "--split-at", "1km", "-o", "parts.gpx")
	if v := f.answer("look", "parts.gpx", "--json"); v["files"].([]any)[0].(map[string]any)["tracks"].(float64) < 5 {
		t.Error("a walk of many kilometres was not split")
	}
	f.refuses(2, "no conversion given", "recast", "planning.kmz", "-o", "x.gpx")
	f.refuses(2, `"rout" is not a kind`, "recast", "planning.kmz", "--tracks-to", "rout", "-o", "x.gpx")
	f.refuses(1, "the data have no routes", "recast", "planning.kmz", "--routes-to", "tracks", "-o", "x.gpx", "--quiet")
	f.refuses(1, "there is no waypoint", "recast", "planning.kmz", "--take", "waypoints:Landings", "--waypoints-to",
		"routes", "--order", "near", "--first", "Nowhere", "-o", "x.gpx", "--quiet")
	f.refuses(3, "refused by --strict", "recast", "walk.gpx", "--take", "tracks", "--until", "2026-03-14T06:00Z",
		"--tracks-to", "areas", "-o", "x.kml", "--strict", "--quiet")
	f.refuses(2, "is not a place to split at", "recast", "walk.gpx", "--split-at", "5", "-o", "x.gpx")
}

func TestDress(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "rules.toml")
	f.must("dress", "planning.kmz", "--match", "waypoints:*rock*", "--symbol", "hazard", "-o", "a.gpx")
	if n := strings.Count(f.get("a.gpx"), "<sym>hazard</sym>"); n != 20 {
		t.Errorf("%d hazards of 20", n)
	}
	r := f.must("dress", "planning.kmz", "--rules", "rules.toml", "-o", "b.kmz")
	if strings.Contains(r.err, "none") {
		t.Errorf("a rule of the example matches nothing:\n%s", r.err)
	}
	r = f.must("dress", "planning.kmz", "--match", "waypoints:Lenter*", "--symbol", "rock", "-o", "c.gpx")
	if !strings.Contains(r.err, `the nearest is waypoint "Lantern Head`) {
		t.Errorf("a rule that matches nothing:\n%s", r.err)
	}
	f.refuses(3, "1 rule matched nothing", "dress", "a.gpx", "--match", "waypoints:Lenter*", "--symbol", "rock", "-o",
		"x.kmz", "--strict", "--quiet")
	f.refuses(2, `did you mean "hazard"`, "dress", "planning.kmz", "--match", "areas", "--symbol", "hazrd", "-o", "x.gpx")
	f.refuses(2, "waypoints, tracks and areas: say with match", "dress", "planning.kmz", "--symbol", "hazard", "-o",
		"x.gpx")
	f.put("bad.toml", "[[rule]]\nmatch = \"areas\"\nset.colour = \"reddish\"\n")
	f.refuses(2, `bad.toml:3:14: "reddish" is not a colour`, "dress", "planning.kmz", "--rules", "bad.toml", "-o", "x.gpx")
	f.refuses(1, "no such file", "dress", "planning.kmz", "--rules", "none.toml", "-o", "x.gpx")
	if r := f.must("symbols", "awash"); !strings.Contains(r.out, "rock-awash") {
		t.Errorf("symbols:\n%s", r.out)
	}
}

type planned struct {
	Considered string
	Routes     []struct {
		Route string
		Legs  []struct {
			From, To string
			Arrive   string
			Distance float64 `json:"distance_m"`
			True     float64 `json:"course_true"`
			Magnetic float64 `json:"course_magnetic"`
			Nearest  *struct {
				Name     string
				Distance float64 `json:"distance_m"`
			}
		}
		Findings []struct{ Code, Name string }
	}
}

func (f *folder) legs(args ...string) planned {
	f.t.Helper()
	var p planned
	if err := json.Unmarshal([]byte(f.must(append([]string{"legs", "--json"}, args...)...).out), &p); err != nil {
		f.t.Fatal(err)
	}
	return p
}

func TestLegs(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "briefing.txt", "counting.txt")
	hazards := []string{"--hazards", "planning.kmz", "--hazards-take", "waypoints", "--clear", "150m"}
	p := f.legs(append([]string{"briefing.txt", "--depart", "2026-03-14T05:40Z"}, hazards...)...)
	// The figures of the first leg are GeographicLib's, the declination of 27.9° W the model's.
	leg := p.Routes[0].Legs[0]
	if math.Abs(leg.Distance-1020.5850983) > 0.01 || math.Abs(leg.True-325.332) > 0.001 ||
		math.Abs(leg.Magnetic-leg.True-27.95) > 0.1 {
		t.Errorf("%+v", leg)
	}
	if n := len(p.Routes[0].Findings); n != 1 || p.Routes[0].Findings[0].Name != "Lantern Head north" ||
		!strings.Contains(p.Considered, "not considered: land") {
		t.Errorf("%d findings, %s", n, p.Considered)
	}
	f.must("convert", "briefing.txt", "-o", "plain.gpx")
	f.refuses(3, "1 finding, refused", append([]string{"legs", "plain.gpx", "--strict", "--detour", "x.gpx"},
		hazards...)...)
	f.must(append([]string{"legs", "briefing.txt", "--detour", "run.gpx"}, hazards...)...)
	clear := f.legs(append([]string{"run.gpx"}, hazards...)...)
	if n := len(clear.Routes[0].Findings); n != 0 || len(clear.Routes[0].Legs) < 5 {
		t.Errorf("the detour has %d findings", n)
	}
	var names []string
	for _, l := range clear.Routes[0].Legs {
		if !strings.HasPrefix(l.From, "Detour") {
			names = append(names, l.From)
		}
	}
	if got := strings.Join(names, ", "); got != "Sorrel Landing, Lantern Gap, North Sound, Teeth Gate" {
		t.Errorf("the points of the plan became %s", got)
	}

	flight := f.legs("counting.txt", "--hazards", "planning.kmz", "--hazards-take", "areas", "--keep-out",
		"areas:Nesting*")
	if x := flight.Routes[0].Findings; len(x) != 1 || x[0].Code != "closure" || x[0].Name != "Nesting, Cairn Hill west" {
		t.Errorf("the flight: %+v", x)
	}
	f.must("legs", "counting.txt", "-o", "legs.csv", "--speed", "95kn", "--wind", "240/15kn", "--measure", "flight")
	rows, err := csv.NewReader(strings.NewReader(f.get("legs.csv"))).ReadAll()
	if err != nil || len(rows) != 5 || rows[0][6] != "leg distance nm" || rows[1][2] != "VC01" {
		t.Errorf("legs.csv: %v %v", rows, err)
	}
	if text := f.must("legs", "counting.txt", "--notation", "mgrs").out; !strings.Contains(text, "32G PN") {
		t.Errorf("in the military grid:\n%s", text)
	}
	f.refuses(5, "has no route (it has", "legs", "planning.kmz", "--quiet")
	f.refuses(1, "already exists", "legs", "counting.txt", "-o", "legs.csv")
	f.refuses(2, "--speed: a wind or a current needs", "legs", "counting.txt", "--wind", "240/15kn")
	f.refuses(2, "write 240/15kn", "legs", "counting.txt", "--wind", "15kn", "--speed", "95kn")
	f.refuses(2, "--clear: needs hazards", "legs", "counting.txt", "--clear", "60m")
	f.refuses(2, "--detour needs a clearance", "legs", "counting.txt", "--hazards", "planning.kmz", "--detour", "x.gpx")
	f.refuses(1, "names no area", "legs", "counting.txt", "--hazards", "planning.kmz", "--keep-out", "areas:Nothing",
		"--quiet")
	f.refuses(2, "not one of them", "legs", "counting.txt", "-o", "x.gpx")
	f.refuses(3, "outside the validity of the World Magnetic Model", "legs", "counting.txt", "--depart", "2035-01-01",
		"--strict",
		"--quiet")
}

func TestPastedPlans(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("briefing.txt")
	r := f.must("convert", "briefing.txt", "-o", "run.gpx")
	if !strings.Contains(r.err, `"VELDRIN FIR BDY"`) || !strings.Contains(r.err, "the latitude has 61.0 minutes") ||
		strings.Count(f.get("run.gpx"), "<rtept") != 5 {
		t.Errorf("%s", r.err)
	}
	f.refuses(3, "61.0 minutes", "convert", "briefing.txt", "-o", "x.gpx", "--strict", "--quiet")
	f.must("convert", "briefing.txt", "--list", "-o", "list.gpx")
	if n := strings.Count(f.get("list.gpx"), "<wpt"); n != 5 {
		t.Errorf("%d waypoints", n)
	}
	f.put("fixes.txt", "SOREL 47.2S 11.1E\nSOREL 40N 11E\n")
	f.put("flight.txt", "N0120F085 47S011E DCT SOREL UL607 4730S01112E\n")
	f.must("convert", "flight.txt", "--fixes", "fixes.txt", "-o", "flight.geojson")
	if text := f.get("flight.geojson"); !strings.Contains(text, "[11.10000000,-47.20000000,2590.8]") {
		t.Errorf("the fix near the line was not taken:\n%s", text)
	}
	f.put("letter.txt", "We left 47.5 S 11.3 E in the morning and had a quiet run.\nAt 47.6 S 11.3 E we stopped, and "+
		"everyone was happy again.\n")
	f.refuses(1, "not in a recognised format", "convert", "letter.txt", "-o", "x.gpx")
	f.must("convert", "letter.txt", "--read-as", "plan", "-o", "letter.gpx")
	f.refuses(2, "there is no format \"plan\" to write", "convert", "briefing.txt", "--write-as", "plan", "-o", "x")
}

// The table that is printed says what it was held against first, and has a line for each leg with what was asked for.
func TestLegTable(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "counting.txt")
	r := f.must("legs", "counting.txt", "--quiet")
	if !strings.HasPrefix(r.out, "no hazards were given") || !strings.Contains(r.out, "declination 2") ||
		strings.Contains(r.out, "arrive") {
		t.Errorf("%s", r.out)
	}
	r = f.must("legs", "counting.txt", "--quiet", "--speed", "95kn", "--wind", "240/15kn", "--depart",
		"2026-03-14T23:58Z", "--measure", "flight", "--clock", "+02:00")
	for _, want := range []string{"heading true", "ground", "02:05:45", "+200 ft", "VC05"} {
		if !strings.Contains(r.out, want) {
			t.Errorf("no %q in\n%s", want, r.out)
		}
	}
	still := f.must("legs", "counting.txt", "--quiet", "--speed", "95kn").out
	if strings.Contains(still, "heading true") {
		t.Errorf("without drift there is nothing to steer:\n%s", still)
	}
	east := f.legs("counting.txt", "--declination", "10")
	if l := east.Routes[0].Legs[0]; math.Abs(l.True-l.Magnetic-10) > 1e-9 {
		t.Errorf("10 degrees east: %v and %v", l.True, l.Magnetic)
	}
	west := f.legs("counting.txt", "--declination", "-10")
	if l := west.Routes[0].Legs[0]; math.Abs(l.Magnetic-l.True-10) > 1e-9 {
		t.Errorf("10 degrees west: %v and %v", l.True, l.Magnetic)
	}
	great, rhumb := f.legs("counting.txt"), f.legs("counting.txt", "--rhumb")
	if a, b := great.Routes[0].Legs[0], rhumb.Routes[0].Legs[0]; a.Distance >= b.Distance || b.Distance-a.Distance > 1 ||
		a.True == b.True {
		t.Errorf("the rhumb line is %v m on %v, the shortest %v m on %v", b.Distance, b.True, a.Distance, a.True)
	}
	// What blows stronger than one flies is a finding, and gives no times.
	r = f.run("legs", "counting.txt", "--speed", "10kn", "--wind", "010/40kn", "--strict", "--quiet")
	if r.status != 3 || !strings.Contains(r.out, "the course can't be kept") {
		t.Errorf("status %d\n%s", r.status, r.out)
	}
	// Areas of the hazards are hazards: the one that is crossed is a finding, those below the flight are told about.
	told := f.must("legs", "counting.txt", "--hazards", "planning.kmz", "--hazards-take", "areas", "--clear", "200m",
		"--quiet").out
	if strings.Count(told, "finding:") != 1 || !strings.Contains(told, "finding: leg 1") ||
		!strings.Contains(told, "note: leg 2") {
		t.Errorf("%s", told)
	}
	f.refuses(3, "1 finding, refused", "legs", "counting.txt", "--hazards", "planning.kmz", "--hazards-take", "areas",
		"--strict")
	f.must("legs", "counting.txt", "-o", "legs.json")
	if text := f.get("legs.json"); !strings.Contains(text, `"considered"`) || !strings.Contains(text, `"VC05"`) {
		t.Errorf("%s", text)
	}
}

// Recast's answers hold on the demo data: a pace with heights takes longer than one on the level, and a join loses no
// point.
func TestTimesAndJoins(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.putTerrain()
	f.must("elevate", "planning.kmz", "--take", "tracks:Paths", "--terrain", "terrain", "--fill-voids", "-o",
		"paths.gpx", "--quiet")
	span := func(args ...string) string {
		f.must(append([]string{"recast", "paths.gpx", "--take", "tracks:Landing to*", "--depart", "2026-03-14T06:00Z",
			"--speed", "4km/h", "-o", "timed.gpx", "--replace", "--quiet"}, args...)...)
		v := f.answer("look", "timed.gpx", "--json")
		return v["files"].([]any)[0].(map[string]any)["time"].([]any)[1].(string)
	}
	climb, level := span(), span("--level")
	if climb <= level || !strings.HasPrefix(level, "2026-03-14T06:57") {
		t.Errorf("it arrives at %s with heights, at %s without", climb, level)
	}
	f.must("recast", "paths.gpx", "--join", "--name", "All", "-o", "one.gpx")
	v := f.answer("look", "one.gpx", "--json")["files"].([]any)[0].(map[string]any)
	if v["tracks"] != 1.0 || v["points"].(float64) < 106 {
		t.Errorf("joined: %v tracks of %v points", v["tracks"], v["points"])
	}
	f.must("recast", "one.gpx", "--reverse", "-o", "back.gpx")
	f.must("recast", "back.gpx", "--reverse", "-o", "again.gpx")
	if r := f.must("compare", "one.gpx", "again.gpx"); !strings.Contains(r.out, "no difference") {
		t.Errorf("reversed twice:\n%s", r.out)
	}
}

// Lines and patterns are laid, drawn and checked as any other route.
func TestLay(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "counting.txt")
	r := f.must("lay", "lines", "--over", "planning.kmz", "--spacing", "100m", "--heading", "040",
		"--turn", "80m", "--speed", "95kn", "-o", "lines.gpx")
	if !strings.Contains(r.err, "9 lines, heading 040") || !strings.Contains(r.err, "wrote lines.gpx (gpx): 3 routes") {
		t.Errorf("%s", r.err)
	}
	f.must("legs", "lines.gpx", "--hazards", "planning.kmz", "--clear", "50m")
	f.must("lay", "expanding-square", "--datum", "47.5 S 11.2 E", "--spacing", "1nm", "--legs", "10", "-o", "square.kml")
	f.must("lay", "points", "counting.txt", "--spacing", "1km", "-o", "points.csv")
	f.refuses(2, "name a pattern", "lay")
	f.refuses(2, `no "spiral" to lay`, "lay", "spiral", "-o", "x.gpx")
	f.refuses(2, "the distance between lines is missing", "lay", "lines", "--over", "planning.kmz", "-o", "x.gpx")
	f.refuses(2, "name a file that has some", "lay", "lines", "--spacing", "1km", "-o", "x.gpx")
	f.refuses(2, "no datum", "lay", "sector", "--radius", "1nm", "-o", "x.gpx")
	f.refuses(5, "holds no areas", "lay", "lines", "counting.txt", "--spacing", "1km", "-o", "x.gpx")
	f.refuses(1, "already exists", "lay", "points", "counting.txt", "--spacing", "1km", "-o", "points.csv")
}

// The log of a recipe is held against the same as that of the verb, and refuses the same.
func TestLegsInARecipe(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "counting.txt")
	const step = "[[output]]\ndo = \"legs\"\nfile = \"log.json\"\nhazards = \"planning.kmz\"\n" +
		"declination = -28\n" // that of the day is another a second later
	f.put("good.toml", step+"keep-out = [\"areas:Nesting*\"]\n")
	f.put("bad.toml", step+"keep-out = [\"areas:Nothing\"]\n")
	f.must("legs", "counting.txt", "--hazards", "planning.kmz", "--keep-out", "areas:Nesting*",
		"--declination=-28", "-o", "log.json")
	f.must("run", "good.toml", "counting.txt", "--into", "logs")
	if hand, recipe := f.get("log.json"), f.get("logs/log.json"); hand != recipe ||
		!strings.Contains(hand, "3 to keep out of") {
		t.Errorf("by hand\n%.200s\nby recipe\n%.200s", hand, recipe)
	}
	f.put("near.toml", "[[output]]\ndo = \"legs\"\nfile = \"near.csv\"\nhazards = \"planning.kmz\"\nclear = \"5km\"\n")
	refused := f.run("run", "near.toml", "counting.txt", "--into", "strict", "--strict")
	if _, err := os.Stat(f.path("strict/near.csv")); err == nil || refused.status != 3 ||
		!strings.Contains(refused.err, ", refused by --strict") {
		t.Errorf("a log with something against it: status %d, written: %v\n%s", refused.status, err == nil, refused.err)
	}
	if r := f.must("run", "near.toml", "counting.txt", "--into", "strict"); !strings.Contains(r.err, "finding: route") ||
		f.get("strict/near.csv") == "" {
		t.Errorf("findings are not told: %s", r.err)
	}
	r := f.run("run", "bad.toml", "counting.txt", "--into", "other")
	_, err := os.Stat(f.path("other/log.json"))
	if r.status != 1 || !strings.Contains(r.out+r.err, "names no area") || err == nil {
		t.Errorf("status %d, %v: %s%s", r.status, err, r.out, r.err)
	}
}
