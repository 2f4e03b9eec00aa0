package scratch

import (
	"iter"
	"math/bits"
	"unsafe"
)

// List is values that may become many, in blocks of which all but the first stand in scratch room. It is read and
// written by one goroutine.
type List[T any] struct {
	blocks [][]T
	n      int
	shift  uint // two to the power of it are the values of a block
}

// Blocks are of so many bytes at most. The first ones are of the heap, since most lists are no longer.
const (
	listBlock = 4 << 20
	nearBytes = 32 << 20
)

// Len counts the values.
func (l *List[T]) Len() int { return l.n }

// Append puts values behind the others.
func (l *List[T]) Append(values ...T) {
	if l.n == 0 {
		var one T
		l.shift = uint(bits.Len(listBlock/uint(unsafe.Sizeof(one))) - 1)
	}
	per := 1 << l.shift
	if l.n < per { // the first block is no larger than it has to be
		if l.n == 0 {
			l.blocks = [][]T{nil}
		}
		n := min(len(values), per-l.n)
		l.blocks[0] = append(l.blocks[0], values[:n]...)
		l.n, values = l.n+n, values[n:]
	}
	for len(values) > 0 {
		if l.n == len(l.blocks)*per {
			l.blocks = append(l.blocks, l.block(per))
		}
		block := l.blocks[len(l.blocks)-1]
		n := copy(block[l.n&(per-1):], values)
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
	return &l.blocks[i>>l.shift][i&(1<<l.shift-1)]
}

// Between gives the values from one (included) to another (excluded), block by block.
func (l *List[T]) Between(from, to int) iter.Seq[[]T] {
	return func(yield func([]T) bool) {
		per := 1 << l.shift
		for from < to {
			block, at := l.blocks[from>>l.shift], from&(per-1)
			n := min(to-from, per-at)
			if !yield(block[at : at+n]) {
				return
			}
			from += n
			Passed[T](n)
		}
	}
}
