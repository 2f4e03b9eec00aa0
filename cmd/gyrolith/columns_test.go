package main

import (
	"encoding/csv"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"
)

// table runs a line that prints a table and gives its rows.
func (f *folder) table(args ...string) [][]string {
	f.t.Helper()
	return records(f.t, f.must(args...).out)
}

// records reads comma-separated rows.
func records(t testing.TB, text string) [][]string {
	t.Helper()
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil || len(rows) == 0 {
		t.Fatalf("%v: %s", err, text)
	}
	return rows
}

// trail is a walk at one speed to the north, one fix a second, uphill; 111.2 m of latitude are a thousandth of a
// degree.
func trail(name string, fixes int, start time.Time) string {
	var b strings.Builder
	b.WriteString(`<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><name>` + name + `</name><trkseg>`)
	for i := range fixes {
		fmt.Fprintf(&b, `<trkpt lat="%.6f" lon="11.300000"><ele>%.1f</ele><time>%s</time></trkpt>`, -47.6+float64(i)*2e-5,
			100+float64(i)*0.2, start.Add(time.Duration(i)*time.Second).Format(time.RFC3339))
	}
	return b.String() + "</trkseg></trk></gpx>"
}

var trailDay = time.Date(2026, 3, 14, 22, 30, 0, 0, time.UTC)

// Every table has the words that help lists, one measure means one thing, given titles stay, and old words go on.
func TestColumnsOfEveryTable(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "counting.txt", "walk.gpx")
	lines := map[string][]string{
		"convert": {"convert", "planning.kmz", "--take", "waypoints", "--write-as", "csv", "-o", "-"},
		"legs":    {"legs", "counting.txt", "--speed", "95kn", "-o", "-"},
		"tally":   {"tally", "walk.gpx", "-o", "-"},
		"when":    {"when", "06:20", "06:40", "--along", "walk.gpx", "-o", "-"},
		"near":    {"near", "Rock 9", "planning.kmz", "-o", "-"},
		"where":   {"where", "planning.kmz", "-o", "-"},
	}
	listed := f.must("help", "columns").out
	for verb, line := range lines {
		r := f.run(append(line, "--columns", "nme")...)
		if r.status != 2 || !strings.Contains(r.err, `"nme" is not a column`) {
			t.Errorf("%s: %s", verb, r.err)
		}
		_, names, _ := strings.Cut(lastLine(r.err), "there are ")
		for word := range strings.SplitSeq(strings.Replace(names, " and ", ", ", 1), ", ") {
			if !strings.Contains(word, ":") && !regexp.MustCompile(`(?m)\b`+regexp.QuoteMeta(word)+`\b`).MatchString(listed) {
				t.Errorf("help columns does not list %s of %s", word, verb)
			}
		}
		rows := f.table(append(line, "--columns", "blank:ATA,field:depth=Source", "--quiet")...)
		if len(rows) < 2 || rows[0][0] != "ATA" || rows[0][1] != "Source" || rows[1][0] != "" {
			t.Errorf("%s: %v", verb, rows)
		}
		if r := f.must(append(line, "--columns", "blank:ATA,field:nonsuch")...); !regexp.MustCompile(`nonsuch.* empty`).
			MatchString(r.err) || strings.Contains(r.err, "ATA") {
			t.Errorf("%s: no word of the one empty column that should not be:\n%s", verb, r.err)
		}
		f.refuses(2, "is not a measure for", append(line, "--columns", map[string]string{"near": "distance[kn]",
			"legs": "along[kn]", "tally": "length[s]",
			"where": "day-length[kn]"}[verb]+map[string]string{"convert": "height[kn]",
			"when": "height[kn]"}[verb])...)
	}
	metres := f.table(append(lines["legs"], "--columns", "leg-distance[m],leg-distance[nm],leg-time[min]=Minutes")...)
	m, _ := strconv.ParseFloat(metres[1][0], 64)
	nm, _ := strconv.ParseFloat(metres[1][1], 64)
	if strings.Join(metres[0], "|") != "leg distance m|leg distance nm|Minutes" || math.Abs(m/1852-nm) > 0.001 {
		t.Errorf("%v", metres[:2])
	}
	r := f.must(append(lines["legs"], "--columns", "distance,total,time,leg-time[min]=Time")...)
	for _, want := range []string{"the column distance is called leg-distance now", "time is called leg-time now",
		`the column "Time" is in min, which its title doesn't say`} {
		if !strings.Contains(r.err, want) {
			t.Errorf("no word of %q in\n%s", want, r.err)
		}
	}
}

