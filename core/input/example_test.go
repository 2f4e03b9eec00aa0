package input_test

import (
	"context"
	"fmt"
	"strings"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/format"
	"gyrolith/core/format/gpx"
	"gyrolith/core/input"
	"gyrolith/core/nav"
)

// A program that reads GPX alone links no other format.
func Example() {
	ctx := context.Background()
	reading := input.New(format.Formats{gpx.Format}, time.Now())
	reading.Take.Take = []choose.Choice{{Kinds: [4]bool{nav.Waypoints: true}, Pattern: "rock*"}}

	src, err := format.FromReader(ctx, "hazards", strings.NewReader(`<gpx version="1.1">
		<wpt lat="-47.5514" lon="11.3312"><name>Rock 1</name></wpt>
		<wpt lat="-47.5870" lon="11.2799"><name>Sorrel Landing</name></wpt></gpx>`))
	if err != nil {
		fmt.Println(err)
		return
	}
	in, err := reading.From(src)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, w := range in.Data.Waypoints {
		fmt.Println(in.Format.Name, w.Name, w.Lat, w.Lon)
	}
	// Output: gpx Rock 1 -47.5514 11.3312
}
