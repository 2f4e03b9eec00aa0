package crs

import (
	"bufio"
	"errors"
	"fmt"
	"math"
	"os"
	"strings"
	"testing"
)

func find(t *testing.T, code int) *System {
	t.Helper()
	s, err := Find(fmt.Sprint(code))
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func dms(d, m, s float64) float64 { return math.Copysign(math.Abs(d)+m/60+s/3600, d) }

// The worked examples of IOGP Publication 373-7-2, whose positions are on the systems' own datums. Those of Clarke's
// and survey feet and links are in their measures; westings and southings are negative here. Some are published by
// shorter series, a centimetre off.
func TestPublishedExamples(t *testing.T) {
	for _, c := range []struct {
		code        int
		lat, lon    float64
		east, north float64
	}{
		{32040, dms(28, 30, 0), -96, 2963503.91, 254759.80},                       // Lambert, two parallels
		{24200, dms(17, 55, 55.80), dms(-76, 56, 37.26), 255966.58, 142493.51},    // Lambert, one parallel
		{31300, dms(50, 40, 46.461), dms(5, 48, 26.533), 251763.20, 153034.13},    // Lambert, Belgium
		{5514, dms(50, 12, 32.442), dms(16, 50, 59.179), -568991.00, -1050538.63}, // Krovak
		{5513, dms(50, 12, 32.442), dms(16, 50, 59.179), -568991.00, -1050538.63}, //
		{29873, dms(5, 23, 14.1129), dms(115, 48, 19.8196), 679245.73, 596562.78}, // Hotine, variant B
		{30200, 10, -62, 66644.94, 82536.22},                                      // Cassini-Soldner, in Clarke's links
		{27700, dms(50, 30, 0), dms(0, 30, 0), 577274.99, 69740.50},               // transverse Mercator
		{28992, 53, 6, 196105.283, 557057.739},                                    // oblique stereographic
		{5041, 73, 44, 3320416.75, 632668.43},                                     // polar stereographic A
		{3032, -75, 120, 7255380.79, 7053389.56},                                  // B
		{2985, dms(-66, 36, 18.820), dms(140, 4, 17.040), 303169.52, 244055.72},   // C
		{3035, 50, 5, 3962799.45, 2999718.85},                                     // Lambert azimuthal equal area
		{3001, -3, 120, 5009726.58, 569150.82},                                    // Mercator A
		{3388, 53, 53, 165704.29, 5171848.07},                                     // Mercator B
		{3857, dms(24, 22, 54.433), dms(-100, 20, 0), -11169055.58, 2800000.00},   // the web's
		{2053, dms(-25, 43, 55.302), dms(28, 16, 57.479), -71984.49, -2847342.74}, // transverse Mercator, south
	} {
		s := find(t, c.code)
		e, n := s.projection.forward(c.lat*radian, math.Remainder(c.lon-s.Geographic.Meridian, 360)*radian)
		e, n = e/s.Measure, n/s.Measure
		if math.Abs(e-c.east) > 0.011 || math.Abs(n-c.north) > 0.011 {
			t.Errorf("%v: %.3f %.3f, published %.3f %.3f", s, e, n, c.east, c.north)
		}
	}
}

// testdata/projected.txt has a place in the area of each of some hundred systems, with the coordinates that PROJ 9
// gives it on the system's own datum.
func TestProjectionsAgainstAnother(t *testing.T) {
	f, err := os.Open("testdata/projected.txt")
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	seen := map[Method]int{}
	for in := bufio.NewScanner(f); in.Scan(); {
		if strings.HasPrefix(in.Text(), "#") {
			continue
		}
		var code int
		var lat, lon, east, north float64
		if _, err := fmt.Sscan(in.Text(), &code, &lat, &lon, &east, &north); err != nil {
			t.Fatal(in.Text(), err)
		}
		s := find(t, code)
		e, n := s.projection.forward(lat*radian, math.Remainder(lon-s.Geographic.Meridian, 360)*radian)
		if e, n = e/s.Measure, n/s.Measure; math.Abs(e-east)*s.Measure > 0.001 || math.Abs(n-north)*s.Measure > 0.001 {
			t.Errorf("%v at %v %v: %.4f %.4f, want %.4f %.4f", s, lat, lon, e, n, east, north)
		}
		seen[s.Method]++
	}
	for m := range methodNames {
		if m != Geographic2D && m != PolarStereoC && m != ConformalBelgium && seen[m] == 0 {
			t.Errorf("no system with %v (%d) was looked at", m, m)
		}
	}
}

// WGS 84 positions on other datums, as PROJ 9 gives them with the registry's parameters. A datum shift is no better
// than metres; both ways of working it out differ by millimetres.
func TestDatums(t *testing.T) {
	for _, c := range []struct {
		code                  int
		lat, lon, east, north float64
	}{
		{27700, 52.5, -1.5, 434039.457, 289239.281}, {21781, 46.5, 8.2, 658445.421, 150137.721},
		{28992, 52.2, 5.1, 135365.228, 468026.394},
		{5514, 48.9, 19.0, -427077.133, -1209476.027}, {27572, 46.9, 2.9, 642929.717, 2211274.703},
		{28405, 55.1, 27.6, 5538427.093, 6108651.641},
		{31370, 50.7, 4.5, 159272.225, 154389.139}, {23700, 47.3, 19.3, 669098.880, 217358.924},
		{26716, 40.2, -86.7, 525532.525, 4449784.986},
	} {
		s := find(t, c.code)
		e, n, ok := s.Forward(c.lat, c.lon)
		if !ok || math.Abs(e-c.east) > 0.02 || math.Abs(n-c.north) > 0.02 {
			t.Errorf("%v: %.3f %.3f %v, want %.3f %.3f", s, e, n, ok, c.east, c.north)
		}
		if lat, lon, ok := s.Inverse(e, n); !ok || math.Abs(lat-c.lat) > 1e-9 || math.Abs(lon-c.lon) > 1e-9 {
			t.Errorf("%v: there and back is %v %v %v", s, lat, lon, ok)
		}
	}
}

// Every system of the tables is sound: its area goes there and back to the tenth of a millimetre, or is refused.
func TestEverySystem(t *testing.T) {
	count, refused := 0, 0
	All(func(s *System) bool {
		count++
		a := s.Area
		if a.East < a.West {
			a.East += 360
		}
		for _, f := range []float64{0.02, 0.5, 0.97} {
			lat, lon := a.South+f*(a.North-a.South), math.Remainder(a.West+f*(a.East-a.West), 360)
			e, n, ok := s.Forward(lat, lon)
			if !ok {
				refused++
				continue
			}
			if u, v, ok := s.Inverse(e, n); !ok || math.Abs(u-lat) > 1e-8 ||
				math.Abs(math.Remainder(v-lon, 360))*math.Cos(lat*radian) > 1e-8 {
				t.Errorf("%v: %v %v comes back as %v %v %v", s, lat, lon, u, v, ok)
			}
		}
		return true
	})
	if count < 5500 || refused > 60 {
		t.Errorf("%d systems, %d places refused", count, refused)
	}
}

// Where a projection doesn't reach, it says so: the other side of the earth in a zone of UTM, a pole in Mercator.
func TestOutOfReach(t *testing.T) {
	for _, c := range []struct {
		code     int
		lat, lon float64
	}{{32632, 40, -171}, {3857, 90, 0}, {3857, -90, 10}, {2154, -90, 3}, {29873, 90, 0}} {
		if e, n, ok := find(t, c.code).Forward(c.lat, c.lon); ok {
			t.Errorf("%d takes %v %v to %v %v", c.code, c.lat, c.lon, e, n)
		}
	}
	if _, _, ok := find(t, 3035).Inverse(9e9, 9e9); ok {
		t.Error("a place beyond the earth is taken")
	}
	if _, _, ok := find(t, 4326).Inverse(11, 91); ok {
		t.Error("latitude 91 is taken")
	}
}

func TestFind(t *testing.T) {
	for word, name := range map[string]string{"25832": "ETRS89 / UTM zone 32N", "epsg:4326": "WGS 84",
		" EPSG:3857 ": "WGS 84 / Pseudo-Mercator", "4258": "ETRS89"} {
		if s, err := Find(word); err != nil || s.Name != name {
			t.Errorf("%s: %v %v", word, s, err)
		}
	}
	for _, word := range []string{"", "99999", "EPSG:", "utm32", "5832"} {
		if s, err := Find(word); err == nil {
			t.Errorf("%q is %v", word, s)
		}
	}
	if found := Search([]string{"utm zone 32s", "wgs 84"}); len(found) == 0 || found[0].Name != "WGS 84 / UTM zone 32S" {
		t.Errorf("search gives %v", found)
	}
}

// The forms in which the OGC's standards and links write a system.
func TestNumberIn(t *testing.T) {
	for name, want := range map[string]string{"EPSG:32732": "32732", "urn:ogc:def:crs:EPSG::32732": "32732",
		"urn:ogc:def:crs:EPSG:6.9:4326": "4326", "http://www.opengis.net/def/crs/EPSG/0/4326": "4326",
		"http://www.opengis.net/gml/srs/epsg.xml#4326": "4326", "https://example.invalid/ref/epsg/25832/wkt/": "25832",
		"urn:ogc:def:crs:OGC:1.3:CRS84": "", "EPSG:": "", "": "", "4326": "", "EPSG:4326 of 1984": ""} {
		if got := NumberIn(name); got != want {
			t.Errorf("%q is %q", name, got)
		}
	}
}

// What .prj files of others say, in the words that they use.
func TestPRJ(t *testing.T) {
	const wgs = `GEOGCS["GCS_WGS_1984",DATUM["D_WGS_1984",SPHEROID["WGS_1984",6378137.0,298.257223563]],` +
		`PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]]`
	for text, code := range map[string]int{
		wgs: 4326,
		`PROJCS["WGS_1984_UTM_Zone_32S",` + wgs +
			`,PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",500000.0],PARAMETER["False_Northing",10000000.0],` +
			`PARAMETER["Central_Meridian",9.0],PARAMETER["Scale_Factor",0.9996],PARAMETER["Latitude_Of_Origin",0.0],` +
			`UNIT["Meter",1.0]]`: 32732,
		`PROJCS["ETRS_1989_UTM_Zone_32N",GEOGCS["GCS_ETRS_1989",DATUM["D_ETRS_1989",SPHEROID["GRS_1980",6378137.0,` +
			`298.257222101]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],` +
			`PARAMETER["False_Easting",500000.0],PARAMETER["False_Northing",0.0],PARAMETER["Central_Meridian",9.0],` +
			`PARAMETER["Scale_Factor",0.9996],PARAMETER["Latitude_Of_Origin",0.0],UNIT["Meter",` +
			`1.0]]`: 25832,
		`PROJCS["S-JTSK_Krovak_East_North",GEOGCS["GCS_S_JTSK",DATUM["D_S_JTSK",SPHEROID["Bessel_1841",6377397.155,` +
			`299.1528128]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Krovak"],` +
			`PARAMETER["False_Easting",0.0],PARAMETER["False_Northing",0.0],PARAMETER["Pseudo_Standard_Parallel_1",78.5],` +
			`PARAMETER["Scale_Factor",0.9999],PARAMETER["Azimuth",30.28813975277778],PARAMETER["Longitude_Of_Center",` +
			`24.83333333333333],PARAMETER["Latitude_Of_Center",49.5],PARAMETER["X_Scale",-1.0],PARAMETER["Y_Scale",1.0],` +
			`PARAMETER["XY_Plane_Rotation",90.0],UNIT["Meter",1.0]]`: 5514,
		`PROJCS["OSGB 1936 / British National Grid",GEOGCS["OSGB 1936",DATUM["OSGB_1936",SPHEROID["Airy 1830",6377563.396,` +
			`299.3249646,AUTHORITY["EPSG","7001"]],TOWGS84[375,-111,431,0,0,0,0],AUTHORITY["EPSG","6277"]],` +
			`PRIMEM["Greenwich",0],UNIT["degree",0.01745329251994328],AUTHORITY["EPSG","4277"]],UNIT["metre",1],` +
			`PROJECTION["Transverse_Mercator"],PARAMETER["latitude_of_origin",49],PARAMETER["central_meridian",-2],` +
			`PARAMETER["scale_factor",0.9996012717],PARAMETER["false_easting",400000],PARAMETER["false_northing",-100000],` +
			`AUTHORITY["EPSG","27700"]]`: 27700,
		`PROJCS["RGF_1993_Lambert_93",GEOGCS["GCS_RGF_1993",DATUM["D_RGF_1993",SPHEROID["GRS_1980",6378137.0,` +
			`298.257222101]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],` +
			`PROJECTION["Lambert_Conformal_Conic"],PARAMETER["False_Easting",700000.0],PARAMETER["False_Northing",` +
			`6600000.0],PARAMETER["Central_Meridian",3.0],PARAMETER["Standard_Parallel_1",44.0],` +
			`PARAMETER["Standard_Parallel_2",49.0],PARAMETER["Latitude_Of_Origin",46.5],UNIT["Meter",` +
			`1.0]]`: 2154,
		`PROJCRS["x",BASEGEOGCRS["y"],ID["EPSG",25833]]`: 25833,
	} {
		if s, err := ParseWKT(text); err != nil || s.Code != code {
			t.Errorf("%d is read as %v (%v) from %.60s", code, s, err, text)
		}
	}
	// Several systems are one but for the order of their axes; the text's name says which is meant.
	for _, code := range []int{31467, 5677, 25832, 3044} {
		s := find(t, code)
		if back, err := ParseWKT(s.WKT()); err != nil || back.Code != code {
			t.Errorf("%v comes back as %v (%v)", s, back, err)
		}
	}
	// A system of nobody's registry on a datum that is known takes its shift; on one that isn't, it is refused.
	own := `PROJCS["Survey grid",GEOGCS["GCS_X",DATUM["D_%s",SPHEROID["Bessel_1841",6377397.155,299.1528128]%s],` +
		`PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],` +
		`PARAMETER["False_Easting",1234.0],PARAMETER["Central_Meridian",9.5],PARAMETER["Scale_Factor",1],UNIT["Meter",1.0]]`
	if s, err := ParseWKT(fmt.Sprintf(own, "Deutsches_Hauptdreiecksnetz", "")); err != nil || s.Shift == nil ||
		s.Shift.Values[0] < 500 {
		t.Errorf("a known datum: %v %v", s, err)
	}
	if s, err := ParseWKT(fmt.Sprintf(own, "Island_1924", "")); !errors.Is(err, ErrNoShift) || s == nil {
		t.Errorf("an unknown datum: %v %v", s, err)
	}
	if s, err := ParseWKT(fmt.Sprintf(own, "Island_1924", ",TOWGS84[1,2,3]")); err != nil || s.Shift.Values[2] != 3 {
		t.Errorf("an unknown datum with a shift: %v %v", s, err)
	}
	for text, want := range map[string]string{
		"": "not the well-known text", "hello": "not the well-known text", wgs[:60]: "incomplete",
		`LOCAL_CS["x"]`: "describes a LOCAL_CS",
		strings.Replace(fmt.Sprintf(own, "X", ""), "Transverse_Mercator", "Bonne", 1): `"Bonne"`,
		strings.Replace(fmt.Sprintf(own, "X", ""), "6377397.155", "637739", 1):        "none of the earth",
		`PROJCRS["x",BASEGEOGCRS["y"]]`:                                               "second version",
		strings.Repeat("A[", 100):                                                     "not the well-known text",
	} {
		if s, err := ParseWKT(text); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.50q: %v %v, want %q", text, s, err, want)
		}
	}
}

