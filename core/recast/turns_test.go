package recast

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/pace"
)

// Every kind becomes every other with its names, group, colour and fields.
func TestEveryPairing(t *testing.T) {
	item := nav.Item{Name: "Thing", Group: "G/H", Desc: "said of it", Style: nav.Style{Colour: nav.RGB(9, 8, 7),
		Width: 3}, Fields: []nav.Field{{Key: "k", Value: "v"}}}
	square := line(0, 0, 100, 0, 100, 100, 0, 100)
	make4 := func(from nav.Kind) *nav.Dataset {
		d := &nav.Dataset{}
		switch from {
		case nav.Waypoints:
			for i, p := range square {
				d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: string(rune('A' + i)), Group: "G/Thing",
					Style: nav.Style{Colour: nav.RGB(9, 8, 7)}}, Point: p})
			}
		case nav.Routes:
			r := nav.Route{Item: item}
			for i, p := range square {
				r.Points = append(r.Points, nav.Waypoint{Item: nav.Item{Name: string(rune('A' + i))}, Point: p})
			}
			d.Routes = []nav.Route{r}
		case nav.Tracks:
			d.Tracks = []nav.Track{{Item: item,
				Segments: []nav.Segment{{Points: append(append([]nav.Point{}, square...), square[0])}}}}
		case nav.Areas:
			d.Areas = []nav.Area{{Item: item, Outline: square}}
		}
		return d
	}
	for _, from := range nav.Kinds {
		for _, to := range nav.Kinds {
			if from == to {
				continue
			}
			for _, keep := range []bool{false, true} {
				d := make4(from)
				had := d.Counts()[from]
				step := &Step{KeepSource: keep, ClosingWithin: 200}
				step.To[from] = &to
				l, err := step.Recast(context.Background(), d)
				if err != nil || l.Losses() > 0 {
					t.Errorf("%s to %s: %v %v", from, to, l, err)
					continue
				}
				counts := d.Counts()
				want := 1
				if to == nav.Waypoints {
					want = 4
					if from == nav.Tracks {
						want = 5
					}
				}
				if counts[to] != want || !keep && counts[from] != 0 || keep && counts[from] != had {
					t.Errorf("%s to %s, keep %v: %v", from, to, keep, counts)
				}
				d.Each(func(k nav.Kind, x *nav.Item) {
					if k != to || keep {
						return
					}
					if !strings.HasPrefix(x.Group, "G") || to != nav.Waypoints && (!strings.HasPrefix(x.Name, "Thing") ||
						x.Style.Colour != nav.RGB(9, 8, 7)) {
						t.Errorf("%s to %s: %+v", from, to, x)
					}
					if from != nav.Waypoints && to != nav.Waypoints && (x.Desc != "said of it" || len(x.Fields) != 1) {
						t.Errorf("%s to %s has lost its description and fields: %+v", from, to, x)
					}
				})
			}
		}
	}
}

// What single points have goes along, there and back.
func TestPointsKeepWhatTheyHave(t *testing.T) {
	s := nav.Segment{Points: line(0, 0, 100, 0, 200, 0)}
	s.Attach(&s.Points[1], nav.Detail{Values: []nav.Field{{Key: "speed", Value: "2"}},
		Item: &nav.Item{Name: "Tarn", Desc: "drank"}, Exact: "-47.60000000000000001 11.3"})
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "T"}, Segments: []nav.Segment{s}}}}
	apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Routes)}}, d)
	p := d.Routes[0].Points
	if p[1].Name != "Tarn" || p[1].Desc != "drank" || len(p[1].Fields) != 1 || p[1].Exact == "" || p[0].Name != "T 1" ||
		p[2].Name != "T 3" {
		t.Errorf("%+v", p)
	}
	apply(t, &Step{To: [4]*nav.Kind{nav.Routes: kind(nav.Tracks)}}, d)
	back := &d.Tracks[0].Segments[0]
	if x := back.Detail(&back.Points[1]); x == nil || x.Item.Name != "Tarn" || x.Exact == "" || len(x.Item.Fields) != 1 {
		t.Errorf("%+v", x)
	}
}

