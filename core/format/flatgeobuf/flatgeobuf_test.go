package flatgeobuf

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	flatbuffers "github.com/google/flatbuffers/go"

	"gyrolith/core/choose"
	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// stroll has waypoints at random, so that the file has them in another order than the data.
func stroll(n int) *nav.Dataset {
	r := rand.New(rand.NewPCG(7, 7))
	d := &nav.Dataset{Meta: nav.Meta{Name: "Stroll", Desc: "over the isles"}}
	for i := range n {
		w := nav.Waypoint{Point: nav.At(r.Float64()*4-49, r.Float64()*5+9)}
		w.Name = fmt.Sprintf("W%04d", i)
		w.Fields = []nav.Field{{Key: "order", Value: "x", Text: true}, {Key: "deep", Value: fmt.Sprint(i), Literal: true}}
		d.Waypoints = append(d.Waypoints, w)
	}
	d.Routes = []nav.Route{{Item: nav.Item{Name: "R"}, Points: []nav.Waypoint{{Point: nav.At(-47, 10)},
		{Point: nav.At(-48, 12)}}}}
	d.Areas = []nav.Area{{Item: nav.Item{Name: "A"}, Outline: []nav.Point{nav.At(-47, 10), nav.At(-48, 10),
		nav.At(-48, 13)}}}
	return d
}

