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
	workers := runtime.GOMAXPROCS(0)
	type job struct {
		from int
		done chan []byte
	}
	queue := make(chan job, workers)       // in order
	work := make(chan job, workers)        // for whoever is free
	free := make(chan []byte, 2*workers+1) // buffers to use again
	for range cap(free) {
		free <- nil
	}
	for range workers {
		go func() {
			for j := range work {
				j.done <- format((<-free)[:0], j.from, min(j.from+Block, n))
			}
		}()
	}
	go func() {
		for from := 0; from < n; from += Block {
			j := job{from, make(chan []byte, 1)}
			queue <- j
			work <- j
		}
		close(queue)
		close(work)
	}()
	for j := range queue {
		b := <-j.done
		write(b)
		scratch.Passed[nav.Point](Block)
		free <- b
	}
}
