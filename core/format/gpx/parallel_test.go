package gpx

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// Many waypoints are written on all cores; they come out as few do one after the other, in their order, with the
// letters that XML can't hold counted.
func TestManyWaypoints(t *testing.T) {
	d := &nav.Dataset{}
	for i := range 30_000 {
		w := nav.Waypoint{Item: nav.Item{Name: fmt.Sprintf("P%d & co", i)}, Point: nav.At(-47.6+float64(i)/1e6, 11.3)}
		if i%1000 == 7 {
			w.Name += "\x01"
		}
		if i%3 == 0 {
			w.Fields = []nav.Field{{Key: "count", Value: fmt.Sprint(i)}}
		}
		d.Waypoints = append(d.Waypoints, w)
	}
	var whole bytes.Buffer
	done, err := write(&whole, d, &format.WriteOptions{})
	l := done.Ledger
	if err != nil {
		t.Fatal(err)
	}
	if len(l) != 1 || l[0].Count != 30 {
		t.Errorf("%v", l)
	}
	body := whole.String()
	body = body[strings.Index(body, " <wpt"):strings.Index(body, "</gpx>")]
	var parts strings.Builder
	for i := 0; i < len(d.Waypoints); i += 5000 {
		var b bytes.Buffer
		if _, err := write(&b, &nav.Dataset{Waypoints: d.Waypoints[i : i+5000]}, &format.WriteOptions{}); err != nil {
			t.Fatal(err)
		}
		text := b.String()
		parts.WriteString(text[strings.Index(text, " <wpt"):strings.Index(text, "</gpx>")])
	}
	if body != parts.String() {
		t.Errorf("%d bytes on all cores, %d one after the other", len(body), parts.Len())
	}
}
