package rtz

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// by hand, with all that IEC 61174 annex S has for legs, defaults, schedules and extensions.
const plan = `<?xml version="1.0" encoding="UTF-8"?>
<route xmlns="http://www.cirm.org/RTZ/1/1" xmlns:x="urn:example" version="1.1">
  <routeInfo routeName="Teeth run" vesselName="Sorrel" validityPeriodStart="2026-03-01T00:00:00Z"/>
  <waypoints>
    <defaultWaypoint radius="0.3"><leg starboardXTD="0.10" portsideXTD="0.10" geometryType="Loxodrome"/>` +
	`</defaultWaypoint>
    <waypoint id="10" revision="2" name="Landing"><position lat="-47.58705" lon="11.27990"/></waypoint>
    <waypoint id="20" name="Gap" radius="0.2">
      <position lat="-47.57950" lon="11.27220"/>
      <leg starboardXTD="0.05" portsideXTD="0.08" safetyContour="5" speedMax="6.5" legInfo="kelp to port"/>
      <extensions><extension manufacturer="x" name="y" version="1"><x:mark a="1"/></extension></extensions>
    </waypoint>
    <waypoint id="30" name="Broken"><position lat="x" lon="11.3"/></waypoint>
    <waypoint id="40" name="Jetty"><position lat="-47.56310" lon="11.36604"/><leg geometryType="Orthodrome"/></waypoint>
  </waypoints>
  <schedules><schedule id="1" name="morning">
    <manual>
      <scheduleElement waypointId="10" etd="2026-03-14T06:00:00Z"/>
      <scheduleElement waypointId="20" eta="2026-03-14T06:10:00Z" etd="2026-03-14T06:15:00Z" speed="8"/>
      <scheduleElement waypointId="40" eta="2026-03-14T06:45:00Z"/>
    </manual>
    <calculated><scheduleElement waypointId="40" eta="2026-03-14T06:50:00Z"/></calculated>
  </schedule></schedules>
  <extensions><extension manufacturer="x" name="z" version="1"/></extensions>
</route>`

