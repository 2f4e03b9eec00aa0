package passage_test

import (
	"fmt"
	"time"

	"gyrolith/core/nav"
	"gyrolith/core/passage"
)

func ExampleStep_Plan() {
	at := func(name string, lat, lon float64) nav.Waypoint {
		return nav.Waypoint{Item: nav.Item{Name: name}, Point: nav.At(lat, lon)}
	}
	run := &nav.Route{Points: []nav.Waypoint{at("Landing", -47.60, 11.28), at("Gap", -47.55, 11.28)}}
	hazards := &nav.Dataset{Waypoints: []nav.Waypoint{at("Rock 1", -47.57, 11.281)}}

	step := &passage.Step{Speed: 4, On: time.Date(2026, 3, 14, 0, 0, 0, 0, time.UTC), Clear: 150}
	step.Dangers = passage.NewDangers(hazards, nil, nil)
	table := step.Plan(run)
	leg := table.Legs[0]
	fmt.Printf("%.0f m, %03.0f° true, %v\n", leg.Distance, leg.Course, leg.Time.Round(time.Second))
	for _, f := range table.Findings {
		fmt.Printf("%s: %s, %.0f m to the %s\n", f.Code, f.Name, f.Near.Distance, f.Near.Side)
	}
	// Output:
	// 5559 m, 000° true, 23m10s
	// clearance: Rock 1, 75 m to the right
}
