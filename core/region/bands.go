package region

import "math"

// bands finds which of many spans of latitude, or of longitude, hold one, by cutting their range into bands of equal
// height.
type bands struct {
	south, north float64
	scale        float64 // of bands per degree
	first        []int32 // the start of each band in the list, and the end of the last
	list         []int32
	from         []int32 // the first band of each span
}

// bandsOf makes bands for spans, of which there are about as many bands unless the spans are high.
func bandsOf(n int, span func(i int) (south, north float64)) *bands {
	b := &bands{south: math.Inf(1)}
	b.north = math.Inf(-1)
	for i := range n {
		s, e := span(i)
		b.south, b.north = min(b.south, s), max(b.north, e)
	}
	if n == 0 {
		b.south, b.north, b.first = 0, 0, make([]int32, 2)
		return b
	}
	// A list of all spans in all of their bands may be a few times as long as the spans are many.
	for count := n; ; count /= 2 {
		b.first = make([]int32, count+1)
		b.scale = 0
		if height := b.north - b.south; count > 1 && height > 0 {
			b.scale = float64(count) / height
		}
		entries := 0
		for i := range n {
			south, north := span(i)
			low, high := b.band(south), b.band(north)
			entries += high - low + 1
			for k := low; k <= high && entries <= 8*n; k++ {
				b.first[k+1]++
			}
		}
		if entries <= 8*n { // as a single band is, at last
			break
		}
	}
	for k := 1; k < len(b.first); k++ {
		b.first[k] += b.first[k-1]
	}
	b.list, b.from = make([]int32, b.first[len(b.first)-1]), make([]int32, n)
	next := append([]int32(nil), b.first...)
	for i := range n {
		south, north := span(i)
		low, high := b.band(south), b.band(north)
		b.from[i] = int32(low)
		for k := low; k <= high; k++ {
			b.list[next[k]] = int32(i)
			next[k]++
		}
	}
	return b
}

// limits are those of all spans.
func (b *bands) limits() (south, north float64) { return b.south, b.north }

func (b *bands) band(lat float64) int {
	return min(max(int((lat-b.south)*b.scale), 0), len(b.first)-2)
}

// at gives the spans that may hold a latitude.
func (b *bands) at(lat float64) []int32 {
	k := b.band(lat)
	return b.list[b.first[k]:b.first[k+1]]
}

// between visits, once each, the spans that may share a latitude with another one, until one is enough.
func (b *bands) between(south, north float64, visit func(i int32) bool) {
	low, high := b.band(south), b.band(north)
	for k := low; k <= high; k++ {
		for _, i := range b.list[b.first[k]:b.first[k+1]] {
			if (k == low || int(b.from[i]) == k) && !visit(i) {
				return
			}
		}
	}
}
