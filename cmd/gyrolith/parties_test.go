package main

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"
)

// week puts the recordings of two parties into folders: all of one name, two days each, one of them copied.
func week(t *testing.T) *folder {
	f := newFolder(t)
	for i, crew := range []string{"north", "south"} {
		for day := range 2 {
			f.put(fmt.Sprintf("week/%s/log%d.gpx", crew, day+1), strings.ReplaceAll(trail("Log 1", 600,
				trailDay.Add(time.Duration(i)*time.Hour+time.Duration(day)*24*time.Hour)), "11.300000",
				fmt.Sprintf("11.%d00000", 3+i)))
		}
	}
	f.must("convert", "week/north/log1.gpx", "-o", "week/south/copied.kml")
	return f
}

// Recordings are told apart by their folders, added up by folder and local day, and say where they came from.
func TestByFolderAndDay(t *testing.T) {
	t.Parallel()
	f := week(t)
	rows := f.table("tally", "week", "--distinct", "--by", "folder,day", "--clock", "+02:00", "--columns",
		"folder,date,tracks,length[m]", "-o", "-")
	var got []string
	for _, r := range rows[1:] {
		got = append(got, strings.Join(r[:3], " "))
	}
	if want := "north 2026-03-15 1, north 2026-03-16 1, south 2026-03-15 1, south 2026-03-16 1"; strings.Join(got,
		", ") != want {
		t.Errorf("%v, want %s", got, want)
	}
	again := f.table("tally", "week/south", "week/north", "--distinct", "--by", "folder,day", "--clock", "+02:00",
		"--columns",
		"folder,date,tracks,length[m]", "-o", "-")
	if fmt.Sprint(again) != fmt.Sprint(rows) {
		t.Errorf("named in another order and one by one the folders give %v", again)
	}
	if text := f.must("tally", "week").out; !strings.Contains(text, "north") || !strings.Contains(text, "south") {
		t.Errorf("files of one name are not told apart:\n%s", text)
	}
	f.refuses(2, "by track stands alone", "tally", "week", "--by", "folder,track")
	f.must("dress", "week", "--set", "crew={folder}", "--rename", "{folder} {file}", "-o", "all.geojson")
	text := f.get("all.geojson")
	for _, want := range []string{`"name":"north log1"`, `"name":"south copied"`, `"crew":"south"`} {
		if !strings.Contains(text, want) {
			t.Errorf("no %s", want)
		}
	}
}

// The same recording is found whatever its name, its format and its order, and left out where that is asked for; one
// that is cut is in the whole one, and one that only overlaps is kept.
func TestTheSameRecordingTwice(t *testing.T) {
	t.Parallel()
	f := week(t)
	groups := f.answer("look", "week", "--duplicates", "--json")["duplicates"].([]any)
	if len(groups) != 1 || len(groups[0].([]any)) != 2 {
		t.Fatalf("%v", groups)
	}
	all := fmt.Sprint(groups[0])
	if !strings.Contains(all, "north/log1.gpx") || !strings.Contains(all, "south/copied.kml") {
		t.Errorf("%v", all)
	}
	r := f.must("convert", "week", "--distinct", "-o", "distinct.gpx")
	if n := strings.Count(f.get("distinct.gpx"), "<trk>"); n != 4 || !strings.Contains(r.err,
		"was left out, as requested") {
		t.Errorf("%d tracks\n%s", n, r.err)
	}
	if r := f.must("tally", "week"); !strings.Contains(r.err,
		"1 recording is wholly in another one and counts all the same") {
		t.Errorf("tally says nothing of it:\n%s", r.err)
	}
	whole := trail("Whole", 600, trailDay)
	f.put("some/whole.gpx", whole)
	f.put("some/cut.gpx", trail("Cut", 200, trailDay))
	shifted := strings.Replace(trail("Overlap", 600, trailDay), "<trkpt lat=\"-47.600000\"", "<trkpt lat=\"-47.700000\"",
		1)
	f.put("some/overlap.gpx", shifted)
	r = f.must("convert", "some", "--distinct", "-o", "some.gpx")
	text := f.get("some.gpx")
	if strings.Contains(text, "Cut") || !strings.Contains(text, "Whole") || !strings.Contains(text, "Overlap") ||
		!strings.Contains(r.err, "is kept") {
		t.Errorf("%s\n%s", r.err, text[:200])
	}
}

