package table

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func load(t *testing.T, text string, opt *format.ReadOptions) *nav.Dataset {
	t.Helper()
	d, err := readCSV(format.FromBytes(t.Context(), "list.csv", []byte(text)), opt)
	if err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	return d
}

// place asserts where a waypoint lies, to about a metre.
func place(t *testing.T, w *nav.Waypoint, name string, lat, lon float64) {
	t.Helper()
	if w.Name != name || math.Abs(w.Lat-lat) > 1.2e-5 || math.Abs(w.Lon-lon) > 1.2e-5 {
		t.Errorf("%q at %v %v, want %q at %v %v", w.Name, w.Lat, w.Lon, name, lat, lon)
	}
}

// One list in the many forms in which offices write it: every one gives the same two waypoints.
func TestForms(t *testing.T) {
	const lat1, lon1, lat2, lon2 = -47.60125, 11.30210, -47.58000, 11.29950
	for name, text := range map[string]string{
		"plain":      "name,lat,lon\nRock,-47.60125,11.30210\nCove,-47.58,11.2995\n",
		"semicolons": "Name;Breite;Länge\r\nRock;-47,60125;11,30210\r\nCove;-47,58000;11,29950\r\n",
		"tabs":       "station\tlatitude\tlongitude\nRock\t-47.60125\t11.30210\nCove\t-47.58\t11.2995\n",
		"bars":       "waypoint|lat|lng\rRock|-47.60125|11.30210\rCove|-47.58|11.2995\r",
		"quotes": "\"Name\",\"Latitude\",\"Longitude\"\n\"Rock\",\"-47.60125\",\"11.30210\"\n\"Cove\",\"-47.58\"," +
			"\"11.2995\"",
		"titles above": "Veldrin survey;;\nlist of 2026;;\n;;\nNom;Latitude (WGS84);Longitude " +
			"(WGS84)\nRock;-47,60125;11,30210\nCove;-47,58;11,2995\n",
		"separator said": "sep=;\nnombre;latitud;longitud\nRock;-47,60125;11,30210\nCove;-47,58;11,2995\n",
		"other order":    "lon,lat,name\n11.30210,-47.60125,Rock\n11.2995,-47.58,Cove\n",
		"letters":        "navn,breddegrad,lengdegrad\nRock,47.60125 S,11.30210 E\nCove,47.58 S,11.2995 E\n",
		"minutes":        "name;lat;lon\nRock;47°36.075'S;011°18.126'E\nCove;47°34.800'S;011°17.970'E\n",
		"parts apart": "name,lat deg,lat min,lat sec,N/S,lon deg,lon min,lon " +
			"sec,E/W\nRock,47,36,4.5,S,11,18,7.56,E\nCove,47,34,48,S,11,17,58.2,E\n",
		"hemispheres apart": "naam;breedte;N/S;lengte;E/W\nRock;47,60125;S;11,30210;E\nCove;47,58;S;11,2995;E\n",
		"one column":        "name,position\nRock,\"47.60125 S, 11.30210 E\"\nCove,\"47.58 S, 11.2995 E\"\n",
		"grid references":   "name,MGRS\nRock,32G PN 73041 25449\nCove,32G PN 72916 27817\n",
		"zone and grid": "name,zone,easting,northing\nRock,32 south,673041.269,4725449.805\nCove,32 " +
			"south,672915.861,4727817.114\n",
		"zone and half": "name,zone,easting,northing\nRock,32S,673041.269,4725449.805\nCove,32 " +
			"S,672915.861,4727817.114\n",
		"zone by band": "Punkt;UTM-Zone;Ostwert;Nordwert\nRock;32G;673.041,269;4.725.449,805\nCove;32G;672.915," +
			"861;4.727.817,114\n",
		"x and y of degrees": "id,x,y\nRock,11.30210,-47.60125\nCove,11.2995,-47.58\n",
		"no header":          "Rock,-47.60125,11.30210\nCove,-47.58000,11.29950\n",
		"blank lines":        "name,lat,lon\n\nRock,-47.60125,11.30210\n,,\nCove,-47.58,11.2995\n\n\n",
		"header again":       "name,lat,lon\nRock,-47.60125,11.30210\nname,lat,lon\nCove,-47.58,11.2995\n",
	} {
		d := load(t, text, &format.ReadOptions{})
		if len(d.Waypoints) != 2 || len(d.Rejects) != 0 {
			t.Errorf("%s: %d waypoints, rejects %v\n%v", name, len(d.Waypoints), d.Rejects, d.Problems)
			continue
		}
		t.Run(name, func(t *testing.T) {
			place(t, &d.Waypoints[0], "Rock", lat1, lon1)
			place(t, &d.Waypoints[1], "Cove", lat2, lon2)
		})
		if f, err := find(headRows(text), &format.ReadOptions{}); err != nil || !f.sure && name != "no header" {
			t.Errorf("%s is not sniffed by its header: %v", name, err)
		}
	}
}

