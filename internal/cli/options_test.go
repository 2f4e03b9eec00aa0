package cli

import (
	"fmt"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
	"gyrolith/core/recipe"
	"io"
	"math"
	"slices"
	"strings"
	"testing"
	"time"
)

func TestParseSize(t *testing.T) {
	for text, want := range map[string]int64{"500MB": 500e6, "4GiB": 4 << 30, "1024": 1024, "1.5 KiB": 1536, "2tb": 2e12} {
		if got, err := parseSize(text); err != nil || got != want {
			t.Errorf("%s: %d, %v", text, got, err)
		}
	}
	for _, text := range []string{"", "much", "-5MB", "0", "5 apples", "1e30TiB"} {
		if got, err := parseSize(text); err == nil {
			t.Errorf("%q is taken as %d", text, got)
		}
	}
}

func TestParseZone(t *testing.T) {
	for text, want := range map[string]int{"UTC": 0, "+02:00": 7200, "-09:30": -34200} {
		zone, err := parseZone(text)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if _, offset := time.Unix(0, 0).In(zone).Zone(); offset != want {
			t.Errorf("%s: %d seconds", text, offset)
		}
	}
	for _, text := range []string{"", "noon", "+2", "2:00", "+25:00"} {
		if _, err := parseZone(text); err == nil {
			t.Errorf("%q is taken", text)
		}
	}
}

// A day counts whole: since its beginning, until its end, in the zone that is meant.
func TestParseWhen(t *testing.T) {
	east := time.FixedZone("", 2*3600)
	for _, c := range []struct {
		text string
		zone *time.Location
		end  bool
		want string
	}{
		{"2026-03-14", nil, false, "2026-03-14T00:00:00Z"}, {"2026-03-14", nil, true, "2026-03-14T23:59:59.999999999Z"},
		{"2026-03-14", east, false, "2026-03-13T22:00:00Z"}, {"2026-03", nil, true, "2026-03-31T23:59:59.999999999Z"},
		{"2024", nil, true, "2024-12-31T23:59:59.999999999Z"}, {"2026-03-14T05:30", east, false, "2026-03-14T03:30:00Z"},
		{"2026-03-14T05:30:00Z", east, true, "2026-03-14T05:30:00Z"},
	} {
		ns, err := parseWhen(c.text, c.zone, c.end)
		if got := time.Unix(0, ns).UTC().Format(time.RFC3339Nano); err != nil || got != c.want {
			t.Errorf("%s %v: %s, %v", c.text, c.end, got, err)
		}
	}
}

// A negative number after an option is its value; a file's name and what follows -- are left alone.
func TestJoinNegative(t *testing.T) {
	got := joinNegative([]string{"look", "--inside", "-10,-20,5,6", "-5.gpx", "--take", "x", "--", "--a", "-1"})
	want := []string{"look", "--inside=-10,-20,5,6", "-5.gpx", "--take", "x", "--", "--a", "-1"}
	if !slices.Equal(got, want) {
		t.Errorf("got %q", got)
	}
}

func TestShow(t *testing.T) {
	for text, want := range map[string]string{"Østre Båe": "Østre Båe", "a\x1b[2Jb": `a\u001b[2Jb`, "x\u202ey": `x\u202ey`, "l\nm": `l\u000am`} {
		if got := show(text); got != want {
			t.Errorf("%q is shown as %q", text, got)
		}
	}
	if got := oneLine("a long name\nof a place", 10); got != "a long na…" {
		t.Errorf("got %q", got)
	}
}

func TestParseDimensions(t *testing.T) {
	for text, want := range map[string][2]int{"": {1280, 800}, "640x480": {640, 480}, "1000×700": {1000, 700}} {
		if w, h, err := parseDimensions(text); err != nil || w != want[0] || h != want[1] {
			t.Errorf("%q: %d %d %v", text, w, h, err)
		}
	}
	for _, text := range []string{"x", "10x10", "640", "640x", "99999x500", "-640x480"} {
		if _, _, err := parseDimensions(text); err == nil {
			t.Errorf("%q is a size", text)
		}
	}
	for text, want := range map[string]float64{"": 0, "1:25000": 25000, "25,000": 25000, "1:25 000": 25000} {
		if v, err := parseScale(text); err != nil || v != want {
			t.Errorf("%q: %v %v", text, v, err)
		}
	}
	for _, text := range []string{"1:0", "big", "1:5", "-3"} {
		if _, err := parseScale(text); err == nil {
			t.Errorf("%q is a scale", text)
		}
	}
}