// What is worked out is right, and a column is empty, with a note, where nothing is known.
func TestComputedColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("trail.gpx", trail("Trail", 120, trailDay))
	f.put("marks.csv", "name,lat,lon\nCamp 10,-47.6,11.3\nCamp 2,-47.61,11.3\n")
	rows := f.table("convert", "trail.gpx", "--write-as", "csv", "-o", "-", "--clock", "+02:00", "--columns",
		"time,speed[km/h],course,along[m],leg-distance[ft],elapsed[min],climb-rate,slope")
	if strings.Join(rows[0],
		"|") != "time|speed km/h|course °|along m|leg distance ft|elapsed min|climb rate m/s|slope %" {
		t.Errorf("%v", rows[0])
	}
	step := 2e-5 * 111180.0 // metres of latitude at 47.6°, to a thousandth
	for i, want := range []float64{0, step * 3.6, 0, step * 61, step / 0.3048, 61.0 / 60, 0.2, 100 * 0.2 / step} {
		if got, err := strconv.ParseFloat(rows[62][i], 64); i > 0 && (err != nil || math.Abs(got-want) > 0.01*want+0.02) {
			t.Errorf("%s: %s, want %.3f", rows[0][i], rows[62][i], want)
		}
	}
	if rows[1][1] != "" || rows[1][3] != "0" && rows[1][3] != "0.0" || rows[62][0] != "2026-03-15T00:31:01+02:00" {
		t.Errorf("%v\n%v", rows[1], rows[62])
	}
	r := f.must("convert", "marks.csv", "--columns", "name,speed,along,ascent", "-o", "empty.csv")
	if !strings.Contains(r.err, "empty") || f.get("empty.csv") == "" {
		t.Errorf("no word of empty columns:\n%s", r.err)
	}
	items := f.table("convert", "trail.gpx", "--write-as", "csv", "-o", "-", "--columns",
		"name,length[km],duration[min],mean-speed[km/h],ascent,descent")
	for i, want := range []float64{0, step * 119 / 1000, 119.0 / 60, step * 3.6, 23.8, 0} {
		if got, err := strconv.ParseFloat(items[1][i], 64); i > 0 && (err != nil || math.Abs(got-want) > 0.01*want+0.02) {
			t.Errorf("%s: %s, want %.3f", items[0][i], items[1][i], want)
		}
	}
	if sum := f.table("tally", "trail.gpx", "-o", "-", "--columns",
		"length[km],mean-speed[km/h],ascent"); !strings.HasPrefix(
		items[1][1], sum[1][0][:4]) || sum[1][2] != items[1][4] {
		t.Errorf("tally has %v, and convert %v", sum[1], items[1])
	}
}

// A stated speed goes before a computed one, and it is said which it is.
func TestStatedSpeeds(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("stated.csv", "kind,line,lat,lon,time,speed\ntrack,A,-47.6,11.3,2026-03-14T06:00:00Z,3\n"+
		"track,A,-47.599,11.3,2026-03-14T06:01:00Z,4\ntrack,B,-47.6,11.4,2026-03-14T06:00:00Z,\n"+
		"track,B,-47.599,11.4,2026-03-14T06:01:00Z,\n")
	r := f.must("convert", "stated.csv", "--write-as", "csv", "-o", "-", "--columns", "line,speed")
	rows := records(t, r.out)
	if rows[1][1] != "3" || rows[2][1] != "4" || rows[3][1] != "" || !strings.HasPrefix(rows[4][1], "1.85") {
		t.Errorf("%v", rows)
	}
	if !strings.Contains(r.err, "stated") || !strings.Contains(r.err, "computed from positions and times of the others") {
		t.Errorf("which is which?\n%s", r.err)
	}
}

