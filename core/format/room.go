package format

import "slices"

// Room makes room in a slice for what a file of a size holds, of which so much was read up to an offset, before one
// more is appended. Where many small steps would copy large items again and again, this takes a few.
func Room[T any](s []T, offset, size int64) []T {
	const few, most = 512, 4 // a file that goes on otherwise wastes no more than that many times what there is
	n := len(s)
	if n < cap(s) || n < few || offset <= 0 || size <= offset {
		return s
	}
	foreseen := int(float64(size) / float64(offset) * float64(n) * 1.03)
	return slices.Grow(s, min(foreseen, most*n)-n)
}
