package inspect_test

import (
	"context"
	"fmt"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/format/gpx"
	"gyrolith/core/inspect"
	"gyrolith/core/motion"
)

func ExampleLook() {
	formats := format.Formats{gpx.Format}
	in, err := formats.Load(format.FromBytes(context.Background(), "walk.gpx", []byte(`<gpx><trk><name>Walk</name><trkseg>
		<trkpt lat="-47.6" lon="11.3"><time>2026-03-14T05:00:00Z</time></trkpt>
		<trkpt lat="-47.6" lon="11.301"><time>2026-03-14T05:01:00Z</time></trkpt>
		<trkpt lat="-47.6" lon="11.301"><time>2026-03-14T05:01:00Z</time></trkpt></trkseg></trk></gpx>`)),
		"", false, &format.ReadOptions{})
	if err != nil {
		fmt.Println(err)
		return
	}
	view, err := inspect.Look(context.Background(), in, time.Unix(2e9, 0), motion.Limits{})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(view.Entries[0].Item.Name, view.Entries[0].Nature)
	for _, p := range view.Problems {
		fmt.Println(p.Code, p.Count)
	}
	// Output:
	// Walk recorded: a time every 1 min
	// repeats 1
	// crumbs 2
}