func readText(t *testing.T, text string) *nav.Dataset {
	t.Helper()
	d, err := read(format.FromBytes(t.Context(), "run.rtz", []byte(text)), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func TestRead(t *testing.T) {
	d := readText(t, plan)
	r := &d.Routes[0]
	field := func(fields []nav.Field, key, want string) {
		t.Helper()
		if got, _ := nav.Get(fields, key); got != want {
			t.Errorf("%s is %q, want %q", key, got, want)
		}
	}
	if r.Name != "Teeth run" || len(r.Points) != 3 || len(d.Rejects) != 1 || d.Rejects[0].Line != 12 {
		t.Fatalf("%+v %v", r, d.Rejects)
	}
	field(r.Fields, "vesselName", "Sorrel")
	field(r.Fields, "default radius", "0.3")
	field(r.Fields, "default leg starboardXTD", "0.10")
	gap := &r.Points[1]
	field(gap.Fields, "radius", "0.2")
	field(gap.Fields, "leg portsideXTD", "0.08")
	field(gap.Fields, "leg legInfo", "kelp to port")
	field(gap.Fields, "manual etd", "2026-03-14T06:15:00Z")
	field(gap.Fields, "manual speed", "8")
	for i, minute := range []int{0, 10, 45} {
		if want := time.Date(2026, 3, 14, 6, minute, 0, 0, time.UTC); !r.Points[i].Time().Equal(want) {
			t.Errorf("point %d at %v, want %v", i, r.Points[i].Time(), want)
		}
	}
	if !strings.Contains(fmt.Sprint(d.Problems), "those of the manual schedule") {
		t.Errorf("the calculated schedule is dropped in silence: %v", d.Problems)
	}
}

// All comes back, twice written the same, in both versions.
func TestBack(t *testing.T) {
	d := readText(t, plan)
	for version, space := range map[string]string{"": "RTZ/1/1", "1.0": "RTZ/1/0", "1.1": "RTZ/1/1"} {
		var out, again bytes.Buffer
		done, err := Format.Store(&out, d, &format.WriteOptions{Version: version})
		l := done.Ledger
		if err != nil || l.Losses() != 0 {
			t.Fatalf("%v %v", err, l)
		}
		text := out.String()
		for _, part := range []string{space, `routeName="Teeth run"`, `id="20"`, `revision="2"`,
			`<defaultWaypoint radius="0.3">`, `speedMax="6.5"`, `geometryType="Orthodrome"`,
			`waypointId="10" etd="2026-03-14T06:00:00Z"`,
			`waypointId="20" eta="2026-03-14T06:10:00Z"`, `mark a="1"`, `name="z"`, `lat="-47.57950" lon="11.27220"`} {
			if !strings.Contains(text, part) {
				t.Errorf("version %q: %s is not in\n%s", version, part, text)
			}
		}
		back := readText(t, text)
		write(&again, back, &format.WriteOptions{Version: version})
		if again.String() != text {
			t.Errorf("written twice it is\n%s\nand\n%s", text, again.String())
		}
	}
}

func TestRefused(t *testing.T) {
	pair := &nav.Dataset{Routes: []nav.Route{{Item: nav.Item{Name: "A"}}, {Item: nav.Item{Name: "B"}}}}
	for want, c := range map[string]struct {
		d       *nav.Dataset
		version string
	}{`there are 2 ("A", "B")`: {pair, ""}, "there is none": {&nav.Dataset{}, ""},
		"at least two points": {&nav.Dataset{Routes: pair.Routes[:1]}, ""}, "no version 2": {pair, "2"}} {
		if _, err := write(&bytes.Buffer{}, c.d, &format.WriteOptions{Version: c.version}); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	if _, err := read(format.FromBytes(t.Context(), "x", []byte(plan[:900])), &format.ReadOptions{}); err == nil ||
		!strings.Contains(err.Error(), "is cut off") {
		t.Errorf("cut off: %v", err)
	}
	// What a route of the format does not hold is told.
	d := readText(t, plan)
	d.Waypoints = []nav.Waypoint{{}}
	d.Routes[0].Points[0].SetHeight(3, 0, nav.MeanSeaLevel)
	d.Routes[0].Fields = append(d.Routes[0].Fields, nav.Field{Key: "mood", Value: "good"})
	done, _ := Format.Store(&bytes.Buffer{}, d, &format.WriteOptions{})
	l := done.Ledger
	for _, what := range []string{"waypoint", "heights of route points", "field mood"} {
		if !strings.Contains(fmt.Sprint(l), what) {
			t.Errorf("%s is lost in silence: %v", what, l)
		}
	}
}

func FuzzRTZ(f *testing.F) {
	f.Add([]byte(plan))
	f.Add([]byte(`<route xmlns="http://www.cirm.org/RTZ/1/0"><waypoints><waypoint id="1"><position lat="1" lon="2"/>` +
		`</waypoint><waypoint id="1"><position lat="3" lon="4"/></waypoint></waypoints></route>`))
	f.Fuzz(func(t *testing.T, b []byte) {
		d, err := read(format.FromBytes(t.Context(), "x", b), &format.ReadOptions{})
		if err != nil || len(d.Routes) == 0 || len(d.Routes[0].Points) < 2 {
			return
		}
		var out bytes.Buffer
		if _, err := write(&out, d, &format.WriteOptions{}); err != nil {
			t.Fatal(err)
		}
		back, err := read(format.FromBytes(t.Context(), "x", out.Bytes()), &format.ReadOptions{})
		if err != nil || len(back.Routes) != 1 || len(back.Routes[0].Points) != len(d.Routes[0].Points) {
			t.Fatalf("%v\n%s", err, out.String())
		}
	})
}
