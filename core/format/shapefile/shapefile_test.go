package shapefile

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// files writes a dataset and gives the contents by their suffix.
func files(t *testing.T, d *nav.Dataset, opt *format.WriteOptions) (map[string][]byte, nav.Ledger) {
	t.Helper()
	parts, done, err := set(d, opt)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]byte{}
	for _, p := range parts {
		var b bytes.Buffer
		if err := p.Write(&b); err != nil {
			t.Fatal(err)
		}
		out[p.Suffix] = b.Bytes()
	}
	return out, done.Ledger
}

// readBack reads the set with a stem as one.
func readBack(t *testing.T, all map[string][]byte, stem string, opt *format.ReadOptions) *nav.Dataset {
	t.Helper()
	d, err := read(source(t, all, stem), opt)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func source(t testing.TB, all map[string][]byte, stem string) *format.Source {
	parts := map[string][]byte{}
	for _, ext := range []string{".dbf", ".prj", ".cpg"} {
		if b, ok := all[stem+ext]; ok {
			parts[ext] = b
		}
	}
	return format.WithParts(t.Context(), "survey.shp", all[stem+".shp"], parts)
}

func sample() *nav.Dataset {
	w := nav.Waypoint{Item: nav.Item{Name: "Größe", Desc: strings.Repeat("ä", 200), Group: "Rocks", Fields: []nav.Field{
		{Key: "Anzahl der Nester", Value: "12"}, {Key: "Anzahl der Eier", Value: "3.50"}, {Key: "ring", Value: "007"},
		{Key: "seen", Value: "2026-03-14"}}}, Point: nav.At(-47.6, 11.3)}
	w.SetTime(time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC).UnixNano(), instant.Seconds)
	w.SetHeight(12.5, decimal.PrecisionOf(1), nav.DatumUnstated)
	v := nav.Waypoint{Item: nav.Item{Name: "B"}, Point: nav.At(-47.7, 11.4)}
	a := nav.Area{Item: nav.Item{Name: "Closure"}, Outline: []nav.Point{nav.At(-47, 11), nav.At(-47, 12),
		nav.At(-46, 12), nav.At(-46, 11)},
		Holes: [][]nav.Point{{nav.At(-46.6, 11.4), nav.At(-46.4, 11.4), nav.At(-46.4, 11.6)}}}
	line := func(n float64) nav.Segment {
		s := nav.Segment{Points: []nav.Point{nav.At(-47, n), nav.At(-47.1, n), nav.At(-47.2, n+0.1)}}
		for i := range s.Points {
			s.Points[i].SetHeight(float64(i), decimal.PrecisionOf(0), nav.DatumUnstated)
		}
		return s
	}
	r := nav.Route{Item: nav.Item{Name: "Run"}}
	for _, p := range line(13).Points {
		r.Points = append(r.Points, nav.Waypoint{Point: p})
	}
	return &nav.Dataset{Waypoints: []nav.Waypoint{w, v}, Routes: []nav.Route{r},
		Tracks: []nav.Track{{Item: nav.Item{Name: "Walk"}, Segments: []nav.Segment{line(11), line(12)}}},
		Areas:  []nav.Area{a}}
}

