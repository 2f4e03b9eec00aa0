package recast_test

import (
	"context"
	"fmt"

	"gyrolith/core/nav"
	"gyrolith/core/recast"
)

func ExampleStep_Apply() {
	line := nav.Track{Item: nav.Item{Name: "Run"}, Segments: []nav.Segment{{Points: []nav.Point{
		nav.At(-47.58, 11.28), nav.At(-47.57, 11.28), nav.At(-47.55, 11.33)}}}}
	d := &nav.Dataset{Tracks: []nav.Track{line}}

	routes := nav.Routes
	step := &recast.Step{Reverse: true}
	step.To[nav.Tracks] = &routes
	if _, err := step.Apply(context.Background(), d); err != nil {
		fmt.Println(err)
		return
	}
	r := d.Routes[0]
	fmt.Println(r.Name, len(d.Tracks), r.Points[0].Lat, r.Points[2].Lat)
	// Output: Run 0 -47.55 -47.58
}
