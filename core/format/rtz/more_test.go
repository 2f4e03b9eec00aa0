package rtz

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// A schedule that is only calculated is taken; the element's name as the schema of 1.0 spells it as well; a second one
// is told.
func TestSchedules(t *testing.T) {
	const head = `<route xmlns="http://www.cirm.org/RTZ/1/0" version="1.0"><routeInfo routeName="R"/><waypoints>` +
		`<waypoint id="1"><position lat="1" lon="2"/></waypoint><waypoint id="2"><position lat="3" lon="4"/></waypoint>` +
		`</waypoints>`
	d := readText(t, head+`<schedules><schedule id="1"><calculated><sheduleElement waypointId="1" `+
		`etd="2026-03-14T06:00:00Z" speed="7"/><sheduleElement waypointId="2" eta="2026-03-14T07:00:00Z"/><sheduleElement `+
		`waypointId="9" eta="2026-03-14T08:00:00Z"/></calculated></schedule><schedule id="2"><manual/></schedule>`+
		`</schedules></route>`)
	r := &d.Routes[0]
	if !r.Points[0].Time().Equal(time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)) || !r.Points[1].HasTime() {
		t.Errorf("%v %v", r.Points[0].Time(), r.Points[1].Time())
	}
	told := ""
	for _, p := range d.Problems {
		told += p.Text + "\n"
	}
	if !strings.Contains(told, "those of the first schedule") ||
		!strings.Contains(told, "a waypoint that doesn't exist") {
		t.Errorf("%s", told)
	}
	var out bytes.Buffer
	if _, err := write(&out, d, &format.WriteOptions{}); err != nil || !strings.Contains(out.String(), "<calculated>") ||
		!strings.Contains(out.String(), `speed="7"`) {
		t.Errorf("%v\n%s", err, out.String())
	}
}

// A route of another format gets numbers, times as arrivals but for the departure, and names that XML must escape.
func TestFromElsewhere(t *testing.T) {
	r := nav.Route{Item: nav.Item{Name: `A & "B" <C>`}}
	for i := range 3 {
		w := nav.Waypoint{Item: nav.Item{Name: strings.Repeat("x", i)}, Point: nav.At(-47.6+float64(i)/10, 11.3)}
		w.SetTime(int64(i)*3600e9, instant.Seconds)
		r.Points = append(r.Points, w)
	}
	var out bytes.Buffer
	done, err := Format.Store(&out, &nav.Dataset{Routes: []nav.Route{r}}, &format.WriteOptions{})
	l := done.Ledger
	if err != nil || l.Losses() != 0 {
		t.Fatal(err, l)
	}
	text := out.String()
	for _, part := range []string{`waypointId="1" etd="1970-01-01T00:00:00Z"`,
		`waypointId="3" eta="1970-01-01T02:00:00Z"`, `id="2"`} {
		if !strings.Contains(text, part) {
			t.Errorf("%s is not in\n%s", part, text)
		}
	}
	if back := readText(t, text); back.Routes[0].Name != r.Name ||
		!back.Routes[0].Points[2].Time().Equal(r.Points[2].Time()) {
		t.Errorf("%+v", back.Routes[0])
	}
	// Two points with one number get new ones, so that the times stay with their points.
	r.Points[0].Fields = []nav.Field{{Key: "id", Value: "5"}}
	r.Points[1].Fields = []nav.Field{{Key: "id", Value: "5"}}
	if ids := idsOf(&r); strings.Join(ids, " ") != "1 2 3" {
		t.Errorf("%v", ids)
	}
	if done, err := write(&strings.Builder{}, &nav.Dataset{Routes: []nav.Route{r}}, &format.WriteOptions{}); err != nil ||
		len(done.Ledger) != 1 || !done.Ledger[0].Loss {
		t.Errorf("%v, %+v", err, done)
	}
	if f := Format.Sniff(format.NewHead([]byte(text))); !f {
		t.Error("its own file is not known")
	}
	if Format.Sniff(format.NewHead([]byte(`<route xmlns="urn:other"/>`))) {
		t.Error("another's route is taken")
	}
}

// A departure with a stay before it is no arrival: it comes back as it was, and the arrival is what it says.
func TestDepartureWithStay(t *testing.T) {
	text := `<?xml version="1.0"?><route version="1.1" xmlns="http://www.cirm.org/RTZ/1/1"><routeInfo ` +
		`routeName="R"/><waypoints>` +
		`<waypoint id="1" name="A"><position lat="-47.5" lon="11.2"/></waypoint>` +
		`<waypoint id="2" name="B"><position lat="-47.6" lon="11.3"/></waypoint>` +
		`<waypoint id="3" name="C"><position lat="-47.7" lon="11.4"/></waypoint></waypoints><schedules><schedule ` +
		`id="1"><manual>` +
		`<scheduleElement waypointId="1" etd="2026-03-14T06:00:00Z"/>` +
		`<scheduleElement waypointId="2" etd="2026-03-14T08:45:00Z" stay="PT45M"/>` +
		`<scheduleElement waypointId="3" eta="2026-03-14T10:00:00Z"/></manual></schedule></schedules></route>`
	d, err := read(format.FromBytes(t.Context(), "x.rtz", []byte(text)), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	if at := d.Routes[0].Points[1].Time(); !at.Equal(time.Date(2026, 3, 14, 8, 0, 0, 0, time.UTC)) {
		t.Errorf("arrives at %v, and leaves at 08:45 after 45 minutes", at)
	}
	var out bytes.Buffer
	if _, err := write(&out, d, &format.WriteOptions{}); err != nil {
		t.Fatal(err)
	}
	if got := out.String(); !strings.Contains(got, `waypointId="2" etd="2026-03-14T08:45:00Z" stay="PT45M"/>`) {
		t.Errorf("written as %s", got)
	}
}
