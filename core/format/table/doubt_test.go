package table

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// Rows that can't be used are told by their row and reason, and the rest goes on.
func TestRejects(t *testing.T) {
	d := load(t, "title\n\nname;lat;lon\nA;-47,6;11,3\nB;;\nC;abc;11,3\nD;-97,6;11,3\nE;-47,6;\nF;-47,7;11,4\n",
		&format.ReadOptions{})
	want := map[int]string{5: "the row has no coordinates (B)", 6: `latitude "abc" is not a number`,
		7: "latitude -97,6 is beyond 90", 8: "has no longitude"}
	if len(d.Waypoints) != 2 || len(d.Rejects) != len(want) {
		t.Fatalf("%d waypoints, %v", len(d.Waypoints), d.Rejects)
	}
	for _, x := range d.Rejects {
		if !strings.Contains(x.Why, want[x.Line]) {
			t.Errorf("row %d: %s", x.Line, x.Why)
		}
	}
}

// What looks wrong is told before it does harm, with the rows; what is sound is not.
func TestDoubts(t *testing.T) {
	rows := func(more ...string) string {
		text := "name,lat,lon\n"
		for i := range 8 {
			text += fmt.Sprintf("P%d,%.3f,%.3f\n", i, -47.6+float64(i)/100, 11.3+float64(i)/100)
		}
		return text + strings.Join(more, "\n") + "\n"
	}
	for want, text := range map[string]string{
		"":                                       rows(),
		"with the opposite sign of the latitude": rows("Lost,47.6,11.3"),
		"with the opposite sign of the longitude":   rows("Lost,-47.6,-11.3"),
		"with latitude and longitude swapped":       rows("Lost,11.3,-47.6"),
		"row 10 (Nowhere)":                          rows("Nowhere,0,0"),
		"3 rows have exactly the same position":     rows("A,-47.5,11.2", "B,-47.5,11.2", "C,-47.5,11.2"),
		"latitude and longitude seem to be swapped": "name,lat,lon\nA,111.3,-47.6\nB,111.4,-47.7\n",
		// two faults in a short list
		"row 5 (Lost); with the opposite sign " +
			"of the latitude": "name,lat,lon\nA,47.6,11.3\nB,47.7,11.2\nTurned,11.2,47.6\nLost,-47.6,11.3\nC,47.5,11.2\n",
		"row 4 (Turned); with latitude and longitude " +
			"swapped": "name,lat,lon\nA,47.6,11.3\nB,47.7,11.2\nTurned,11.2,47.6\nLost,-47.6,11.3\nC,47.5,11.2\n",
		"row 3 (Lost); with both signs reversed": "name,lat,lon\nA,47.6,11.3\nLost,-47.6,-11.3\nC,47.5,11.2\n",
	} {
		told := ""
		for _, p := range load(t, text, &format.ReadOptions{}).Problems {
			if !p.Info {
				told += p.Text + "\n"
			}
		}
		if want == "" && told != "" || !strings.Contains(told, want) {
			t.Errorf("want %q, told %q", want, told)
		}
	}
	// A journey around the world is no mistake, nor is a list of two places far apart.
	journey, ports := "name,lat,lon\n", "name,lat,lon\n"
	for i := range 36 {
		journey += fmt.Sprintf("P%d,%d,%d\n", i, i-18, i*10-175)
		ports += fmt.Sprintf("P%d,%.2f,%d\n", i, -47+float64(i)/50, 11+60*(i%3/2))
	}
	for _, text := range []string{journey, ports, "name,lat,lon\nA,47.6,11.3\nB,-30.2,80.1\n"} {
		for _, p := range load(t, text, &format.ReadOptions{}).Problems {
			if p.Code == "suspicious" {
				t.Errorf("sound: %s", p.Text)
			}
		}
	}
}

// Thousands that are parted by a sign are no decimals, and what can be either is refused.
func TestThousands(t *testing.T) {
	zone, err := crs.Find("32732")
	if err != nil {
		t.Fatal(err)
	}
	read := func(east, north string) *nav.Dataset {
		return load(t, "name;easting;northing\nA;"+east+";"+north+"\n", &format.ReadOptions{System: zone})
	}
	plain := read("672000", "4725000").Waypoints[0]
	for _, c := range [][2]string{{"672.000", "4.725.000"}, {"672,000", "4,725,000"}, {"672.000,0", "4.725.000,0"},
		{"672,000.0", "4,725,000.0"}, {"672 000", "4 725 000"}, {"672'000", "4'725'000"}} {
		if d := read(c[0], c[1]); len(d.Waypoints) != 1 || !d.Waypoints[0].SamePlace(&plain.Point) {
			t.Errorf("%v: %+v %+v", c, d.Waypoints, d.Rejects)
		}
	}
	if d := read("432,000", "275,000"); len(d.Waypoints) != 0 || len(d.Rejects) != 1 ||
		!strings.Contains(d.Rejects[0].Why, "thousands or decimals") {
		t.Errorf("%+v %+v", d.Waypoints, d.Rejects)
	}
	if d := read("432,125", "4725000,250"); len(d.Waypoints) != 1 { // the other shows that it is a decimal comma
		t.Errorf("%+v", d.Rejects)
	}
}

// A comma in a height is what the latitude beside it shows it to be.
func TestHeightCommas(t *testing.T) {
	for text, want := range map[string]float64{"name;lat;lon;height\nA;-47.6;11.3;1,234\n": 1234,
		"name;lat;lon;height\nA;-47,6;11,3;1,234\n": 1.234, "name;lat;lon;height\nA;-47.6;11.3;234,5\n": 234.5} {
		if got := load(t, text, &format.ReadOptions{}).Waypoints[0].Height(); got != want {
			t.Errorf("%q: %v m, want %v", text, got, want)
		}
	}
}

// A measure that a cell names goes before that of the title.
func TestHeightMeasures(t *testing.T) {
	d := load(t, "name,lat,lon,height (ft)\nA,-47.6,11.3,100\nB,-47.6,11.4,12.5 m\nC,-47.6,11.5,10 ft\n",
		&format.ReadOptions{})
	for i, want := range []float64{30.48, 12.5, 3.048} { // the foot is 0.3048 m exactly
		if got := d.Waypoints[i].Height(); math.Abs(got-want) > 1e-9 {
			t.Errorf("%s: %v m, want %v", d.Waypoints[i].Name, got, want)
		}
	}
}