func encode(t testing.TB, d *nav.Dataset, opt *format.WriteOptions) []byte {
	t.Helper()
	var b bytes.Buffer
	if _, err := write(&b, d, opt); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func load(t testing.TB, b []byte) *nav.Dataset {
	t.Helper()
	d, err := read(format.FromBytes(t.Context(), "x.fgb", b), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// The items come back in the order that the user gave them, whatever the order of the curve, and a field that is called
// as the column of the order is stays one.
func TestOrder(t *testing.T) {
	d := stroll(500)
	b := encode(t, d, &format.WriteOptions{})
	back := load(t, b)
	if len(back.Waypoints) != 500 || back.Meta.Name != "Stroll" || back.Meta.Desc != "over the isles" {
		t.Fatalf("%d, %+v", len(back.Waypoints), back.Meta)
	}
	for i := range d.Waypoints {
		x, y := &d.Waypoints[i], &back.Waypoints[i]
		if x.Name != y.Name || x.Lat != y.Lat || x.Lon != y.Lon || !reflect.DeepEqual(x.Fields, y.Fields) {
			t.Fatalf("%+v is now %+v", x, y)
		}
	}
	if len(back.Routes) != 1 || len(back.Areas) != 1 || len(back.Areas[0].Outline) != 3 {
		t.Errorf("%+v, %+v", back.Routes, back.Areas)
	}
}

// With the index a file gives what the whole of it gives in the box.
func TestInside(t *testing.T) {
	path := filepath.Join(t.TempDir(), "s.fgb")
	d := stroll(3000)
	d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: "Edge"}, Point: nav.At(-10, -180)})
	if err := os.WriteFile(path, encode(t, d, &format.WriteOptions{}), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, box := range []nav.Box{{West: 10, South: -47.5, East: 10.2, North: -47.2}, {West: 12, South: -49, East: 9.5,
		North: -45}, {West: 179, South: -11, East: 180, North: -9}, {West: 50, South: 1, East: 60, North: 2}} {
		src, err := format.Open(t.Context(), path, nil)
		if err != nil {
			t.Fatal(err)
		}
		got, err := read(src, &format.ReadOptions{Inside: &box})
		src.Close()
		if err != nil {
			t.Fatal(err)
		}
		if n := len(got.Waypoints); n > 2000 || len(got.Problems) != 1 {
			t.Errorf("%v: %d waypoints, %v", box, n, got.Problems)
		}
		whole := load(t, encode(t, d, &format.WriteOptions{}))
		take := choose.Selection{Inside: &box}
		got.Problems = nil
		if err := errors.Join(take.Apply(got), take.Apply(whole)); err != nil && !errors.Is(err, choose.ErrNothing) {
			t.Fatal(err)
		}
		if fmt.Sprintf("%+v", got.Waypoints) != fmt.Sprintf("%+v", whole.Waypoints) ||
			len(got.Routes) != len(whole.Routes) || len(got.Areas) != len(whole.Areas) {
			t.Errorf("%v: %d waypoints in place of %d", box, len(got.Waypoints), len(whole.Waypoints))
		}
	}
}

// The levels of trees by the formula of the specification: of 17 leaves there are 17, 2 and 1 nodes.
func TestLevels(t *testing.T) {
	for leaves, want := range map[uint64]string{1: "[[1 2] [0 1]]", 16: "[[1 17] [0 1]]", 17: "[[3 20] [1 3] [0 1]]"} {
		if got := fmt.Sprint(levels(leaves, 16)); got != want {
			t.Errorf("%d: %s", leaves, got)
		}
	}
}

// The curve visits every cell once and goes to a neighbour with every step.
func TestHilbert(t *testing.T) {
	at := map[uint32][2]int{}
	for x := range 32 {
		for y := range 32 {
			at[layer.Hilbert(uint32(x), uint32(y))] = [2]int{x, y}
		}
	}
	for i := uint32(1); i < 32*32; i++ {
		p, q := at[i-1], at[i]
		if math.Abs(float64(p[0]-q[0]))+math.Abs(float64(p[1]-q[1])) != 1 {
			t.Fatalf("from %v to %v", p, q)
		}
	}
}

// foreign makes a file as others do: without an index, with a mixture of geometries and columns of all types.
func foreign(code int32, features ...func(*flatbuffers.Builder) flatbuffers.UOffsetT) []byte {
	out := []byte("fgb\x03fgb\x01")
	b := flatbuffers.NewBuilder(64)
	var columns []flatbuffers.UOffsetT
	for typ, name := range []string{"i8", "u8", "ok", "i16", "u16", "i32", "u32", "i64", "u64", "f32", "f64", "name",
		"json", "time", "raw"} {
		s := b.CreateString(name)
		b.StartObject(columnSlots)
		b.PrependUOffsetTSlot(columnName, s, 0)
		b.PrependByteSlot(columnType, byte(typ), 0)
		columns = append(columns, b.EndObject())
	}
	table := b.CreateVectorOfTables(columns)
	b.StartObject(crsSlots)
	b.PrependInt32Slot(crsCode, code, 0)
	system := b.EndObject()
	b.StartObject(headerSlots)
	b.PrependUOffsetTSlot(headerColumns, table, 0)
	b.PrependUint16Slot(headerNodeSize, 0, 16)
	b.PrependUOffsetTSlot(headerCRS, system, 0)
	b.FinishSizePrefixed(b.EndObject())
	out = append(out, b.FinishedBytes()...)
	for _, f := range features {
		b.Reset()
		b.FinishSizePrefixed(f(b))
		out = append(out, b.FinishedBytes()...)
	}
	return out
}

func doubles(b *flatbuffers.Builder, list ...float64) flatbuffers.UOffsetT {
	b.StartVector(8, len(list), 8)
	for i := len(list) - 1; i >= 0; i-- {
		b.PrependFloat64(list[i])
	}
	return b.EndVector(len(list))
}

func plain(b *flatbuffers.Builder, typ byte, list ...float64) flatbuffers.UOffsetT {
	xy := doubles(b, list...)
	b.StartObject(geometrySlots)
	b.PrependUOffsetTSlot(geometryXY, xy, 0)
	b.PrependByteSlot(geometryType, typ, 0)
	return b.EndObject()
}

func around(b *flatbuffers.Builder, geometry, properties flatbuffers.UOffsetT) flatbuffers.UOffsetT {
	b.StartObject(featureSlots)
	b.PrependUOffsetTSlot(featureGeometry, geometry, 0)
	b.PrependUOffsetTSlot(featureProperties, properties, 0)
	return b.EndObject()
}

func TestForeign(t *testing.T) {
	values := []byte{}
	put := func(i uint16, v any) {
		values, _ = binary.Append(binary.LittleEndian.AppendUint16(values, i), binary.LittleEndian, v)
	}
	for i, v := range []any{int8(-8), uint8(200), true, int16(-300), uint16(60000), int32(-70000), uint32(4e9),
		int64(-5e12), uint64(math.MaxUint64), float32(0.1), 0.25} {
		put(uint16(i), v)
	}
	for i, s := range []string{"Wreck", `{"a":1}`, "2026-03-14T05:30:00Z", "\x00\x01"} {
		put(uint16(typeString+i), uint32(len(s)))
		values = append(values, s...)
	}
	d := load(t, foreign(0, func(b *flatbuffers.Builder) flatbuffers.UOffsetT {
		properties := b.CreateByteVector(values)
		return around(b, plain(b, typePoint, 11.25, -47.5), properties)
	}, func(b *flatbuffers.Builder) flatbuffers.UOffsetT {
		parts := b.CreateVectorOfTables([]flatbuffers.UOffsetT{plain(b, typeLine, 1, 2, 3, 4),
			plain(b, typePolygon, 0, 0, 5, 0, 5, 5, 0, 0), plain(b, 9, 1, 2)})
		b.StartObject(geometrySlots)
		b.PrependByteSlot(geometryType, typeCollection, 0)
		b.PrependUOffsetTSlot(geometryParts, parts, 0)
		return around(b, b.EndObject(), 0)
	}, func(b *flatbuffers.Builder) flatbuffers.UOffsetT { return around(b, 0, 0) }))
	if len(d.Waypoints) != 1 || len(d.Tracks) != 1 || len(d.Areas) != 1 || len(d.Rejects) != 1 {
		t.Fatalf("%+v", d)
	}
	w := &d.Waypoints[0]
	if got := fmt.Sprint(w.Name, " ", w.Lat, w.Lon, w.HasTime(), w.Fields); got != "Wreck -47.5 11.25 true [{i8 -8 "+
		"true false} "+
		"{u8 200 true false} {ok true true false} {i16 -300 true false} {u16 60000 true false} {i32 -70000 true false} "+
		"{u32 4000000000 true false} "+
		`{i64 -5000000000000 true false} {u64 18446744073709551615 true false} {f32 0.1 true false} {f64 0.25 true `+
		`false} {json {"a":1} false true}]` {
		t.Error(got)
	}
	if len(d.Problems) != 3 { // binary data, a curve, and a collection
		t.Error(d.Problems)
	}
}

// A system is named by its number, and heights and pieces come back.
func TestSystemsAndHeights(t *testing.T) {
	utm, _ := crs.Find("32732")
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "T"}}}}
	for s := range 2 {
		var points []nav.Point
		for i := range 3 {
			p := nav.At(-47+float64(s), 10+0.01*float64(i))
			p.SetHeight(float64(10*s+i), 0, nav.DatumUnstated)
			points = append(points, p)
		}
		d.Tracks[0].Segments = append(d.Tracks[0].Segments, nav.Segment{Points: points})
	}
	back := load(t, encode(t, d, &format.WriteOptions{System: utm}))
	s := back.Tracks[0].Segments
	if len(s) != 2 || s[1].Points[2].Height() != 12 || math.Abs(s[1].Points[2].Lon-10.02) > 1e-9 {
		t.Errorf("%+v", back)
	}
	at := func(b *flatbuffers.Builder) flatbuffers.UOffsetT {
		return around(b, plain(b, typePoint, 669451.472, 4736816.612), 0)
	}
	p := load(t, foreign(32732, at)).Waypoints[0] // the position is that of a geodesic calculator
	if got := fmt.Sprintf("%.5f %.5f", p.Lat, p.Lon); got != "-47.50000 11.25000" {
		t.Error(got)
	}
	_, err := read(format.FromBytes(t.Context(), "x.fgb", foreign(99999, at)), &format.ReadOptions{})
	if err == nil || !strings.Contains(err.Error(), "system 99999") {
		t.Error(err)
	}
}