func TestSeveralSegments(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{track("Walk", line(0, 0, 100, 0), line(500, 0, 600, 0))}}
	l := apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Routes)}}, d)
	if len(d.Routes) != 2 || d.Routes[1].Name != "Walk 2" {
		t.Errorf("%d routes", len(d.Routes))
	}
	told := false
	for _, e := range l {
		told = told || e.What == "segments"
	}
	if !told {
		t.Error("that the gap made two routes is not told")
	}
	areas := &nav.Dataset{Tracks: []nav.Track{track("Zones", line(0, 0, 9, 0, 9, 9, 0, 0),
		line(50, 0, 59, 0, 59, 9, 50, 0), line(90, 0, 91, 0))}}
	l = apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Areas)}}, areas)
	if len(areas.Areas) != 2 || areas.Areas[1].Name != "Zones 2" || len(areas.Tracks) != 1 ||
		len(areas.Tracks[0].Segments) != 1 || l.Losses() != 1 {
		t.Errorf("%v %v", areas.Counts(), l)
	}
}

func TestGroupsOfWaypoints(t *testing.T) {
	d := func() *nav.Dataset {
		a, b, c := wpt("1", 0, 0), wpt("2", 100, 0), wpt("3", 200, 0)
		a.Group, b.Group, c.Group = "North", "North", "South"
		return &nav.Dataset{Waypoints: []nav.Waypoint{a, b, c}, Meta: nav.Meta{Name: "Season"}}
	}
	each := d()
	apply(t, &Step{To: [4]*nav.Kind{kind(nav.Routes)}}, each)
	if len(each.Routes) != 2 || each.Routes[0].Name != "North" || len(each.Routes[0].Points) != 2 {
		t.Errorf("%+v", each.Routes)
	}
	one := d()
	apply(t, &Step{To: [4]*nav.Kind{kind(nav.Routes)}, Name: "All"}, one)
	if len(one.Routes) != 1 || one.Routes[0].Name != "All" || len(one.Routes[0].Points) != 3 {
		t.Errorf("%+v", one.Routes)
	}
	if _, err := (&Step{To: [4]*nav.Kind{kind(nav.Routes)}, Order: Near, First: "1"}).Recast(context.Background(),
		d()); err == nil || !strings.Contains(err.Error(), "2 groups") {
		t.Errorf("a first waypoint of two groups: %v", err)
	}
	round := d()
	apply(t, &Step{To: [4]*nav.Kind{kind(nav.Routes)}, Order: Near, Name: "All", First: "2", Last: "2"}, round)
	if p := round.Routes[0].Points; len(p) != 4 || p[0].Name != "2" || p[3].Name != "2" {
		t.Errorf("a round: %+v", p)
	}
	pair := &nav.Dataset{Waypoints: []nav.Waypoint{wpt("1", 0, 0), wpt("2", 9, 0)}}
	l := apply(t, &Step{To: [4]*nav.Kind{kind(nav.Areas)}}, pair)
	if len(pair.Areas) != 0 || len(pair.Waypoints) != 2 || l.Losses() != 1 {
		t.Errorf("an area of two waypoints: %v %v", pair.Counts(), l)
	}
}

func TestRoutesAreLines(t *testing.T) {
	r := func(name string, points ...nav.Waypoint) nav.Route {
		return nav.Route{Item: nav.Item{Name: name}, Points: points}
	}
	d := &nav.Dataset{Routes: []nav.Route{r("A", wpt("1", 0, 0), wpt("2", 100, 0)),
		r("B", wpt("3", 300, 0), wpt("2", 100, 0))}}
	apply(t, &Step{Join: true, Name: "Both"}, d)
	if p := d.Routes[0].Points; len(d.Routes) != 1 || d.Routes[0].Name != "Both" || len(p) != 3 || p[1].Name != "2" {
		t.Errorf("joined: %+v", d.Routes)
	}
	apply(t, &Step{Reverse: true}, d)
	apply(t, &Step{SplitAt: &Cut{Waypoints: []string{"2"}}}, d)
	if len(d.Routes) != 2 || d.Routes[0].Name != "Both 1" || d.Routes[1].Points[0].Name != "2" {
		t.Errorf("split: %+v", d.Routes)
	}
	for i := range d.Routes {
		for j := range d.Routes[i].Points {
			d.Routes[i].Points[j].SetHeight(float64(100*j), decimal.PrecisionOf(0), nav.MeanSeaLevel)
		}
	}
	apply(t, &Step{Speed: 1, Start: time.Unix(1, 0), Pace: pace.Rule{Level: true}}, d)
	level := d.Routes[0].Points[1].UnixNano()
	climbing := &nav.Dataset{Routes: []nav.Route{r("A", d.Routes[0].Points...)}}
	for j := range climbing.Routes[0].Points {
		climbing.Routes[0].Points[j].ClearTime()
	}
	apply(t, &Step{Speed: 1, Start: time.Unix(1, 0)}, climbing)
	if more := climbing.Routes[0].Points[1].UnixNano() - level; more != 600e9 {
		t.Errorf("100 m of climb cost %.0f s", float64(more)/1e9)
	}
}

