package geojson

import (
	"fmt"
	"strings"
	"testing"
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
