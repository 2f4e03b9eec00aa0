package elevate_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"gyrolith/core/elevate"
	"gyrolith/core/nav"
)

func ExampleStep_Apply() {
	dir, err := os.MkdirTemp("", "terrain")
	if err != nil {
		fmt.Println(err)
		return
	}
	defer os.RemoveAll(dir)
	grid := "ncols 2\nnrows 2\nxllcenter 11\nyllcenter -48\ncellsize 1\n100 200\n100 200\n"
	os.WriteFile(filepath.Join(dir, "isles.asc"), []byte(grid), 0o666)

	step := &elevate.Step{TerrainPaths: []string{dir}}
	if err := step.Open(); err != nil {
		fmt.Println(err)
		return
	}
	defer step.Close()
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(-47.5, 11.3)}, {Point: nav.At(-40, 11.3)}}}
	report, err := step.Apply(context.Background(), d)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%.1f m %v\n", d.Waypoints[0].Height(), report.Counts)
	// Output: 130.0 m [{heights given 1} {heights missing 1}]
}
