package nav

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
)

func TestDetails(t *testing.T) {
	s := Segment{Points: []Point{At(1, 2), At(3, 4)}}
	s.Attach(&s.Points[1], Detail{Values: []Field{{Key: "hr", Value: "90"}}})
	s.Attach(&s.Points[0], Detail{})
	if s.Detail(&s.Points[0]) != nil || s.Details() != 1 {
		t.Error("an empty detail takes room")
	}
	moved := s.Points[1] // a copy of the point keeps its detail
	if d := s.Detail(&moved); d == nil || d.Values[0].Value != "90" {
		t.Errorf("detail %+v", d)
	}
	if n := s.DropDetails(); n != 1 || s.Detail(&s.Points[1]) != nil {
		t.Errorf("a detail that is gone is found; %d were", n)
	}
}

// pulse is a form as a recording of a heart has it.
var pulse = &Form{
	Texts:  2,
	Values: []FormValue{{"hr", true, 1}, {"power", true, 0}},
	Kept: []FormKept{
		{Kept{Format: "gpx", Where: "a"}, []string{"<power>", "</power>"}, []int{0}},
		{Kept{Format: "gpx"}, []string{"<b><hr>", "</hr><p>", "</p></b>"}, []int{1, 0}},
		{Kept{Format: "gpx"}, []string{"<on/>"}, nil},
	},
}

// anyDetail makes one of those that points have.
func anyDetail(r *rand.Rand) Detail {
	number := func() string { return fmt.Sprint(r.IntN(1000)) }
	var d Detail
	for _, key := range []string{"hr", "speed", "note"}[:r.IntN(4)] {
		d.Values = append(d.Values, Field{Key: key, Value: number(), Literal: key != "note"})
	}
	switch r.IntN(12) {
	case 0:
		d.Item = &Item{Name: number()}
	case 1:
		d.Exact = "1.00000000000000000001 2"
	case 2:
		d.Kept = []Kept{{Format: "gpx", Text: "<x>" + number() + "</x>"}}
	case 3:
		d.Values = append(d.Values, Field{Key: "list", Value: "[1,2]", Literal: true})
	case 4:
		d.Values = append(d.Values, Field{Key: "empty", Value: "", Literal: false})
	case 5:
		d.Values = append(d.Values, Field{Key: "long", Value: strings.Repeat("words ", r.IntN(40)*500), Literal: false})
	}
	return d
}

// detailed gives a segment of points with all sorts of details, and what they are.
func detailed(r *rand.Rand, n int) (s Segment, want []Detail) {
	s.Points, want = make([]Point, n), make([]Detail, n)
	for i := range n {
		p := &s.Points[i]
		*p = At(float64(i)/1000, 0)
		switch shared := r.IntN(8); {
		case shared == 0 && i > 0:
			other := r.IntN(i)
			s.Share(p, s.Points[other].DetailIndex())
			want[i] = want[other]
		case shared == 1:
			texts := []string{fmt.Sprint(r.IntN(400)), fmt.Sprint(r.IntN(200))}
			s.AttachForm(p, pulse, [][]byte{[]byte(texts[0]), []byte(texts[1])})
			want[i] = Detail{
				Values: []Field{{Key: "hr", Value: texts[1], Literal: true}, {Key: "power", Value: texts[0], Literal: true}},
				Kept: []Kept{{Format: "gpx", Where: "a", Text: "<power>" + texts[0] + "</power>"},
					{Format: "gpx", Text: "<b><hr>" + texts[1] + "</hr><p>" + texts[0] + "</p></b>"},
					{Format: "gpx", Text: "<on/>"}},
			}
		default:
			want[i] = anyDetail(r)
			s.Attach(p, want[i])
		}
	}
	return s, want
}

