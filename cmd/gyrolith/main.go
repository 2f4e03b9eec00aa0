// Gyrolith reads, cleans and converts waypoints, routes, tracks and areas, and prepares the cards of
// navigation units.
package main

import (
	"context"
	"os"

	"gyrolith/internal/cli"
)

func main() {
	os.Exit(cli.Main(context.Background()))
}
