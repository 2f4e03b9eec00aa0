package kml

import (
	"fmt"
	"math"
	"reflect"
	"strings"
	"testing"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func TestTimedTrackFaults(t *testing.T) {
	d := readString(t, `<kml xmlns:gx="http://www.google.com/kml/ext/2.2"><Placemark><name>T</name><gx:Track>
<when>2026-03-14T05:30:00Z</when><when>2026-03-14T05:30:01Z</when><when>2026-03-14T05:30:02Z</when><when>`+
		`2026-03-14T05:30:03Z</when><when>late</when>
<gx:coord>11 -47 1</gx:coord><gx:coord></gx:coord><gx:coord>11 -97 1</gx:coord><gx:coord>12 -47 1</gx:coord>`+
		`</gx:Track></Placemark></kml>`)
	points := d.Tracks[0].Segments[0].Points
	if len(points) != 2 || string(points[1].AppendTime(nil)) != "2026-03-14T05:30:03Z" || points[1].Lon != 12 {
		t.Errorf("points %+v", points)
	}
	if len(d.Rejects) != 1 || d.Rejects[0].Line != 3 || d.Rejects[0].Number != 3 {
		t.Errorf("rejects %+v", d.Rejects)
	}
	if !strings.Contains(problems(d), "different numbers of times and positions") ||
		!strings.Contains(problems(d), "an unreadable time") {
		t.Errorf("said: %s", problems(d))
	}
}

// Names and times stay with the points of a line where a position before them can't be used.
func TestNumbersBesideRejects(t *testing.T) {
	var rt nav.Route
	var first, second nav.Segment
	for i := range 12 {
		at := nav.At(-47.5-float64(i)/100, 11.25)
		rt.Points = append(rt.Points, nav.Waypoint{Item: nav.Item{Name: fmt.Sprint("P", i)}, Point: at})
		s := &first
		if i > 5 {
			s = &second
		}
		s.Points = append(s.Points, at)
		p := &s.Points[len(s.Points)-1]
		if i%2 == 0 {
			p.SetTime(int64(i)*1e9, instant.Seconds)
		}
		s.Attach(p, nav.Detail{Item: &nav.Item{Name: fmt.Sprint("P", i)}})
	}
	d := &nav.Dataset{Routes: []nav.Route{rt},
		Tracks: []nav.Track{{Segments: []nav.Segment{first, second}}}}
	text, _ := writeString(t, d, "")
	for _, bad := range [][]int{{0}, {3}, {11}, {0, 1, 2, 5, 6, 9}, {6, 7, 8, 9, 10}} {
		broken := text
		for _, i := range bad {
			at := nav.At(-47.5-float64(i)/100, 11.25)
			tuple := fmt.Sprintf("11.25,%s\n", at.AppendLat(nil))
			if strings.Count(broken, tuple) != 2 {
				t.Fatalf("%q isn't in\n%s", tuple, broken)
			}
			broken = strings.ReplaceAll(broken, tuple, "11.25,-97\n")
		}
		back := readString(t, broken)
		if len(back.Rejects) != 2*len(bad) || len(back.Routes) != 1 || len(back.Routes[0].Points) != 12-len(bad) ||
			back.Tracks[0].Len() != 12-len(bad) {
			t.Fatalf("%v: %d rejects, %d points", bad, len(back.Rejects), back.Points())
		}
		for _, w := range back.Routes[0].Points {
			if want := fmt.Sprint("P", math.Round((-47.5-w.Lat)*100)); w.Name != want {
				t.Errorf("%v: a route's point is %s, not %s", bad, w.Name, want)
			}
		}
		for i := range back.Tracks[0].Segments {
			s := &back.Tracks[0].Segments[i]
			for k := range s.Points {
				p := &s.Points[k]
				number := math.Round((-47.5 - p.Lat) * 100)
				x := s.Detail(p)
				if x == nil || x.Item == nil || x.Item.Name != fmt.Sprint("P", number) ||
					p.HasTime() != (int(number)%2 == 0) || p.UnixNano() != int64(number)*1e9 && p.HasTime() {
					t.Errorf("%v: the point %v of a track is %+v, %v", bad, number, x, p.Time())
				}
			}
		}
	}
}

// Times and positions that follow others of their tag are read in one step; what is unusual among them, as it is where
// tags with attributes keep each from it.
func TestTimedTrackInOneStep(t *testing.T) {
	whens := []string{"2026-03-01T00:00:00Z", "2026-03-01T00:00:01.250Z", "2026-03-01", "", "noon",
		" 2026-03-01T00:00:02Z", "2026-03-01T02:00:00+02:00", "2026-03-01T00:00:03&#x5A;", "<b>2026-03-01T00:00:04Z</b>"}
	coords := []string{"11.5 -47.25 10.50", "-180 90", "180 0 1", "", "11 -95 1", "11.5 -47.5 high", "11,-47,3",
		" 11 -47 ", "11 -47 1 2", "1.12345678901234567 2", "1e1 2", "11.5  -47.25 10", "<!-- none -->11 -47"}
	var b strings.Builder
	for i := range 400 {
		at := whens[0]
		if i%10 == 7 {
			at = whens[i/10%len(whens)]
		}
		fmt.Fprintf(&b, "<when>%s</when>\n", at)
	}
	for i := range 400 {
		at := fmt.Sprintf("11.%04d -47.5 %d.0", i, i)
		if i%10 == 3 {
			at = coords[i/10%len(coords)]
		}
		fmt.Fprintf(&b, "<gx:coord>%s</gx:coord>\n", at)
	}
	doc := `<kml xmlns:gx="http://www.google.com/kml/ext/2.2"><Placemark><name>T</name><gx:Track>` + b.String() +
		`</gx:Track></Placemark></kml>`
	got := readString(t, doc)
	want := readString(t, strings.NewReplacer("<when>", `<when a="">`, "<gx:coord>", `<gx:coord a="">`).Replace(doc))
	if !reflect.DeepEqual(got.Tracks, want.Tracks) {
		t.Errorf("the tracks differ")
	}
	if problems(got) != problems(want) || len(got.Rejects) != len(want.Rejects) || len(got.Rejects) < 5 {
		t.Errorf("%s\n%d rejects, not\n%s\n%d", problems(got), len(got.Rejects), problems(want), len(want.Rejects))
	}
	if text := "a height that is not a number was left out"; !strings.Contains(problems(got), text) {
		t.Errorf("%q isn't said", text)
	}
}
