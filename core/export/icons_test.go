package export_test

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/format/kml"
	"gyrolith/core/nav"
)

// A dressed symbol has a picture in KML and KMZ, one for each symbol and sort of colour, and is the same word again
// when it is read; a picture of the data's own stays.
func TestSymbolsArrive(t *testing.T) {
	waypoint := func(name, symbol, icon string, colour nav.Colour) nav.Waypoint {
		w := nav.Waypoint{Item: nav.Item{Name: name}, Point: nav.At(-47.6, 11.3)}
		w.Style = nav.Style{Symbol: symbol, Icon: icon, Colour: colour}
		return w
	}
	d := &nav.Dataset{Waypoints: []nav.Waypoint{waypoint("A", "rock-awash", "", nav.RGB(200, 16, 46)),
		waypoint("B", "rock-awash", "", nav.Colour{}), waypoint("C", "rock-awash", "", nav.RGB(1, 2, 3)),
		waypoint("D", "no such word", "", nav.Colour{}), waypoint("E", "hazard", "files/own.png", nav.Colour{})}}
	drawn := 0
	for _, x := range []*format.Format{kml.Format, kml.FormatKMZ} {
		target := &export.Target{Format: x, Icons: func(word string, _ bool) []byte {
			if word == "no such word" {
				return nil
			}
			drawn++
			return []byte("a picture of " + word)
		}}
		var out bytes.Buffer
		made, err := target.Write(context.Background(), d, "a", export.To(&out))
		if err != nil || made.Ledger.Losses() > 0 {
			t.Fatalf("%s: %v %v", x.Name, err, made)
		}
		if x == kml.Format && strings.Count(out.String(), "base64,") != 3 { // a style for each colour
			t.Errorf("%s", out.String())
		}
		back, err := x.Read(format.FromBytes(t.Context(), "a", out.Bytes()), &format.ReadOptions{})
		if err != nil || len(back.Meta.Attachments) != 0 {
			t.Fatalf("%s: %v %v", x.Name, err, back.Meta.Attachments)
		}
		for i := range d.Waypoints {
			if got, want := fmt.Sprint(back.Waypoints[i].Style), fmt.Sprint(d.Waypoints[i].Style); got != want {
				t.Errorf("%s: %s came back as %s", x.Name, want, got)
			}
		}
	}
	if drawn != 4 || d.Waypoints[0].Style.Icon != "" {
		t.Errorf("%d pictures drawn, %+v", drawn, d.Waypoints[0].Style)
	}
}
