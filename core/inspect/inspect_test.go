package inspect

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/format/gpx"
	"gyrolith/core/instant"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// walk is a track of a point a second, ten metres apart to the north.
func walk(name, group string, n int, at int64) nav.Track {
	t := nav.Track{Item: nav.Item{Name: name, Group: group}, Segments: []nav.Segment{{}}}
	for i := range n {
		p := nav.At(-47.6+float64(i)*9e-5, 11.3)
		p.SetTime(at+int64(i)*1e9, instant.Seconds)
		t.Segments[0].Points = append(t.Segments[0].Points, p)
	}
	return t
}

func looked(d *nav.Dataset) *View {
	v, err := Look(context.Background(), &format.Loaded{Path: "a.gpx", Format: gpx.Format, Data: d}, time.Unix(2e9, 0),
		motion.Limits{})
	if err != nil {
		panic(err)
	}
	return v
}

// Items are shown in their folders, which stand where they are first named.
func TestTree(t *testing.T) {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{
		{Item: nav.Item{Name: "Rock", Group: "Hazards/Rocks"}, Point: nav.At(-47.6, 11.3)},
		{Item: nav.Item{Name: "Alone"}, Point: nav.At(-47.6, 11.4)},
		{Item: nav.Item{Name: "Wreck", Group: "Hazards"}, Point: nav.At(-47.5, 11.3)},
		{Item: nav.Item{Name: "Reef", Group: "Hazards/Rocks"}, Point: nav.At(-47.5, 11.4)}}}
	root := looked(d).Tree()
	if root.Size() != 4 || len(root.Entries) != 1 || root.Entries[0].Item.Name != "Alone" || len(root.Groups) != 1 {
		t.Fatalf("%+v", root)
	}
	hazards := root.Groups[0]
	if hazards.Name != "Hazards" || hazards.Size() != 3 || len(hazards.Groups) != 1 || hazards.Groups[0].Name != "Rocks" ||
		hazards.Groups[0].Entries[1].Item.Name != "Reef" {
		t.Errorf("%+v", hazards)
	}
}

// A track's nature says whether it was recorded or drawn, and how often.
func TestNature(t *testing.T) {
	sparse := walk("", "", 4, 0)
	sparse.Segments[0].Points[2].ClearTime()
	drawn := walk("", "", 3, 0)
	for i := range drawn.Segments[0].Points {
		drawn.Segments[0].Points[i].ClearTime()
	}
	still := walk("", "", 2, 0)
	still.Segments[0].Points[1].SetTime(0, instant.Seconds)
	broken := walk("", "", 61, 0)
	broken.Segments = append(broken.Segments, walk("", "", 1, 60e9).Segments...)
	fast := walk("", "", 61, 0)
	for i := range fast.Segments[0].Points {
		fast.Segments[0].Points[i].SetTime(int64(i)*1e8, instant.Seconds+1)
	}
	paused := walk("", "", 61, 0) // every second, with a pause of an hour
	paused.Segments = append(paused.Segments, walk("", "", 61, 3600e9).Segments...)
	paused.Segments = append(paused.Segments, walk("", "", 61, 7200e9).Segments...)
	for want, track := range map[string]nav.Track{
		"recorded: a time every 0.1 s": fast, "recorded: a time every 1 s, 3 segments": paused, "empty": {},
		"drawn: no times": drawn, "recorded: times at 3 of 4 points": sparse, "recorded: with times": still,
		"recorded: a time every 1 s, 2 segments": broken,
	} {
		if got := NatureOf(&track, motion.Of(track.Segments, motion.Limits{})).String(); got != want {
			t.Errorf("%q, not %q", got, want)
		}
	}
}

