package crs

import (
	"math"
	"strings"
	"testing"

	"gyrolith/core/geodesy"
)

// What is said of a system, which is where people go wrong.
func TestWords(t *testing.T) {
	for code, parts := range map[int][]string{
		32732: {"EPSG:32732 (WGS 84 / UTM zone 32S)", "easting, northing in metres", "no datum shift is needed",
			"transverse Mercator on WGS 84", "false origin 500000 10000000"},
		25832: {"ETRS89 to WGS 84 (1) (EPSG:1149): no change, good to 1 m"},
		27700: {"OSGB36 to WGS 84 (6) (EPSG:1314), good to 2 m", "Airy 1830", "scale 0.9996012717"},
		2154:  {"Lambert conformal conic, two parallels", "parallels 49° 44°", "RGF93 v1 to WGS 84"},
		27572: {"longitudes from 2.33722917°"},
		5514:  {"Krovak oblique conic", "azimuth 30.28"},
		4258:  {"longitude, latitude in degrees"},
		2263:  {"US survey feet"},
		4610:  {"no datum shift to WGS 84 is known"},
	} {
		s := find(t, code)
		text := strings.Join([]string{s.String(), s.Axes(), s.Accuracy(), s.Explain()}, "\n")
		for _, p := range parts {
			if !strings.Contains(text, p) {
				t.Errorf("%d: %q is not in\n%s", code, p, text)
			}
		}
	}
	shift, _ := ParseShift("1,2,3")
	if got := find(t, 27700).WithShift(shift).Accuracy(); !strings.Contains(got, "of no stated accuracy") {
		t.Errorf("%s", got)
	}
	if !find(t, 2053).Southing() || find(t, 2154).Southing() || !strings.Contains(Source(), "EPSG geodetic registry") {
		t.Error("what counts to the south, and where it is all from")
	}
	if s := World(); !s.WGS84() || s.Projected() {
		t.Errorf("%v", s)
	}
	for _, zone := range []geodesy.UTM{{Zone: 1}, {Zone: 60, South: true}, {Zone: 32, South: true}} {
		s := OfUTM(zone)
		e, n, ok := s.Forward(zone.Inverse(500000, 5000000))
		if !ok || e < 499999.999 || e > 500000.001 || n < 4999999.999 || n > 5000000.001 {
			t.Errorf("%v: %v %v", s, e, n)
		}
	}
}

func TestArea(t *testing.T) {
	across := Area{West: 170, South: -20, East: -170, North: 20} // over the antimeridian
	for _, c := range []struct {
		lat, lon float64
		in       bool
	}{{0, 175, true}, {0, -175, true}, {0, 0, false}, {30, 175, false}, {0, 169, false}} {
		if across.Contains(c.lat, c.lon) != c.in {
			t.Errorf("%v %v", c.lat, c.lon)
		}
	}
}

// Other ellipsoids: the isometric latitude and its inverse, and the circumference of a meridian. That of WGS 84 is
// 40,007,862.917 m (NGA.STND.0036, 2014), so that a quarter is 10,001,965.729 m.
func TestEllipsoids(t *testing.T) {
	for _, e := range []*geodesy.Ellipsoid{geodesy.NewEllipsoid(6378137, 1/298.257223563),
		geodesy.NewEllipsoid(6377563.396, 1/299.3249646), geodesy.NewEllipsoid(6371000, 0)} {
		for _, lat := range []float64{-1.5, -0.8, 0, 0.3, 1.2, 1.57} {
			if back := e.Latitude(e.Isometric(math.Sin(lat))); back < lat-1e-12 || back > lat+1e-12 {
				t.Errorf("%v: %v comes back as %v", e.SemiMajor, lat, back)
			}
		}
	}
	_, north := geodesy.NewEllipsoid(6378137, 1/298.257223563).TransverseMercator(1.5707963267948966, 0)
	if north < 10001965.728 || north > 10001965.730 {
		t.Errorf("a quarter of the meridian is %.4f m", north)
	}
}
