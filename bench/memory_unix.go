//go:build unix

package main

import (
	"os"
	"runtime"
	"syscall"
)

// peakMemory is the largest resident size of an ended process, in bytes.
func peakMemory(s *os.ProcessState) float64 {
	usage, ok := s.SysUsage().(*syscall.Rusage)
	if !ok {
		return 0
	}
	if runtime.GOOS == "darwin" {
		return float64(usage.Maxrss)
	}
	return float64(usage.Maxrss) * 1024
}
