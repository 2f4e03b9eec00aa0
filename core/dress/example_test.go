package dress_test

import (
	"context"
	"fmt"

	"gyrolith/core/dress"
	"gyrolith/core/nav"
)

func ExampleParse() {
	rules, err := dress.Parse("rules.toml", []byte(`
		[[rule]]
		match = "waypoints:*rock*"
		[rule.set]
		symbol = "rock"
		name = "R{number:2}"
	`))
	if err != nil {
		fmt.Println(err)
		return
	}
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "North rock"}, Point: nav.At(-47.55, 11.33)}}}
	if _, err := (&dress.Step{Rules: rules}).Apply(context.Background(), d); err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(d.Waypoints[0].Name, d.Waypoints[0].Style.Symbol)
	// Output: R01 rock
}