// A table with worked-out columns is the same data when it is read again, in metres and in feet; one that was edited
// keeps what stands in it.
func TestTablesComeBack(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("trail.gpx", trail("Trail", 300, trailDay))
	const plain = "kind,name,line,segment,lat,lon,height,time"
	f.must("convert", "trail.gpx", "--columns", plain, "-o", "plain.csv")
	f.must("convert", "plain.csv", "-o", "plain.gpx")
	for i, more := range []string{"speed[kn],course,along[nm],leg-distance,elapsed[min],climb-rate,slope,blank:ATA",
		"along[ft],climb-rate[ft/min],speed[km/h]"} {
		for _, ext := range []string{"csv", "xlsx"} {
			name := fmt.Sprintf("more%d", i)
			f.must("convert", "trail.gpx", "--columns", plain+","+more, "-o", name+"."+ext)
			if r := f.must("convert", name+"."+ext, "-o", name+ext+".gpx"); !strings.Contains(r.err, "were left out: ") {
				t.Errorf("no word of the columns:\n%s", r.err)
			}
			if f.get(name+ext+".gpx") != f.get("plain.gpx") {
				t.Errorf("%s of %s is other data", more, ext)
			}
		}
	}
	edited := strings.Replace(f.get("more0.csv"), ",0.2,", ",7.5,", 1)
	f.put("edited.csv", edited)
	if f.must("convert", "edited.csv", "-o", "edited.gpx"); !strings.Contains(f.get("edited.gpx"), "7.5") {
		t.Error("what was edited is lost")
	}
}

// A table without positions says that they are not in it, and its other numbers are never taken for positions.
func TestTablesWithoutPositions(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("trail.gpx", trail("Trail", 30, trailDay))
	for _, columns := range []string{"time,height", "name,height[ft]=Elevation,speed[kn],along[nm]",
		"height,slope,elapsed", "time,height,field:hdop,blank:Remark"} {
		for _, name := range []string{"t.csv", "t.xlsx"} {
			r := f.must("convert", "trail.gpx", "--columns", columns, "-o", name, "--replace")
			if !strings.Contains(r.err, "no column for it was asked for") {
				t.Errorf("%s of %s: nothing is said of positions:\n%s", columns, name, r.err)
			}
			if strings.Contains(columns, "hdop") != strings.Contains(r.err, "nothing has this field") {
				t.Errorf("%s of %s: it isn't said that the field is empty:\n%s", columns, name, r.err)
			}
			r = f.run("look", name)
			if r.status != 1 || !strings.Contains(r.err, map[string]string{"t.csv": "is a table without positions",
				"t.xlsx": `sheet "Tracks": no columns with coordinates`}[name]) {
				t.Errorf("%s in %s: status %d\n%s%s", columns, name, r.status, r.out, r.err)
			}
		}
	}
}

// Items and rows go by words, numbers within names by their value, whatever order they came in.
func TestOrder(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("marks.csv",
		"name,lat,lon,depth\nCamp 10,-47.6,11.3,2\ncamp 2,-47.61,11.3,11\nCamp 2b,-47.62,11.3,\nAlp,-47.63,11.3,2\n")
	names := func(args ...string) string {
		var out []string
		for _, r := range f.table(append([]string{"convert", "marks.csv", "--write-as", "csv", "-o", "-", "--columns",
			"name"},
			args...)...)[1:] {
			out = append(out, r[0])
		}
		return strings.Join(out, ",")
	}
	for want, args := range map[string][]string{
		"Alp,camp 2,Camp 2b,Camp 10": {"--sort", "name"},
		"Camp 10,Camp 2b,camp 2,Alp": {"--sort-down", "name"},
		"Alp,Camp 10,camp 2,Camp 2b": {"--sort", "field:depth", "--sort", "name"},
		"camp 2,Camp 10,Alp,Camp 2b": {"--sort-down", "field:depth"},
	} {
		if got := names(args...); got != want {
			t.Errorf("%v: %s, want %s", args, got, want)
		}
	}
	f.must("clean", "marks.csv", "--sort", "name", "-o", "sorted.gpx")
	if text := f.get("sorted.gpx"); strings.Index(text, "camp 2<") > strings.Index(text, "Camp 10") {
		t.Error("clean writes in another order")
	}
	f.put("a.gpx", trail("Walk 10", 60, trailDay))
	f.put("b.gpx", trail("Walk 9", 90, trailDay.Add(time.Hour)))
	for verb, line := range map[string][]string{
		"tally": {"tally", "a.gpx", "b.gpx", "--columns", "name", "-o", "-"},
		"when":  {"when", "--every", "1h", "--along", "a.gpx", "--along", "b.gpx", "--columns", "track", "-o", "-"},
	} {
		rows := f.table(append(line, "--sort", map[string]string{"tally": "name", "when": "track"}[verb])...)
		if rows[1][0] != "Walk 9" || rows[len(rows)-1][0] != "Walk 10" {
			t.Errorf("%s: %v", verb, rows)
		}
	}
}

