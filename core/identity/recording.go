package identity

import (
	"cmp"
	"encoding/binary"
	"hash/maphash"
	"math"
	"slices"
	"time"

	"github.com/tidwall/rtree"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// Recording is what a recording is known by, whatever its name: its fixes by their times, or all of its points where
// none has a time.
type Recording struct {
	Fixes int // with times

	fixes []fix         // in the order of their times
	last  float64       // its last digit, in metres
	tick  time.Duration // and in time
	sum   uint64        // of the points of one without times
	count int
}

type fix struct {
	ns       int64
	lat, lon float64
}

var seed = maphash.MakeSeed()

// NewRecording makes what a line is known by.
func NewRecording(lines [][]nav.Point) *Recording {
	r := &Recording{}
	var h maphash.Hash
	h.SetSeed(seed)
	var room [16]byte
	for _, l := range lines {
		for i := range l {
			p := &l[i]
			r.count++
			if p.HasTime() {
				r.fixes = append(r.fixes, fix{p.UnixNano(), p.Lat, p.Lon})
				r.last = max(r.last, p.LastDigit())
				r.tick = max(r.tick, time.Duration(math.Pow10(-p.TimeMark().Decimals())*float64(time.Second)))
				continue
			}
			binary.LittleEndian.PutUint64(room[:8], math.Float64bits(p.Lat))
			binary.LittleEndian.PutUint64(room[8:], math.Float64bits(p.Lon))
			h.Write(room[:])
		}
	}
	slices.SortStableFunc(r.fixes, func(a, b fix) int { return cmp.Compare(a.ns, b.ns) })
	r.Fixes, r.sum = len(r.fixes), h.Sum64()
	return r
}

// Among gives which share of this recording's fixes is in another one, within a metre or one last digit of the coarser
// one, and a second or one last digit in time. One without times is wholly in another with the same points, or not.
func (r *Recording) Among(o *Recording) float64 {
	if r.Fixes == 0 || o.Fixes == 0 {
		if r.Fixes == o.Fixes && r.count > 0 && r.count == o.count && r.sum == o.sum {
			return 1
		}
		return 0
	}
	const few = 16 // tell whether it is worth a look at all
	if step := len(r.fixes) / few; step > 1 {
		there := 0
		for i := 0; i < len(r.fixes); i += step {
			if o.has(&r.fixes[i], r) {
				there++
			}
		}
		if there < few/4 {
			return 0
		}
	}
	there := 0
	for i := range r.fixes {
		if o.has(&r.fixes[i], r) {
			there++
		}
	}
	return float64(there) / float64(len(r.fixes))
}

// has says whether a fix of another recording is among the fixes.
func (r *Recording) has(p *fix, of *Recording) bool {
	slack := int64(max(time.Second, r.tick, of.tick))
	within := max(1, r.last, of.last)
	i, _ := slices.BinarySearchFunc(r.fixes, p.ns-slack, func(f fix, ns int64) int { return cmp.Compare(f.ns, ns) })
	for ; i < len(r.fixes) && r.fixes[i].ns <= p.ns+slack; i++ {
		if q := &r.fixes[i]; geodesy.Distance(p.lat, p.lon, q.lat, q.lon) <= within {
			return true
		}
	}
	return false
}

// Share is how much of the shorter of two recordings is in the other; first says that the first one is the shorter.
func Share(a, b *Recording) (share float64, first bool) {
	if first = a.Fixes < b.Fixes; first {
		return a.Among(b), true
	}
	return b.Among(a), false
}

// same is the share of the fixes of the shorter one that makes two recordings the same.
const same = 0.9

// SameRecording says whether two tracks are the same recording: nine tenths of the shorter one's fixes are in the
// other, within a metre or one last digit, at the same time or within one last digit of it. Their names say nothing.
func SameRecording(a, b *Thing) bool {
	share, _ := Share(NewRecording(a.Lines()), NewRecording(b.Lines()))
	return share >= same && timed(a) && timed(b)
}

// Copy is a recording that is in another one: wholly, or for nine tenths at least.
type Copy struct {
	Of, In int // by their numbers
	Whole  bool
}

// Copies finds the recordings that are in others, by an index over time and place: of two that are equally long the
// later one is in the other. Nil recordings are passed over.
func Copies(all []*Recording) (out []Copy) {
	var tree rtree.RTreeG[int]
	sums := map[uint64]int{}
	order := make([]int, 0, len(all)) // the longest first
	for i, r := range all {
		if r != nil {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(all[b].Fixes, all[a].Fixes) })
	for _, i := range order {
		r := all[i]
		if r.Fixes == 0 {
			if j, known := sums[r.sum]; known && r.Among(all[j]) == 1 {
				out = append(out, Copy{i, j, true})
			} else if r.count > 0 {
				sums[r.sum] = i
			}
			continue
		}
		low, high := r.box()
		best := Copy{Of: i, In: -1}
		share := 0.0
		tree.Search(low, high, func(_, _ [2]float64, j int) bool {
			if is := r.Among(all[j]); is >= same && (is > share || is == share && j < best.In) {
				best.In, share = j, is
			}
			return true
		})
		if best.In >= 0 {
			best.Whole = share == 1
			out = append(out, best)
		}
		if best.In < 0 || !best.Whole { // what is wholly in another needs no looking for
			tree.Insert(low, high, i)
		}
	}
	slices.SortFunc(out, func(a, b Copy) int { return cmp.Compare(a.Of, b.Of) })
	return out
}

// box is where a recording is, by time and latitude.
func (r *Recording) box() (low, high [2]float64) {
	low, high = [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	const metre = 1e-5 // degrees, and a little more
	for i := range r.fixes {
		f := &r.fixes[i]
		at := float64(f.ns) / 1e9
		low, high = [2]float64{min(low[0], at), min(low[1], f.lat)}, [2]float64{max(high[0], at), max(high[1], f.lat)}
	}
	slack := max(time.Second, r.tick).Seconds()
	off := metre * max(1, r.last)
	return [2]float64{low[0] - slack, low[1] - off}, [2]float64{high[0] + slack, high[1] + off}
}