// The bytes are those that the Shapefile Technical Description (July 1998) asks for.
func TestLayout(t *testing.T) {
	all, ledger := files(t, sample(), &format.WriteOptions{})
	if len(all) != 15 {
		t.Fatalf("%d files", len(all))
	}
	shapes := map[string]uint32{"-points": 1, "-lines": 13, "-areas": 5} // lines have all heights, points not
	for stem, shape := range shapes {
		shp, shx := all[stem+".shp"], all[stem+".shx"]
		if binary.BigEndian.Uint32(shp) != 9994 || int(binary.BigEndian.Uint32(shp[24:]))*2 != len(shp) ||
			binary.LittleEndian.Uint32(shp[28:]) != 1000 || binary.LittleEndian.Uint32(shp[32:]) != shape {
			t.Errorf("%s: head % x", stem, shp[:36])
		}
		for n := 0; 100+8*n < len(shx); n++ {
			at, size := int(binary.BigEndian.Uint32(shx[100+8*n:]))*2, binary.BigEndian.Uint32(shx[104+8*n:])
			if int(binary.BigEndian.Uint32(shp[at:])) != n+1 || binary.BigEndian.Uint32(shp[at+4:]) != size {
				t.Errorf("%s: the index points beside record %d", stem, n+1)
			}
		}
		dbf := all[stem+".dbf"]
		head, size, count := int(binary.LittleEndian.Uint16(dbf[8:])), int(binary.LittleEndian.Uint16(dbf[10:])),
			int(binary.LittleEndian.Uint32(dbf[4:]))
		if dbf[0] != 3 || dbf[head-1] != 0x0D || head+size*count+1 != len(dbf) || dbf[len(dbf)-1] != 0x1A {
			t.Errorf("%s: the table of attributes: % x", stem, dbf[:32])
		}
	}
	// The outline goes clockwise, the hole the other way (page 8).
	b := all["-areas.shp"][108:]
	starts := []int{0, int(binary.LittleEndian.Uint32(b[48:]))}
	points := b[52:]
	turn := func(from, to int) (sum float64) {
		x := func(i int) float64 { return float(points[16*i:]) }
		y := func(i int) float64 { return float(points[16*i+8:]) }
		for i := from; i+1 < to; i++ {
			sum += x(i)*y(i+1) - x(i+1)*y(i)
		}
		return
	}
	if outer, hole := turn(0, starts[1]), turn(starts[1], starts[1]+4); outer >= 0 || hole <= 0 {
		t.Errorf("the rings turn %v and %v", outer, hole)
	}
	if x := float(points); x != 11 {
		t.Errorf("the first longitude is %v", x)
	}
	// Names of ten letters, unique, with the table of old and new; a text of more than 254 bytes is cut and told.
	renamed, cut := map[string]string{}, 0
	for _, e := range ledger {
		if e.What == "field name" {
			renamed[e.Old] = e.New
		}
		if e.What == "ends of description" && e.Loss {
			cut++
		}
	}
	if renamed["Anzahl der Nester"] != "Anzahl_der" || renamed["Anzahl der Eier"] != "Anzahl_de2" ||
		renamed["description"] != "descriptio" || cut != 1 {
		t.Errorf("renamed %v, cut %d", renamed, cut)
	}
	if string(all["-points.cpg"]) != "UTF-8" ||
		!strings.HasPrefix(string(all["-points.prj"]), `GEOGCS["GCS_WGS_1984",DATUM["D_WGS_1984"`) {
		t.Errorf("%s %s", all["-points.cpg"], all["-points.prj"])
	}
	again, _ := files(t, sample(), &format.WriteOptions{})
	for name := range all {
		if !bytes.Equal(all[name], again[name]) {
			t.Errorf("%s: the same data give other bytes", name)
		}
	}
}

// Types are inferred: whole and decimal numbers, dates, and texts for all else.
func TestTypes(t *testing.T) {
	all, _ := files(t, sample(), &format.WriteOptions{})
	table, err := readDBF(all["-points.dbf"], nil, &nav.Dataset{})
	if err != nil {
		t.Fatal(err)
	}
	kinds := map[string]string{}
	for _, c := range table.columns {
		kinds[c.name] = fmt.Sprintf("%c%d", c.kind, c.decimals)
	}
	for name, want := range map[string]string{"name": "C0", "Anzahl_der": "N0", "Anzahl_de2": "N2", "ring": "C0",
		"seen": "D0", "time": "C0", "height": "N1"} {
		if kinds[name] != want {
			t.Errorf("%s is %s, want %s", name, kinds[name], want)
		}
	}
}

func TestBack(t *testing.T) {
	utm, _ := crs.Find("32732")
	for name, opt := range map[string]*format.WriteOptions{"degrees": {}, "UTM": {System: utm}} {
		all, _ := files(t, sample(), opt)
		points, lines, areas := readBack(t, all, "-points", &format.ReadOptions{}),
			readBack(t, all, "-lines", &format.ReadOptions{}), readBack(t, all, "-areas", &format.ReadOptions{})
		w := &points.Waypoints[0]
		ring, _ := nav.Get(w.Fields, "ring")
		seen, _ := nav.Get(w.Fields, "seen")
		if w.Name != "Größe" || w.Group != "Rocks" || ring != "007" || seen != "2026-03-14" || w.Height() != 12.5 ||
			w.Time().Hour() != 5 || len(w.Desc) != 254 || strings.Trim(w.Desc, "ä") != "" {
			t.Errorf("%s: %+v", name, w)
		}
		if math.Abs(w.Lat+47.6) > 1e-9 || math.Abs(w.Lon-11.3) > 1e-9 || points.Waypoints[1].HasHeight() {
			t.Errorf("%s: at %v %v", name, w.Lat, w.Lon)
		}
		if len(lines.Routes) != 1 || len(lines.Tracks) != 1 || len(lines.Tracks[0].Segments) != 2 ||
			lines.Tracks[0].Segments[1].Points[2].Height() != 2 {
			t.Errorf("%s: %+v", name, lines)
		}
		if len(areas.Areas) != 1 || len(areas.Areas[0].Holes) != 1 || areas.Areas[0].Len() != 7 ||
			areas.Areas[0].Name != "Closure" {
			t.Errorf("%s: %+v", name, areas.Areas)
		}
	}
}

