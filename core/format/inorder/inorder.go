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
	type job struct {
		room T
		from int
	}
	free := make(chan T, 2*runtime.GOMAXPROCS(0)+1) // to use again
	for range cap(free) {
		var zero T
		free <- zero
	}
	from := -Block
	next := func() (job, bool) {
		if from += Block; from >= n {
			return job{}, false
		}
		return job{<-free, from}, true
	}
	Through(next, func(j job) T { return produce(j.room, j.from, min(j.from+Block, n)) }, func(made T) {
		use(made)
		scratch.Passed[nav.Point](Block)
		free <- made
	})
}

// Through hands on what next gives, as long as it says that there is more, and in that order, after work was done on it
// on all cores. Next, work and use are called side by side.
func Through[J, T any](next func() (J, bool), work func(J) T, use func(T)) {
	workers := runtime.GOMAXPROCS(0)
	type job struct {
		of   J
		done chan T
	}
	queue := make(chan job, workers) // in order
	jobs := make(chan job, workers)  // for whoever is free
	for range workers {
		go func() {
			for j := range jobs {
				j.done <- work(j.of)
			}
		}()
	}
	go func() {
		for of, more := next(); more; of, more = next() {
			j := job{of, make(chan T, 1)}
			queue <- j
			jobs <- j
		}
		close(queue)
		close(jobs)
	}()
	for j := range queue {
		use(<-j.done)
	}
}