// A logbook has a row at each whole hour of the clock and at the ends; its distances add up to those of tally, and
// means of angles go over north.
func TestLogbook(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("trail.gpx", trail("Trail", 2*3600+1, trailDay))
	rows := f.table("when", "--every", "30min", "--along", "trail.gpx", "--clock", "+05:30", "--columns",
		"time,leg-distance[m],along[m],speed[m/s],course", "-o", "-")
	var times []string
	run := 0.0
	for i, r := range rows[1:] {
		times = append(times, r[0][11:16])
		v, _ := strconv.ParseFloat(r[1], 64)
		run += v
		if speed, _ := strconv.ParseFloat(r[3], 64); i > 0 && math.Abs(speed-2.22) > 0.03 {
			t.Errorf("row %d goes %s", i, r[3])
		}
	}
	if strings.Join(times, " ") != "04:00 04:30 05:00 05:30 06:00" {
		t.Errorf("at %v", times)
	}
	all, _ := strconv.ParseFloat(f.table("tally", "trail.gpx", "--columns", "length[m]", "-o", "-")[1][0], 64)
	if last, _ := strconv.ParseFloat(rows[len(rows)-1][2], 64); math.Abs(run-all) > 2 || math.Abs(last-all) > 1 {
		t.Errorf("%.1f m in rows, %.1f m in all, and tally has %.1f", run, last, all)
	}
	days := f.answer("when", "--every", "1h", "--along", "trail.gpx", "--json")["days"].([]any)
	if len(days) != 2 || days[0].(map[string]any)["date"] != "2026-03-14" {
		t.Errorf("%v", days)
	}
	f.put("wind.csv", "kind,line,lat,lon,time,wind direction,depth\n"+
		"track,A,-47.600,11.3,2026-03-14T06:00:00Z,0,0\ntrack,A,-47.599,11.3,2026-03-14T06:20:00Z,350,2\n"+
		"track,A,-47.598,11.3,2026-03-14T06:40:00Z,20,4\ntrack,A,-47.597,11.3,2026-03-14T07:00:00Z,350,6\n")
	mean := f.table("when", "--every", "1h", "--mean", "--along", "wind.csv", "--longest-gap", "1h", "--columns",
		"field:wind direction,field:depth", "-o", "-")
	if got, _ := strconv.ParseFloat(mean[2][0], 64); math.Abs(math.Remainder(got-0, 360)) > 0.5 || mean[2][1] != "4" {
		t.Errorf("the mean wind comes from %s, over a depth of %s", mean[2][0], mean[2][1])
	}
}

