package table

import (
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// A hemisphere or a measure of angles in the headings holds for every cell below; what contradicts it is left out.
func TestSidesOfHeadings(t *testing.T) {
	for _, c := range []struct{ text, want, note string }{
		{"name,Lat (S),Lon (W)\nA,10.5,20.5\nB,0,21.5\n", "A -10.5 -20.5; B 0 -21.5", "lat is south, lon is west"},
		{"name,Latitude South,Longitude West\nA,10.5,20.5\n", "A -10.5 -20.5", ""},
		{"name,lat,lon\n,°S,°W\nA,10.5,20.5\n", "A -10.5 -20.5", ""},
		{"name,Lat (N),Lon (E)\nA,10.5,-20.5\n", "A 10.5 -20.5", ""},
		{"name,Lat (S),Lon (E)\nA,-10.5,20.5\nB,-11,20\n", "A -10.5 20.5; B -11 20", ""},
		{"name,Lat (S),Lon (E)\nA,10.5,20.5\nB,-11,20\n", "A -10.5 20.5", "latitude -11 is negative"},
		{"name;Lat (S);Lon (E)\nA;-10,5;20,5\n", "A -10.5 20.5", ""},
		{"name,Lat (S),Lon (W)\nA,10° 30',20° 30'\nB,11°N,21°W\n", "A -10.5 -20.5; B 11 -21", ""},
		{"name,Lat (S negative),Lon (E)\nA,10.5,20.5\n", "A 10.5 20.5", ""},
		{"name,Breite (S),Länge (O)\nA,10.5,20.5\n", "A -10.5 20.5", ""},
		{"name,Latitud (S),Longitud (O)\nA,10.5,20.5\n", "A -10.5 -20.5", ""},
		{"name,Lat,Lon (O)\nA,10.5,20.5\n", "", "means east in some languages"},
		{"name,Lat (rad),Lon (rad)\nA,0.5,-1\n", "A 28.64788976 -57.29577951", "lat in radians, lon in radians"},
		{"name,Lat (gon),Lon (gon)\nA,50,-100\n", "A 45 -90", ""},
		{"name,Lat,Lon,Height (m AGL)\nA,1,2,30\n", "A 1 2", ""},
		{"name,Lat,Lon,Elevation (ground)\nA,1,2,30\n", "A 1 2", ""},
		{"name,Lat,Longitude (O)\nA,1,2\n", "", "means east in some languages"},
	} {
		d, err := readCSV(format.FromBytes(t.Context(), "x.csv", []byte(c.text)), &format.ReadOptions{})
		if err != nil && c.want != "" {
			t.Errorf("%q: %v", c.text, err)
			continue
		}
		var got []string
		for _, w := range d.Waypoints {
			got = append(got, fmt.Sprintf("%s %.10g %.10g", w.Name, w.Lat, w.Lon))
		}
		if s := strings.Join(got, "; "); s != c.want {
			t.Errorf("%q: %s, want %s", c.text, s, c.want)
		}
		if len(d.Waypoints) > 0 {
			over := d.Waypoints[0].VerticalDatum()
			if agl := strings.Contains(c.text, "AGL"); agl != (over == nav.AboveGround) {
				t.Errorf("%q: heights above %v", c.text, over)
			}
		}
		if said := fmt.Sprint(d.Problems, d.Rejects); !strings.Contains(said, c.note) {
			t.Errorf("%q: %s, want %q", c.text, said, c.note)
		}
	}
}