func TestShortened(t *testing.T) {
	got := shortened([]string{"s-points.shp", "s-points.shx", "s-points.dbf", "s-lines.shp", "s-lines.prj", "other.gpx"})
	if want := "[s-points.shp with .shx .dbf s-lines.shp with .prj other.gpx]"; fmt.Sprint(got) != want {
		t.Errorf("%v, want %s", got, want)
	}
}

func TestLineList(t *testing.T) {
	at := func(lines ...int) (out []nav.Reject) {
		for _, l := range lines {
			out = append(out, nav.Reject{Line: l})
		}
		return
	}
	if got := lineList(at(3, 7, 8, 9, 20)); got != "lines 3, 7 to 9, 20" {
		t.Error(got)
	}
	var many []int
	for i := range 100 {
		many = append(many, 2*i)
	}
	if got := lineList(at(many...)); !strings.HasSuffix(got, "and 70 more places") {
		t.Error(got)
	}
}

func TestParseSpots(t *testing.T) {
	utm, err := crs.Find("32732")
	if err != nil {
		t.Fatal(err)
	}
	near := func(s spot, lat, lon float64) bool {
		return math.Abs(s.lat-lat) < 1e-4 && math.Abs(s.lon-lon) < 1e-4
	}
	for _, c := range []struct {
		args []string
		in   *crs.System
		n    int
	}{{[]string{"47.6", "S", "11.3", "E"}, nil, 1}, {[]string{"−47.6", "11.3"}, nil, 1}, {[]string{"47.6 S 11.3 E", "4736S01118E"}, nil, 2}, {[]string{"672887.547,4725593.402"}, utm, 1}, {[]string{"672887.547", "4725593.402"}, utm, 1}} {
		got, err := parseSpots(c.args, c.in)
		if err != nil || len(got) != c.n {
			t.Errorf("%v: %v %v", c.args, got, err)
			continue
		}
		for _, s := range got {
			if !near(s, -47.6, 11.3) {
				t.Errorf("%v: %v", c.args, s)
			}
		}
	}
	for _, args := range [][]string{nil, {"x"}, {"1", "2", "3"}, {"91 N 0 E"}} {
		if got, err := parseSpots(args, nil); err == nil {
			t.Errorf("%v is %v", args, got)
		}
	}
	if _, err := parseSpots([]string{"1", "2", "3"}, utm); err == nil {
		t.Error("three numbers are an easting and a northing")
	}
}

// What a recipe may say is what the verbs' options are, without those that are of a whole run.
func TestLanguage(t *testing.T) {
	l := (&app{out: newStream(io.Discard), err: newStream(io.Discard), now: time.Now}).language()
	has := func(list []recipe.Option, name string) bool {
		return slices.ContainsFunc(list, func(o recipe.Option) bool { return o.Name == name })
	}
	for _, c := range []struct {
		list []recipe.Option
		name string
		want bool
	}{{l.Steps["clean"], "also", true}, {l.Steps["clean"], "take", true}, {l.Steps["clean"], "output", false}, {l.Steps["clean"], "json", false}, {l.Steps["elevate"], "terrain", true}, {l.Steps["convert"], "columns-in", true}, {l.Steps["convert"], "columns", false},
		{l.Outputs["convert"], "columns", true}, {l.Outputs["convert"], "file", true}, {l.Outputs["convert"], "columns-in", false}, {l.Outputs["stow"], "card", true}, {l.Outputs["draw"], "terrain", true}, {l.Outputs["draw"], "replace", false}} {
		if has(c.list, c.name) != c.want {
			t.Errorf("%s: %v", c.name, !c.want)
		}
	}
	for _, o := range l.Steps["elevate"] {
		if o.Name == "terrain" && (!o.List || !isFile(o.Name, "terrain") || o.Flag) {
			t.Errorf("%+v", o)
		}
	}
	for _, r := range recipe.Shipped() {
		if err := r.Check(l); err != nil {
			t.Error(err)
		}
	}
}
