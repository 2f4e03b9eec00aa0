package plan

import (
	"fmt"
	"os"
	"strconv"
	"strings"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// known are the fixes of the corpus.
var knownFixes = []nav.Waypoint{
	named("VELDN", -47.5, 11.2),
	named("ORSUM", -47.61, 11.3),
	named("TARRO", -47.68, 11.08),
	named("SKARN", -47.635, 11.346),
	named("Hüttentor", -47.52, 11.22),
	named("The Saddle", -47.53, 11.25),
}

func named(name string, lat, lon float64) nav.Waypoint {
	return nav.Waypoint{Item: nav.Item{Name: name}, Point: nav.At(lat, lon)}
}

// Every shape of the corpus gives the fixes that stand with it.
func TestCorpus(t *testing.T) {
	text, err := os.ReadFile("testdata/corpus.txt")
	if err != nil {
		t.Fatal(err)
	}
	_, body, _ := strings.Cut(string(text), "\n\n")
	shapes := strings.Split(body, "\n===\n")
	if len(shapes) < 100 {
		t.Errorf("only %d shapes", len(shapes))
	}
	for _, shape := range shapes {
		plan, want, _ := strings.Cut(strings.TrimRight(shape, "\n"), "\n=> ")
		d, err := read(format.FromBytes(t.Context(), "plan.txt", []byte(plan)),
			&format.ReadOptions{List: true, On: march, Fixes: knownFixes})
		if err != nil {
			t.Errorf("%q: %v", plan, err)
			continue
		}
		var got []string
		for _, w := range d.Waypoints {
			short := func(v float64) string { return strings.TrimSuffix(string(decimal.AppendShort(nil, v, 4)), ".0") }
			s := fmt.Sprintf("%s %s %s", w.Name, short(w.Lat), short(w.Lon))
			if w.HasHeight() {
				s += " " + strconv.Itoa(int(w.Height()+0.5))
			}
			got = append(got, strings.TrimSpace(s))
			if len(w.Kept) != 1 || !strings.Contains(plan, strings.TrimSpace(w.Kept[0].Text)) {
				t.Errorf("%q: %s does not tell its line: %+v", plan, w.Name, w.Kept)
			}
		}
		if s := strings.Join(got, ", "); s != want {
			t.Errorf("%q:\n got %s\nwant %s\n%s", plan, s, want, told(d))
		}
	}
}