// same says whether the points of a segment have the details of others by their number among those.
func same(t *testing.T, what string, s *Segment, want []Detail, number func(int) int) {
	t.Helper()
	for i := range s.Points {
		p, w := &s.Points[i], &want[number(i)]
		var got Detail
		if d := s.Detail(p); d != nil {
			got = *d
		}
		if fmt.Sprint(got.Values, got.Kept, got.Exact) != fmt.Sprint(w.Values, w.Kept, w.Exact) || got.Item != w.Item {
			t.Fatalf("%s: point %d has %+v, not %+v", what, i, got, *w)
		}
		if v := s.Values(nil, p); fmt.Sprint(v) != fmt.Sprint(w.Values) {
			t.Fatalf("%s: values of point %d: %v, not %v", what, i, v, w.Values)
		}
		if s.Item(p) != w.Item || s.Exact(p) != w.Exact || s.HasDetail(p) != !w.Empty() ||
			s.Says(p) != (len(w.Values) > 0 || len(w.Kept) > 0 && w.Kept[0].Where == "a" || w.Item != nil) {
			t.Fatalf("%s: point %d: %v %q", what, i, s.Item(p), s.Exact(p))
		}
	}
}

// However details are stored, points keep what they were given, on the way to other segments too.
func TestDetailsStay(t *testing.T) {
	for seed := range uint64(20) {
		r := rand.New(rand.NewPCG(seed, 1))
		n := 1 + r.IntN(600)
		s, want := detailed(r, n)
		self := func(i int) int { return i }
		same(t, "attached", &s, want, self)

		from := r.IntN(n)
		to := from + r.IntN(n-from+1)
		piece := s.Piece(from, to)
		same(t, "piece", &piece, want, func(i int) int { return from + i })

		picked := r.Perm(n)[:r.IntN(n)]
		some := s.Pick(picked)
		same(t, "picked", &some, want, func(i int) int { return picked[i] })

		copied := s
		copied.Own()
		for i := range copied.Points {
			copied.Attach(&copied.Points[i], Detail{Values: []Field{{Key: "new", Value: "1", Literal: true}}})
		}
		same(t, "after a change of its copy", &s, want, self)
		for i := range s.Points {
			s.Attach(&s.Points[i], Detail{Values: []Field{{Key: "newer", Value: "2", Literal: true}}})
		}
		same(t, "copy", &copied, []Detail{{Values: []Field{{Key: "new", Value: "1", Literal: true}}}},
			func(int) int { return 0 })
	}
}

// Samples count every point that has a detail, and show each key, type and piece that there is.
func TestSamples(t *testing.T) {
	s, want := detailed(rand.New(rand.NewPCG(7, 7)), 3000)
	kinds, points := map[string]int{}, 0
	shape := func(d *Detail) (text string) {
		for _, f := range d.Values {
			text += fmt.Sprint(f.Key, f.Literal, " ")
		}
		return text + fmt.Sprint(len(d.Kept), d.Item != nil, d.Exact != "")
	}
	visited := 0
	for d, n := range s.Samples(s.Points) {
		kinds[shape(d)] += n
		points += n
		visited++
	}
	wanted := map[string]int{}
	for i := range want {
		if !want[i].Empty() {
			wanted[shape(&want[i])]++
		}
	}
	if !reflect.DeepEqual(kinds, wanted) || points != s.Detailed() {
		t.Errorf("%d points: %v, not %v", points, kinds, wanted)
	}
	if visited > 2000 {
		t.Errorf("%d details were visited", visited)
	}
}

// Details that differ in their numbers take a few bytes each.
func TestDetailsTakeLittleRoom(t *testing.T) {
	const n = 200_000
	s := Segment{Points: make([]Point, n)}
	texts := [][]byte{[]byte("1234"), []byte("567")}
	bytes := testing.AllocsPerRun(1, func() {
		for i := range s.Points {
			s.AttachForm(&s.Points[i], pulse, texts)
		}
	})
	if bytes > 1000 {
		t.Errorf("%.0f allocations for %d details", bytes, n)
	}
	var room []Field
	if allocs := testing.AllocsPerRun(1000, func() { room = s.Values(room[:0], &s.Points[n/2]) }); allocs > 0 {
		t.Errorf("%.0f allocations to look at the values of a point", allocs)
	}
}
