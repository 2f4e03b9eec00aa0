package figure

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// Key is one word by which things are put in order.
type Key struct {
	Word string
	Down bool
}

// Sort puts the items of each kind in order, by the first word that tells them apart; items of which it says nothing
// come last. The lists of the data are made anew.
func Sort(d *nav.Dataset, keys []Key) {
	out := nav.Dataset{}
	for _, kind := range nav.Kinds {
		things := identity.Things(d, kind)
		order := Order(len(things), keys, func(i int) func(string) any {
			return (&Item{Thing: things[i], Data: d, Number: i + 1}).Value
		})
		for _, i := range order {
			things[i].AddTo(&out)
		}
	}
	d.Waypoints, d.Routes, d.Tracks, d.Areas = out.Waypoints, out.Routes, out.Tracks, out.Areas
}

// Sorted gives data in order; the data stay as they are.
func Sorted(d *nav.Dataset, keys []Key) *nav.Dataset {
	if len(keys) == 0 {
		return d
	}
	own := *d
	Sort(&own, keys)
	return &own
}

// Order gives the places of n things in order, by the first word that tells two of them apart. Of gives what says the
// values of one by their words, each of which is asked for once.
func Order(n int, keys []Key, of func(i int) func(word string) any) []int {
	values, order := make([][]any, n), make([]int, n)
	for i := range n {
		order[i] = i
		value := of(i)
		for _, k := range keys {
			values[i] = append(values[i], value(k.Word))
		}
	}
	slices.SortStableFunc(order, func(a, b int) int {
		for i, k := range keys {
			if c := Compare(values[a][i], values[b][i], k.Down); c != 0 {
				return c
			}
		}
		return 0
	})
	return order
}

// Compare says which of two values comes first, -1 or 1, upwards or downwards. What is not known comes last; numbers
// come before texts, and texts go by the numbers in them.
func Compare(a, b any, down bool) int {
	rankA, x, s := ranked(a)
	rankB, y, t := ranked(b)
	c := cmp.Compare(rankA, rankB)
	if c != 0 && (rankA == unknown || rankB == unknown) {
		return c
	}
	if c = cmp.Or(c, cmp.Compare(x, y), Natural(s, t)); down {
		return -c
	}
	return c
}

// The ranks of values.
const (
	aNumber = iota
	aText
	unknown
)

func ranked(v any) (rank int, number float64, text string) {
	switch v := v.(type) {
	case float64:
		return aNumber, v, ""
	case int:
		return aNumber, float64(v), ""
	case time.Duration:
		return aNumber, v.Seconds(), ""
	case time.Time:
		if !v.IsZero() {
			return aNumber, float64(v.UnixNano()), ""
		}
	case nav.Point:
		return aNumber, float64(v.UnixNano()), ""
	case string:
		if n, _, ok := decimal.Parse([]byte(v)); ok {
			return aNumber, n, ""
		}
		if v != "" {
			return aText, 0, v
		}
	}
	return unknown, 0, ""
}

// Natural compares texts as people do: numbers within them by their value, so that Camp 2 comes before Camp 10, and
// capitals like small letters where anything else tells them apart.
func Natural(a, b string) int {
	x, y := strings.ToLower(a), strings.ToLower(b)
	for x != "" && y != "" {
		m, n := digits(x), digits(y)
		if m > 0 && n > 0 {
			p, q := strings.TrimLeft(x[:m], "0"), strings.TrimLeft(y[:n], "0")
			if c := cmp.Or(cmp.Compare(len(p), len(q)), strings.Compare(p, q)); c != 0 {
				return c
			}
			x, y = x[m:], y[n:]
			continue
		}
		if x[0] != y[0] {
			return cmp.Compare(x[0], y[0])
		}
		x, y = x[1:], y[1:]
	}
	return cmp.Or(cmp.Compare(len(x), len(y)), strings.Compare(a, b))
}

// digits counts those that a text begins with.
func digits(text string) (n int) {
	for n < len(text) && text[n] >= '0' && text[n] <= '9' {
		n++
	}
	return
}
