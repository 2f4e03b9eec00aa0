package geoparquet

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/encoding/thrift"
	pqformat "github.com/parquet-go/parquet-go/format"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// isles are waypoints all over an area, with a track, an area with a hole, and values of each type.
func isles(n int) *nav.Dataset {
	d := &nav.Dataset{Meta: nav.Meta{Name: "Isles"}}
	for i := range n {
		p := nav.At(-47.6+0.001*float64(i%97), 11.3+0.001*float64(i%89))
		p.SetHeight(float64(i)/4, decimal.PrecisionOf(2), nav.DatumUnstated)
		p.SetTime(time.Date(2026, 3, 14, 5, 0, i%60, 250_000_000, time.UTC).UnixNano(), instant.Seconds+2)
		w := nav.Waypoint{Point: p}
		w.Name = fmt.Sprintf("Mark %03d", i)
		w.Fields = []nav.Field{
			{Key: "depth", Value: fmt.Sprint(i), Literal: true},
			{Key: "dry", Value: "true", Literal: true},
			{Key: "ratio", Value: "0.25", Literal: true},
			{Key: "seen", Value: "2026-03-14", Text: true},
			{Key: "code", Value: "007", Text: true},
		}
		d.Waypoints = append(d.Waypoints, w)
	}
	line := func(at, half float64) []nav.Point {
		return []nav.Point{nav.At(-47.6-half, at-half), nav.At(-47.6-half, at+half), nav.At(-47.6+half, at+half),
			nav.At(-47.6+half, at-half)}
	}
	d.Tracks = []nav.Track{{Item: nav.Item{Name: "Walk"}, Segments: []nav.Segment{{Points: line(11, 0.01)},
		{Points: line(12, 0.01)}}}}
	d.Areas = []nav.Area{{Item: nav.Item{Name: "Bay"}, Outline: line(11, 0.02), Holes: [][]nav.Point{line(11, 0.005)}}}
	return d
}

