package overlay

import (
	"errors"
	"math"
	"strings"
	"testing"

	"gyrolith/core/choose"
	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

func box(name string, west, south, east, north float64) nav.Area {
	return nav.Area{Item: nav.Item{Name: name}, Outline: []nav.Point{nav.At(south, west), nav.At(south, east),
		nav.At(north, east), nav.At(north, west)}}
}

func apply(t *testing.T, s *Step, d *nav.Dataset) *nav.Report {
	t.Helper()
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	r, err := s.Apply(t.Context(), d)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func namesOf(areas []nav.Area) string {
	var out []string
	for i := range areas {
		out = append(out, areas[i].Name)
	}
	return strings.Join(out, ",")
}

// What comes from one area keeps all that is said of it; areas that become one keep what they all say, and the ledger
// has the rest.
func TestUnionKeepsWhatIsSaid(t *testing.T) {
	areas := func() []nav.Area {
		a, b := box("North", 11, -47, 11.2, -46.9), box("South", 11.1, -47.05, 11.3, -46.95)
		c := box("Far", 12, -47, 12.1, -46.9)
		for _, x := range []*nav.Area{&a, &b, &c} {
			x.Fields = []nav.Field{{Key: "keeper", Value: "Ward"}, {Key: "since", Value: x.Name}}
			x.Style.Colour = nav.Colour{R: 1, A: 255, Set: true}
		}
		a.Group, b.Group, c.Group = "Ward", "Ward", "Other"
		return []nav.Area{a, b, c}
	}
	d := &nav.Dataset{Areas: areas(), Waypoints: []nav.Waypoint{{Point: nav.At(0, 0)}}}
	r := apply(t, &Step{What: Union}, d)
	if namesOf(d.Areas) != "North and 1 more,Far" || len(d.Waypoints) != 0 {
		t.Fatalf("%s", namesOf(d.Areas))
	}
	made := d.Areas[0]
	if v, _ := nav.Get(made.Fields, "keeper"); v != "Ward" || !made.Style.Colour.Set || made.Group != "Ward" {
		t.Errorf("what both say is gone: %+v", made.Item)
	}
	if _, ok := nav.Get(made.Fields, "since"); ok {
		t.Error("a field is kept in which they differ")
	}
	lost := map[string]int{}
	for _, e := range r.Ledger {
		if e.Loss || e.New == "North and 1 more" {
			lost[e.Name+" "+string(e.What)]++
		}
	}
	for _, want := range []string{"North name", "South name", "North field since", "South field since", " item"} {
		if lost[want] == 0 {
			t.Errorf("not in the ledger: %s; %v", want, lost)
		}
	}
	if v, _ := nav.Get(d.Areas[1].Fields, "since"); v != "Far" {
		t.Error("an area that touches none lost a field")
	}
	for by, want := range map[string]string{"group": "Ward,Far", "keeper": "Ward,Ward", "since": "North,South,Far"} {
		d := &nav.Dataset{Areas: areas()}
		if apply(t, &Step{What: Union, By: by}, d); namesOf(d.Areas) != want {
			t.Errorf("by %s: %s, want %s", by, namesOf(d.Areas), want)
		}
	}
}

// Lines are cut at the edge, with the time and the height there; waypoints stay where they are inside; an area is cut,
// and several pieces of it are parts of one.
func TestInsideAndOutside(t *testing.T) {
	other := &nav.Dataset{Areas: []nav.Area{box("Closure", 11.1, -47.5, 11.2, -46.5)}}
	made := func() *nav.Dataset {
		d := &nav.Dataset{Areas: []nav.Area{box("Search", 11, -47.1, 11.3, -47), box("Within", 11.12, -47, 11.15, -46.9),
			box("Away", 13, -47, 13.1, -46.9)}}
		var seg nav.Segment
		for i, lon := range []float64{11.0, 11.3} {
			p := nav.At(-47, lon)
			p.SetTime(int64(i)*300e9, instant.Seconds)
			p.SetHeight(float64(i)*30, decimal.PrecisionOf(1), nav.MeanSeaLevel)
			seg.Points = append(seg.Points, p)
		}
		d.Tracks = []nav.Track{{Item: nav.Item{Name: "Walk"}, Segments: []nav.Segment{seg}}}
		d.Routes = []nav.Route{{Item: nav.Item{Name: "Run"}, Points: []nav.Waypoint{
			{Item: nav.Item{Name: "A"}, Point: nav.At(-47, 11)}, {Item: nav.Item{Name: "B"}, Point: nav.At(-47, 11.15)},
			{Item: nav.Item{Name: "C"}, Point: nav.At(-47, 11.3)}}}}
		d.Waypoints = []nav.Waypoint{{Item: nav.Item{Name: "in"}, Point: nav.At(-47, 11.15)},
			{Item: nav.Item{Name: "out"}, Point: nav.At(-47, 11.25)}}
		return d
	}
	in := made()
	apply(t, &Step{What: Intersection, Other: other}, in)
	if namesOf(in.Areas) != "Search,Within" || len(in.Waypoints) != 1 || in.Waypoints[0].Name != "in" {
		t.Errorf("inside: %s, %v", namesOf(in.Areas), in.Waypoints)
	}
	points := in.Tracks[0].Segments[0].Points
	for k, want := range []float64{100, 200} {
		p := &points[k]
		if s := float64(p.UnixNano()) / 1e9; math.Abs(s-want) > 0.01 || math.Abs(p.Height()-want/10) > 0.01 ||
			math.Abs(p.Lon-11.1-0.1*float64(k)) > 1e-9 {
			t.Errorf("the track is cut at %v, %v s, %v m", p.Lon, s, p.Height())
		}
	}
	if r := in.Routes[0]; len(in.Routes) != 1 || len(r.Points) != 3 || r.Points[1].Name != "B" {
		t.Errorf("routes %+v", in.Routes)
	}
	out := made()
	apply(t, &Step{What: Difference, Other: other}, out)
	if namesOf(out.Areas) != "Search,Search,Away" || out.Areas[0].Whole == nil ||
		out.Areas[0].Whole != out.Areas[1].Whole || out.Waypoints[0].Name != "out" || len(out.Tracks[0].Segments) != 2 {
		t.Errorf("outside: %s", namesOf(out.Areas))
	}
	if len(out.Routes) != 2 || out.Routes[0].Name != "Run (a)" || out.Routes[1].Name != "Run (b)" {
		t.Errorf("routes %+v", out.Routes)
	}
	both := made()
	whole := both.Areas[0].Size()
	if sum := in.Areas[0].Size() + out.Areas[0].Size() + out.Areas[1].Size(); math.Abs(sum-whole) > 1e-6*whole {
		t.Errorf("%f inside and outside, of %f", sum, whole)
	}
	if err := (&Step{What: Intersection}).Check(); err == nil {
		t.Error("an intersection with nothing")
	}
	nothing := &nav.Dataset{Areas: []nav.Area{box("Away", 13, -47, 13.1, -46.9)}}
	if _, err := (&Step{What: Intersection, Other: other}).Apply(t.Context(), nothing); err != ErrNothing {
		t.Errorf("%v", err)
	}
	if _, ok := errors.AsType[choose.Nothing](ErrNothing); !ok {
		t.Error("an empty result is not nothing")
	}
}

// Equal parts and parts along lines have letters behind the name, and buffers all that is said of their item.
func TestPartsAndBuffers(t *testing.T) {
	d := &nav.Dataset{Areas: []nav.Area{box("Box", 11, -47, 11.4, -46.9)}}
	whole := d.Areas[0].Size()
	r := apply(t, &Step{What: Divide, Parts: 4}, d)
	cuts := r.Detail.([]Cut)
	if namesOf(d.Areas) != "Box (a),Box (b),Box (c),Box (d)" || len(cuts) != 1 || cuts[0].Heading != 0 {
		t.Errorf("%s %v", namesOf(d.Areas), cuts)
	}
	for i := range d.Areas {
		if size := d.Areas[i].Size(); math.Abs(size*4-whole) > 1e-6*whole {
			t.Errorf("part %d is %f of %f", i, size, whole)
		}
	}
	line := nav.Route{Points: []nav.Waypoint{{Point: nav.At(-47.1, 11.1)}, {Point: nav.At(-46.8, 11.1)}}}
	d = &nav.Dataset{Areas: []nav.Area{box("Box", 11, -47, 11.4, -46.9)}}
	apply(t, &Step{What: Divide, Other: &nav.Dataset{Routes: []nav.Route{line}}}, d)
	if namesOf(d.Areas) != "Box (a),Box (b)" || d.Areas[0].Size() > d.Areas[1].Size() {
		t.Errorf("along a line: %s", namesOf(d.Areas))
	}
	d = &nav.Dataset{Areas: []nav.Area{box("Box", 11, -47, 11.1, -46.9), box("Dot", 11, -46, 11.0001, -45.9999)},
		Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "Rock", Group: "Rocks", Desc: "dry"}, Point: nav.At(-47, 180)}}}
	apply(t, &Step{What: Buffer, Distance: 100}, d)
	if namesOf(d.Areas) != "Rock,Box,Dot" || d.Areas[0].Desc != "dry" || d.Areas[0].Group != "Rocks" {
		t.Errorf("%+v", d.Areas)
	}
	if size := d.Areas[0].Size(); math.Abs(size/(math.Pi*100*100)-1) > 0.002 {
		t.Errorf("a circle of 100 m has %f m²", size)
	}
	d.Waypoints = []nav.Waypoint{{Item: nav.Item{Name: "Rock"}, Point: nav.At(-47, 11)}}
	r = apply(t, &Step{What: Buffer, Distance: -150}, d)
	if namesOf(d.Areas) != "Box" || len(r.Ledger) != 3 || r.Ledger.Losses() != 1 {
		t.Errorf("shrunk: %s, %v", namesOf(d.Areas), r.Ledger)
	}
}

// A flawed area is mended where there is one answer, and else nothing is computed and it is named.
func TestFlawedAreas(t *testing.T) {
	bow := nav.Area{Item: nav.Item{Name: "Bow"}, Flawed: true,
		Outline: []nav.Point{nav.At(-47, 11), nav.At(-46.9, 11.1), nav.At(-47, 11.1), nav.At(-46.9, 11)}}
	d := &nav.Dataset{Areas: []nav.Area{bow}}
	r := apply(t, &Step{What: Union}, d)
	if namesOf(d.Areas) != "Bow,Bow" || len(r.Ledger) == 0 || len(shape.Flaws(&d.Areas[0])) > 0 {
		t.Errorf("%s %v", namesOf(d.Areas), r.Ledger)
	}
	out := box("Odd", 11, -47, 11.1, -46.9)
	out.Flawed, out.Holes = true, [][]nav.Point{box("", 12, -47, 12.1, -46.9).Outline}
	_, err := (&Step{What: Union}).Apply(t.Context(), &nav.Dataset{Areas: []nav.Area{bow, out}})
	if err == nil || !strings.Contains(err.Error(), `"Odd"`) || !strings.Contains(err.Error(), "12.0000") {
		t.Errorf("%v", err)
	}
}
