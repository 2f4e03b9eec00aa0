package passage

import (
	"bytes"
	"encoding/binary"
	"encoding/csv"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"gyrolith/core/column"
	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/pace"
	"gyrolith/core/param"
)

var morning = time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC)

func moment(text string) (int64, error) {
	at, err := instant.ParseMoment(text, time.UTC, false)
	return at.UnixNano(), err
}

func windsOf(t *testing.T, text string, comesFrom bool) (Winds, error) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "winds.csv")
	if err := os.WriteFile(path, []byte(text), 0o666); err != nil {
		t.Fatal(err)
	}
	return ReadWinds(path, comesFrom, clockOf(morning, time.UTC, moment))
}

// Tables as other offices write them: semicolons, decimal commas, titles in their languages, flight levels. The knot is
// 1852 m an hour, a flight level 100 ft of 0.3048 m.
func TestWindsOfOthers(t *testing.T) {
	for text, height := range map[string]float64{
		"Flugfläche;Richtung (°);Geschwindigkeit (kn)\n50;270;10\n":          5000 * 0.3048,
		"FL,direction,speed kt\n050,270,10\n":                                5000 * 0.3048,
		"level,direction,speed\nFL050,270,10kn\n":                            5000 * 0.3048,
		"Höhe (m);Windrichtung;Windgeschwindigkeit (km/h)\n1500;270;18,52\n": 1500,
		"Nivel\tDirección\tVelocidad (nudos)\nFL050\t270\t10\n":              5000 * 0.3048,
		"Altitude (ft);Direction;Vitesse (nœuds)\n5000;270;10,0\n":           5000 * 0.3048,
		"altitude (hft),dir,speed (m/s)\n50,270,5.144444444444444\n":         5000 * 0.3048,
		"\ufeffheight (km);direction (true);speed (knots)\r\n1,5;270;10\r\n": 1500,
	} {
		w, err := windsOf(t, text, true)
		if err != nil || len(w) != 1 {
			t.Errorf("%q: %v", text, err)
			continue
		}
		if math.Abs(w[0].Height-height) > 1e-6 || math.Abs(math.Remainder(w[0].Drift.To-90, 360)) > 1e-9 ||
			math.Abs(w[0].Drift.Speed-18520.0/3600) > 1e-9 {
			t.Errorf("%q: %+v, want %v m to 90° with 10 kn", text, w[0], height)
		}
	}
	for text, why := range map[string]string{
		"direction,speed (xx)\n270,10\n": "is not a known measure",
		"direction,speed\n270,10\n":      "",
	} {
		if _, err := windsOf(t, text, true); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%q: %v", text, err)
		}
	}
}