func headRows(text string) [][]string {
	sep, body := separator([]byte(text))
	return head(body, sep)
}

func TestEncodings(t *testing.T) {
	const text = "Name;Breite;Länge;Höhe (ft)\nGröße;-47,6;11,3;100\n"
	latin, _ := charmap.Windows1252.NewEncoder().Bytes([]byte(text))
	wide, _ := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().Bytes([]byte(text))
	for name, b := range map[string][]byte{"UTF-8": []byte(text), "with a mark": []byte("\ufeff" + text),
		"Windows-1252": latin, "UTF-16": wide} {
		d, err := readCSV(format.FromBytes(t.Context(), "x", b), &format.ReadOptions{})
		if err != nil || len(d.Waypoints) != 1 || d.Waypoints[0].Name != "Größe" ||
			math.Abs(d.Waypoints[0].Height()-30.48) > 1e-9 {
			t.Errorf("%s: %v %+v", name, err, d)
		}
	}
}

// All that the columns say arrives, and what has no place of its own is a field.
func TestColumns(t *testing.T) {
	d := load(t, "Name,Lat,Lon,Elevation (m),Date,Time,Symbol,Colour,Description,Group,Comment,Depth,Species,Count\n"+
		"Rock,-47.6,11.3,12.50,14.03.2026,05:30:15,hazard,#ff0000,\"two lines,\nof text\",Hazards,awash,1.5,tern,007\n",
		&format.ReadOptions{})
	w := &d.Waypoints[0]
	if h := string(w.AppendHeight(nil)); h != "12.50" ||
		!w.Time().Equal(time.Date(2026, 3, 14, 5, 30, 15, 0, time.UTC)) || w.Style.Symbol != "hazard" ||
		w.Style.Colour != nav.RGB(255, 0, 0) ||
		w.Desc != "two lines,\nof text" || w.Group != "Hazards" || w.Comment != "awash" {
		t.Errorf("%+v", w)
	}
	if got := fmt.Sprint(w.Fields); got != "[{depth 1.5 true false} {Species tern false false} {Count 007 false false}]" {
		t.Errorf("fields %s", got)
	}
	told := d.Problems[0].Text
	for _, part := range []string{`lat from "Lat"`, `time from "Date" and "Time"`, "fields: Species, Count"} {
		if !strings.Contains(told, part) {
			t.Errorf("%q does not say %q", told, part)
		}
	}
}

func TestMoments(t *testing.T) {
	at := func(y, mo, d, h, mi, s int) time.Time { return time.Date(y, time.Month(mo), d, h, mi, s, 0, time.UTC) }
	for text, want := range map[string]time.Time{
		"2026-03-14T05:30:00Z": at(2026, 3, 14, 5, 30, 0), "2026-03-14 05:30": at(2026, 3, 14, 5, 30, 0),
		"2026-03-14 5:30 pm": at(2026, 3, 14, 17, 30, 0),
		"14.03.2026 05:30":   at(2026, 3, 14, 5, 30, 0), "14/03/2026 5:30:10": at(2026, 3, 14, 5, 30, 10),
		"14.3.2026":               at(2026, 3, 14, 0, 0, 0),
		"14.03.2026 05:30 +02:00": at(2026, 3, 14, 3, 30, 0), "14.03.2026 12:05 am": at(2026, 3, 14, 0, 5, 0),
	} {
		m := &moments{}
		m.observe(text)
		ns, _, _, ok, _ := m.parse(text)
		if !ok || !time.Unix(0, ns).Equal(want) {
			t.Errorf("%s is %v %v", text, time.Unix(0, ns).UTC(), ok)
		}
	}
	m := &moments{}
	if _, _, _, ok, ambiguous := m.parse("03/04/2026"); ok || !ambiguous {
		t.Error("day and month are guessed")
	}
	m.observe("03/14/2026") // which tells the order of the whole table
	if ns, _, _, ok, _ := m.parse("03/04/2026"); !ok || !time.Unix(0, ns).Equal(at(2026, 3, 4, 0, 0, 0)) {
		t.Error("the order of the table is not taken")
	}
	for _, text := range []string{"", "soon", "32.01.2026", "14.03.2026 25:00", "2026-02-30"} {
		if _, _, _, ok, _ := m.parse(text); ok {
			t.Errorf("%q is a time", text)
		}
	}
}

