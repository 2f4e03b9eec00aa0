package input_test

import (
	"bytes"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
)

// What comes out of a file of the corpus goes through every format of many kinds and comes back, but for what that
// format's ledger names: positions, names, values, in every direction.
func TestCorpusInAllDirections(t *testing.T) {
	if testing.Short() {
		t.Skip("many files through many formats")
	}
	folders, _ := filepath.Glob("testdata/corpus/*")
	for _, folder := range folders {
		for _, w := range wanted(t, filepath.Join(folder, "want.txt")) {
			r := readCorpus(t, filepath.Join(folder, w.file), w.options)
			if r.err != nil || r.data.Points() == 0 {
				continue
			}
			for _, name := range []string{"gpx", "kml", "geojson", "csv", "xlsx", "geoparquet", "fgb", "gml"} {
				if fault := throughFormat(t, r.data, all.Formats.ByName(name)); fault != "" {
					t.Errorf("%s/%s by %s: %s", filepath.Base(folder), w.file, name, fault)
				}
			}
		}
	}
}

// throughFormat says what is gone, or has come, on the way through a format and was not told.
func throughFormat(t *testing.T, d *nav.Dataset, x *format.Format) string {
	t.Helper()
	var out bytes.Buffer
	done, err := x.Store(&out, d.Clone(), &format.WriteOptions{Context: t.Context()})
	if err != nil { // it holds none of these kinds
		return ""
	}
	back, err := x.Read(format.FromBytes(t.Context(), "a"+x.Extensions[0], out.Bytes()), &format.ReadOptions{})
	if err != nil {
		return fmt.Sprintf("can't be read again: %v\n%.2000s", err, out.Bytes())
	}
	before, after := facts(d), facts(back)
	var gone []string
	for fact, n := range before {
		if after[fact] < n && !tells(done.Ledger, fact) {
			gone = append(gone, fact)
		}
	}
	if len(gone) == 0 {
		return ""
	}
	slices.Sort(gone)
	var said, came []string
	for _, e := range done.Ledger {
		said = append(said, fmt.Sprintf("%s %s: %s", e.KindWord, e.What, e.Why))
	}
	for fact, n := range after {
		if before[fact] < n {
			came = append(came, fact)
		}
	}
	slices.Sort(came)
	return fmt.Sprintf("lost %q, got %q, said %q", gone, came, said)
}

// facts are what data say, each with how often: places to a millionth of a degree, heights, times, names and values.
func facts(d *nav.Dataset) map[string]int {
	out := map[string]int{}
	item := func(it *nav.Item) {
		for _, part := range []struct{ word, text string }{{"name", it.Name}, {"description", it.Desc}} {
			if part.text != "" {
				out[part.word+"="+part.text]++
			}
		}
	}
	values := func(fields []nav.Field) {
		for _, f := range fields {
			out["field "+f.Key+"="+f.Value]++
		}
	}
	point := func(p *nav.Point) {
		out[fmt.Sprintf("place %.6f %.6f", p.Lat, p.Lon)]++
		if p.HasHeight() {
			out[fmt.Sprintf("height %.3f", p.Height())]++
		}
		if p.HasTime() {
			out["time "+p.Time().UTC().String()]++
		}
	}
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		item(&w.Item)
		values(w.Fields)
		point(&w.Point)
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		item(&r.Item)
		values(r.Fields)
		for j := range r.Points {
			item(&r.Points[j].Item)
			values(r.Points[j].Fields)
			point(&r.Points[j].Point)
		}
	}
	for i := range d.Tracks {
		k := &d.Tracks[i]
		item(&k.Item)
		values(k.Fields)
		for j := range k.Segments {
			s := &k.Segments[j]
			for n := range s.Points {
				values(s.Values(nil, &s.Points[n]))
				if it := s.Item(&s.Points[n]); it != nil {
					item(it)
				}
				point(&s.Points[n])
			}
		}
	}
	for i := range d.Areas {
		a := &d.Areas[i]
		item(&a.Item)
		values(a.Fields)
		for _, ring := range a.Rings() {
			for n := range ring {
				point(&ring[n])
			}
		}
	}
	return out
}

// tells says whether a ledger has an entry for a fact: of its sort, of all of an item, or of its field.
func tells(l nav.Ledger, fact string) bool {
	word, rest, _ := strings.Cut(fact, " ")
	word, _, _ = strings.Cut(word, "=")
	key, _, _ := strings.Cut(rest, "=")
	return slices.ContainsFunc(l, func(e nav.Entry) bool {
		what := string(e.What)
		if what == "line of one point" {
			return true
		}
		switch word {
		case "place":
			return what == "positions" || what == "points of lines" || slices.Contains([]string{"waypoint", "route", "track",
				"area"}, what)
		case "field":
			return strings.Contains(what, "field") || strings.Contains(what, key) || strings.Contains(what, "values") ||
				strings.Contains(what, "readings") || strings.Contains(what, "details") || strings.Contains(what, "quality") ||
				what == "speed" || what == "course"
		}
		return strings.Contains(what, word) || strings.Contains(what, "characters") || strings.Contains(what, "blanks")
	})
}
