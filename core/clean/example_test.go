package clean_test

import (
	"context"
	"fmt"

	"gyrolith/core/clean"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func ExampleStep_Apply() {
	var walk nav.Segment
	for i := range 20 {
		p := nav.At(-47.6+float64(i)*1e-5, 11.3) // a metre a second
		if i == 8 {
			p = nav.At(-47.6, 11.31) // and once 750 m off
		}
		p.SetTime(int64(i)*1e9, instant.Seconds)
		walk.Points = append(walk.Points, p)
	}
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Walk"}, Segments: []nav.Segment{walk}}}}

	step := clean.New()
	step.Carrier = "walk"
	if err := step.Check(); err != nil {
		fmt.Println(err)
		return
	}
	report, err := step.Apply(context.Background(), d)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, c := range report.Counts {
		fmt.Println(c.What, c.N)
	}
	fmt.Println(d.Points(), "points are left")
	// Output:
	// cleaned: spikes 1
	// 19 points are left
}
