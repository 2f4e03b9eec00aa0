package figure

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func TestNatural(t *testing.T) {
	names := strings.Split("camp 1,Camp 1,Camp 2,Camp 2b,Camp 010,Camp 10b,Camp 123456789012345678901,Camps,Zelt", ",")
	for i, a := range names {
		for k, b := range names {
			got, want := Natural(a, b), 0
			if i < k {
				want = -1
			} else if i > k {
				want = 1
			}
			if i > 1 && k > 1 && got != want {
				t.Errorf("%s, %s: %d, want %d", a, b, got, want)
			}
			if got != -Natural(b, a) {
				t.Errorf("%s, %s: not the other way round", a, b)
			}
		}
	}
}

// hill is a track of two segments, half an hour apart, that goes up and down.
func hill() *nav.Dataset {
	d := &nav.Dataset{Origin: "day/one/walk.gpx"}
	at := time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC).UnixNano()
	t := nav.Track{Item: nav.Item{Name: "Hill", Fields: []nav.Field{{Key: "crew", Value: "B"}}}}
	for part := range 2 {
		var s nav.Segment
		for i := range 10 {
			p := nav.At(-47.6+float64(part)*0.1+float64(i)*0.001, 11.3)
			p.SetHeight(100+10*float64(i)*float64(1-2*part), decimal.PrecisionOf(0), nav.MeanSeaLevel)
			p.SetTime(at+int64(part)*int64(30*time.Minute)+int64(i)*int64(time.Minute), instant.Seconds)
			s.Points = append(s.Points, p)
		}
		t.Segments = append(t.Segments, s)
	}
	d.Tracks = []nav.Track{t}
	d.Waypoints = []nav.Waypoint{{Item: nav.Item{Name: "B"}}, {Item: nav.Item{Name: "A 10"}},
		{Item: nav.Item{Name: "A 9"}}}
	return d
}

func TestItem(t *testing.T) {
	d := hill()
	it := At(d, nav.Tracks, 0)
	const way = 2 * 9 * 111.180 // metres of latitude
	for word, want := range map[string]any{"kind": "track", "name": "Hill", "file": "walk", "folder": "one",
		"points":   20.0,
		"duration": 39 * time.Minute, "ascent": 90.0, "descent": 90.0, "field:crew": "B", "size": nil, "height": 10.0} {
		if got := it.Value(word); got != want {
			t.Errorf("%s is %v, want %v", word, got, want)
		}
	}
	if got := it.Value("length").(float64); math.Abs(got-way) > 2 {
		t.Errorf("%.1f m long, want %.1f", got, way)
	}
	if got := it.Value("mean-speed").(float64); math.Abs(got-way/(18*60)) > 0.01 {
		t.Errorf("the mean speed is %.3f m/s", got)
	}
}

// Nothing is worked out over a break between two segments.
func TestLineOverBreaks(t *testing.T) {
	d := hill()
	line := LineOf(At(d, nav.Tracks, 0).Thing)
	for _, word := range []string{"leg-distance", "speed", "course", "climb-rate", "slope"} {
		if line.Value(word, 0) != nil || line.Value(word, 10) != nil || line.Value(word, 5) == nil || line.Value(word,
			20) != nil {
			t.Errorf("%s: %v %v %v", word, line.Value(word, 0), line.Value(word, 10), line.Value(word, 5))
		}
	}
	if line.Value("along", 9) != line.Value("along", 10) || line.Value("elapsed", 10) != 30*time.Minute {
		t.Error("the way goes on behind the break, and so does the time")
	}
}

// An order is that of the words, whatever order things came in, and sorting twice changes nothing.
func TestSort(t *testing.T) {
	d := hill()
	names := func() (out []string) {
		for i := range d.Waypoints {
			out = append(out, d.Waypoints[i].Name)
		}
		return
	}
	for range 2 {
		if Sort(d, []Key{{Word: "name"}}); !slices.Equal(names(), []string{"A 9", "A 10", "B"}) {
			t.Errorf("%v", names())
		}
	}
	if Sort(d, []Key{{Word: "name", Down: true}}); !slices.Equal(names(), []string{"B", "A 10", "A 9"}) {
		t.Errorf("%v", names())
	}
}