func encode(t testing.TB, d *nav.Dataset, opt *format.WriteOptions) []byte {
	t.Helper()
	var out bytes.Buffer
	if _, err := write(&out, d, opt); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func load(t testing.TB, b []byte) *nav.Dataset {
	t.Helper()
	d, err := read(format.FromBytes(t.Context(), "x.parquet", b), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// What is written comes back, in its order, with the types that values have.
func TestThereAndBack(t *testing.T) {
	d := isles(300)
	back := load(t, encode(t, d, &format.WriteOptions{}))
	if back.Meta.Name != "Isles" || len(back.Waypoints) != 300 || len(back.Tracks) != 1 || len(back.Areas) != 1 {
		t.Fatalf("%v", back.Counts())
	}
	for i := range d.Waypoints {
		a, b := &d.Waypoints[i], &back.Waypoints[i]
		if a.Name != b.Name || !a.SamePlace(&b.Point) || a.UnixNano() != b.UnixNano() || a.Height() != b.Height() {
			t.Fatalf("%d: %+v, was %+v", i, b, a)
		}
	}
	if got, want := fmt.Sprint(back.Waypoints[7].Fields), fmt.Sprint(d.Waypoints[7].Fields); got != want {
		t.Errorf("fields %s, want %s", got, want)
	}
	if len(back.Tracks[0].Segments) != 2 || len(back.Areas[0].Holes) != 1 {
		t.Errorf("%+v %+v", back.Tracks, back.Areas)
	}
	points := load(t, encode(t, d, &format.WriteOptions{TrackPoints: true}))
	if len(points.Waypoints) != 308 {
		t.Errorf("%d points, with those of the track", len(points.Waypoints))
	}
}

// The metadata are those that the specification asks for, and a row group holds what lies together, within its boxes.
func TestMetadata(t *testing.T) {
	b := encode(t, isles(3000), &format.WriteOptions{})
	f, err := parquet.OpenFile(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	text, _ := f.Lookup("geo")
	var g struct {
		Version string
		Primary string `json:"primary_column"`
		Columns map[string]struct {
			Encoding string
			Types    []string `json:"geometry_types"`
			Box      []float64
			Covering struct{ Bbox map[string][]string }
		}
	}
	if err := json.Unmarshal([]byte(text), &g); err != nil {
		t.Fatal(err)
	}
	c := g.Columns[g.Primary]
	if g.Version != "1.1.0" || c.Encoding != "WKB" || fmt.Sprint(c.Types) != "[MultiLineString Point Polygon]" ||
		fmt.Sprint(c.Covering.Bbox["xmin"]) != "[bbox xmin]" {
		t.Errorf("%s", text)
	}
	rows := f.RowGroups()[0].Rows()
	defer rows.Close()
	buf := make([]parquet.Row, 64)
	far, last, n := 0.0, nav.Point{}, 0
	for {
		k, err := rows.ReadRows(buf)
		for _, row := range buf[:k] {
			at := map[string]parquet.Value{}
			for i, path := range f.Schema().Columns() {
				for _, v := range row {
					if v.Column() == i {
						at[strings.Join(path, ".")] = v.Clone()
					}
				}
			}
			s, _, err := wkb.Parse(at["geometry"].ByteArray())
			if err != nil {
				t.Fatal(err)
			}
			box := s.Bounds()
			around := func(side string) float64 { return float64(at["bbox."+side].Float()) }
			for _, gap := range []float64{box.MinX - around("xmin"), box.MinY - around("ymin"), around("xmax") - box.MaxX,
				around("ymax") - box.MaxY} {
				if gap < 0 || gap > 1e-5 {
					t.Fatalf("a box of %v for %v", at, box)
				}
			}
			p := nav.At(box.MinY, box.MinX)
			if n++; n > 1 {
				far += geodesy.Distance(last.Lat, last.Lon, p.Lat, p.Lon)
			}
			last = p
		}
		if err != nil {
			break
		}
	}
	if mean := far / float64(n); mean > 2000 { // in the order of the file they would be kilometres apart
		t.Errorf("neighbours in the file are %.0f m apart on the average", mean)
	}
}

// foreign is a file as another program writes it: its own names, a system that is named, a list that has no place.
func foreign(t testing.TB, metadata string) []byte {
	t.Helper()
	schema := parquet.NewSchema("x", parquet.Group{"geom": parquet.Leaf(parquet.ByteArrayType),
		"station": parquet.Optional(parquet.String()), "tags": parquet.Repeated(parquet.String()),
		"depth": parquet.Optional(parquet.Leaf(parquet.FloatType))})
	f := &layer.Feature{Parts: [][]layer.Position{{{X: 669451.472, Y: 4736816.612, Z: math.NaN()}}}}
	var out bytes.Buffer
	w := parquet.NewWriter(&out, schema, parquet.KeyValueMetadata("geo", metadata))
	_, err := w.WriteRows([]parquet.Row{{parquet.FloatValue(4.5).Level(0, 1, 0),
		parquet.ByteArrayValue(wkb.Append(nil, f, wkb.Point)).Level(0, 0, 1),
		parquet.ByteArrayValue([]byte("S 1")).Level(0, 1, 2), parquet.NullValue().Level(0, 0, 3)}})
	if err == nil {
		err = w.Close()
	}
	if err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

const described = `{"version":"1.0.0","primary_column":"geom","columns":{"geom":{"encoding":"WKB",` +
	`"geometry_types":[],"crs":{"name":"UTM","id":{"authority":"EPSG","code":32732}}}}}`

func TestForeign(t *testing.T) {
	d := load(t, foreign(t, described))
	w := &d.Waypoints[0] // the position is that of a geodesic calculator
	if got := fmt.Sprintf("%.5f %.5f", w.Lat, w.Lon); got != "-47.50000 11.25000" {
		t.Error(got)
	}
	if v, _ := nav.Get(w.Fields, "depth"); v != "4.5" {
		t.Errorf("%+v", w.Fields)
	}
	if !strings.Contains(fmt.Sprint(d.Problems), "left out: tags") {
		t.Errorf("the list is left out and not told: %+v", d.Problems)
	}
	for metadata, want := range map[string]string{
		"":                                       "without the metadata",
		"{":                                      "are not valid JSON",
		`{"primary_column":"geom","columns":{}}`: "without describing it",
		strings.Replace(described, `"WKB"`, `"point"`, 1):                                     "encoded as point",
		strings.Replace(described, `"code":32732`, `"code":99999`, 1):                         "system 99999",
		strings.ReplaceAll(strings.Replace(described, `"geom"`, `"g"`, 1), `{"geom"`, `{"g"`): "no column \"g\"",
	} {
		b := foreign(t, metadata)
		if metadata == "" {
			b = bytes.ReplaceAll(b, []byte("geo"), []byte("goo"))
		}
		if _, err := read(format.FromBytes(t.Context(), "x", b), &format.ReadOptions{}); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v, want %q", metadata, err, want)
		}
	}
}

// A file that is cut off or damaged anywhere is refused or read, and takes nothing down.
func TestDamaged(t *testing.T) {
	b := encode(t, isles(20), &format.WriteOptions{})
	for _, n := range []int{100, len(b) / 2, len(b) - 1} {
		if _, err := read(format.FromBytes(t.Context(), "x", b[:n]), &format.ReadOptions{}); err == nil ||
			!strings.Contains(err.Error(), "is cut off") {
			t.Errorf("%d bytes: %v", n, err)
		}
	}
	whole := bytes.Clone(b)
	for i := 0; i < len(b); i += 7 {
		whole[i] ^= 0xff
		read(format.FromBytes(t.Context(), "x", whole), &format.ReadOptions{})
		whole[i] = b[i]
	}
}

func FuzzRead(f *testing.F) {
	f.Add(encode(f, isles(3), &format.WriteOptions{}))
	f.Add(foreign(f, described))
	f.Fuzz(func(t *testing.T, b []byte) {
		if d, err := read(format.FromBytes(t.Context(), "x.parquet", b), &format.ReadOptions{}); err == nil {
			write(&bytes.Buffer{}, d, &format.WriteOptions{})
		}
	})
}

// Track points are written with what was worked out of them, whatever else a column of that name holds.
func TestTrackPoints(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "North", Group: "Day 1"}}}}
	at := time.Date(2026, 3, 14, 5, 0, 0, 0, time.UTC).UnixNano()
	var seg nav.Segment
	for i := range 5 {
		p := nav.At(0.001*float64(i), 11)
		p.SetTime(at+int64(i)*10e9, instant.Seconds)
		if i != 3 {
			p.SetHeight(float64(i)+0.5, decimal.PrecisionOf(1), nav.DatumUnstated)
		}
		seg.Points = append(seg.Points, p)
	}
	seg.Attach(&seg.Points[2], nav.Detail{Values: []nav.Field{{Key: "speed", Value: "fast"}, {Key: "hr", Value: "98"}}})
	d.Tracks[0].Segments = []nav.Segment{seg}
	back := load(t, encode(t, d, &format.WriteOptions{TrackPoints: true}))
	if len(back.Waypoints) != 5 {
		t.Fatalf("%d points", len(back.Waypoints))
	}
	for i := range back.Waypoints {
		w := &back.Waypoints[i]
		if w.Lat != 0.001*float64(i) || w.UnixNano() != at+int64(i)*10e9 || w.HasHeight() != (i != 3) ||
			w.HasHeight() && w.Height() != float64(i)+0.5 {
			t.Errorf("%d: %+v", i, w.Point)
		}
		want := map[string]string{"speed": "11.057", "course": "0", "line": "North", "segment": "1"} // 110.574 m in 10 s
		if i == 2 {
			want["speed"], want["hr"] = "fast", "98"
		}
		for key, value := range want {
			if got, _ := nav.Get(w.Fields, key); got != value {
				t.Errorf("%d: %s %q, want %q", i, key, got, value)
			}
		}
	}
}

