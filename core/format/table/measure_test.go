package table

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/nav"
)

func field(t *testing.T, w *nav.Waypoint, key string) float64 {
	t.Helper()
	text, ok := nav.Get(w.Fields, key)
	v, _, isNumber := decimal.Parse([]byte(text))
	if !ok || !isNumber {
		t.Errorf("%s is %q: %v", key, text, w.Fields)
	}
	return v
}

func near(t *testing.T, what string, got, want float64) {
	t.Helper()
	if math.Abs(got-want) > 1e-4 {
		t.Errorf("%s is %v, want %v", what, got, want)
	}
}

// A number has the measure of its heading, in any language, or of its own cell; what was taken is said.
func TestMeasuresOfHeadings(t *testing.T) {
	d := loaded(t, "Buoy,Lat,Lon,depth (ft),speed (kn),Altitude (ft)\nA,-47.5,11.2,10,6,1000\nB,-47.6,11.3,2 fm,12 "+
		"km/h,5 m\n",
		&format.ReadOptions{})
	a, b := &d.Waypoints[0], &d.Waypoints[1]
	near(t, "depth in feet", field(t, a, "depth"), 3.048)
	near(t, "speed in knots", field(t, a, "speed"), 6*1852.0/3600)
	near(t, "height in feet", a.Height(), 304.8)
	near(t, "depth in fathoms", field(t, b, "depth"), 2*1.8288)
	near(t, "speed in km/h", field(t, b, "speed"), 12/3.6)
	near(t, "height in metres", b.Height(), 5)
	if a.Name != "A" || !strings.Contains(fmt.Sprint(d.Problems), "depth in feet, speed in knots") {
		t.Errorf("%q %v", a.Name, d.Problems)
	}
	d = loaded(t, "Tonne;Breite;Länge;Tiefe [Faden];Geschwindigkeit (Knoten);Farbe\nT 1;-47,5;11,2;2;6;gelb\n",
		&format.ReadOptions{})
	w := &d.Waypoints[0]
	near(t, "Tiefe", field(t, w, "depth"), 2*1.8288)
	near(t, "Geschwindigkeit", field(t, w, "speed"), 6*1852.0/3600)
	if w.Name != "T 1" || w.Style.Colour != nav.RGB(255, 255, 0) {
		t.Errorf("%q %v", w.Name, w.Style.Colour)
	}
	// An unknown measure is said, and the column is a field; an unknown colour is said, too.
	d = loaded(t, "Name,Lat,Lon,depth (cubits),colour\nA,-47.5,11.2,10,puce\n", &format.ReadOptions{})
	w = &d.Waypoints[0]
	if _, ok := nav.Get(w.Fields, "depth"); ok || field(t, w, "depth (cubits)") != 10 {
		t.Errorf("%v", w.Fields)
	}
	if text := fmt.Sprint(d.Problems); !strings.Contains(text, "cubits") || !strings.Contains(text, "puce") {
		t.Errorf("%v", text)
	}
}

// Among decimal commas 2.185 is two thousand only where the whole column is written so, and else nothing that is
// guessed.
func TestThousandsAmongCommas(t *testing.T) {
	table := func(cells ...string) *nav.Dataset {
		text := "Name;Breite;Länge;Höhe\n"
		for i, c := range cells {
			text += fmt.Sprintf("P%d;-47,%d1;11,2;%s\n", i, i+5, c)
		}
		return loaded(t, text, &format.ReadOptions{})
	}
	d := table("1,5", "2.185", "930,25")
	near(t, "in a column of groups", d.Waypoints[1].Height(), 2185)
	near(t, "beside it", d.Waypoints[2].Height(), 930.25)
	d = table("1,5", "2.185", "3.5")
	if w := &d.Waypoints[1]; w.HasHeight() || !strings.Contains(fmt.Sprint(d.Problems), "could be thousands or decimals") {
		t.Errorf("%v %v", w.Height(), d.Problems)
	}
	d = table("15", "2.185", "3.5")
	near(t, "among decimal points", d.Waypoints[1].Height(), 2.185)
}
