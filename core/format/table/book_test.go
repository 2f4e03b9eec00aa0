package table

import (
	"archive/zip"
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// A workbook has a sheet a kind, a frozen header in bold, cells that are numbers and dates, and columns as wide as what
// is in them.
func TestBook(t *testing.T) {
	d := sample()
	d.Waypoints[0].Name = strings.Repeat("a long name ", 3)
	var out bytes.Buffer
	if _, err := writeXLSX(&out, d, &format.WriteOptions{}); err != nil {
		t.Fatal(err)
	}
	book, err := excelize.OpenReader(&out)
	if err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(book.GetSheetList()); got != "[Waypoints Routes]" {
		t.Errorf("sheets %s", got)
	}
	panes, err := book.GetPanes("Waypoints")
	if err != nil || !panes.Freeze || panes.YSplit != 1 {
		t.Errorf("the header is not frozen: %+v %v", panes, err)
	}
	rows, _ := book.GetRows("Waypoints", excelize.Options{RawCellValue: true})
	at := map[string]int{}
	for i, title := range rows[0] {
		at[title] = i
	}
	cell := func(title string) string {
		name, _ := excelize.CoordinatesToCellName(at[title]+1, 2)
		return name
	}
	for _, title := range []string{"lat", "lon", "height m", "time (UTC)", "depth"} {
		if kind, _ := book.GetCellType("Waypoints", cell(title)); kind != excelize.CellTypeUnset &&
			kind != excelize.CellTypeNumber && kind != excelize.CellTypeDate {
			t.Errorf("%s is of the type %v", title, kind)
		}
	}
	if shown, _ := book.GetCellValue("Waypoints", cell("time (UTC)")); shown != "2026-03-14 05:30:00" {
		t.Errorf("the time shows as %q", shown)
	}
	column, _ := excelize.ColumnNumberToName(at["name"] + 1)
	wide, _ := book.GetColWidth("Waypoints", column)
	column, _ = excelize.ColumnNumberToName(at["lat"] + 1)
	narrow, _ := book.GetColWidth("Waypoints", column)
	if wide < 30 || narrow > 15 {
		t.Errorf("the name is %v wide, the latitude %v", wide, narrow)
	}
	// Columns that nothing is in are not there.
	if _, ok := at["colour"]; ok {
		t.Error("there is a column for colours that nothing has")
	}
}

// Rows of items have the length, the number of points and the times of a line.
func TestItems(t *testing.T) {
	s := nav.Segment{Points: []nav.Point{nav.At(-47.6, 11.3), nav.At(-47.6, 11.3)}}
	lat, lon, _ := geodesy.Direct(-47.6, 11.3, 0, 1234.5)
	s.Points[1] = nav.At(lat, lon)
	s.Points[0].SetTime(time.Date(2026, 3, 14, 5, 0, 0, 0, time.UTC).UnixNano(), instant.Seconds)
	s.Points[1].SetTime(time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC).UnixNano(), instant.Seconds)
	d := &nav.Dataset{
		Tracks: []nav.Track{{Item: nav.Item{Name: "Walk", Fields: []nav.Field{{Key: "party", Value: "A"}}},
			Segments: []nav.Segment{s}}},
	}
	var out bytes.Buffer
	done, err := writeCSV(&out, d, &format.WriteOptions{Table: &format.Table{Items: true}})
	l := done.Ledger
	want := "kind,name,lat,lon,points,length m,first,last,time,party\r\ntrack,Walk,-47.6,11.3,2,1234.5," +
		"2026-03-14T05:00:00Z,2026-03-14T06:00:00Z,2026-03-14T05:00:00Z,A\r\n"
	if err != nil || out.String() != want || l.Losses() != 0 {
		t.Errorf("%v %v\n%s\nwant\n%s", err, l, out.String(), want)
	}
}

// Notations of a table: numbers in degrees, texts in minutes and seconds, zone and grid, one column of grid references.
func TestNotations(t *testing.T) {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(-47.6, 11.3)}}}
	for n, want := range map[geodesy.Notation]string{
		geodesy.Degrees: "waypoint,A,-47.6,11.3", geodesy.Minutes: "waypoint,A,47°36.000′ S,011°18.000′ E",
		geodesy.SecondsOfArc: "waypoint,A,47°36′00.0″ S,011°18′00.0″ E",
		geodesy.Grid:         "waypoint,A,32 south,672887.5467,4725593.4016", geodesy.MilitaryGrid: "waypoint,A,32G PN " +
			"72887 25593",
		geodesy.FlightPlan: "waypoint,A,473600S0111800E",
	} {
		var out bytes.Buffer
		if _, err := writeCSV(&out, d, &format.WriteOptions{Table: &format.Table{Notation: n}}); err != nil ||
			!strings.Contains(out.String(), want+"\r\n") {
			t.Errorf("%v: %v\n%s", n, err, out.String())
		}
		// And each is read again at the same place.
		back, err := readCSV(format.FromBytes(t.Context(), "x", out.Bytes()), &format.ReadOptions{})
		if err != nil || len(back.Waypoints) != 1 || geodesy.Distance(back.Waypoints[0].Lat, back.Waypoints[0].Lon, -47.6,
			11.3) > 2 {
			t.Errorf("%v read again: %v %+v", n, err, back)
		}
	}
}

