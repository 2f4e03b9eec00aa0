package identity

import (
	"math"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// SameRecording says whether two tracks are the same recording: nine tenths of the shorter one's fixes are in the
// other, within a metre or one last digit, at the same time or within one last digit of it. Their names say nothing.
func SameRecording(a, b *Thing) bool {
	if timedPoints(b) < timedPoints(a) {
		a, b = b, a
	}
	first, last, ok := a.Times()
	first2, last2, ok2 := b.Times()
	const second = int64(1e9)
	if !ok || !ok2 || first > last2+second || first2 > last+second {
		return false
	}
	at := map[int64][]*nav.Point{} // by whole seconds
	for _, l := range b.Lines() {
		for i := range l {
			if l[i].HasTime() {
				s := floorSecond(l[i].UnixNano())
				at[s] = append(at[s], &l[i])
			}
		}
	}
	all, there := 0, 0
	for _, l := range a.Lines() {
		for i := range l {
			if p := &l[i]; p.HasTime() {
				if all++; isAmong(p, at) {
					there++
				}
			}
		}
	}
	return 10*there >= 9*all
}

func timedPoints(t *Thing) (n int) {
	for _, l := range t.Lines() {
		for i := range l {
			if l[i].HasTime() {
				n++
			}
		}
	}
	return
}

func floorSecond(ns int64) int64 {
	const second = int64(1e9)
	return (ns - (ns%second+second)%second) / second
}

func isAmong(p *nav.Point, at map[int64][]*nav.Point) bool {
	s := floorSecond(p.UnixNano())
	for k := s - 1; k <= s+1; k++ {
		for _, q := range at[k] {
			decimals := min(p.TimeMark().Decimals(), q.TimeMark().Decimals())
			if p.Since(q).Abs().Seconds() <= math.Pow10(-decimals) &&
				geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon) <= max(1, p.LastDigit(), q.LastDigit()) {
				return true
			}
		}
	}
	return false
}
