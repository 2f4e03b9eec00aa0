package recast

import (
	"context"
	"math"
	"strings"
	"testing"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// timedLine is a track north along a meridian, a fix every 17 m and 10 s, from one latitude to another.
func timedLine(name string, from, to, lon float64, start time.Time) nav.Track {
	const step = 17.0 / 111_200
	s := nav.Segment{}
	n := int(math.Abs(to-from) / step)
	for i := range n + 1 {
		p := nav.At(from+(to-from)*float64(i)/float64(n), lon)
		p.SetTime(start.Add(time.Duration(i)*10*time.Second).UnixNano(), instant.Seconds)
		p.SetHeight(100+float64(i), decimal.PrecisionOf(1), nav.MeanSeaLevel)
		s.Points = append(s.Points, p)
	}
	return nav.Track{Item: nav.Item{Name: name}, Segments: []nav.Segment{s}}
}

var morning = time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)

// Every part but the last is as long as was asked for, to the centimetre, and begins with the time and the height at
// which the one before it ends.
func TestSplitExactly(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{timedLine("A", -47.6, -47.58, 11.3, morning)}}
	if _, err := (&Step{SplitAt: &Cut{Every: 300}}).Recast(context.Background(), d); err != nil {
		t.Fatal(err)
	}
	if len(d.Tracks) != 8 {
		t.Fatalf("%d parts", len(d.Tracks))
	}
	for i := range d.Tracks[:7] {
		sum := d.Tracks[i].Summary()
		if math.Abs(sum.Length-300) > 0.02 {
			t.Errorf("part %d is %.3f m long", i+1, sum.Length)
		}
		a, b := d.Tracks[i].Segments[0].Points, d.Tracks[i+1].Segments[0].Points
		end := a[len(a)-1]
		if !end.SamePlace(&b[0]) || !end.HasTime() || end.UnixNano() != b[0].UnixNano() || end.Height() != b[0].Height() {
			t.Errorf("part %d ends otherwise than the next begins", i+1)
		}
	}
}

// Parts that were recorded from both ends are turned around only where that is asked for, and each is reported.
func TestJoinReversing(t *testing.T) {
	lines := func() *nav.Dataset {
		return &nav.Dataset{Tracks: []nav.Track{timedLine("North", -47.60, -47.59, 11.3, morning),
			timedLine("Back", -47.58, -47.5901, 11.3, morning.Add(time.Hour))}}
	}
	d := lines()
	ledger, err := (&Step{Join: true, Reversing: true}).Recast(context.Background(), d)
	if err != nil || len(d.Tracks) != 1 {
		t.Fatalf("%v, %d tracks", err, len(d.Tracks))
	}
	if sum := d.Tracks[0].Summary(); math.Abs(sum.Length-2246) > 5 {
		t.Errorf("joined it is %.0f m long", sum.Length)
	}
	told := ""
	for _, e := range ledger {
		told += string(e.What) + " " + e.Name + " " + e.New + ";"
	}
	if strings.Count(told, "direction ") != 1 || !strings.Contains(told, "times") {
		t.Errorf("said: %s", told)
	}
	d = lines()
	if _, err := (&Step{Join: true}).Recast(context.Background(), d); err != nil || d.Tracks[0].Summary().Length < 3000 {
		t.Errorf("%v: lines with times are turned around unasked", err)
	}
	d = lines()
	d.Tracks[0], d.Tracks[1] = d.Tracks[1], d.Tracks[0]
	if _, err := (&Step{Join: true, Order: ByFile}).Recast(context.Background(), d); err != nil ||
		d.Tracks[0].Name != "Back" {
		t.Errorf("%v: in the files' order it begins with %s", err, d.Tracks[0].Name)
	}
}

// A closed line begins where it is asked to, whatever it began with, and is closed again.
func TestBeginningOfClosedLines(t *testing.T) {
	d := &nav.Dataset{}
	ring := nav.Segment{}
	for _, at := range [][2]float64{{-47.6, 11.3}, {-47.6, 11.31}, {-47.59, 11.31}, {-47.59, 11.3}, {-47.6, 11.3}} {
		ring.Points = append(ring.Points, nav.At(at[0], at[1]))
	}
	d.Tracks = []nav.Track{{Item: nav.Item{Name: "Round"}, Segments: []nav.Segment{ring}}}
	d.Waypoints = []nav.Waypoint{{Item: nav.Item{Name: "Gate"}, Point: nav.At(-47.5901, 11.3099)}}
	for _, first := range []string{"gate", "47.5901 S 11.3099 E"} {
		if _, err := (&Step{First: first}).Recast(context.Background(), d); err != nil {
			t.Fatal(err)
		}
		p := d.Tracks[0].Segments[0].Points
		if p[0].Lat != -47.59 || p[0].Lon != 11.31 || !p[0].SamePlace(&p[4]) || len(p) != 5 {
			t.Errorf("%s: %+v", first, p)
		}
	}
	open := &nav.Dataset{Tracks: []nav.Track{timedLine("A", -47.6, -47.59, 11.3, morning)}}
	if _, err := (&Step{First: "47.6 S 11.3 E"}).Recast(context.Background(), open); err == nil {
		t.Error("an open line begins anew")
	}
}