// The day of a view depends on the zone; of several days, or none, there is none.
func TestOneDay(t *testing.T) {
	at := time.Date(2026, 3, 14, 22, 59, 0, 0, time.UTC).UnixNano()
	v := looked(&nav.Dataset{Tracks: []nav.Track{walk("A", "", 30, at)}})
	if got := v.OneDay(time.UTC); got != "2026-03-14" {
		t.Errorf("%q in UTC", got)
	}
	if got := v.OneDay(time.FixedZone("", 3600+45)); got != "" {
		t.Errorf("%q where midnight lies between", got)
	}
	if got := v.OneDay(time.FixedZone("", 7200)); got != "2026-03-15" {
		t.Errorf("%q two hours to the east", got)
	}
	if got := looked(&nav.Dataset{}).OneDay(time.UTC); got != "" {
		t.Errorf("%q of nothing", got)
	}
}

// The length of a track is told without a point on the other side of the earth, and that there is one.
func TestLengthWithoutStrays(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{walk("A", "", 101, 1.7e18)}}
	d.Tracks[0].Segments[0].Points[50].Lat, d.Tracks[0].Segments[0].Points[50].Lon = 40, -170
	v := looked(d)
	if e := v.Entries[0]; e.Astray != 1 || e.Sum.Length < 990 || e.Sum.Length > 1010 {
		t.Errorf("%d points astray, %.0f m", e.Astray, e.Sum.Length)
	}
	if d.Tracks[0].Segments[0].Points[50].Lon != -170 {
		t.Error("looking changed the data")
	}
}

// An overview adds up what can be read, and counts what can't.
func TestOverview(t *testing.T) {
	var o Overview
	east := looked(&nav.Dataset{Tracks: []nav.Track{walk("A", "", 11, 1.7e18)}}).Row()
	twice := &nav.Dataset{Tracks: []nav.Track{walk("B", "", 11, 1.7e18)}}
	s := &twice.Tracks[0].Segments[0]
	for i := range s.Points {
		s.Points[i].Lon = 11.5
	}
	s.Points[4] = s.Points[3]
	west := looked(twice).Row()
	for _, r := range []*Row{&east, &west, {Path: "b", Err: errors.New("can't be read")}} {
		o.Add(r)
	}
	box, ok := o.Box()
	if o.Files != 3 || o.Failed != 1 || o.Counts[nav.Tracks] != 2 || o.Faults != 1 || !ok || box.West != 11.3 ||
		box.East != 11.5 || box.South != -47.6 {
		t.Errorf("%+v, %+v", o, box)
	}
	if got := west.Problems(); !strings.HasPrefix(got, "1 repeats") {
		t.Errorf("problems %q", got)
	}
	if _, ok := (&Overview{}).Box(); ok {
		t.Error("nothing has a place")
	}
}

// Heights are told with what they are above, where that is said, and areas with their limits.
func TestAboveAndLimits(t *testing.T) {
	d := &nav.Dataset{}
	if got := Above(d); got != "" {
		t.Errorf("%q of nothing", got)
	}
	for _, datum := range []nav.VerticalDatum{nav.DatumUnstated, nav.AboveEllipsoid, nav.MeanSeaLevel} {
		w := nav.Waypoint{Point: nav.At(-47.6, 11.3)}
		w.SetHeight(5, 0, datum)
		d.Waypoints = append(d.Waypoints, w)
	}
	if got := Above(d); got != " above mean sea level, and above the ellipsoid" {
		t.Errorf("%q", got)
	}
	item := &nav.Item{Fields: []nav.Field{{Key: nav.FieldCeiling, Value: "2,500 ft"},
		{Key: nav.FieldFloor, Value: "ground"}}}
	if got := Limits(item); got != strings.TrimPrefix(nav.FieldFloor, "valid ")+" ground, "+
		strings.TrimPrefix(nav.FieldCeiling, "valid ")+" 2,500 ft" {
		t.Errorf("%q", got)
	}
}

// Looking ends with its context, and says so.
func TestStopped(t *testing.T) {
	ctx, stop := context.WithCancel(t.Context())
	stop()
	d := &nav.Dataset{Tracks: []nav.Track{walk("A", "", 50, 1e18)}}
	if _, err := Look(ctx, &format.Loaded{Path: "a.gpx", Format: gpx.Format, Data: d}, time.Unix(2e9, 0),
		motion.Limits{}); !errors.Is(err, context.Canceled) {
		t.Errorf("stopped: %v", err)
	}
}