// A stay is spent where it stands: 10 km at 10 km/h, half an hour, and 10 km more.
func TestPaceWithStay(t *testing.T) {
	start := time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)
	d := &nav.Dataset{Routes: []nav.Route{{Item: nav.Item{Name: "R"}}}}
	for i := range 3 {
		lat, lon, _ := geodesy.Direct(-47.6, 11.3, 90, float64(i)*10000)
		d.Routes[0].Points = append(d.Routes[0].Points, nav.Waypoint{Point: nav.At(lat, lon)})
	}
	d.Routes[0].Points[1].Fields = []nav.Field{{Key: "manual stay", Value: "PT30M"}, {Key: "manual etd",
		Value: "2020-01-01T00:00:00Z"}}
	apply(t, &Step{Start: start, Speed: 10 / 3.6}, d)
	p := d.Routes[0].Points
	for i, want := range []time.Duration{0, time.Hour, 150 * time.Minute} {
		if got := p[i].Time().Sub(start); (got - want).Abs() > time.Second {
			t.Errorf("point %d after %v, want %v", i+1, got, want)
		}
	}
	if _, old := nav.Get(p[1].Fields, "manual etd"); old {
		t.Error("the departure of another day stays beside the new times")
	}
}

// A corner stays one unless it is the first again, a fence whose ends are apart stays open unless they may be, and what
// the corners of an area don't have is said.
func TestClosing(t *testing.T) {
	corners := line(0, 0, 0, 1100, 1100, 1100, 1100, 0)
	fence := func() *nav.Dataset {
		r := nav.Route{Item: nav.Item{Name: "Fence"}}
		for i, p := range corners {
			r.Points = append(r.Points, nav.Waypoint{Item: nav.Item{Name: string(rune('A' + i)),
				Fields: []nav.Field{{Key: "post", Value: "oak"}}}, Point: p})
		}
		return &nav.Dataset{Routes: []nav.Route{r}}
	}
	d := fence()
	if l := apply(t, &Step{To: [4]*nav.Kind{nav.Routes: kind(nav.Areas)}}, d); len(d.Routes) != 1 || l.Losses() != 1 {
		t.Errorf("an open fence: %v %v", d.Counts(), l)
	}
	d = fence()
	l := apply(t, &Step{To: [4]*nav.Kind{nav.Routes: kind(nav.Areas)}, ClosingWithin: 2000}, d)
	if len(d.Areas) != 1 || len(d.Areas[0].Outline) != 4 || !strings.Contains(fmt.Sprint(l), "names of points") ||
		!strings.Contains(fmt.Sprint(l), "fields of points") {
		t.Errorf("%+v %v", d.Areas, l)
	}
	d = &nav.Dataset{Tracks: []nav.Track{track("Walked", corners)}}
	apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Areas)}, ClosingWithin: 2000}, d)
	if len(d.Areas) != 1 || len(d.Areas[0].Outline) != 4 {
		t.Errorf("%+v", d)
	}
}

// A line is split once where a point of a route and a waypoint beside it have the name, and at every name that is
// given.
func TestSplitAtNames(t *testing.T) {
	d := &nav.Dataset{Routes: []nav.Route{{Item: nav.Item{Name: "R"}}}}
	for i, p := range line(0, 0, 0, 1000, 0, 2000, 0, 3000) {
		d.Routes[0].Points = append(d.Routes[0].Points, nav.Waypoint{Item: nav.Item{Name: string(rune('A' + i))}, Point: p})
	}
	beside := line(6, 1008)[0]
	d.Waypoints = []nav.Waypoint{{Item: nav.Item{Name: "B"}, Point: beside}}
	apply(t, &Step{SplitAt: &Cut{Waypoints: []string{"B", "C"}}}, d)
	if len(d.Routes) != 3 || len(d.Routes[0].Points) != 2 || d.Routes[1].Points[0].Name != "B" ||
		d.Routes[2].Points[0].Name != "C" {
		t.Errorf("%d parts: %+v", len(d.Routes), d.Routes)
	}
}
