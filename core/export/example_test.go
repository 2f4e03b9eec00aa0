package export_test

import (
	"context"
	"fmt"
	"os"

	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/format/geojson"
	"gyrolith/core/nav"
)

func ExampleTarget_Write() {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "Rock 1"}, Point: nav.At(-47.5514, 11.3312)}}}
	d.Meta.Attachments = []nav.Attachment{{Name: "rock.png", Data: []byte("a picture")}}

	target := &export.Target{Formats: format.Formats{geojson.Format}, Format: geojson.Format}
	made, err := target.Write(context.Background(), d, "rocks.geojson", export.To(os.Stdout))
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, e := range made.Ledger {
		fmt.Println("lost:", e.What)
	}
	// Output:
	// {"type":"FeatureCollection","features":[
	// {"type":"Feature","properties":{"name":"Rock 1"},"geometry":{"type":"Point","coordinates":[11.3312,-47.5514]}}
	// ]}
	// lost: attached files
}
