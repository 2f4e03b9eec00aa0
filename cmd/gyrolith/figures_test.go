package main

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"math"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"gyrolith/demo"
)

// vincenty is a distance and a course on WGS 84 by T. Vincenty, Survey Review 23(176), 1975, formulae 13 to 19 and 20:
// another method than the program's.
func vincenty(lat1, lon1, lat2, lon2 float64) (metres, course float64) {
	const a, f = 6378137.0, 1 / 298.257223563
	b := a * (1 - f)
	rad := math.Pi / 180
	u1, u2 := math.Atan((1-f)*math.Tan(lat1*rad)), math.Atan((1-f)*math.Tan(lat2*rad))
	l := (lon2 - lon1) * rad
	lambda := l
	var sinS, cosS, sigma, cos2A, cos2M float64
	for range 100 {
		x := math.Cos(u2) * math.Sin(lambda)
		y := math.Cos(u1)*math.Sin(u2) - math.Sin(u1)*math.Cos(u2)*math.Cos(lambda)
		sinS = math.Hypot(x, y)
		cosS = math.Sin(u1)*math.Sin(u2) + math.Cos(u1)*math.Cos(u2)*math.Cos(lambda)
		sigma = math.Atan2(sinS, cosS)
		sinA := math.Cos(u1) * math.Cos(u2) * math.Sin(lambda) / sinS
		cos2A = 1 - sinA*sinA
		cos2M = cosS - 2*math.Sin(u1)*math.Sin(u2)/cos2A
		c := f / 16 * cos2A * (4 + f*(4-3*cos2A))
		next := l + (1-c)*f*sinA*(sigma+c*sinS*(cos2M+c*cosS*(2*cos2M*cos2M-1)))
		if math.Abs(next-lambda) < 1e-13 {
			break
		}
		lambda = next
	}
	uu := cos2A * (a*a - b*b) / (b * b)
	big := 1 + uu/16384*(4096+uu*(-768+uu*(320-175*uu)))
	small := uu / 1024 * (256 + uu*(-128+uu*(74-47*uu)))
	d := small * sinS * (cos2M + small/4*(cosS*(2*cos2M*cos2M-1)-
		small/6*cos2M*(4*sinS*sinS-3)*(4*cos2M*cos2M-3)))
	north := math.Cos(u1)*math.Sin(u2) - math.Sin(u1)*math.Cos(u2)*math.Cos(lambda)
	course = math.Atan2(math.Cos(u2)*math.Sin(lambda), north)
	return b * big * (sigma - d), math.Mod(course/rad+360, 360)
}

// Known pairs of Vincenty's own method: a degree of the equator is 111,319.49 m by the definition of the ellipsoid.
func TestVincenty(t *testing.T) {
	if m, course := vincenty(0, 0, 0, 1); math.Abs(m-6378137*math.Pi/180) > 1e-3 || math.Abs(course-90) > 1e-9 {
		t.Errorf("%v %v", m, course)
	}
}

// figures are what pages of the manual must say, worked out here from the example's files without the program.
func figures(t *testing.T) map[string][]string {
	t.Helper()
	walk, err := demo.Files.ReadFile("files/walk.gpx")
	if err != nil {
		t.Fatal(err)
	}
	south, north, west, east, points := 90.0, -90.0, 180.0, -180.0, 0
	for _, m := range regexp.MustCompile(`<(?:trkpt|wpt) lat="([^"]*)" lon="([^"]*)"`).FindAllSubmatch(walk, -1) {
		lat, _ := strconv.ParseFloat(string(m[1]), 64)
		lon, _ := strconv.ParseFloat(string(m[2]), 64)
		if math.IsNaN(lat) || math.Abs(lat) > 90 {
			continue
		}
		points++
		south, north, west, east = min(south, lat), max(north, lat), min(west, lon), max(east, lon)
	}
	raw, err := demo.Files.ReadFile("files/planning.kmz")
	if err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	doc, err := z.Open("doc.kml")
	if err != nil {
		t.Fatal(err)
	}
	plan, err := io.ReadAll(doc)
	if err != nil {
		t.Fatal(err)
	}
	_, saddle, _ := strings.Cut(string(plan), "<name>Tarn to the Saddle</name>")
	saddle, _, _ = strings.Cut(saddle, "</coordinates>")
	_, saddle, _ = strings.Cut(saddle, "<coordinates>")
	length, lastLat, lastLon, corners := 0.0, 0.0, 0.0, 0
	for _, tuple := range strings.Fields(strings.ReplaceAll(saddle, ", ", ",")) { // a planner put blanks there
		v := strings.Split(tuple, ",")
		lon, _ := strconv.ParseFloat(v[0], 64)
		lat, _ := strconv.ParseFloat(v[1], 64)
		if corners > 0 {
			m, _ := vincenty(lastLat, lastLon, lat, lon)
			length += m
		}
		lastLat, lastLon, corners = lat, lon, corners+1
	}
	_, landings, _ := strings.Cut(string(plan), "<Folder><name>Landings</name>")
	landings, _, _ = strings.Cut(landings, "</Folder>")
	// The briefing's first leg, and the one from North Sound to Teeth Gate.
	first, firstCourse := vincenty(-(47 + 35.223/60), 11+16.795/60, -(47 + 34.770/60), 11+16.332/60)
	gate, gateCourse := vincenty(-(47 + 33.90/60), 11+18.30/60, -47.5530, 11.3340)
	return map[string][]string{
		"look.md": {fmt.Sprintf("%.5f° S %.5f° E to %.5f° S %.5f° E", -south, west, -north, east),
			fmt.Sprintf("total    2 waypoints, 1 track, %d,%03d points", points/1000, points%1000)},
		"season.md":  {fmt.Sprintf("%.2f km", length/1000), fmt.Sprintf("%6d\n", corners)},
		"convert.md": {fmt.Sprintf("landing-sites.gpx (gpx): %d waypoints", strings.Count(landings, "<Placemark>"))},
		"legs.md": {fmt.Sprintf("%.2f nm  %.2f nm         %03.0f°", first/1852, first/1852, firstCourse),
			fmt.Sprintf("Teeth Gate             %.2f nm", gate/1852), fmt.Sprintf("%03.0f°", gateCourse)},
	}
}

// figuresHold says whether a page has the figures that are known of it by other means.
func figuresHold(t *testing.T, of map[string][]string, page, text string) bool {
	t.Helper()
	whole := true
	for _, want := range of[filepath.Base(page)] {
		if !strings.Contains(text, want) {
			t.Errorf("%s does not say %q", page, want)
			whole = false
		}
	}
	return whole
}

// The figures of the manual that matter are right, whatever the program prints.
func TestFiguresOfTheManual(t *testing.T) {
	of, seen := figures(t), 0
	for _, page := range pages(t) {
		if of[filepath.Base(page)] != nil {
			seen++
		}
		figuresHold(t, of, page, readPage(t, page))
	}
	if seen != len(of) {
		t.Errorf("%d of %d pages are there", seen, len(of))
	}
}
