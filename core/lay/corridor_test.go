package lay

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// farFrom is how far a place is from a line, by places along it that are nearer and nearer to one another.
func farFrom(p *nav.Point, line []nav.Point) float64 {
	best, at := math.Inf(1), 0.0
	w := newWalker(line)
	low, high, step := 0.0, w.length(), w.length()/200
	for range 4 {
		for d := low; d <= high; d += step {
			q, _ := w.position(d)
			if far := geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon); far < best {
				best, at = far, d
			}
		}
		low, high, step = math.Max(at-2*step, 0), math.Min(at+2*step, w.length()), step/20
	}
	return best
}

// The edge of a corridor is half its width from the line everywhere, round corners inside and outside, at the
// antimeridian and over hundreds of kilometres.
func TestCorridor(t *testing.T) {
	if testing.Short() {
		t.Skip("long, and nothing in it happens side by side")
	}
	for name, line := range map[string][]nav.Point{
		"bent":       {nav.At(-47.6, 11.2), nav.At(-47.55, 11.25), nav.At(-47.6, 11.35), nav.At(-47.7, 11.3)},
		"two points": {nav.At(0, 179.95), nav.At(0.05, -179.9)},
		"long":       {nav.At(60, 10), nav.At(62, 18)},
	} {
		r := nav.Route{Item: nav.Item{Name: name}}
		for _, p := range line {
			r.Points = append(r.Points, nav.Waypoint{Point: p})
		}
		areas := laidOut(t, &Step{What: Corridor, Width: 2000}, &nav.Dataset{Routes: []nav.Route{r}}).Areas
		if len(areas) != 1 {
			t.Fatalf("%s: %d areas", name, len(areas))
		}
		ring := areas[0].Outline
		for i := range ring {
			p, q := &ring[i], &ring[(i+1)%len(ring)]
			if far := farFrom(p, line); math.Abs(far-1000) > 1 {
				t.Errorf("%s: corner %d is %.2f m off", name, i, far)
			}
			distance, course, _ := geodesy.Inverse(p.Lat, p.Lon, q.Lat, q.Lon)
			lat, lon, _ := geodesy.Direct(p.Lat, p.Lon, course, distance/2)
			mid := nav.At(lat, lon)
			if far := farFrom(&mid, line); math.Abs(far-1000) > 2 {
				t.Errorf("%s: the edge behind corner %d is %.2f m off", name, i, far)
			}
		}
	}
}

// The corridor of a line that crosses itself, turns back or turns too sharply for it is one area, of all places within
// half its width.
func TestCorridorOfTurns(t *testing.T) {
	chance := rand.New(rand.NewPCG(3, 8))
	for name, at := range map[string][][2]float64{
		"crossing":  {{-47.6, 11.2}, {-47.5, 11.3}, {-47.5, 11.2}, {-47.6, 11.3}},
		"hairpin":   {{-47.6, 11.2}, {-47.5, 11.2}, {-47.6, 11.201}},
		"short leg": {{-47.6, 11.2}, {-47.59, 11.2}, {-47.59, 11.203}, {-47.6, 11.203}},
	} {
		r := nav.Route{Item: nav.Item{Name: "Run"}}
		for _, p := range at {
			r.Points = append(r.Points, nav.Waypoint{Point: nav.At(p[0], p[1])})
		}
		areas := laidOut(t, &Step{What: Corridor, Width: 2000}, &nav.Dataset{Routes: []nav.Route{r}}).Areas
		if len(areas) != 1 {
			t.Fatalf("%s: %d areas", name, len(areas))
		}
		in := region.NewInterior(&areas[0])
		for range 300 {
			p := nav.At(-47.62+0.14*chance.Float64(), 11.17+0.16*chance.Float64())
			far := farFrom(&p, r.Line())
			if is := in.Contains(p.Lat, p.Lon); math.Abs(far-1000) > 2 && is != (far < 1000) {
				t.Errorf("%s: %v is %.0f m from the line, and inside: %v", name, p, far, is)
			}
		}
	}
}

// More points than are laid are refused, and not left out.
func TestTooManyAlong(t *testing.T) {
	r := nav.Route{Points: []nav.Waypoint{{Point: nav.At(0, 0)}, {Point: nav.At(0, 2)}}}
	_, err := (&Step{What: Points, Spacing: 1}).Lay(t.Context(), &nav.Dataset{Routes: []nav.Route{r}})
	if err == nil || !strings.Contains(err.Error(), "more than 200000") {
		t.Errorf("%v", err)
	}
}
