//go:build breakoff

package frame

import (
	"os"
	"strconv"
	"sync/atomic"
)

// BreakOff kills the program, as a power cut would, at the step that the variable GYROLITH_DIE_AT numbers.
func BreakOff() func(string) {
	die := BreakOffRun()
	if die == nil {
		return nil
	}
	return func(string) { die() }
}

func BreakOffRun() func() {
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