// A box is never smaller than what lies in it, though its sides have fewer digits.
func TestSides(t *testing.T) {
	for _, v := range []float64{0, 11.3, -47.6, 180, -180, 1e-300, -1e-300, math.Pi} {
		if lo, hi := float64(layer.Below(v)), float64(layer.Above(v)); lo > v || hi < v || hi-lo > 2e-5 {
			t.Errorf("%v lies in %v to %v", v, lo, hi)
		}
	}
}

// Row groups that are encoded side by side stand in the file in their order, and the page indexes lead to their pages.
func TestManyGroups(t *testing.T) {
	var seg nav.Segment
	const points = 3*rowsInGroup + 5
	for i := range points {
		p := nav.At(-47.6+1e-6*float64(i), 11.3)
		p.SetTime(int64(i)*1e9, instant.Seconds)
		seg.Points = append(seg.Points, p)
	}
	b := encode(t, &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{seg}}}},
		&format.WriteOptions{TrackPoints: true})
	f, err := parquet.OpenFile(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	if n := len(f.RowGroups()); n != 4 || f.NumRows() != points+1 { // the track is a row too
		t.Fatalf("%d groups, %d rows", n, f.NumRows())
	}
	next := int64(len(magic))
	for g, group := range f.Metadata().RowGroups {
		for c := range group.Columns {
			m := &group.Columns[c].MetaData
			begin := m.DataPageOffset
			if m.DictionaryPageOffset > 0 {
				begin = m.DictionaryPageOffset
			}
			if begin != next {
				t.Fatalf("column %d of group %d begins at %d, not at %d", c, g, begin, next)
			}
			next += m.TotalCompressedSize
			pages := f.OffsetIndexes()[g*len(group.Columns)+c].PageLocations
			if pages[0].Offset != m.DataPageOffset || pages[len(pages)-1].Offset >= next {
				t.Errorf("the pages of column %d of group %d are not where the index has them", c, g)
			}
		}
	}
	seen := make([]bool, points)
	for _, w := range load(t, b).Waypoints {
		i := int(math.Round((w.Lat + 47.6) * 1e6))
		if seen[i] || !bytes.Equal(w.AppendTime(nil), seg.Points[i].AppendTime(nil)) {
			t.Fatalf("point %d comes back at %s", i, w.AppendTime(nil))
		}
		seen[i] = true
	}
	if slices.Contains(seen, false) {
		t.Error("points are missing")
	}
}

