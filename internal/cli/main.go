package cli

import (
	"context"
	"os"
	"os/signal"
	"syscall"

	"gyrolith/core/safefile"
)

// Main runs the program on the process's own arguments and streams. When it is told to stop, nothing half
// written stays behind.
func Main(ctx context.Context) int {
	tuneMemory()
	stop := make(chan os.Signal, 1)
	signal.Notify(stop, os.Interrupt, syscall.SIGTERM)
	done := make(chan int, 1)
	go func() { done <- Run(ctx, os.Args[1:], os.Stdin, os.Stdout, os.Stderr) }()
	select {
	case status := <-done:
		return status
	case <-stop:
		safefile.Abandon()
		return statusStopped
	}
}