// Archives that are none of ours, or that unpack to more than they may, are told apart.
func TestArchives(t *testing.T) {
	archive := func(members map[string]string) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, content := range members {
			w, _ := z.Create(name)
			w.Write([]byte(content))
		}
		z.Close()
		return b.Bytes()
	}
	for want, members := range map[string]map[string]string{
		"save the table as .xlsx":      {"word/document.xml": "x", "[Content_Types].xml": "x"},
		"not an .xlsx workbook":        {"a.txt": "x"},
		"more than 200 times its size": {"xl/workbook.xml": strings.Repeat(" ", 20<<20)},
		"can't be read as a workbook":  {"xl/workbook.xml": "nonsense"},
	} {
		if _, err := readXLSX(format.FromBytes(t.Context(), "x", archive(members)), &format.ReadOptions{}); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	var book bytes.Buffer
	if _, err := FormatXLSX.Store(&book, sample(), &format.WriteOptions{}); err != nil {
		t.Fatal(err)
	}
	damaged := book.Bytes()
	damaged[bytes.LastIndex(damaged, []byte("PK\x01\x02"))+16] ^= 1 // the checksum in the directory
	if _, err := readXLSX(format.FromBytes(t.Context(), "x", damaged), &format.ReadOptions{}); err == nil ||
		!strings.Contains(err.Error(), "checksum error") {
		t.Errorf("a damaged workbook: %v", err)
	}
	if !sniffXLSX(format.NewHead(archive(map[string]string{"xl/workbook.xml": "x"}))) ||
		sniffXLSX(format.NewHead(archive(map[string]string{"doc.kml": "x"}))) {
		t.Error("a workbook and a KMZ are mixed up")
	}
}

// The same data give the same bytes, several sheets included.
func TestSameBytes(t *testing.T) {
	d := sample()
	d.Tracks = []nav.Track{
		{Item: nav.Item{Name: "T"}, Segments: []nav.Segment{{Points: []nav.Point{nav.At(1, 2), nav.At(2, 3)}}}},
	}
	d.Areas = []nav.Area{{Item: nav.Item{Name: "A"}, Outline: []nav.Point{nav.At(1, 2), nav.At(2, 3), nav.At(1, 3)}}}
	var first []byte
	for range 12 {
		var out bytes.Buffer
		if _, err := writeXLSX(&out, d, &format.WriteOptions{}); err != nil {
			t.Fatal(err)
		}
		if first == nil {
			first = out.Bytes()
		}
		if !bytes.Equal(first, out.Bytes()) {
			t.Fatal("the bytes differ")
		}
	}
}

// A heading of two rows is read whole, and merged cells give their value to all rows that they cover.
func TestMergedAndStackedHeadings(t *testing.T) {
	book := excelize.NewFile()
	for i, row := range [][]any{{"Stations of the season"}, {"Name", "Area", "Position", "", "Höhe", "Time"},
		{"", "", "Lat", "Lon", "m ü. M.", "UTC"}, {"A", "North", -47.6, 11.3, 12.5, "2026-03-14 05:30"},
		{"B", "", -47.7, 11.4, 13, "2026-03-14 06:30"}, {"C", "South", -47.8, 11.5, 14, "2026-03-14 07:30"}} {
		cell, _ := excelize.CoordinatesToCellName(1, i+1)
		if err := book.SetSheetRow("Sheet1", cell, &row); err != nil {
			t.Fatal(err)
		}
	}
	book.MergeCell("Sheet1", "B4", "B5")
	book.MergeCell("Sheet1", "C2", "D2")
	packed, err := book.WriteToBuffer()
	if err != nil {
		t.Fatal(err)
	}
	d, err := readXLSX(format.FromBytes(t.Context(), "b.xlsx", packed.Bytes()), &format.ReadOptions{})
	if err != nil || len(d.Waypoints) != 3 {
		t.Fatalf("%v %+v", err, d)
	}
	b := &d.Waypoints[1]
	if got, _ := nav.Get(b.Fields, "Area"); got != "North" || b.Name != "B" || b.Lat != -47.7 || b.Height() != 13 ||
		b.VerticalDatum() != nav.MeanSeaLevel || b.Time().Hour() != 6 {
		t.Errorf("%+v %v %v", b, b.Height(), b.Time())
	}
	// As text, with the measures in a row of their own.
	d, err = readCSV(
		format.FromBytes(t.Context(), "b.csv", []byte("Name;Breite;Länge;Höhe\n;°;°;[ft]\nA;-47,6;11,3;100\n")),
		&format.ReadOptions{},
	)
	if err != nil || len(d.Waypoints) != 1 || math.Abs(d.Waypoints[0].Height()-30.48) > 1e-9 || len(d.Rejects) > 0 {
		t.Errorf("%v %+v", err, d)
	}
}