// A file that ends too early gives what is there, and says what is not.
func TestCut(t *testing.T) {
	b := encode(t, stroll(20), &format.WriteOptions{})
	for _, n := range []int{5, 30, 900, len(b) - 300, len(b) - 1} {
		d, err := read(format.FromBytes(t.Context(), "x.fgb", b[:n]), &format.ReadOptions{})
		if e, ok := errors.AsType[*format.Error](err); !ok || !e.Cut {
			t.Errorf("%d: %v", n, err)
		}
		if got := len(d.Waypoints); n > len(b)-400 && (got < 16 || got > 20) {
			t.Errorf("%d: %d waypoints", n, got)
		}
	}
	whole := bytes.Clone(b)
	for i := range b { // no byte that is wrong brings it down
		whole[i] ^= 0xff
		read(format.FromBytes(t.Context(), "x.fgb", whole), &format.ReadOptions{})
		whole[i] = b[i]
	}
}

func FuzzRead(f *testing.F) {
	f.Add(encode(f, stroll(3), &format.WriteOptions{}))
	f.Add(foreign(0, func(b *flatbuffers.Builder) flatbuffers.UOffsetT {
		return around(b, plain(b, typeLine, 1, 2, 3, 4), 0)
	}))

	f.Fuzz(func(t *testing.T, b []byte) {
		if d, err := read(format.FromBytes(t.Context(), "x.fgb", b), &format.ReadOptions{}); err == nil {
			write(&bytes.Buffer{}, d, &format.WriteOptions{})
		}
		path := filepath.Join(t.TempDir(), "x.fgb")
		os.WriteFile(path, b, 0o600)
		src, err := format.Open(t.Context(), path, nil)
		if err != nil {
			t.Fatal(err)
		}
		defer src.Close()
		read(src, &format.ReadOptions{Inside: &nav.Box{West: 0, South: -50, East: 20, North: 20}})
	})
}

// The share of a file that the index leaves unread is worth its walk.
func BenchmarkInside(b *testing.B) {
	path := filepath.Join(b.TempDir(), "s.fgb")
	os.WriteFile(path, encode(b, stroll(20000), &format.WriteOptions{}), 0o600)
	for name, box := range map[string]*nav.Box{"whole": nil, "box": {West: 10, South: -47.2, East: 10.2, North: -47}} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				src, _ := format.Open(b.Context(), path, nil)
				read(src, &format.ReadOptions{Inside: box})
				src.Close()
			}
		})
	}
}