// 32S is read as the south only where it can be nothing else; where it could be the band of latitude S, both readings
// are told.
func TestZoneLetters(t *testing.T) {
	d := load(t, "name,zone,easting,northing\nA,32N,673041,5273456\nB,32S,673041,4725449\nC,32S,673041,4000000\n",
		&format.ReadOptions{})
	if len(d.Waypoints) != 2 || d.Waypoints[0].Lat < 47 || d.Waypoints[1].Lat > -47 || len(d.Rejects) != 1 ||
		!strings.Contains(d.Rejects[0].Why, "ambiguous") || !strings.Contains(fmt.Sprint(d.Problems), "southern half") {
		t.Errorf("%+v %v %v", d.Waypoints, d.Rejects, d.Problems)
	}
}

// What can't be understood is refused with what to do.
func TestRefusedTables(t *testing.T) {
	for want, c := range map[string]struct {
		text string
		opt  format.ReadOptions
	}{
		"has projected coordinates":  {"name,easting,northing\nA,672887,4725593\n", format.ReadOptions{}},
		`in the columns "X" and "Y"`: {"name,X,Y\nA,672887,4725593\n", format.ReadOptions{}},
		`none for the longitude`:     {"name,lat,remark\nA,-47.6,x\n", format.ReadOptions{}},
		`there are "Station", "N", "O"`: {"Station;N;O\nA;-47,6;11,3\n",
			format.ReadOptions{Columns: []format.Column{{Title: "Breite", Holds: "lat"}}}},
		"no columns with coordinates":        {"a;b;c\n1;2;3\n", format.ReadOptions{}},
		"no comma, semicolon or tab":         {"just a text\nof two lines\n", format.ReadOptions{}},
		`no column "Route" to name lines by`: {"name,lat,lon\nA,1,2\n", format.ReadOptions{LineBy: "Route"}},
		"which is the lat":                   {"name,lat,lon\nA,1,2\n", format.ReadOptions{LineBy: "lat"}},
		"doesn't end":                        {"name,lat,lon\n\"A,1,2\nB,3,4\n", format.ReadOptions{}},
		"the table has columns for latitude": {"name,lat,lon\nA,1,2\n",
			format.ReadOptions{System: system("32732")}},
	} {
		_, err := readCSV(format.FromBytes(t.Context(), "x", []byte(c.text)), &c.opt)
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("want %q, got %v", want, err)
		}
	}
}

func system(code string) *crs.System {
	s, err := crs.Find(code)
	if err != nil {
		panic(err)
	}
	return s
}

// The user's word counts, and projected coordinates come back to the place that GeographicLib gives them: 47.6 S 11.3 E
// is 672887.547 4725593.402 in zone 32 south.
func TestColumnsIn(t *testing.T) {
	given := []format.Column{{Title: "B", Holds: "name"}, {Title: "Hoch", Holds: "northing"},
		{Title: "Rechts", Holds: "easting"}, {Title: "Art", Holds: "field:sort"}}
	d := load(t, "A;B;Rechts;Hoch;Art\n1;Rock;672887,547;4725593,402;x\n", &format.ReadOptions{Columns: given,
		System: system("32732")})
	place(t, &d.Waypoints[0], "Rock", -47.6, 11.3)
	if got := fmt.Sprint(d.Waypoints[0].Fields); got != "[{A 1 false false} {sort x false false}]" {
		t.Errorf("fields %s", got)
	}
	d = load(
		t,
		"x;-47,6;11,3\ny;-47,7;11,4\n",
		&format.ReadOptions{Columns: []format.Column{{Title: "1", Holds: "name"},
			{Title: "2", Holds: "lat"}, {Title: "3", Holds: "lon"}}},
	)
	if len(d.Waypoints) != 2 {
		t.Fatalf("by number: %v", d.Rejects)
	}
	place(t, &d.Waypoints[1], "y", -47.7, 11.4)
	// A system that counts to the west and south is read as it is defined.
	d = load(t, "name,y,x\nA,71984.49,2847342.74\n", &format.ReadOptions{System: system("2053"),
		Columns: []format.Column{{Title: "y", Holds: "easting"}, {Title: "x", Holds: "northing"}}})
	place(t, &d.Waypoints[0], "A", -25.732028, 28.282633)
}

