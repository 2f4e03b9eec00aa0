package table

import (
	"math"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

func loaded(t *testing.T, text string, opt *format.ReadOptions) *nav.Dataset {
	t.Helper()
	d, err := FormatCSV.Read(format.FromBytes(t.Context(), "x.csv", []byte(text)), opt)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func suspicions(d *nav.Dataset) (out string) {
	for _, p := range d.Problems {
		if p.Code == nav.ProblemSuspicious {
			out += p.Text + "; " + p.Advice.Arg + "\n"
		}
	}
	return
}

// A datum that a table names anywhere is said where positions are not read in it, and read by row where that is asked
// for. ED50 is about a hundred metres from WGS 84 in Europe: the shift is three translations (EPSG:1134), from which
// the position is worked out here by itself.
func TestDatums(t *testing.T) {
	for text, want := range map[string]string{
		"Name,Lat,Lon,Datum\nA,55,10,WGS84\nB,55.1,10.1,ED50\n": "column:Datum",
		"Name,Lat (ED50),Lon (ED50)\nA,55,10\n":                 "4230",
		"Positions in ED50\nName,Lat,Lon\nA,55,10\n":            "4230",
		"Name,Lat,Lon,Geodätisches System\nA,55,10,NAD 27\n":    "column:Geodätisches System",
		"Name,Lat (WGS84),Lon (WGS84)\nA,55,10\n":               "",
		"Name,Lat,Lon,Datum\nA,55,10,2026-03-14\n":              "",
		"Name,Lat (ETRS89),Lon (ETRS89)\nA,55,10\n":             "",
	} {
		d := loaded(t, text, &format.ReadOptions{})
		if got := suspicions(d); (want == "") != (got == "") || !strings.Contains(got, want) {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
	d := loaded(t, "Name,Lat,Lon,Datum\nA,55,10,ED50\nB,55,10,WGS84\nC,55,10,Nowhere\n",
		&format.ReadOptions{DatumColumn: "Datum"})
	if len(d.Waypoints) != 2 || len(d.Rejects) != 1 || d.Waypoints[1].Lat != 55 || d.Waypoints[1].Lon != 10 {
		t.Fatalf("%+v %+v", d.Waypoints, d.Rejects)
	}
	lat, lon := fromED50(55, 10)
	if w := d.Waypoints[0]; math.Abs(w.Lat-lat) > 1e-8 || math.Abs(w.Lon-lon) > 1e-8 || suspicions(d) != "" {
		t.Errorf("%.9f %.9f, not %.9f %.9f", w.Lat, w.Lon, lat, lon)
	}
}

// fromED50 shifts a position on the international ellipsoid by -87, -96, -120 m.
func fromED50(lat, lon float64) (float64, float64) {
	const radian = math.Pi / 180
	square := func(f float64) float64 { return f * (2 - f) }
	a, e2 := 6378388.0, square(1/297.0)
	sin, cos := math.Sincos(lat * radian)
	n := a / math.Sqrt(1-e2*sin*sin)
	x, y, z := n*cos*math.Cos(lon*radian)-87, n*cos*math.Sin(lon*radian)-96, n*(1-e2)*sin-120
	a, e2 = 6378137.0, square(1/298.257223563)
	r := math.Hypot(x, y)
	out := math.Atan2(z, r*(1-e2))
	for range 20 {
		sin = math.Sin(out)
		out = math.Atan2(z+e2*a/math.Sqrt(1-e2*sin*sin)*sin, r)
	}
	return out / radian, math.Atan2(y, x) / radian
}

// Coordinates outside of what their system is meant for are noted, with the order of axes that fits; they stay as they
// are.
func TestOrderOfAxes(t *testing.T) {
	system, err := crs.Find("25832")
	if err != nil {
		t.Fatal(err)
	}
	opt := &format.ReadOptions{System: system}
	d := loaded(t, "nr;Easting;Northing\nA;5273456.1;432000.5\nB;5273556.1;432100.5\n", opt)
	if got := suspicions(d); !strings.Contains(got, "easting=Northing,northing=Easting") || len(d.Waypoints) != 2 {
		t.Errorf("%q, %d waypoints", got, len(d.Waypoints))
	}
	if got := suspicions(loaded(t, "nr;Easting;Northing\nA;432000.5;5273456.1\n", opt)); got != "" {
		t.Errorf("in order: %q", got)
	}
	if got := suspicions(loaded(t, "nr;Easting;Northing\nA;432000.5;1273456.1\n", opt)); !strings.Contains(got,
		"outside") {
		t.Errorf("far to the south: %q", got)
	}
}
