package main

import (
	"regexp"
	"strings"
	"testing"
)

// A speed over hills means one thing: legs and recast give a route the same times, by the same rule, and both say it.
func TestOnePace(t *testing.T) {
	f := newFolder(t)
	f.put("hills.gpx", `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><rte><name>Hills</name>
<rtept lat="-47.50" lon="11.20"><ele>10</ele><name>A</name></rtept>
<rtept lat="-47.55" lon="11.20"><ele>710</ele><name>B</name></rtept>
<rtept lat="-47.58" lon="11.21"><ele>110</ele><name>C</name></rtept></rte></gpx>`)
	times := regexp.MustCompile(`<time>([^<]*)`)
	arrival := map[string]string{}
	for _, c := range []struct{ words, says string }{
		{"4km/h", "on foot"}, {"4km/h --level", "as on the level"}, {"4km/h --carrier boat", "as on the level"},
		{"95kn", "as on the level"}, {"60kn --climb 1500ft/min,45kn --descent 2000ft/min", "given rates"},
		{"12km/h --carrier walk", "on foot"}} {
		args := append([]string{"hills.gpx", "--depart", "2026-03-14T06:00Z", "--speed"}, strings.Fields(c.words)...)
		legs := f.legs(args...).Routes[0].Legs
		said := f.must(append([]string{"legs"}, args...)...).out
		timed := f.must(append([]string{"recast", "-o", "timed.gpx", "--replace", "--verbose"}, args...)...).err
		got := times.FindAllStringSubmatch(f.get("timed.gpx"), -1)
		if len(got) != 3 {
			t.Fatalf("%s: %v", c.words, got)
		}
		for i, l := range legs {
			if l.Arrive != got[i+1][1] {
				t.Errorf("%s: leg %d arrives at %s by legs, at %s by recast", c.words, i+1, l.Arrive, got[i+1][1])
			}
		}
		if !strings.Contains(said, c.says) || !strings.Contains(timed, c.says) {
			t.Errorf("%s: neither %q nor %q says %q", c.words, said, timed, c.says)
		}
		arrival[c.words] = got[2][1]
	}
	if a, b := arrival["4km/h"], arrival["4km/h --level"]; a <= b || b != arrival["4km/h --carrier boat"] {
		t.Errorf("on foot %s, on the level %s", a, b)
	}
	f.refuses(2, "speed", "recast", "hills.gpx", "--level", "--reverse", "-o", "x.gpx")
}

// A stay that the plan itself says is spent by both, unless another is asked for.
func TestOneStay(t *testing.T) {
	f := newFolder(t)
	f.put("plan.rtz", `<?xml version="1.0"?><route version="1.1" xmlns="http://www.cirm.org/RTZ/1/1">`+
		`<routeInfo routeName="R"/><waypoints><waypoint id="1" name="A"><position lat="-47.5" lon="11.2"/></waypoint>`+
		`<waypoint id="2" name="B"><position lat="-47.6" lon="11.2"/></waypoint>`+
		`<waypoint id="3" name="C"><position lat="-47.7" lon="11.2"/></waypoint></waypoints><schedules>`+
		`<schedule id="1"><manual><scheduleElement waypointId="2" stay="PT45M"/></manual></schedule></schedules></route>`)
	args := []string{"plan.rtz", "--depart", "2026-03-14T06:00Z", "--speed", "10kn"}
	f.must(append([]string{"recast", "-o", "timed.gpx"}, args...)...)
	times := regexp.MustCompile(`<time>([^<]*)`).FindAllStringSubmatch(f.get("timed.gpx"), -1)
	legs := f.legs(args...).Routes[0].Legs
	if len(times) != 3 || legs[1].Arrive != times[2][1] {
		t.Errorf("the end is reached at %s by legs, at %v by recast", legs[1].Arrive, times)
	}
	short := f.legs(append(args, "--stay", "B:5min")...).Routes[0].Legs
	if short[1].Arrive >= legs[1].Arrive {
		t.Errorf("with a stay of 5 min the end is reached at %s, with that of the plan at %s", short[1].Arrive,
			legs[1].Arrive)
	}
}