// A wind is that of the leg, of the height between two rows, and of the latest row of the time.
func TestWinds(t *testing.T) {
	w, err := windsOf(t, "leg,height m,time,direction,speed m/s\n,1000,05:00,000,10\n,2000,05:00,090,10\n"+
		",1000,07:00,180,4\n,2000,07:00,180,4\n3,,,270,20\n,1000,01:00,180,6\n", true)
	if err != nil {
		t.Fatal(err)
	}
	at := func(hour int) int64 {
		return morning.Truncate(24 * time.Hour).Add(time.Duration(hour) * time.Hour).UnixNano()
	}
	for _, c := range []struct {
		leg       int
		height    float64
		at        int64
		to, speed float64
	}{
		{1, 1000, at(6), 180, 10},
		{1, 500, at(6), 180, 10},  // below the lowest
		{1, 3000, at(6), 270, 10}, // above the highest
		{1, 1500, at(6), 225, 5 * math.Sqrt2},
		{1, 1500, at(8), 0, 4},
		{3, 1500, at(8), 90, 20},
		{1, 1000, at(26), 0, 6}, // a time of day that goes back is of the next day
	} {
		d := w.on(c.leg, c.height, c.at)
		if d == nil || math.Abs(math.Remainder(d.To-c.to, 360)) > 1e-9 || math.Abs(d.Speed-c.speed) > 1e-9 {
			t.Errorf("leg %d at %v m: %+v, want to %v with %v", c.leg, c.height, d, c.to, c.speed)
		}
	}
	if d := w.on(1, 1500, at(4)); d != nil {
		t.Errorf("before the first row: %+v", d)
	}
	if d := w.on(1, math.NaN(), at(6)); d != nil {
		t.Errorf("without a height: %+v", d)
	}
	for text, want := range map[string]string{
		"direction,speed\n":             "a header row",
		"direction\n240\n":              "no column speed",
		"direction,speed\n240,15\n":     ":2: \"15\" has no unit",
		"direction,speed\n400,15kn\n":   "not from 0 to 360",
		"to,speed kn\n240,15\n":         "by where it comes from",
		"direction,speed kn,x\n1,1,1\n": `column "x"`,
		"direction,speed kn,leg\n1,1,0": "not the number of a leg",
	} {
		if _, err := windsOf(t, text, true); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
}

// sixKilometres is a route of two legs due north of 6 km each; the second one climbs 600 m.
func sixKilometres() *nav.Route {
	r := &nav.Route{Points: make([]nav.Waypoint, 3)}
	for i := range r.Points {
		lat := -47.5 + float64(i)*6000/111_180 // near enough: the test asks for the length itself
		r.Points[i].Point = nav.At(lat, 11.5)
		r.Points[i].Name = string(rune('A' + i))
		r.Points[i].SetHeight([]float64{200, 200, 800}[i], decimal.PrecisionOf(0), nav.MeanSeaLevel)
	}
	return r
}

// A climb has its own speed and rate, and a wait comes between two legs; both count for the fuel.
func TestClimbAndWait(t *testing.T) {
	s := &Step{Speed: 50, Depart: morning, Pace: pace.Rule{Climb: pace.Phase{Speed: 30, Rate: 6}}, BurnClimb: Fuel{72,
		"l"},
		Burn: Fuel{36, "l"}, Waits: []Wait{{"B", 10 * time.Minute}}}
	table := s.Plan(sixKilometres())
	a, b := &table.Legs[0], &table.Legs[1]
	first := a.Distance / 50
	second := 100 + (b.Distance-3000)/50 // 600 m at 6 m/s are 100 s, in which it goes 3 km
	if math.Abs(a.Time.Seconds()-first) > 0.01 || math.Abs(b.Time.Seconds()-second) > 0.01 {
		t.Errorf("%v and %v, want %.2f and %.2f s", a.Time, b.Time, first, second)
	}
	if got := b.Elapsed.Seconds(); math.Abs(got-first-600-second) > 0.01 || a.Elapsed != a.Time {
		t.Errorf("elapsed %v", got)
	}
	if got := time.Duration(b.Arrive - morning.UnixNano()); got != b.Elapsed.Round(time.Second) {
		t.Errorf("arrival after %v", got)
	}
	if want := (first+600+second-100)/100 + 100*0.02; math.Abs(b.FuelUsed-want) > 0.001 { // 36 l/h are 0.01 l/s
		t.Errorf("%.3f l used, want %.3f", b.FuelUsed, want)
	}
	s.Pace.Climb.Rate = 1 // 600 s, in which it goes 18 km
	if f := s.Plan(sixKilometres()).Findings; len(f) == 0 || f[0].Leg != 2 || !strings.Contains(f[0].Why, "10 min") {
		t.Errorf("a climb that does not fit: %+v", f)
	}
}

// The highest sample of the corridor is found, and one beyond it does not count.
func TestSafeHeight(t *testing.T) {
	const side = 1201
	tile := make([]byte, 2*side*side)
	put := func(lat, lon float64, h int16) {
		row, col := int(math.Round((-47-lat)*1200)), int(math.Round((lon-11)*1200))
		binary.BigEndian.PutUint16(tile[2*(row*side+col):], uint16(h))
	}
	put(-47.47, 11.51, 700)   // some 750 m east of the first leg
	put(-47.47, 11.53, 2000)  // some 2250 m east of it
	put(-47.42, 11.49, 900)   // west of the second leg
	put(-47.5054, 11.5, 1100) // 600 m before the start
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, "S48E011.hgt"), tile, 0o666); err != nil {
		t.Fatal(err)
	}
	for corridor, want := range map[float64][2]float64{2000: {1100, 900}, 800: {0, 0}, 5000: {2000, 900}} {
		s := &Step{TerrainPaths: []string{dir}, Corridor: corridor, Margin: 300, On: morning}
		if err := s.Open(time.UTC); err != nil {
			t.Fatal(err)
		}
		table := s.Plan(sixKilometres())
		s.Close()
		for i, l := range table.Legs {
			if l.Ground != want[i] || l.Safe != want[i]+300 {
				t.Errorf("corridor of %v m, leg %d: %v and %v, want %v", corridor, i+1, l.Ground, l.Safe, want[i])
			}
		}
		if low := table.Findings[0]; low.Code != BelowSafe || low.Below != want[0]+300-200 {
			t.Errorf("%+v", low)
		}
	}
	// Where nothing is known nothing is safe.
	s := &Step{TerrainPaths: []string{dir}, Corridor: 2000, Margin: 300, On: morning}
	if err := s.Open(time.UTC); err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	r := sixKilometres()
	r.Points[2].Lat = -46.99
	table := s.Plan(r)
	if l := table.Legs[1]; !math.IsNaN(l.Safe) || table.Findings[len(table.Findings)-1].Code != NoGround {
		t.Errorf("beyond the terrain: %v %+v", l.Safe, table.Findings)
	}
	// Heights above the ellipsoid are held against no ground, and that is a finding of every leg, with terrain or without.
	for i := range r.Points {
		p := &r.Points[i].Point
		p.SetHeight(5000, 0, nav.AboveEllipsoid)
	}
	table = s.Plan(r)
	found := 0
	for _, f := range table.Findings {
		if f.Code == NotOverSea {
			found++
		}
	}
	if found != 2 || math.IsNaN(table.Legs[0].Safe) || table.Findings[0].Code == BelowSafe {
		t.Errorf("above the ellipsoid: %+v", table.Findings)
	}
}

