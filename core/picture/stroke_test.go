package picture

import (
	"fmt"
	"image"
	"math"
	"math/rand/v2"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"gyrolith/core/nav"
)

// A long line looks as its short parts do: the same pixels are covered, dashes are as long, nothing is drawn outside
// of a clip.
func TestLongLinesLookLikeShortOnes(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 9))
	line := []Op{moveTo(100, 100)}
	x, y := 100.0, 100.0
	for range 3 * manyLegs {
		x, y = x+r.NormFloat64()*9, y+r.NormFloat64()*9
		line = append(line, lineTo(x, y))
	}
	ink := func(paths [][]Op, dash []float64, clip *Rect) (covered float64, box image.Rectangle) {
		s := &Scene{Width: 400, Height: 400}
		for _, p := range paths {
			s.add(Shape{Path: p, Stroke: nav.RGB(0, 0, 0), Width: 3, Dash: dash, Clip: clip})
		}
		img := s.Image()
		for py := range 400 {
			for px := range 400 {
				if _, _, _, a := img.At(px, py).RGBA(); a > 0x8000 {
					covered++
					box = box.Union(image.Rect(px, py, px+1, py+1))
				}
			}
		}
		return
	}
	var parts [][]Op
	for i := 1; i < len(line); i++ {
		parts = append(parts, []Op{moveTo(line[i-1].X, line[i-1].Y), lineTo(line[i].X, line[i].Y)})
	}
	whole, box := ink([][]Op{line}, nil, nil)
	short, same := ink(parts, nil, nil)
	if math.Abs(whole/short-1) > 0.02 || box != same || whole < 1000 {
		t.Errorf("%v pixels in %v, and %v in %v in parts", whole, box, short, same)
	}
	clip := &Rect{90, 80, 40, 50}
	if _, box := ink([][]Op{line}, nil, clip); !box.In(image.Rect(90, 80, 130, 130)) || box.Empty() {
		t.Errorf("clipped to %v, it covers %v", *clip, box)
	}
	straight := []Op{moveTo(20, 50.5)}
	for i := range 2 * manyLegs {
		straight = append(straight, lineTo(20+float64(i+1)*1.25, 50.5))
	}
	dashed, _ := ink([][]Op{straight}, []float64{9, 7}, nil)
	one, _ := ink([][]Op{{moveTo(20, 50.5), lineTo(340, 50.5)}}, []float64{9, 7}, nil)
	if math.Abs(dashed/one-1) > 0.02 || one < 500 {
		t.Errorf("%v pixels dashed, %v as one leg", dashed, one)
	}
}

// Every name that a picture has no room for is counted, those of marks that others hide as well.
func TestHiddenNamesAreCounted(t *testing.T) {
	d := &nav.Dataset{}
	for i := range 500 {
		d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: fmt.Sprint("Mark ", i)},
			Point: nav.At(-47.6+float64(i%5)*1e-7, 11.3)})
	}
	d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: "Far"}, Point: nav.At(-47.5, 11.5)})
	route := nav.Route{}
	for i := range 400 {
		route.Points = append(route.Points, nav.Waypoint{Item: nav.Item{Name: fmt.Sprint("Turn ", i)},
			Point: nav.At(-47.55+float64(i)*1e-8, 11.4)})
	}
	d.Routes = []nav.Route{route}
	out := drawn(t, &Map{Data: d, Width: 900, Height: 700})
	names := 0
	for _, s := range out.Scene.Shapes {
		if s.Layer == "names" && (strings.Contains(s.Text, "Mark") || strings.Contains(s.Text, "Turn") || s.Text == "Far") {
			names++
		}
	}
	omitted := 0
	if m := regexp.MustCompile(`(\d+) labels omitted`).FindStringSubmatch(strings.Join(out.Notes, "\n")); m != nil {
		omitted, _ = strconv.Atoi(m[1])
	}
	if names+omitted != 901 || names == 0 {
		t.Errorf("%d names are drawn and %d omitted of 901: %q", names, omitted, out.Notes)
	}
}
