package inorder

import (
	"slices"
	"strconv"
	"sync/atomic"
	"testing"
)

// Blocks come in their order, each once, whoever makes them and however few there are.
func TestOrder(t *testing.T) {
	for _, n := range []int{0, 1, Block - 1, Block, Block + 1, 40*Block + 7} {
		var got, want []int
		var made atomic.Int32
		Make(n, func(room *[]int, from, to int) *[]int {
			if room == nil {
				room = &[]int{}
				made.Add(1)
			}
			*room = (*room)[:0]
			for i := from; i < to; i++ {
				*room = append(*room, i)
			}
			return room
		}, func(block *[]int) { got = append(got, *block...) })
		for i := range n {
			want = append(want, i)
		}
		if !slices.Equal(got, want) {
			t.Errorf("%d points came as %d, or out of their order", n, len(got))
		}
		if made.Load() > 20 && n > 20*Block {
			t.Errorf("room was made %d times for %d blocks", made.Load(), n/Block)
		}
	}
}

func TestTexts(t *testing.T) {
	const n = 3 * Block
	var got []byte
	Each(n, func(dst []byte, from, to int) []byte {
		for i := from; i < to; i++ {
			dst = strconv.AppendInt(append(dst, ' '), int64(i), 10)
		}
		return dst
	}, func(b []byte) { got = append(got, b...) })
	var want []byte
	for i := range n {
		want = strconv.AppendInt(append(want, ' '), int64(i), 10)
	}
	if !slices.Equal(got, want) {
		t.Error("the text is another than one goroutine writes")
	}
}