// A workbook as an office makes it: titles above, dates as numbers, several sheets.
func TestWorkbookIn(t *testing.T) {
	book := excelize.NewFile()
	book.SetSheetName("Sheet1", "Stations")
	book.NewSheet("Notes")
	book.NewSheet("Old")
	book.SetSheetRow("Stations", "A1", &[]any{"Stations of 2026"})
	book.SetSheetRow("Stations", "A3", &[]any{"Station", "Latitude", "Longitude", "When", "Seen on"})
	book.SetSheetRow("Stations", "A4", &[]any{"Rock", -47.60125, 11.3021, time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC),
		time.Date(2026, 3, 15, 0, 0, 0, 0, time.UTC)})
	book.SetSheetRow("Stations", "A6", &[]any{"Nowhere", "", ""})
	two := "0.00"
	style, _ := book.NewStyle(&excelize.Style{CustomNumFmt: &two}) // shown with two places, kept with all
	book.SetCellStyle("Stations", "B4", "C4", style)
	book.SetCellStr("Notes", "A1", "nothing to see")
	book.SetSheetRow("Old", "A1", &[]any{"name", "lat", "lon"})
	book.SetSheetRow("Old", "A2", &[]any{"Cove", "47°34.800'S", "011°17.970'E"})
	var out bytes.Buffer
	if err := book.Write(&out); err != nil {
		t.Fatal(err)
	}
	read := func(opt *format.ReadOptions) *nav.Dataset {
		t.Helper()
		d, err := readXLSX(format.FromBytes(t.Context(), "x.xlsx", out.Bytes()), opt)
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	opt := &format.ReadOptions{Columns: []format.Column{{Title: "When", Holds: "time"}}}
	opt.Sheet = "Stations"
	d := read(opt)
	w := &d.Waypoints[0]
	place(t, w, "Rock", -47.60125, 11.3021)
	if !w.Time().Equal(time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC)) ||
		fmt.Sprint(w.Fields) != "[{Seen on 2026-03-15 false false}]" {
		t.Errorf("%v %v", w.Time(), w.Fields)
	}
	if len(d.Rejects) != 1 || d.Rejects[0].Line != 6 {
		t.Errorf("rejects %v", d.Rejects)
	}
	if all := read(&format.ReadOptions{}); len(all.Waypoints) != 2 ||
		!strings.Contains(fmt.Sprint(all.Problems), "ignored") {
		t.Errorf("all sheets: %d waypoints, %v", len(all.Waypoints), all.Problems)
	}
	if _, err := readXLSX(format.FromBytes(t.Context(), "x", out.Bytes()),
		&format.ReadOptions{Sheet: "Nope"}); err == nil ||
		!strings.Contains(err.Error(), "it has Stations, Notes, Old") {
		t.Errorf("a sheet that there is not: %v", err)
	}
	if _, err := readXLSX(format.FromBytes(t.Context(), "x", out.Bytes()[:out.Len()/2]),
		&format.ReadOptions{}); err == nil ||
		!strings.Contains(err.Error(), "cut off") {
		t.Errorf("half a workbook: %v", err)
	}
	if _, err := readXLSX(format.FromBytes(t.Context(), "x", out.Bytes()),
		&format.ReadOptions{MaxUnpacked: 100}); err == nil ||
		advice.Of(err).Code != advice.AllowUnpacked {
		t.Errorf("a limit: %v", err)
	}
}

