package table

import (
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/format"
)

// An O is east in some languages and west in others: it is taken where the column says which, and refused otherwise.
func TestLettersOfHemispheres(t *testing.T) {
	for _, c := range []struct{ title, letters, want string }{
		{"E/O", "O", "-11.30"}, {"E/O", "E", "11.30"}, {"lon dir", "O E", "-11.30 11.30"}, {"lon dir", "O W", "11.30 -11.30"},
		{"lon dir", "O", ""}, {"E/W", "O", ""}, {"E/W", "Ouest", "-11.30"}, {"E/W", "Øst", "11.30"}, {"E/W", "V", ""},
		{"E/W", "w E", "-11.30 11.30"}, {"E/W", "?", ""},
	} {
		text := "name,lat,N/S,lon," + c.title + "\n"
		for i, letter := range strings.Fields(c.letters) {
			text += fmt.Sprintf("P%d,47.60,S,11.30,%s\n", i, letter)
		}
		d := load(t, text, &format.ReadOptions{})
		var got []string
		for _, w := range d.Waypoints {
			if w.Lat != -47.6 {
				t.Errorf("latitude %v", w.Lat)
			}
			got = append(got, fmt.Sprintf("%.2f", w.Lon))
		}
		all := len(d.Rejects) + len(d.Waypoints)
		if text := strings.Join(got, " "); text != c.want || all != len(strings.Fields(c.letters)) {
			t.Errorf("%s, %s: %s, want %s; %v", c.title, c.letters, text, c.want, d.Rejects)
		}
	}
}

// A sign that contradicts the letter beside it is refused; one that agrees is no second turn.
func TestSignAndLetter(t *testing.T) {
	d := load(t, "name,lat,N/S,lon,E/W\nA,-47.6,S,11.3,E\nB,-47.6,N,11.3,E\nC,47.6,S,-11.3,E\nD,47.6,N,-11.3,W\n",
		&format.ReadOptions{})
	got := ""
	for _, w := range d.Waypoints {
		got += fmt.Sprint(w.Name, " ", w.Lat, " ", w.Lon, ";")
	}
	if got != "A -47.6 11.3;D 47.6 -11.3;" || len(d.Rejects) != 2 {
		t.Errorf("%s %v", got, d.Rejects)
	}
}

// Letters beside both coordinates are hemispheres, whatever their titles; beside one alone they are pointed at.
func TestUntitledHemispheres(t *testing.T) {
	d := load(t, "name,lat,a,lon,b\nA,47.6,S,11.3,E\nB,47.5,S,11.2,W\n", &format.ReadOptions{})
	if d.Waypoints[0].Lat != -47.6 || d.Waypoints[1].Lon != -11.2 {
		t.Errorf("%+v", d.Waypoints)
	}
	for text, want := range map[string]bool{"name,lat,lon,class\nA,47.6,11.3,W\n": true,
		"name,lat,lon,class\nA,47.6,11.3,Q\n": false, "name,lat,lon,class\nA,47.6,11.3,W\nB,47.6,11.3,x\n": false} {
		d := load(t, text, &format.ReadOptions{})
		if d.Waypoints[0].Lon != 11.3 || strings.Contains(fmt.Sprint(d.Problems), "could be its hemisphere") != want {
			t.Errorf("%q: %+v %v", text, d.Waypoints, d.Problems)
		}
	}
}

// Letters are found beside coordinates that are known by their values as well, where there are no titles at all.
func TestHemispheresWithoutTitles(t *testing.T) {
	text := ""
	for i := range 8 {
		text += fmt.Sprintf("P%d,-47.%d,S,11.%d,E\n", i, 61234+i, 31234+i)
	}
	d := load(t, text, &format.ReadOptions{})
	if len(d.Waypoints) != 8 || d.Waypoints[0].Lat != -47.61234 || d.Waypoints[0].Lon != 11.31234 {
		t.Errorf("%+v", d.Waypoints)
	}
}