// The .prj that is written is read again as a system that gives the same coordinates.
func TestPRJBack(t *testing.T) {
	i := 0
	All(func(s *System) bool {
		if i++; i%23 != 0 {
			return true
		}
		for _, text := range []string{s.WKT(), s.WKTWithCodes()} {
			n, _, err := parseNode(text, 0)
			if err != nil {
				t.Fatal(text, err)
			}
			back, err := fromWKT(n)
			if err != nil || back.ready() != nil {
				t.Errorf("%v: %v\n%s", s, err, text)
				continue
			}
			back.Shift = s.Shift
			lat, lon := (s.Area.South+s.Area.North)/2, s.Area.West+0.3
			e1, n1, ok1 := s.Forward(lat, lon)
			e2, n2, ok2 := back.Forward(lat, lon)
			if ok1 != ok2 || math.Abs(e1-e2) > 1e-4 || math.Abs(n1-n2) > 1e-4 {
				t.Errorf("%v: %v %v is %v %v by the text\n%s", s, e1, n1, e2, n2, text)
			}
		}
		return true
	})
}

func TestParseShift(t *testing.T) {
	if s, err := ParseShift("1,2,3"); err != nil || s.Values != [7]float64{1, 2, 3} {
		t.Error(s, err)
	}
	if s, err := ParseShift("1,2,3,0.1,0.2,-0.3, 5"); err != nil || s.Values[6] != 5 {
		t.Error(s, err)
	}
	if s, err := ParseShift("none"); err != nil || !s.null() {
		t.Error(s, err)
	}
	for _, text := range []string{"", "1,2", "1,2,x", "1,2,3,4,5,6,7,8", "1e9,2,3", "NaN,1,2", "1,2,3,400,0,0,0"} {
		if s, err := ParseShift(text); err == nil {
			t.Errorf("%q is %v", text, s)
		}
	}
}

func FuzzWKT(f *testing.F) {
	for _, code := range []string{"25832", "5514", "2056", "4326", "3031"} {
		s, _ := Find(code)
		f.Add(s.WKT())
		f.Add(s.WKTWithCodes())
	}
	f.Fuzz(func(t *testing.T, text string) {
		n, _, err := parseNode(text, 0)
		if err != nil {
			return
		}
		if s, err := fromWKT(n); err == nil && s.ready() == nil {
			s.Shift = &Shift{}
			if e, n, ok := s.Forward(10, 20); ok { // what it gives comes back
				if lat, lon, ok := s.Inverse(e, n); ok &&
					(math.Abs(lat-10) > 1e-6 || math.Abs(math.Remainder(lon-20, 360)) > 1e-6) {
					t.Errorf("%s: %v %v", text, lat, lon)
				}
			}
		}
	})
}