// What was written is read again: lines, segments, groups, fields, heights and times.
func TestTableBack(t *testing.T) {
	d := sample()
	d.Waypoints[0].Fields = append(d.Waypoints[0].Fields, nav.Field{Key: "ring", Value: "0042"},
		nav.Field{Key: "name", Value: "clash"})
	s := nav.Segment{Points: []nav.Point{nav.At(3, 4), nav.At(5, 6)}}
	s.Points[1].SetTime(1e18, instant.Seconds)
	d.Tracks = []nav.Track{{Item: nav.Item{Name: "Walk", Group: "Day 1"},
		Segments: []nav.Segment{s, {Points: []nav.Point{nav.At(7, 8)}}}}}
	d.Areas = []nav.Area{{Item: nav.Item{Name: "Closure"}, Outline: []nav.Point{nav.At(0, 0.5), nav.At(0, 3),
		nav.At(3, 3)}, Holes: [][]nav.Point{{nav.At(1, 2), nav.At(1, 2.5), nav.At(1.5, 2.5)}}}}
	for _, f := range []*format.Format{FormatCSV, FormatXLSX} {
		var out bytes.Buffer
		if _, err := f.Write(&out, d, &format.WriteOptions{}); err != nil {
			t.Fatal(err)
		}
		back, err := f.Read(format.FromBytes(t.Context(), "x", out.Bytes()), &format.ReadOptions{})
		if err != nil {
			t.Fatalf("%s: %v", f.Name, err)
		}
		if back.Counts() != d.Counts() || len(back.Tracks[0].Segments) != 2 || back.Tracks[0].Group != "Day 1" ||
			len(back.Areas[0].Holes) != 1 || back.Points() != d.Points() {
			t.Errorf("%s: %v items, %+v", f.Name, back.Counts(), back.Tracks)
		}
		w := &back.Waypoints[0]
		ring, _ := nav.Get(w.Fields, "ring")
		if w.Name != "=cmd()" || w.Desc != d.Waypoints[0].Desc || w.Group != "Rocks" || ring != "0042" ||
			!w.Time().Equal(d.Waypoints[0].Time()) || w.Height() != 12.5 {
			t.Errorf("%s: %+v", f.Name, w)
		}
	}
}

func FuzzCSV(f *testing.F) {
	f.Add([]byte("name;Breite;Länge;Datum\nRock;-47,6;11,3;14.03.2026\n\"x\"\"y\";47°36'S;11°18'E;\n"))
	f.Add([]byte("sep=,\nzone,easting,northing,line\n32 south,672887,4725593,a\n"))
	f.Add([]byte("lat deg,lat min,lon deg,lon min,N/S,E/W\n47,36,11,18,S,E\n"))
	f.Add([]byte("\xff\xfen\x00a\x00m\x00e\x00"))
	f.Add([]byte("y;b;l" + strings.Repeat("%", 700) + "\r" + strings.Repeat("%", 300)))
	f.Fuzz(func(t *testing.T, text []byte) {
		for _, opt := range []*format.ReadOptions{{}, {System: system("32732")}, {LineBy: "1"},
			{Columns: []format.Column{{Title: "1", Holds: "lat"}, {Title: "2", Holds: "lon"}}}} {
			d, err := readCSV(format.FromBytes(t.Context(), "x", text), opt)
			if err != nil {
				continue
			}
			for p := range d.AllPoints() {
				if !nav.Usable(p.Lat, p.Lon) {
					t.Errorf("%q gives %v %v", text, p.Lat, p.Lon)
				}
			}
		}
		// Whatever follows rows that are plain, it is the same in one block and in many.
		long := append(slices.Repeat([]byte("x,-47.6,11.3,a\n"), firstRows+1), text...)
		long = append([]byte("name,lat,lon,route\n"), long...)
		opt := &format.ReadOptions{}
		if len(text)%2 == 1 {
			opt.LineBy = "route"
		}
		want, err1 := readCSV(format.FromBytes(t.Context(), "x", long), opt)
		got, err2 := readBlocks(format.FromBytes(t.Context(), "x", long), opt, 200)
		if fmt.Sprint(err1) != fmt.Sprint(err2) {
			t.Errorf("%q in blocks: %v; at once: %v", text, err2, err1)
		} else if got != nil {
			for _, what := range differences(got, want) {
				t.Errorf("of %q %s differ where it is read in blocks", text, what)
			}
		}
	})
}

func FuzzXLSX(f *testing.F) {
	var out bytes.Buffer
	writeXLSX(&out, sample(), &format.WriteOptions{})
	f.Add(out.Bytes())
	f.Fuzz(func(t *testing.T, b []byte) {
		d, err := readXLSX(format.FromBytes(t.Context(), "x", b), &format.ReadOptions{MaxUnpacked: 1 << 20})
		if err == nil && d == nil {
			t.Error("neither data nor an error")
		}
	})
}

