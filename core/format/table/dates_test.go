package table

import (
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// Dates as programs, offices and receivers write them are the days and times that they say, in many languages.
func TestDatesOfOthers(t *testing.T) {
	for cell, want := range map[string]string{
		"1710399600":               "2024-03-14T07:00:00Z", // seconds since 1970 of date(1)
		"1710399600.25":            "2024-03-14T07:00:00.25Z",
		"1710399600123":            "2024-03-14T07:00:00.123Z",
		"1710399600123456":         "2024-03-14T07:00:00.123456Z",
		"20240102 030405":          "2024-01-02T03:04:05Z",
		"20240102T030405Z":         "2024-01-02T03:04:05Z",
		"20240102030405":           "2024-01-02T03:04:05Z",
		"20240102":                 "2024-01-02T00:00:00Z",
		"5 Jan 2024":               "2024-01-05T00:00:00Z",
		"05-Jan-2024 14:05":        "2024-01-05T14:05:00Z",
		"5-Jan-24":                 "2024-01-05T00:00:00Z",
		"Jan 5, 2024 3:05 p.m.":    "2024-01-05T15:05:00Z",
		"January 5th, 2024":        "2024-01-05T00:00:00Z",
		"Friday, 5 January 2024":   "2024-01-05T00:00:00Z",
		"1. März 2024":             "2024-03-01T00:00:00Z",
		"1er mars 2024 06:07:08":   "2024-03-01T06:07:08Z",
		"5 de febrero de 2024":     "2024-02-05T00:00:00Z",
		"12 août 2024":             "2024-08-12T00:00:00Z",
		"3 juillet 2024":           "2024-07-03T00:00:00Z",
		"3 juin 2024":              "2024-06-03T00:00:00Z",
		"7 ottobre 2024":           "2024-10-07T00:00:00Z",
		"31.12.99":                 "1999-12-31T00:00:00Z",
		"31.12.24 23:59":           "2024-12-31T23:59:00Z",
		"2024-03-14 3:05 p.m.":     "2024-03-14T15:05:00Z",
		"Fri 5 Jan 2024 03:04 GMT": "2024-01-05T03:04:00Z",
	} {
		d, err := readTable(t, "name,lat,lon,time\nA,-47.5,11.3,\""+cell+"\"\n")
		if err != nil {
			t.Errorf("%s: %v", cell, err)
			continue
		}
		if w := &d.Waypoints[0]; !w.HasTime() || w.Time().Format("2006-01-02T15:04:05.999999999Z07:00") != want {
			t.Errorf("%s: %v, want %s; %+v", cell, w.Time(), want, d.Problems)
		}
	}
	for _, cell := range []string{"31 Feb 2024", "5 Foo 2024", "2034010203", "12345", "soon", "20241301 000000"} {
		d, err := readTable(t, "name,lat,lon,time\nA,-47.5,11.3,"+cell+"\n")
		if err != nil {
			t.Fatal(err)
		}
		if w := &d.Waypoints[0]; w.HasTime() {
			t.Errorf("%s is taken for %v", cell, w.Time())
		} else if v, _ := nav.Get(w.Fields, "time"); v != cell {
			t.Errorf("%s is lost: %+v", cell, w.Fields)
		}
	}
}

// What programs write where there is no height is none, flight levels are pressure heights, and longitudes of 0 to 360
// are those of the other side.
func TestHeightsAndTurnsOfOthers(t *testing.T) {
	d, err := readTable(t, "name,lat,lon,elevation\nA,-47.5,11.3,-9999\nB,-47.5,348.7,12\nC,-47.5,11.3,1e20\n"+
		"D,-47.5,11.3,-32768\n")
	if err != nil {
		t.Fatal(err)
	}
	for i, high := range []bool{false, true, false, false} {
		if w := &d.Waypoints[i]; w.HasHeight() != high || i == 1 && (w.Lon < -11.3001 || w.Lon > -11.2999) {
			t.Errorf("%s: %+v", w.Name, w.Point)
		}
	}
	if text := fmt.Sprint(d.Problems); !strings.Contains(text, "-9999 stands for no height") ||
		!strings.Contains(text, "lon counts from 0 to 360") {
		t.Errorf("%s", text)
	}
	for title, want := range map[string]struct {
		metres float64
		over   nav.VerticalDatum
	}{"Altitude (FL)": {2590.8, nav.PressureLevel}, "Altitude (hft)": {2590.8, nav.DatumUnstated},
		"Elevation (km)": {85000, nav.DatumUnstated}, "Elevation (yd)": {77.724, nav.DatumUnstated}} {
		d, err := readTable(t, "name,lat,lon,"+title+"\nA,-47.5,11.3,85\n")
		if err != nil {
			t.Fatal(err)
		}
		w := &d.Waypoints[0]
		if off := w.Height() - want.metres; off < -0.001 || off > 0.001 || w.VerticalDatum() != want.over {
			t.Errorf("%s: %v m above %s", title, w.Height(), w.VerticalDatum())
		}
	}
	// Beyond 90 of latitude it can only be gon: 54.4444 gon are 49 degrees.
	d, err = readTable(t, "name,Lat (grad),Lon (grad)\nA,-98,12\nB,98,12\n")
	if err != nil || len(d.Waypoints) != 2 || d.Waypoints[1].Lat < 88.19 || d.Waypoints[1].Lat > 88.21 {
		t.Errorf("%v %+v", err, d)
	}
}

func readTable(t *testing.T, text string) (*nav.Dataset, error) {
	t.Helper()
	return readCSV(format.FromBytes(t.Context(), "list.csv", []byte(text)), &format.ReadOptions{})
}
