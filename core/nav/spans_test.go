package nav

import (
	"math"
	"slices"
	"testing"
	"time"

	"gyrolith/core/instant"
)

// A span that is longer than a duration holds is the longest one, and never short or backwards.
func TestSinceTheFarthestTimes(t *testing.T) {
	at := func(ns int64) *Point {
		p := At(0, 0)
		p.SetTime(ns, instant.Seconds)
		return &p
	}
	for _, c := range []struct {
		later, earlier int64
		want           time.Duration
	}{{5, 3, 2}, {3, 5, -2}, {math.MaxInt64, math.MinInt64, math.MaxInt64}, {math.MaxInt64, -2, math.MaxInt64},
		{math.MinInt64, math.MaxInt64, math.MinInt64}, {math.MaxInt64, -1, math.MaxInt64}} {
		if got := at(c.later).Since(at(c.earlier)); got != c.want {
			t.Errorf("%d since %d is %d, want %d", c.later, c.earlier, got, c.want)
		}
	}
}

// Between heights above different things nothing is climbed.
func TestNoClimbBetweenDatums(t *testing.T) {
	var line []Point
	for _, h := range []struct {
		metres float64
		over   VerticalDatum
	}{{100, MeanSeaLevel}, {120, MeanSeaLevel}, {500, PressureLevel}, {530, PressureLevel}, {110, MeanSeaLevel}} {
		p := At(0, float64(len(line))/1000)
		p.SetHeight(h.metres, 1, h.over)
		line = append(line, p)
	}
	var s Summary
	if s.Add(line); s.Ascent != 50 || s.Descent != 0 {
		t.Errorf("up %v, down %v; 20 m above the sea and 30 m of pressure are climbed", s.Ascent, s.Descent)
	}
}

// A copy of very many points, which stands in other room, is as they are, and is a copy.
func TestCloneOfManyPoints(t *testing.T) {
	points := make([]Point, manyPoints+3)
	for i := range points {
		points[i] = At(float64(i%90), float64(i%180))
	}
	d := &Dataset{Tracks: []Track{{Segments: []Segment{{Points: points}}}}}
	c := d.Clone()
	copied := c.Tracks[0].Segments[0].Points
	if !slices.Equal(copied, points) {
		t.Fatal("the copy is something else")
	}
	if copied[manyPoints].Lat = 50.5; points[manyPoints].Lat == 50.5 {
		t.Error("what is done to the copy is done to the data")
	}
}