// Data have the columns that are chosen, in their order, with numbers in the measures that their titles name.
func TestColumns(t *testing.T) {
	choice := NewChoice()
	set := func(text string) error {
		return choice.Params().Set(nil, []param.Setting{{Name: "columns", Values: []string{text}}})
	}
	if err := set("to, distance,to-height,arrive,wind,leg-time[min]=Minutes,blank:ATA"); err != nil {
		t.Fatal(err)
	}
	if len(choice.Notes) != 1 || !strings.Contains(choice.Notes[0], "distance is called leg-distance now") {
		t.Errorf("%v", choice.Notes)
	}
	r := sixKilometres()
	r.Points[1].Name = "=B"
	table := (&Step{Speed: 50, Depart: morning}).Plan(r)
	var out bytes.Buffer
	o := &Layout{Measure: measure.Flight, Zone: time.FixedZone("", 3600)}
	titles, cells := Data([]*Table{table}, &choice, o)
	if err := column.WriteCSV(&out, titles, cells); err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(&out).ReadAll()
	if err != nil || len(rows) != 3 ||
		strings.Join(rows[0], "|") != "to|leg distance nm|to height ft|arrive|wind|Minutes|ATA" {
		t.Fatalf("%v %v", rows, err)
	}
	if rows[1][0] != "'=B" || !strings.HasPrefix(rows[1][1], "3.24") || rows[1][2] != "656.2" ||
		!strings.HasSuffix(rows[1][3], "+01:00") || !strings.HasPrefix(rows[1][3], "2026-03-14T06:32") || rows[1][4] != "" ||
		rows[1][5] != "2" || rows[1][6] != "" {
		t.Errorf("%v", rows[1])
	}
	if err := set("to,speeed"); err == nil || !strings.Contains(err.Error(), "did you mean speed?") {
		t.Errorf("%v", err)
	}
}

// Where no speed is asked for it is that of the plan, from a fix on; a speed that is asked for goes before.
func TestPlannedSpeeds(t *testing.T) {
	r := sixKilometres()
	r.Points[0].Fields = []nav.Field{{Key: nav.FieldSpeed, Value: "100kn"}}
	r.Points[1].Fields = []nav.Field{{Key: nav.FieldSpeed, Value: "180km/h"}}
	const knot = 1852.0 / 3600
	for speed, want := range map[float64][2]float64{0: {100 * knot, 50}, 20: {20, 20}} {
		table := (&Step{On: morning, Speed: speed}).Plan(r)
		for i, l := range table.Legs {
			if got := l.Distance / l.Time.Seconds(); math.Abs(got-want[i]) > 0.01 {
				t.Errorf("leg %d goes with %.2f m/s, want %.2f", i+1, got, want[i])
			}
		}
	}
}

// A long leg has the stream of every hour that it is under way: 5 m/s through the water, an hour with 1 m/s from behind
// and then 1 m/s from ahead, are 21.6 km in the first hour and 14.4 km in each that follows.
func TestStreamOfEveryHour(t *testing.T) {
	hour := func(n int) int64 { return morning.Add(time.Duration(n) * time.Hour).UnixNano() }
	row := func(n int, to, speed float64) WindRow {
		return WindRow{Height: math.NaN(), From: hour(n), Drift: Drift{To: to, Speed: speed}}
	}
	lat, lon, _ := geodesy.Direct(-47.6, 11.3, 0, 36000)
	r := &nav.Route{Points: []nav.Waypoint{{Point: nav.At(-47.6, 11.3)}, {Point: nav.At(lat, lon)}}}
	s := &Step{Speed: 5, Depart: time.Unix(0, hour(0)), Currents: Winds{row(0, 0, 1), row(1, 180, 1)}}
	l := s.Plan(r).Legs[0]
	if math.Abs(l.Time.Seconds()-7200) > 1 || math.Abs(l.GroundSpeed-5) > 0.001 {
		t.Errorf("%v at %.3f m/s over the ground, want two hours at 5", l.Time, l.GroundSpeed)
	}
	s.Currents = Winds{row(0, 90, 1), row(1, 270, 1)} // from the side, and then from the other one
	table := s.Plan(r)
	if want := 36000 / math.Sqrt(24); math.Abs(table.Legs[0].Time.Seconds()-want) > 1 {
		t.Errorf("%v, want %.0f s", table.Legs[0].Time, want)
	}
	if told := fmt.Sprint(table.Notes); !strings.Contains(told, "headings from 348° to 012° true") {
		t.Errorf("what one has to steer is not told: %s", told)
	}
	s.Currents = Winds{row(0, 0, 1), row(1, 180, 6)}
	if f := s.Plan(r).Findings; len(f) != 1 || f[0].Code != DriftBeyondControl {
		t.Errorf("a stream that is stronger than the boat: %+v", f)
	}
}