// A damaged file takes no more room than its size and the limits allow, whatever it says of its parts.
func TestNoRoomForWhatIsNotThere(t *testing.T) {
	sound := encode(t, isles(3), &format.WriteOptions{})
	r := rand.New(rand.NewPCG(7, 1))
	var before, after runtime.MemStats
	for range 800 {
		b := slices.Clone(sound)
		for range 1 + r.IntN(3) {
			b[r.IntN(len(b))] = byte(r.Uint32())
		}
		if r.IntN(3) == 0 { // the length of the metadata
			b[len(b)-5-r.IntN(4)] = byte(r.Uint32())
		}
		runtime.ReadMemStats(&before)
		read(format.FromBytes(t.Context(), "x.parquet", b), &format.ReadOptions{})
		runtime.ReadMemStats(&after)
		if room := after.TotalAlloc - before.TotalAlloc; room > 64<<20 {
			t.Fatalf("%d bytes took %d MB", len(b), room>>20)
		}
	}
}

// A column that the schema names and a group of rows lacks, and a number of rows that the groups don't have, are said.
func TestContradictoryDirectory(t *testing.T) {
	whole := encode(t, isles(20), &format.WriteOptions{})
	change := func(with func(*pqformat.FileMetaData)) []byte {
		end := len(whole) - 8
		begin := end - int(binary.LittleEndian.Uint32(whole[end:]))
		var meta pqformat.FileMetaData
		if err := thrift.Unmarshal(new(thrift.CompactProtocol), whole[begin:end], &meta); err != nil {
			t.Fatal(err)
		}
		with(&meta)
		foot, err := thrift.Marshal(new(thrift.CompactProtocol), &meta)
		if err != nil {
			t.Fatal(err)
		}
		out := append(append([]byte{}, whole[:begin]...), foot...)
		return append(binary.LittleEndian.AppendUint32(out, uint32(len(foot))), whole[end+4:]...)
	}
	lacks := change(func(m *pqformat.FileMetaData) { m.RowGroups[0].Columns = m.RowGroups[0].Columns[1:] })
	src := format.FromBytes(t.Context(), "a.parquet", lacks)
	if _, err := Format.Read(src, &format.ReadOptions{}); err == nil {
		t.Error("a column without its chunk is read")
	}
	more := load(t, change(func(m *pqformat.FileMetaData) { m.NumRows++ }))
	if fmt.Sprint(more.Problems) == "[]" {
		t.Error("a row that is counted and not there is not said")
	}
}
