package cli

import (
	"context"
	"os"
	"os/signal"
	"syscall"
	"time"

	"gyrolith/core/safefile"
	"gyrolith/internal/cli/frame"
)

// grace is how long a stopped program may take to clean up, for instance while it waits for its input.
const grace = 400 * time.Millisecond

// carried is how long it may take to carry through what was begun.
const carried = 20 * time.Second

// Main runs the program on the process's own arguments and streams. Told to stop, it ends what it does and leaves
// nothing half written behind; told twice, it ends at once.
func Main(ctx context.Context) int {
	frame.TuneMemory(os.Args[1:])
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	stop := make(chan os.Signal, 2)
	signal.Notify(stop, os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	done := make(chan int, 1)
	go func() { done <- Run(ctx, os.Args[1:], os.Stdin, os.Stdout, os.Stderr) }()
	select {
	case status := <-done:
		return status
	case <-stop:
		safefile.Stop()
		cancel()
	}
	for limit := time.Now().Add(carried); ; {
		select {
		case status := <-done:
			return status
		case <-stop:
		case <-time.After(grace):
			if safefile.Carrying() && time.Now().Before(limit) {
				continue
			}
		}
		break
	}
	safefile.Abandon()
	return frame.StatusStopped
}