// record makes a .shp of polygons by hand.
// Types and widths of the columns of a shapefile are those of the shapefile that it becomes, empty columns too.
func TestColumnsSurvive(t *testing.T) {
	was := &dbf{
		columns: []column{{"name", 'C', 80, 0}, {"kind", 'C', 8, 0}, {"depth", 'N', 12, 3}, {"checked", 'L', 1, 0}},
	}
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "Rock",
		Fields: []nav.Field{{Key: "depth", Value: "4.5"}}}, Point: nav.At(-47.6, 11.3)}}}
	d.Meta.Kept = []nav.Kept{was.keep(layer.Points)}
	all, ledger := files(t, d, &format.WriteOptions{})
	got, err := readDBF(all[".dbf"], []byte("UTF-8"), &nav.Dataset{})
	want := slices.Insert(slices.Clone(was.columns), 2, column{"item_id", 'C', 23, 0}) // by which edited rows are known
	if err != nil || !slices.Equal(got.columns, want) {
		t.Errorf("%v: %v", err, got.columns)
	}
	back := readBack(t, all, "", &format.ReadOptions{})
	if w := back.Waypoints[0]; fmt.Sprint(w.Fields) != "[{depth 4.5 true false}]" || ledger.Losses() > 0 {
		t.Errorf("%+v %v", w, ledger)
	}
	if again, _ := files(t, back, &format.WriteOptions{}); !bytes.Equal(all[".dbf"], again[".dbf"]) {
		t.Error("the table changes from one shapefile to the next")
	}
}

func polygonFile(rings ...[][2]float64) []byte {
	var body []byte
	body = binary.LittleEndian.AppendUint32(body, 5)
	for range 4 {
		body = appendFloat(body, 0)
	}
	n := 0
	for _, r := range rings {
		n += len(r)
	}
	body = binary.LittleEndian.AppendUint32(body, uint32(len(rings)))
	body = binary.LittleEndian.AppendUint32(body, uint32(n))
	at := 0
	for _, r := range rings {
		body = binary.LittleEndian.AppendUint32(body, uint32(at))
		at += len(r)
	}
	for _, r := range rings {
		for _, p := range r {
			body = appendFloat(appendFloat(body, p[0]), p[1])
		}
	}
	out := make([]byte, 100)
	binary.BigEndian.PutUint32(out, 9994)
	binary.BigEndian.PutUint32(out[24:], uint32((108+len(body))/2))
	binary.LittleEndian.PutUint32(out[28:], 1000)
	binary.LittleEndian.PutUint32(out[32:], 5)
	out = binary.BigEndian.AppendUint32(out, 1)
	out = binary.BigEndian.AppendUint32(out, uint32(len(body)/2))
	return append(out, body...)
}

// Several outlines in one shape are several areas, each with its own holes; where all rings turn the wrong way, the one
// inside of another is its hole.
func TestRings(t *testing.T) {
	clockwise := func(x, y, size float64) [][2]float64 {
		return [][2]float64{{x, y}, {x, y + size}, {x + size, y + size}, {x + size, y}, {x, y}}
	}
	other := func(x, y, size float64) [][2]float64 {
		return [][2]float64{{x, y}, {x + size, y}, {x + size, y + size}, {x, y + size}, {x, y}}
	}
	d := readBack(t, map[string][]byte{".shp": polygonFile(clockwise(0, 0, 10), other(2, 2, 3), clockwise(20, 0, 10),
		other(22, 2, 3), clockwise(23, 3, 1))}, "", &format.ReadOptions{})
	if len(d.Areas) != 3 || len(d.Areas[0].Holes) != 1 || len(d.Areas[1].Holes) != 1 || len(d.Areas[2].Holes) != 0 {
		t.Errorf("%+v", d.Areas)
	}
	d = readBack(t, map[string][]byte{".shp": polygonFile(other(0, 0, 10), other(2, 2, 3))}, "", &format.ReadOptions{})
	if len(d.Areas) != 1 || len(d.Areas[0].Holes) != 1 {
		t.Errorf("the wrong way around: %+v", d.Areas)
	}
}