// How far along a line a mark is, on which side, and when it was passed, do not depend on the order of the marks.
func TestAlongALine(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("trail.gpx", trail("Trail", 600, trailDay))
	f.put("marks.csv", "name,lat,lon\nRight,-47.596,11.301\nLeft,-47.594,11.299\n")
	rows := f.table("near", "trail.gpx", "--to", "marks.csv", "--columns", "of,along[m],side,time,distance", "--sort",
		"along",
		"-o", "-")
	if len(rows) != 3 || rows[1][0] != "Right" || rows[1][2] != "right" || rows[2][2] != "left" ||
		rows[1][3] != "2026-03-14T22:33:20Z" || !strings.HasPrefix(rows[1][1], "444.") && !strings.HasPrefix(rows[1][1],
		"445") {
		t.Errorf("%v", rows)
	}
	near := f.answer("near", "trail.gpx", "--to", "marks.csv", "--json")["near"].([]any)
	if first := near[0].(map[string]any); first["off_m"] != first["distance_m"] || first["along_m"] == nil {
		t.Errorf("%v", near)
	}
	names := func(args ...string) (out []string) {
		for _, r := range f.table(append([]string{"lay", "points", "trail.gpx", "-o", "-", "--write-as", "csv", "--columns",
			"name,time,field:along m"}, args...)...)[1:] {
			out = append(out, strings.Join(r, " "))
		}
		return
	}
	if got := names("--spacing", "500m", "--name", "km {along}"); !slices.Equal(got, []string{
		"km 0.0 2026-03-14T22:30:00Z 0", "km 0.5 2026-03-14T22:33:44Z 500", "km 1.0 2026-03-14T22:37:29Z 1000"}) {
		t.Errorf("%q", got)
	}
	if got := names("--every", "5min", "--name", "{along}"); len(got) != 2 || !strings.Contains(got[1], "22:35:00Z") {
		t.Errorf("%q", got)
	}
}

// What a GeoPackage has already is not added again, and what is new is.
func TestAppendingWhatIsThere(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.must("convert", "planning.kmz", "-o", "plan.gpkg")
	before := f.get("plan.gpkg")
	r := f.must("convert", "planning.kmz", "-o", "plan.gpkg", "--append")
	if !strings.Contains(r.err, "37 already there; nothing was added") || f.get("plan.gpkg") != before {
		t.Errorf("it is doubled, or not said:\n%s", r.err)
	}
	f.put("more.csv", "name,lat,lon\nNew rock,-47.571,11.33\n")
	r = f.must("convert", "more.csv", "planning.kmz", "-o", "plan.gpkg", "--append")
	if v := f.answer("look", "plan.gpkg", "--json")["files"].([]any)[0].(map[string]any); v["waypoints"] != 27.0 ||
		!strings.Contains(r.err, "37 already there") {
		t.Errorf("%v waypoints\n%s", v["waypoints"], r.err)
	}
}

// A folder is one version for merge; a picture whose time several recordings have is ambiguous, unless its folder says
// whose it is.
func TestFoldersBelongTogether(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("old/a.csv", "name,lat,lon\nA,-47.6,11.3\n")
	f.put("old/b.csv", "name,lat,lon\nB,-47.61,11.3\n")
	f.put("new/all.csv", "name,lat,lon\nA,-47.6,11.3\nB,-47.61,11.3\nC,-47.62,11.3\n")
	f.must("merge", "old", "new", "-o", "merged.csv")
	if n := strings.Count(f.get("merged.csv"), "waypoint,"); n != 3 {
		t.Errorf("%d waypoints:\n%s", n, f.get("merged.csv"))
	}
	f.put("one/log.gpx", trail("Log", 600, trailDay))
	f.put("two/log.gpx", strings.ReplaceAll(trail("Log", 600, trailDay), "11.300000", "11.400000"))
	f.put("times.csv", "name,time\nGulls,2026-03-14T22:33:00Z\n")
	r := f.run("when", "times.csv", "--along", "one", "--along", "two")
	if !strings.Contains(r.err, "ambiguous: 2 recordings") || !strings.Contains(r.err, "one/log.gpx") {
		t.Errorf("%s", r.err)
	}
}
