package clean

import (
	"context"
	"math/rand/v2"
	"reflect"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// faulty is a recording with every fault of points.
func faulty() *nav.Dataset {
	random := rand.New(rand.NewPCG(8, 9))
	var s nav.Segment
	at := int64(1.77e18)
	for i := range 2000 {
		p := nav.At(-47.6+float64(i)*1e-5, 11.3+random.Float64()*1e-6)
		p.SetHeight(20+float64(i%5), decimal.PrecisionOf(1), nav.DatumUnstated)
		at += 1e9
		switch {
		case i%200 == 50:
			p.Lat += 0.3 // a spike
		case i%200 == 80:
			p.SetHeight(900, decimal.PrecisionOf(1), nav.DatumUnstated)
		case i%200 == 120:
			at -= 5e9
		case i == 700:
			at += 7200e9 // a gap
		case i == 1500:
			p.Lat, p.Lon = 0, 0
		case i > 1000 && i < 1400: // a halt
			p.Lat, p.Lon = -47.59+random.NormFloat64()*2e-5, 11.3+random.NormFloat64()*3e-5
		}
		p.SetTime(at, instant.Seconds)
		s.Points = append(s.Points, p)
		if i%200 == 150 {
			s.Points = append(s.Points, p) // a repetition
		}
	}
	crumb := nav.Segment{Points: []nav.Point{nav.At(-47.5, 11.4)}}
	return &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Walk"}, Segments: []nav.Segment{s, crumb}}},
		Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(-47.6, 11.3)},
			{Item: nav.Item{Name: "A"}, Point: nav.At(-47.6, 11.3)}},
		Rejects: []nav.Reject{{Kind: nav.Tracks, Name: "Walk", Number: 7, Raw: "95 11", Why: "is out of range"}}}
}

// Cleaning does and says the same whether the removed points are listed or not; the list has as many as were removed.
func TestListed(t *testing.T) {
	run := func(list bool) (*nav.Dataset, *Result) {
		d := faulty()
		s := Step{Faults: All, List: list}
		r, err := s.Clean(context.Background(), d)
		if err != nil {
			t.Fatal(err)
		}
		return d, r
	}
	d1, listed := run(true)
	d2, counted := run(false)
	if !reflect.DeepEqual(d1, d2) || !reflect.DeepEqual(listed.Rows, counted.Rows) || len(counted.Removed) > 0 {
		t.Errorf("%d points and %+v, or %d points and %+v", d1.Points(), listed.Rows, d2.Points(), counted.Rows)
	}
	counts := map[Fault]int{}
	for _, x := range listed.Removed {
		counts[x.Fault]++
		if x.Item == "" || x.Kind == nav.Tracks && x.Number == 0 {
			t.Errorf("%+v", x)
		}
	}
	for _, f := range []Fault{Strays, Repeats, Spikes, Stops, Crumbs} {
		if counts[f] == 0 {
			t.Errorf("no %s are listed: %v", f, counts)
		}
	}
	if counts[Gaps] > 0 { // split, not removed
		t.Errorf("listed are %v", counts)
	}
	if w := listed.Rejects(); len(w.Waypoints) != len(listed.Removed) {
		t.Errorf("%d rejects of %d", len(w.Waypoints), len(listed.Removed))
	}
}
