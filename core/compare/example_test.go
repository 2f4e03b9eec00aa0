package compare_test

import (
	"context"
	"fmt"
	"log"

	"gyrolith/core/compare"
	"gyrolith/core/nav"
)

func ExampleCompare() {
	at := func(name string, lat, lon float64) nav.Waypoint {
		return nav.Waypoint{Item: nav.Item{Name: name}, Point: nav.At(lat, lon)}
	}
	before := &nav.Dataset{Waypoints: []nav.Waypoint{at("Jetty", -47.58, 11.28), at("Rock 1", -47.55, 11.33)}}
	after := &nav.Dataset{Waypoints: []nav.Waypoint{at("Jetty", -47.58, 11.29), at("Rock 2", -47.55, 11.33)}}
	r, err := compare.Compare(context.Background(), before, after, compare.Options{Within: 5})
	if err != nil {
		log.Fatal(err)
	}
	for _, d := range r.Differences {
		fmt.Printf("%s %s %.0f m\n", d.Name, d.What, d.Metres)
	}
	// Output:
	// Jetty moved 752 m
	// Rock 1 renamed 0 m
}
