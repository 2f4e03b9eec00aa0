// Package inorder formats much on all cores and writes it in its order.
package inorder

import (
	"runtime"

	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// Block is how many points or rows are formatted at a time.
const Block = 4096

// Many says whether it is worth formatting n points on several cores.
func Many(n int) bool { return n > 2*Block && runtime.GOMAXPROCS(0) > 1 }

// Each formats n points, and hands the text of each block to write in the order of the points. The function format
// appends points from (included) to (excluded) and must only read what it shares.
func Each(n int, format func(dst []byte, from, to int) []byte, write func([]byte)) {
	Make(n, func(room []byte, from, to int) []byte { return format(room[:0], from, to) }, write)
}

// Make makes something of each block of n points, and hands it on in the order of the points. It may be made in the
// room of one that was used; the first ones are zero. What produce shares it must only read.
func Make[T any](n int, produce func(room T, from, to int) T, use func(T)) {
	workers := runtime.GOMAXPROCS(0)
	type job struct {
		from int
		done chan T
	}
	queue := make(chan job, workers)  // in order
	work := make(chan job, workers)   // for whoever is free
	free := make(chan T, 2*workers+1) // to use again
	for range cap(free) {
		var zero T
		free <- zero
	}
	for range workers {
		go func() {
			for j := range work {
				j.done <- produce(<-free, j.from, min(j.from+Block, n))
			}
		}()
	}
	go func() {
		for from := 0; from < n; from += Block {
			j := job{from, make(chan T, 1)}
			queue <- j
			work <- j
		}
		close(queue)
		close(work)
	}()
	for j := range queue {
		made := <-j.done
		use(made)
		scratch.Passed[nav.Point](Block)
		free <- made
	}
}
