package unit

import (
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"gyrolith/core/nav"
)

var digits = regexp.MustCompile(`[0-9]+`)

// numbersOf lists the numbers in a name.
func numbersOf(name string) []string { return digits.FindAllString(name, -1) }

// series makes lists of names as people have them: numbered, with tails that all share, in several scripts.
func series(r *rand.Rand) (list []string) {
	pick := func(words ...string) string { return words[r.IntN(len(words))] }
	head := pick("Mooring", "Rock", "Station", "Skjær", "Πέτρα", "Камень", "Hütte am See", "Transect", "停泊", "T",
		"The Saddle")
	tail := pick("", "", " – south basin, outer row", ", upper path", " (2026 survey)",
		" at the very end of the long pier")
	other := pick(" – north basin, outer row", tail)
	from := r.IntN(300)
	for i := range 2 + r.IntN(30) {
		switch pick("number", "number", "number", "zeros", "two", "none", "same") {
		case "number":
			list = append(list, fmt.Sprintf("%s %d%s", head, from+i, tail))
		case "zeros":
			list = append(list, fmt.Sprintf("%s %03d%s", head, i, other))
		case "two":
			list = append(list, fmt.Sprintf("%s %d.%d%s", head, i%9, r.IntN(9), tail))
		case "none":
			list = append(list, head+tail)
		case "same":
			list = append(list, fmt.Sprintf("%s %d%s", head, from, other))
		}
	}
	return
}

// Over ten thousand lists: no digit is lost, changed or parted, all names differ, and the same list gives the same
// names.
func TestSeries(t *testing.T) {
	if testing.Short() {
		t.Skip("long, and nothing in it happens side by side")
	}
	r := rand.New(rand.NewPCG(14, 1))
	for n := range 10_000 {
		text := Text{Length: 5 + r.IntN(26)}
		switch r.IntN(4) {
		case 0:
			text.Characters, text.Case = "A-Z0-9", "upper"
		case 1:
			text.Characters = "A-Za-z0-9 .,+()_-"
		case 2:
			text.Characters = "A-Za-z0-9 "
		}
		list := series(r)
		var before []string
		for range 1 + n%10/9 { // one list in ten twice
			namer := NewNamer(text)
			namer.Learn(list...)
			var got []string
			seen := map[string]bool{}
			for _, name := range list {
				short := namer.Fit(name, "mark")
				got = append(got, short)
				if utf8.RuneCountInString(short) > text.Length || seen[strings.ToLower(short)] {
					t.Fatalf("list %d, %d of %q: %q becomes %q: too long, or not its own", n, text.Length, text.Characters, name,
						short)
				}
				seen[strings.ToLower(short)] = true
				want := numbersOf(spelled(&text, name))
				if least := len(strings.Join(want, "-")); text.Length < least+6 && !slices.Equal(numbersOf(short), want) {
					// There is no room for all numbers, and no digit that is there can be taken for another number.
					want = slices.DeleteFunc(want, func(s string) bool { return !slices.Contains(numbersOf(short), s) })
				}
				if !slices.Equal(numbersOf(short), want) {
					t.Fatalf("list %d, %d of %q: %q becomes %q: its numbers are %q", n, text.Length, text.Characters, name, short,
						want)
				}
			}
			if before != nil && !slices.Equal(before, got) {
				t.Fatalf("%q, and then %q", before, got)
			}
			before = got
		}
	}
}

// An item that is added changes no name of those that have theirs already, and takes none of them.
func TestNamesLast(t *testing.T) {
	p := ridge(t)
	r := rand.New(rand.NewPCG(14, 2))
	for range 300 {
		list := series(r)
		d := &nav.Dataset{}
		for i, name := range list {
			w := nav.Waypoint{Point: nav.At(float64(i)/100, 1)}
			w.Name, w.ID = name, fmt.Sprint(i)
			d.Waypoints = append(d.Waypoints, w)
		}
		last := len(list) - 1
		whole := *d
		d.Waypoints = d.Waypoints[:last]
		there := &There{Given: map[string][]string{}}
		was := map[string]string{}
		for _, w := range fitted(t, d, p).Data.Waypoints {
			there.Given[w.ID], was[w.ID] = []string{w.Name}, w.Name
		}
		slices.Reverse(whole.Waypoints)
		beside, err := FitBeside(t.Context(), &whole, p, there)
		if err != nil {
			t.Fatal(err)
		}
		for _, w := range beside.Data.Waypoints {
			if old, had := was[w.ID]; had && w.Name != old {
				t.Fatalf("%q was %q and is %q, since one was added", list, old, w.Name)
			} else if !had && slices.Contains(slices.Collect(func(yield func(string) bool) {
				for _, v := range was {
					if !yield(v) {
						return
					}
				}
			}), w.Name) {
				t.Fatalf("%q has taken a name", w.Name)
			}
		}
	}
}

// What somebody can read in spray: what all share goes, and what tells apart stays.
func TestShortNames(t *testing.T) {
	for _, c := range []struct {
		length   int
		in, want []string
	}{
		{16, []string{"Mooring 12 – south basin, outer row"}, []string{"Mooring 12"}},
		{16, []string{"Mooring 12 – south basin, outer row", "Mooring 13 – south basin, outer row"},
			[]string{"Mooring 12", "Mooring 13"}},
		{16, []string{"Mooring 12 – south basin, outer row", "Mooring 12 – north basin, outer row"},
			[]string{"Mooring 12 S", "Mooring 12 N"}},
		{10, []string{"Mooring 210 – south basin, outer row", "Mooring 21 – south basin, outer row"},
			[]string{"Mrg 210", "Mooring 21"}},
		{12, []string{"Anchorage, Little Veldrin east"}, []string{"Anch Little"}},
		{12, []string{"Скала 7", "Скала 7"}, []string{"Skala 7", "Skala 7 (b)"}},
		{8, []string{"Rock 12", "Rock 12 behind the point"}, []string{"Rock 12", "Rk 12 pt"}},
	} {
		n := NewNamer(Text{Length: c.length, Characters: "A-Za-z0-9 .,+()_-"})
		n.Learn(c.in...)
		for i, name := range c.in {
			if got := n.Fit(name, "mark"); got != c.want[i] {
				t.Errorf("%q of %q in %d becomes %q, want %q", name, c.in, c.length, got, c.want[i])
			}
		}
	}
}
