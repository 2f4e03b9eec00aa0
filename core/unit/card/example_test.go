package card_test

import (
	"context"
	"fmt"
	"os"
	"time"

	"gyrolith/core/format/all"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
	"gyrolith/core/unit/card"
)

func Example() {
	dir, err := os.MkdirTemp("", "card")
	if err != nil {
		fmt.Println(err)
		return
	}
	defer os.RemoveAll(dir)
	ridge, err := unit.Find("ridge", "")
	if err != nil {
		fmt.Println(err)
		return
	}
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "Østre Båe"}, Point: nav.At(-47.55, 11.33)}}}

	ctx := context.Background()
	plan, err := card.Make(ctx, d, ridge, "season", all.Formats)
	if err != nil {
		fmt.Println(err)
		return
	}
	done, err := plan.Stow(ctx, dir, card.Options{Now: time.Now()})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(plan.Files[0].Path, done.Shown.Data.Waypoints[0].Name, len(done.Result.Differences))
	// Output: RIDGE/WAYPOINTS/season.gpx Ostre Bae 0
}
