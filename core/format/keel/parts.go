package keel

import (
	"runtime"
	"sync"
)

// fewPoints are gone over on one core: to share them out would take longer.
const fewPoints = 1 << 14

// inParts goes over n points on every core.
func inParts(n int, do func(from, to int)) {
	workers := min(runtime.GOMAXPROCS(0), n/fewPoints)
	if workers < 2 {
		do(0, n)
		return
	}
	var group sync.WaitGroup
	for k := range workers {
		group.Go(func() { do(n*k/workers, n*(k+1)/workers) })
	}
	group.Wait()
}