// What is missing or damaged is told, with what to do.
func TestAwkward(t *testing.T) {
	utm, _ := crs.Find("32732")
	all, _ := files(t, sample(), &format.WriteOptions{System: utm})
	only := func(parts ...string) map[string][]byte {
		out := map[string][]byte{}
		for _, p := range parts {
			out[p] = all["-points"+p]
		}
		return out
	}
	refuse := func(name string, parts map[string][]byte, opt *format.ReadOptions, want string) {
		t.Helper()
		if _, err := read(source(t, parts, ""), opt); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v, want %q", name, err, want)
		}
	}
	refuse("no .prj", only(".shp", ".dbf"), &format.ReadOptions{}, "no .prj beside it")
	strange := only(".shp", ".dbf", ".prj")
	strange[".prj"] = []byte(strings.NewReplacer("D_WGS_1984", "D_Island", "6378137.0",
		"6378200.0").Replace(string(strange[".prj"])))
	refuse("a .prj of no known system", strange, &format.ReadOptions{}, "gives no datum shift")
	none, _ := crs.ParseShift("none")
	if d, err := read(source(t, strange, ""), &format.ReadOptions{Shift: none}); err != nil || len(d.Waypoints) != 2 {
		t.Errorf("with a shift: %v", err)
	}
	cut := only(".shp", ".dbf", ".prj")
	cut[".shp"] = cut[".shp"][:len(cut[".shp"])-5]
	refuse("cut off", cut, &format.ReadOptions{}, "incomplete")
	short := only(".shp", ".dbf", ".prj")
	short[".dbf"] = short[".dbf"][:len(short[".dbf"])-40]
	refuse("too few records", short, &format.ReadOptions{}, "don't belong together")
	d := readBack(t, only(".shp", ".prj"), "", &format.ReadOptions{})
	if !strings.Contains(fmt.Sprint(d.Problems), "no .dbf beside it") || len(d.Waypoints) != 2 {
		t.Errorf("without attributes: %v", d.Problems)
	}
	d = readBack(t, only(".shp", ".dbf"), "", &format.ReadOptions{System: utm})
	if math.Abs(d.Waypoints[0].Lat+47.6) > 1e-9 {
		t.Errorf("with --crs-in: %v", d.Waypoints[0].Lat)
	}
}

// Texts are in the encoding that the .cpg, or else the language byte, names.
func TestEncodings(t *testing.T) {
	table := func(language byte, name string) []byte {
		b := make([]byte, 32)
		b[0], b[29] = 3, language
		binary.LittleEndian.PutUint32(b[4:], 1)
		binary.LittleEndian.PutUint16(b[8:], 65)
		binary.LittleEndian.PutUint16(b[10:], 11)
		column := make([]byte, 32)
		copy(column, "NAME")
		column[11], column[16] = 'C', 10
		b = append(append(b, column...), 0x0D, ' ')
		return append(b, (name + strings.Repeat(" ", 10))[:10]...)
	}
	for _, c := range []struct {
		language byte
		cpg      string
		raw      string
	}{{0, "UTF-8", "Größe"}, {0, "1252", "Gr\xf6\xdfe"}, {0, "ISO-8859-1", "Gr\xf6\xdfe"}, {0x57, "", "Gr\xf6\xdfe"},
		{0x02, "", "Gr\x94\xe1e"}, {0, "", "Gr\xf6\xdfe"}, {0, "", "Größe"}, {0x57, "utf8", "Größe"},
		{0, "ISO 88591", "Gr\xf6\xdfe"}, {0, "8859-15", "Gr\xf6\xdfe"}, {0, "CP1252", "Gr\xf6\xdfe"},
		{0, "OEM 850", "Gr\x94\xe1e"}, {0, "ANSI 1257", "Gr\xf6\xdfe"}, {0, "65001", "Größe"}} {
		d := &nav.Dataset{}
		b, err := readDBF(table(c.language, c.raw), []byte(c.cpg), d)
		if err != nil {
			t.Fatal(err)
		}
		values := make([]string, 1)
		if b.record(0, values); values[0] != "Größe" {
			t.Errorf("language %x, .cpg %q: %q", c.language, c.cpg, values[0])
		}
	}
}

func FuzzShapefile(f *testing.F) {
	d := sample()
	parts, _, _ := set(d, &format.WriteOptions{})
	for i := 0; i < len(parts); i += 5 {
		var shp, dbf bytes.Buffer
		parts[i].Write(&shp)
		parts[i+2].Write(&dbf)
		f.Add(shp.Bytes(), dbf.Bytes())
	}
	f.Fuzz(func(t *testing.T, shp, dbf []byte) {
		d, err := read(format.WithParts(t.Context(), "x.shp", shp, map[string][]byte{".dbf": dbf}),
			&format.ReadOptions{MaxUnpacked: 1 << 20})
		if err != nil {
			return
		}
		for p := range d.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Errorf("%v %v", p.Lat, p.Lon)
			}
		}
	})
}