// A row whose coordinates have decimal commas without quotes is refused with the reading that would fit, never read as
// another place; one with a comma in its last text stays.
func TestPartedDecimals(t *testing.T) {
	d, err := readCSV(format.FromBytes(t.Context(), "t.csv", []byte("Name,Lat,Lon\nHut,-47,60,11,30\nPier,-47.5,11.2\n"+
		"Cove,-47.6,11.3,good, shingle\n")), &format.ReadOptions{})
	if err != nil || len(d.Waypoints) != 2 || len(d.Rejects) != 1 {
		t.Fatalf("%v, %+v", err, d)
	}
	if why := d.Rejects[0].Why; !strings.Contains(why, "latitude -47.60 and longitude 11.30") ||
		d.Rejects[0].Line != 2 {
		t.Errorf("%s", why)
	}
}

// Points as well-known text and binary, with and without the number of a system, and as GeoJSON; the binaries are those
// of the clauses' own layout, made by hand, the one of UTM is GeographicLib's.
func TestGeometryCells(t *testing.T) {
	for name, c := range map[string]struct {
		cell, why string
		height    float64
	}{
		"text":               {cell: "POINT (11.25 -47.5)"},
		"text with a height": {cell: "point z(11.25 -47.5 12)", height: 12},
		"text with measure":  {cell: "POINT M (11.25 -47.5 3)"},
		"text with a system": {cell: "SRID=4326;POINT(11.25 -47.5)"},
		"little endian":      {cell: "010100000000000000008026400000000000C047C0"},
		"big endian":         {cell: "00000000014026800000000000C047C00000000000"},
		"with its system":    {cell: "0101000020E610000000000000008026400000000000C047C0"},
		"with a height":      {cell: "01010000800000000000802640" + "0000000000C047C0" + "0000000000002840", height: 12},
		"ISO with a height":  {cell: "01E90300000000000000802640" + "0000000000C047C0" + "0000000000002840", height: 12},
		"GeoJSON":            {cell: `"{""type"":""Point"",""coordinates"":[11.25,-47.5,12]}"`, height: 12},
		"UTM":                {cell: "SRID=32732;POINT (669451.472 4736816.612)"},
		"no number":          {cell: "POINT (11 x)", why: "is not a number"},
		"empty":              {cell: "POINT EMPTY", why: "has no geometry"},
		"beyond":             {cell: "POINT (500 -47)", why: "not a position in degrees"},
		"another earth":      {cell: "SRID=99999;POINT (1 2)", why: "is not known"},
	} {
		d, err := readCSV(format.FromBytes(t.Context(), "t.csv", []byte("name,the_geom\nA,"+c.cell+"\n")),
			&format.ReadOptions{})
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if c.why != "" {
			if len(d.Rejects) != 1 || !strings.Contains(d.Rejects[0].Why, c.why) {
				t.Errorf("%s: %+v", name, d.Rejects)
			}
			continue
		}
		if len(d.Waypoints) != 1 {
			t.Errorf("%s: %+v", name, d.Rejects)
			continue
		}
		w := &d.Waypoints[0]
		if math.Abs(w.Lat+47.5) > 1e-6 || math.Abs(w.Lon-11.25) > 1e-6 || w.HasHeight() != (c.height != 0) ||
			w.HasHeight() && w.Height() != c.height {
			t.Errorf("%s: %v %v %v", name, w.Lat, w.Lon, w.Height())
		}
	}
}

// A text that ends in the middle of its last row gives no position of half a number.
func TestCutOff(t *testing.T) {
	const whole = "name,lat,lon,note\nA,-47.1,11.2,x\nB,-47.2,11.3,y\n"
	d := load(t, whole+"C,-47.323456,11.8", &format.ReadOptions{})
	if len(d.Waypoints) != 2 || len(d.Rejects) != 1 || d.Rejects[0].Line != 4 || d.Rejects[0].Name != "C" {
		t.Errorf("%d waypoints, %v", len(d.Waypoints), d.Rejects)
	}
	for text, noted := range map[string]bool{
		whole + "C,-47.3,11.8,": false,
		whole:                   false,
		"name,lat,lon,a,b\nA,-47.1,11.2,x,y\nC,-47.3,11.8,x": true,
		"name,lat,lon,note\nA,-47.1,11.2\nC,-47.3,11.8":      false, // it is the way of this file
	} {
		d := load(t, text, &format.ReadOptions{})
		damaged := slices.ContainsFunc(d.Problems, func(p nav.Problem) bool { return p.Code == nav.ProblemDamaged })
		if damaged != noted || len(d.Rejects) > 0 {
			t.Errorf("%q: %v %v", text, d.Problems, d.Rejects)
		}
	}
}