// dress renames by search, sets fields from templates, and names the area that holds an item; what would give several
// kinds one look needs a choice.
func TestDressBySearchAndPlace(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("marks.csv", "name,lat,lon,symbol\nrock 7,-47.605,11.305,skull\nRock 12,-47.7,11.3,skull\n")
	f.put("wards.geojson", `{"type":"FeatureCollection","features":[`+
		`{"type":"Feature","properties":{"name":"North"},"geometry":{"type":"Polygon","coordinates":[[[11.3,-47.61],`+
		`[11.31,-47.61],[11.31,-47.6],[11.3,-47.6],[11.3,-47.61]]]}},`+
		`{"type":"Feature","properties":{"name":"All"},"geometry":{"type":"Polygon","coordinates":[[[11.2,-47.65],`+
		`[11.4,-47.65],[11.4,-47.5],[11.2,-47.5],[11.2,-47.65]]]}}]}`)
	r := f.must("dress", "marks.csv", "--areas", "wards.geojson", "--set", "ward={area}", "--set",
		"code={name|upper|pad:3}",
		"--find", "(?i)rock ([0-9]+)", "--change-to", "R$1", "-o", "-", "--write-as", "csv")
	rows := records(t, r.out)
	got := map[string]string{}
	for _, row := range rows[1:] {
		for i, cell := range row {
			got[row[1]+" "+rows[0][i]] = cell
		}
	}
	if got["R7 ward"] != "All; North" && got["R7 ward"] != "North; All" || got["R12 ward"] != "" || got["R7 code"] !=
		"ROCK 007" || got["R12 code"] != "ROCK 012" || !strings.Contains(r.err, "in several areas") {
		t.Errorf("%v\n%s", rows, r.err)
	}
	f.putDemo("planning.kmz")
	f.refuses(2, "say with match which of them", "dress", "planning.kmz", "--rename", "x", "-o", "x.gpx")
	f.must("dress", "marks.csv", "--rename", "{name|title}", "-o", "titled.gpx")
	if !strings.Contains(f.get("titled.gpx"), "<name>Rock 7</name>") {
		t.Error("data of one kind need no match")
	}
	for to, want := range map[string]string{"$1a": "R 7a", "$$1": "R $1", "${1}": "R 7", "": "R "} {
		f.must("dress", "marks.csv", "--find", "(?i)rock ([0-9]+)", "--change-to", "R "+to, "-o", "changed.geojson",
			"--replace")
		if !strings.Contains(f.get("changed.geojson"), `"name":"`+want+`"`) {
			t.Errorf("%s does not give %s:\n%s", to, want, f.get("changed.geojson"))
		}
	}
	f.refuses(2, "$2 stands for a group that", "dress", "marks.csv", "--find", "(R)", "--change-to", "$2", "-o", "x.gpx")
	f.refuses(2, "find needs change-to", "dress", "marks.csv", "--find", "R", "-o", "x.gpx")
	for _, c := range []struct{ find, to, note string }{
		{"(?i)rock [0-9]+", "Rock", "2 items have a name now that another has too: Rock"},
		{"rock 7", "Rock 12", "1 item has a name now that another has too: Rock 12"},
		{".*", "", "2 items have no name now"},
		{"7", "8", ""},
	} {
		r := f.must("dress", "marks.csv", "--find", c.find, "--change-to", c.to, "-o", "x.gpx", "--replace")
		if strings.Contains(r.err, " name now") != (c.note != "") || !strings.Contains(r.err, c.note) {
			t.Errorf("%s: not %q but\n%s", c.find, c.note, r.err)
		}
	}
	f.put("found.csv", strings.Replace(f.must("look", "marks.csv", "--symbols").out, ",hazard,", ",wreck,", 1))
	f.must("dress", "marks.csv", "--symbols", "found.csv", "-o", "wrecks.gpx")
	if n := strings.Count(f.get("wrecks.gpx"), "<sym>wreck</sym>"); n != 2 {
		t.Errorf("%d wrecks:\n%s\n%s", n, f.get("found.csv"), f.get("wrecks.gpx"))
	}
	f.put("rules.toml",
		"[[rule]]\nmatch = \"areas\"\nsize = \">1km2\"\nset.group = \"large\"\n[[rule]]\nsymbol-is = \"hazard\"\n"+
			"set.group = \"dangers\"\n")
	f.must("dress", "marks.csv", "wards.geojson", "--rules", "rules.toml", "-o", "ruled.geojson")
	if text := f.get("ruled.geojson"); strings.Count(text, `"group":"large"`) != 1 || strings.Count(text,
		`"group":"dangers"`) != 2 {
		t.Errorf("%s", text)
	}
}
