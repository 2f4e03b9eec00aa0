package scratch

import (
	"iter"
	"unsafe"
)

// List is values that become many, in blocks of which all but the first stand in scratch room. It is read and written
// by one goroutine.
type List[T any] struct {
	blocks [][]T
	n      int
}

// Blocks are of so many bytes. The first ones are of the heap, since most lists are no longer.
const (
	listBlock = 4 << 20
	nearBytes = 32 << 20
)

func (l *List[T]) perBlock() int {
	var one T
	return listBlock / int(unsafe.Sizeof(one))
}

// Len counts the values.
func (l *List[T]) Len() int { return l.n }

// Append puts values behind the others.
func (l *List[T]) Append(values ...T) {
	per := l.perBlock()
	for len(values) > 0 {
		if l.n == len(l.blocks)*per {
			l.blocks = append(l.blocks, l.block(per))
		}
		block := l.blocks[len(l.blocks)-1]
		n := copy(block[l.n%per:], values)
		l.n, values = l.n+n, values[n:]
		Passed[T](n)
	}
}

func (l *List[T]) block(per int) []T {
	if len(l.blocks)*listBlock >= nearBytes {
		if room, err := Of[T](per); err == nil {
			return room
		}
	}
	return make([]T, per)
}

// At gives the place of a value.
func (l *List[T]) At(i int) *T {
	per := l.perBlock()
	return &l.blocks[i/per][i%per]
}

// Between gives the values from one (included) to another (excluded), block by block.
func (l *List[T]) Between(from, to int) iter.Seq[[]T] {
	return func(yield func([]T) bool) {
		per := l.perBlock()
		for from < to {
			block, at := l.blocks[from/per], from%per
			n := min(to-from, per-at)
			if !yield(block[at : at+n]) {
				return
			}
			from += n
			Passed[T](n)
		}
	}
}
