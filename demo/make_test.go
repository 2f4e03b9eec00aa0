package demo

import (
	"archive/zip"
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// The files of the example are those that are made here, the same every time.
func TestFilesAreMade(t *testing.T) {
	for name, content := range map[string][]byte{"planning.kmz": planning(), "walk.gpx": walk(),
		"terrain/S48E011.zip": terrain()} {
		path := filepath.Join("files", filepath.FromSlash(name))
		if os.Getenv("UPDATE_DEMO") != "" {
			if err := os.WriteFile(path, content, 0o666); err != nil {
				t.Fatal(err)
			}
		}
		if got, err := os.ReadFile(path); err != nil || !bytes.Equal(got, content) {
			t.Errorf("%s is not what is made (%v); UPDATE_DEMO=1 go test ./demo writes it anew", name, err)
		}
	}
}

// terrain is a raw tile of three arc seconds around the isles, zipped. The sea is at 0; a gully below Cairn Hill is a
// void, as the shadow of a radar leaves it.
func terrain() []byte {
	const side = 1201
	gully := path(3, 90, at(landings()[0]), tarn, cairn)[24]
	var raw bytes.Buffer
	for row := range side {
		for col := range side {
			lat, lon := -47-float64(row)/(side-1), 11+float64(col)/(side-1)
			h := int16(0)
			if metresApart(lat, lon, middleLat, middleLon) < 20000 {
				h = int16(math.Round(math.Max(groundAt(lat, lon), 0)))
			}
			if metresApart(lat, lon, gully[0], gully[1]) < 70 {
				h = -32768
			}
			raw.Write([]byte{byte(uint16(h) >> 8), byte(h)})
		}
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	f, err := z.Create("S48E011.hgt")
	if err == nil {
		_, err = f.Write(raw.Bytes())
	}
	if err == nil {
		err = z.Close()
	}
	if err != nil {
		panic(err)
	}
	return out.Bytes()
}

type spot struct {
	name, desc string
	lat, lon   float64
}

// landing is a place on the shore of an island where the launch can put people ashore.
func landing(name, desc string, lat, lon, direction float64) spot {
	lat, lon = shoreFrom(lat, lon, direction, 2)
	return spot{name, desc, lat, lon}
}

func landings() []spot {
	return []spot{
		landing("Sorrel Landing", "Shingle, good in anything but a southerly. The hut is 80 m up the path.", -47.602,
			11.296, 2.2),
		landing("Cairn Hill Cove", "Steep beach; one boat at a time.", -47.588, 11.322, 0.2),
		landing("The Saddle, west side", "Slabs, at half tide and above only.", -47.613, 11.277, 3.4),
		landing("Little Veldrin Jetty", "Ruined jetty, its north face is sound.", -47.558, 11.374, 3.9),
		landing("Skarn Gully", "Ring bolt on the left. No swell over a metre.", -47.640, 11.347, 1.7),
		landing("Wether Holm Bight", "Sand. Seals: keep to the east end.", -47.571, 11.250, -0.8),
	}
}

// rocks are heads near the surface, strewn along the sounds.
func rocks() []spot {
	r := rand.New(rand.NewPCG(1, 48))
	names := []string{"Rock 1", "Rock 2", "Rock 3", "Lantern Head north", "Lantern Head south", "The Teeth, outer",
		"The Teeth, inner",
		"Østre Båe", "Vestre Båe", "Rock 4", "Rock 5", "Grey Mare", "Grey Mare's Foal", "Rock 6", "Rock 7", "Sexton",
		"Rock 8", "Rock 9", "Rock 10", "Rock 11"}
	places := [][2]float64{{-47.556, 11.338}, {-47.565, 11.345}, {-47.575, 11.348}, {-47.578, 11.274}, {-47.580, 11.266},
		{-47.546, 11.330}, {-47.550, 11.340},
		{-47.590, 11.352}, {-47.593, 11.356}, {-47.605, 11.347}, {-47.615, 11.342}, {-47.624, 11.338}, {-47.626, 11.335},
		{-47.630, 11.320}, {-47.632, 11.300},
		{-47.583, 11.257}, {-47.568, 11.358}, {-47.600, 11.255}, {-47.645, 11.330}, {-47.640, 11.368}}
	var out []spot
	for i, name := range names {
		lat, lon := moved(places[i][0], places[i][1], r.Float64()*160-80, r.Float64()*160-80)
		// A head that fell on land is moved out to sea.
		lat, lon = shoreFrom(lat, lon, math.Atan2(lat-middleLat, lon-middleLon), -4)
		out = append(out, spot{name, "", lat, lon})
	}
	out[3].desc = "Breaks in any swell."
	out[4].desc = "Awash at low water."
	return out
}

// path makes a line of places that wanders a little between its corners.
func path(seed uint64, step float64, corners ...[2]float64) [][2]float64 {
	r := rand.New(rand.NewPCG(seed, 7))
	out := [][2]float64{corners[0]}
	for i := 1; i < len(corners); i++ {
		a, b := corners[i-1], corners[i]
		n := int(metresApart(a[0], a[1], b[0], b[1])/step) + 1
		sway := 0.0
		for k := 1; k <= n; k++ {
			t := float64(k) / float64(n)
			sway = 0.7*sway + (r.Float64()-0.5)*step*0.8
			fade := 1.0
			if k == n {
				fade = 0
			}
			dx, dy := (b[1]-a[1])*75190, (b[0]-a[0])*111170
			l := math.Hypot(dx, dy)
			lat, lon := moved(a[0]+t*(b[0]-a[0]), a[1]+t*(b[1]-a[1]), -dy/l*sway*fade, dx/l*sway*fade)
			out = append(out, [2]float64{lat, lon})
		}
	}
	return out
}

func at(s spot) [2]float64 { return [2]float64{s.lat, s.lon} }

var (
	cairn  = [2]float64{-47.5882, 11.3218}
	saddle = [2]float64{-47.6095, 11.2865}
	tarn   = [2]float64{-47.5965, 11.3060}
)

// outline makes a closed outline around a place.
func outline(lat, lon, radius float64, n int, seed uint64) [][2]float64 {
	r := rand.New(rand.NewPCG(seed, 11))
	var out [][2]float64
	for i := range n {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		d := radius * (0.85 + 0.3*r.Float64())
		la, lo := moved(lat, lon, d*cos, d*sin)
		out = append(out, [2]float64{la, lo})
	}
	return append(out, out[0])
}

// planning is what was drawn in the office: folders of places, lines and closures, as a planner writes them.
func planning() []byte {
	var b strings.Builder
	w := func(format string, args ...any) { fmt.Fprintf(&b, format, args...) }
	coords := func(line [][2]float64, sep string) string {
		var parts []string
		for _, p := range line {
			parts = append(parts, fmt.Sprintf("%.6f%s%.6f", p[1], sep, p[0]))
		}
		return strings.Join(parts, " ")
	}
	w("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<kml " +
		"xmlns=\"http://www.opengis.net/kml/2.2\">\n<Document>\n<name>Veldrin Isles survey 2026</name>\n")
	w("<description>Plan of the season's field work. Everything in it is made up.</description>\n")
	w("<Style id=\"landing\"><IconStyle><color>ff2f9e1e</color><scale>1.1</scale><Icon><href>files/landing.png" +
		"</href></Icon></IconStyle></Style>\n")
	w("<Style id=\"rock\"><IconStyle><color>ff1c1cd0</color><Icon><href>files/rock.png</href></Icon></IconStyle>" +
		"</Style>\n")
	w("<Style id=\"path\"><LineStyle><color>ff007fd6</color><width>3</width></LineStyle></Style>\n")
	w("<Style id=\"closure\"><LineStyle><color>ff2e10c8</color><width>2</width></LineStyle><PolyStyle>" +
		"<color>552e10c8</color></PolyStyle></Style>\n")
	places := func(folder, style string, spots []spot) {
		w("<Folder><name>%s</name>\n", folder)
		for _, s := range spots {
			w("<Placemark><name>%s</name>", strings.ReplaceAll(s.name, "'", "&#39;"))
			if s.desc != "" {
				w("<description>%s</description>", s.desc)
			}
			w("<styleUrl>#%s</styleUrl><Point><coordinates>%.6f,%.6f,0</coordinates></Point></Placemark>\n", style, s.lon, s.lat)
		}
		w("</Folder>\n")
	}
	land := landings()
	places("Landings", "landing", land)
	places("Rock heads", "rock", rocks())
	w("<Folder><name>Paths</name>\n")
	line := func(name, sep string, p [][2]float64) {
		w("<Placemark><name>%s</name><styleUrl>#path</styleUrl><LineString><tessellate>1</tessellate><coordinates>%s"+
			"</coordinates></LineString></Placemark>\n", name, coords(p, sep))
	}
	line("Landing to Cairn Hill", ",", path(3, 90, at(land[0]), tarn, cairn))
	line("Cairn Hill to the cove", ",", path(4, 90, cairn, at(land[1])))
	line("Tarn to the Saddle", ", ", path(5, 90, tarn, saddle, at(land[2])))
	w("</Folder>\n<Folder><name>Transects</name>\n<Folder><name>Great Veldrin</name>\n")
	for i := range 5 {
		lat, lon := moved(-47.596, 11.292, float64(i)*260, float64(i)*90)
		a, o := moved(lat, lon, 420, -700)
		line(fmt.Sprintf("Transect %d", i+1), ",", [][2]float64{{lat, lon}, {a, o}})
	}
	w("</Folder>\n</Folder>\n<Folder><name>Nesting closures</name>\n")
	closure := func(name, desc, ceiling string, ring, hole [][2]float64) {
		w("<Placemark><name>%s</name><description>%s</description><styleUrl>#closure</styleUrl><ExtendedData><Data "+
			"name=\"floor\"><value>GND</value></Data><Data "+
			"name=\"ceiling\"><value>%s</value></Data></ExtendedData><Polygon><outerBoundaryIs><LinearRing><coordinates>%s"+
			"</coordinates></LinearRing></outerBoundaryIs>", name, desc, ceiling, coords(ring, ","))
		if hole != nil {
			w("<innerBoundaryIs><LinearRing><coordinates>%s</coordinates></LinearRing></innerBoundaryIs>", coords(hole, ","))
		}
		w("</Polygon></Placemark>\n")
	}
	closure("Nesting, Cairn Hill west", "Closed 1 September to 31 March.", "1500ft", outline(-47.5905, 11.3120, 420, 14,
		1), nil)
	closure("Nesting, Little Veldrin", "Closed all season but for the hide in its middle.", "1000ft",
		outline(-47.5575, 11.3750, 620, 18, 2), outline(-47.5575, 11.3750, 60, 6, 3))
	closure("Nesting, Wether Holm", "No landing at the west end.", "500ft", outline(-47.5712, 11.2480, 300, 12, 4), nil)
	w("</Folder>\n")
	w("<NetworkLink><name>Weather</name><Link><href>weather.kml</href></Link></NetworkLink>\n")
	w("<GroundOverlay><name>Old " +
		"chart</name><Icon><href>files/chart.png</href></Icon><LatLonBox><north>-47.53</north><south>-47.66</south>" +
		"<east>11.39</east><west>11.23</west></LatLonBox></GroundOverlay>\n")
	w("</Document>\n</kml>\n")

	var out bytes.Buffer
	z := zip.NewWriter(&out)
	add := func(name string, content []byte) {
		f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
		if err == nil {
			_, err = f.Write(content)
		}
		if err != nil {
			panic(err)
		}
	}
	add("doc.kml", []byte(b.String()))
	add("files/landing.png", dot(color.NRGBA{30, 158, 47, 255}))
	add("files/rock.png", dot(color.NRGBA{208, 28, 28, 255}))
	if err := z.Close(); err != nil {
		panic(err)
	}
	return out.Bytes()
}

func dot(c color.NRGBA) []byte {
	img := image.NewNRGBA(image.Rect(0, 0, 16, 16))
	for y := range 16 {
		for x := range 16 {
			if (x-8)*(x-8)+(y-8)*(y-8) < 40 {
				img.SetNRGBA(x, y, c)
			}
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		panic(err)
	}
	return b.Bytes()
}

// fix is one position of the recording.
type fix struct {
	lat, lon, ele float64
	at            time.Time
	noHeight      bool
	raw           string // instead of the latitude
}

// walk is the recording of a walking party from the landing over Cairn Hill to the cove and back to the tarn,
// with the faults that receivers bring home.
func walk() []byte {
	r := rand.New(rand.NewPCG(2026, 314))
	land := landings()
	way := path(3, 90, at(land[0]), tarn, cairn)
	way = append(way, path(4, 90, cairn, at(land[1]))[1:]...)
	way = append(way, path(9, 90, at(land[1]), cairn, tarn)[1:]...)
	start := time.Date(2026, 3, 14, 5, 31, 20, 0, time.UTC)
	var fixes []fix
	clock := start
	driftX, driftY, driftH := 0.0, 0.0, 0.0
	record := func(lat, lon float64) {
		driftX = 0.96*driftX + r.NormFloat64()*0.5
		driftY = 0.96*driftY + r.NormFloat64()*0.5
		driftH = 0.98*driftH + r.NormFloat64()*0.4
		la, lo := moved(lat, lon, driftX, driftY)
		fixes = append(fixes, fix{lat: la, lon: lo, ele: math.Max(groundAt(lat, lon), 0) + 1.2 + driftH, at: clock})
	}
	stand := func(lat, lon float64, d time.Duration) {
		for until := clock.Add(d); clock.Before(until); clock = clock.Add(5 * time.Second) {
			la, lo := moved(lat, lon, r.NormFloat64()*2.5, r.NormFloat64()*2.5)
			record(la, lo)
		}
	}
	stand(way[0][0], way[0][1], 90*time.Second)
	for i := 1; i < len(way); i++ {
		a, b := way[i-1], way[i]
		rise := groundAt(b[0], b[1]) - groundAt(a[0], a[1])
		length := metresApart(a[0], a[1], b[0], b[1])
		// Tobler's hiking function, W. Tobler, NCGIA Technical Report 93-1, 1993.
		speed := 6 / 3.6 * math.Exp(-3.5*math.Abs(rise/length+0.05)) * (0.92 + 0.16*r.Float64())
		n := int(length/speed/5) + 1
		for k := range n {
			t := float64(k) / float64(n)
			record(a[0]+t*(b[0]-a[0]), a[1]+t*(b[1]-a[1]))
			clock = clock.Add(5 * time.Second)
		}
		if metresApart(b[0], b[1], cairn[0], cairn[1]) < 1 && clock.Sub(start) < 2*time.Hour {
			stand(b[0], b[1], 13*time.Minute)
		}
	}
	n := len(fixes)
	// Three jumps off to the side, one of them of two points.
	for _, j := range []struct {
		at          int
		east, north float64
	}{{n / 9, 340, 120}, {n / 3, -90, 260}, {n/3 + 1, -85, 240}, {4 * n / 5, 1900, -700}} {
		fixes[j.at].lat, fixes[j.at].lon = moved(fixes[j.at].lat, fixes[j.at].lon, j.east, j.north)
	}
	for i := n / 2; i < n/2+38; i++ { // the barometer slept
		fixes[i].noHeight = true
	}
	for _, i := range []int{n / 7, n / 6, 5 * n / 8, 5*n/8 + 1} { // written twice
		fixes[i+1] = fixes[i]
	}
	for i := range 3 { // a block written in the wrong order
		k := 2*n/3 + i
		fixes[k], fixes[k+6] = fixes[k+6], fixes[k]
	}
	fixes[n/4].raw = "NaN"
	fixes[3*n/4].raw = "-470.604113"

	var b strings.Builder
	b.WriteString("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<gpx version=\"1.1\" creator=\"Ridge\" " +
		"xmlns=\"http://www.topografix.com/GPX/1/1\">\n")
	b.WriteString("<metadata><name>Party A, 14 March</name></metadata>\n")
	fmt.Fprintf(&b, "<wpt lat=\"%.6f\" lon=\"%.6f\"><ele>%.1f</ele><time>%s</time><name>Plot "+
		"1</name><sym>flag</sym></wpt>\n", cairn[0], cairn[1], groundAt(cairn[0], cairn[1]),
		fixes[n/3].at.Format(time.RFC3339))
	fmt.Fprintf(&b, "<wpt lat=\"%.6f\" lon=\"%.6f\"><name>Plot 2</name><sym>flag</sym></wpt>\n", tarn[0], tarn[1])
	b.WriteString("<trk><name>Cairn Hill and back</name><trkseg>\n")
	for _, f := range fixes {
		lat := fmt.Sprintf("%.6f", f.lat)
		if f.raw != "" {
			lat = f.raw
		}
		fmt.Fprintf(&b, "<trkpt lat=\"%s\" lon=\"%.6f\">", lat, f.lon)
		if !f.noHeight {
			fmt.Fprintf(&b, "<ele>%.1f</ele>", f.ele)
		}
		fmt.Fprintf(&b, "<time>%s</time></trkpt>\n", f.at.Format(time.RFC3339))
	}
	b.WriteString("</trkseg></trk>\n</gpx>\n")
	return []byte(b.String())
}
