package layer

import (
	"fmt"
	"maps"
	"reflect"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// varied is a track whose points have everything that track points can have, some of it shared.
func varied() *nav.Dataset {
	var s nav.Segment
	for i := range 400 {
		p := nav.At(-47.6+float64(i/2)*1e-4, 11.3+float64(i%7)*1e-4)
		if i%11 != 3 {
			p.SetTime(int64(i-i%5)*1e9, instant.Seconds+instant.Mark(3*(i/200)))
		}
		if i%13 != 4 {
			p.SetHeight(float64(i)/4, decimal.PrecisionOf(2), nav.DatumUnstated)
		}
		s.Points = append(s.Points, p)
	}
	literal := func(key, value string) nav.Field { return nav.Field{Key: key, Value: value, Literal: true} }
	s.Attach(&s.Points[20], nav.Detail{Values: []nav.Field{literal("hr", "120"), {Key: "fix", Value: "3d"}}})
	for i := 21; i < 200; i += 3 {
		s.Share(&s.Points[i], 0)
	}
	for i, values := range [][]nav.Field{
		{literal("hr", "121.5")}, {literal("hr", "null"), literal("lit", "true")}, {literal("speed", "7.5")},
		{literal("course", "null")}, {{Key: "time", Value: "mine"}, {Key: "x", Value: "1"}, {Key: "x", Value: "b"}},
		{{Key: "fix", Value: ""}, literal("hr", "\"fast\"")}, {literal("speed", "null"), {Key: "name", Value: "n"}},
	} {
		s.Attach(&s.Points[50+20*i], nav.Detail{Values: values})
	}
	s.Attach(&s.Points[300], nav.Detail{Item: &nav.Item{Name: "Halt"}, Values: []nav.Field{literal("hr", "90")}})
	s.Attach(&s.Points[301], nav.Detail{Exact: "-47.58500000000000001 11.3"})
	return &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "T", Group: "G"}, Segments: []nav.Segment{s, s}}}}
}

// Points that are read as runs have the values that each of them has for itself, and make the same columns.
func TestRunsAsFeatures(t *testing.T) {
	for _, by := range []Split{ByGeometry, ByKind, Together} {
		layers, _ := Of(varied(), &format.WriteOptions{TrackPoints: true}, by, false)
		l := layers[0]
		var want, got []map[string]string
		columns := newTable()
		l.visit(func(f *raw) error {
			values := map[string]string{}
			l.attributes(f, func(a attribute) {
				if a.value != "" && (a.sort != literalField || a.value != "null") {
					values[a.key] = a.value
				}
				i, ok := columns.index[a.key]
				if !ok {
					i = columns.add(Column{Name: a.key, Field: a.sort >= field})
				}
				columns.Columns[i].take(a)
			})
			want = append(want, values)
			return nil
		})
		err := l.Each(func(f *Feature) error {
			values := map[string]string{}
			for i, v := range f.Values {
				if v != "" {
					values[l.Columns[i].Name] = v
				}
			}
			got = append(got, values)
			return nil
		})
		if err != nil || len(got) != 800 || l.Count != 800 {
			t.Fatalf("%v, %d features of %d", err, len(got), l.Count)
		}
		for i := range got {
			if !maps.Equal(got[i], want[i]) {
				t.Errorf("split %d: point %d has\n%v, not\n%v", by, i, got[i], want[i])
			}
		}
		for i, c := range columns.Columns {
			have := l.Columns[l.index[c.Name]]
			if by != ByGeometry { // without the widths of what is worked out
				c.Width, have.Width, c.Decimals, have.Decimals = 0, 0, 0, 0
			}
			c.untyped, have.untyped = decimal.Numbers{}, decimal.Numbers{}
			if !reflect.DeepEqual(have, c) || by != Together && i != l.index[c.Name] {
				t.Errorf("split %d: column %d is %+v, not %+v", by, l.index[c.Name], have, c)
			}
		}
	}
}

// What loses its type in a column is counted for every point that has it.
func TestRunsLoseTypes(t *testing.T) {
	d := varied()
	_, done := Of(d, &format.WriteOptions{TrackPoints: true}, Together, false)
	n := 0
	for _, e := range done.Ledger {
		if e.What == "types of fields" || e.Old == "numbers, truth values, null" {
			n += e.Count
		}
	}
	// Of the heart rates 59 that are shared, 121.5, 90 and a text in quotes stand in a column of texts; null is absent
	// three times.
	if want := 2 * (59 + 3 + 3); n != want {
		t.Errorf("%d values are said to lose their type, not %d: %s", n, want, fmt.Sprint(done.Ledger))
	}
	if !reflect.DeepEqual(d, varied()) {
		t.Error("the data were changed")
	}
}
