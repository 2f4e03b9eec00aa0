//go:build breakoff

package cli

import (
	"os"
	"strconv"
	"sync/atomic"
)

// breakOff kills the program, as a power cut would, at the step that the variable GYROLITH_DIE_AT numbers.
func breakOff() func(string) {
	die := breakOffRun()
	if die == nil {
		return nil
	}
	return func(string) { die() }
}

func breakOffRun() func() {
	at, err := strconv.Atoi(os.Getenv("GYROLITH_DIE_AT"))
	if err != nil {
		return nil
	}
	var n atomic.Int64
	return func() {
		if n.Add(1) == int64(at) {
			if p, err := os.FindProcess(os.Getpid()); err == nil {
				p.Kill()
				select {}
			}
		}
	}
}
