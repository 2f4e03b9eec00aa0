package shape

import (
	"cmp"
	"slices"

	"gyrolith/core/nav"
)

// ThinKeeping chooses at most a number of points of a line, of those that stay within a distance (metres; 0 is none
// asked for), and gives their indices: the ends, then the fixed ones as far as there is room, and of the others those
// that keep the shape best. Times do not count.
func ThinKeeping(line []nav.Point, fixed func(i int) bool, within float64, most int) []int {
	if len(line) < 3 || within <= 0 && len(line) <= most {
		return every(len(line))
	}
	stays := []int{0}
	for i := 1; i+1 < len(line); i++ {
		if fixed(i) {
			stays = append(stays, i)
		}
	}
	stays = append(stays, len(line)-1)
	if len(stays) > most { // of the fixed ones alone
		some := make([]nav.Point, len(stays))
		for k, i := range stays {
			some[k] = line[i]
		}
		var out []int
		for _, k := range Fill(untimed(some), ThinTo([][]nav.Point{untimed(some)}, most)[0], most) {
			out = append(out, stays[k])
		}
		return out
	}
	var parts [][]nav.Point
	for k := 1; k < len(stays); k++ {
		parts = append(parts, untimed(line[stays[k-1]:stays[k]+1]))
	}
	var kept [][]int
	count := 1
	if within > 0 {
		for _, p := range parts {
			k := Thin(p, within)
			kept, count = append(kept, k), count+len(k)-1
		}
	}
	if kept == nil || count > most {
		kept = ThinTo(parts, most+len(parts)-1)
	}
	out := []int{0}
	for k, indices := range kept {
		for _, i := range indices[1:] {
			out = append(out, stays[k]+i)
		}
	}
	return out
}

// untimed copies points without their times, where the shape alone counts.
func untimed(points []nav.Point) []nav.Point {
	out := slices.Clone(points)
	for i := range out {
		out[i].ClearTime()
	}
	return out
}

func every(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

// Fill adds points to those of a line that were kept until there are so many: the ones that are farthest off, aside or
// in height, and where none is off those that part the line evenly.
func Fill(line []nav.Point, kept []int, most int) []int {
	room := min(most, len(line)) - len(kept)
	if room <= 0 {
		return kept
	}
	type left struct {
		at  int
		off float64
	}
	var off, on []left   // the line
	const nothing = 0.01 // metres
	for k := 1; k < len(kept); k++ {
		from, to := kept[k-1], kept[k]
		far := make([]float64, to-from)
		measure := func(i int, d float64) { far[i-from] = max(far[i-from], d) }
		Aside(line, from, to, measure)
		Sag(line, from, to, measure)
		for i := from + 1; i < to; i++ {
			if x := (left{i, far[i-from]}); x.off < nothing {
				on = append(on, x)
			} else {
				off = append(off, x)
			}
		}
	}
	slices.SortStableFunc(off, func(a, b left) int { return cmp.Compare(b.off, a.off) })
	out := slices.Clone(kept)
	for _, x := range off[:min(room, len(off))] {
		out = append(out, x.at)
	}
	for need, j := most-len(out), 0; j < need && j < len(on); j++ {
		out = append(out, on[(2*j+1)*len(on)/(2*min(need, len(on)))].at)
	}
	slices.Sort(out)
	return out
}
