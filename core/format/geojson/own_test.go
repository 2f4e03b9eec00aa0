package geojson

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/nav"
)

// What our own member says in the wrong place, or of positions that are not there, is told; what fits is taken.
func TestOwnMemberThatDoesNotFit(t *testing.T) {
	const line = `"geometry":{"type":"LineString","coordinates":[[11,-47],[11.1,-47]]}`
	for own, told := range map[string]string{
		`{"points":[{"at":1,"name":"B"},{"at":0,"name":"A"}],"times":[null,"2026-03-14T05:30:00Z"]}`: "",
		`{"points":[{"at":0,"name":"A"},{"at":0,"name":"C"},{"at":2,"name":"B"}]}`:                   "position",
		`{"times":[null,null,"2026-03-14T05:30:00Z"]}`:                                               "position",
		`{"keywords":"hills"}`: "properties of a file",
		`{"colour":"reddish"}`: `"colour" of "gyrolith"`,
	} {
		d := load(t, read, `{"type":"Feature","properties":{},`+line+`,"gyrolith":`+own+`}`)
		said := fmt.Sprint(d.Problems)
		if (said != "[]") != (told != "") || !strings.Contains(said, told) || d.Tracks[0].Len() != 2 {
			t.Errorf("%s: it is said: %s", own, said)
		}
	}
	d := load(t, read, `{"type":"FeatureCollection","features":[],`+
		`"gyrolith":{"name":"N","keywords":"hills","colour":"#c8102e"}}`)
	if said := fmt.Sprint(d.Problems); !strings.Contains(said, "properties of an item") || d.Meta.Keywords != "hills" ||
		d.Meta.Name != "N" {
		t.Errorf("%+v, said %s", d.Meta, said)
	}
}

// The simple style stands beside our own member, comes off again, and what somebody changes of it counts; that of a
// source stays as it is.
func TestSimpleStyle(t *testing.T) {
	d := &nav.Dataset{}
	line := nav.Track{Item: nav.Item{Name: "A", Style: nav.Style{Colour: nav.Colour{R: 200, G: 16, B: 46, A: 128,
		Set: true},
		Width: 3}}}
	line.Segments = []nav.Segment{{Points: []nav.Point{nav.At(-47.6, 11.3), nav.At(-47.5, 11.3)}}}
	own := nav.Waypoint{Item: nav.Item{Name: "B", Style: nav.Style{Symbol: "rock", Colour: nav.RGB(1, 2, 3)},
		Fields: []nav.Field{{Key: "marker-color", Value: "#ffffff"}}}, Point: nav.At(-47.6, 11.3)}
	d.Tracks, d.Waypoints = []nav.Track{line}, []nav.Waypoint{own}
	var out bytes.Buffer
	if _, err := write(&out, d, nil); err != nil {
		t.Fatal(err)
	}
	text := out.String()
	for _, want := range []string{`"stroke":"#c8102e","stroke-opacity":0.502,"stroke-width":3`,
		`"marker-color":"#ffffff"`} {
		if !strings.Contains(text, want) {
			t.Errorf("no %s in %s", want, text)
		}
	}
	again := func(text string) *nav.Dataset { return load(t, read, text) }
	back := again(text)
	if st := back.Tracks[0].Style; st != line.Style || len(back.Tracks[0].Fields) != 0 {
		t.Errorf("%+v %v", st, back.Tracks[0].Fields)
	}
	if w := back.Waypoints[0]; w.Style != own.Style || len(w.Fields) != 1 {
		t.Errorf("%+v", w.Item)
	}
	edited := again(strings.Replace(strings.Replace(text, `"stroke":"#c8102e"`, `"stroke":"#0000ff"`, 1),
		`"stroke-width":3`,
		`"stroke-width":7`, 1))
	if st := edited.Tracks[0].Style; st.Colour.B != 255 || st.Colour.R != 0 || st.Colour.A != 128 || st.Width != 7 {
		t.Errorf("what was edited: %+v", st)
	}
}
