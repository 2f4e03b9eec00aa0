package nav

import (
	"math"
	"strings"
	"testing"

	"gyrolith/core/instant"
)

func TestParseLevel(t *testing.T) {
	for text, want := range map[string]Level{
		"1500ft":     {Metres: 457.2, Over: MeanSeaLevel},
		"450 m AMSL": {Metres: 450, Over: MeanSeaLevel}, "1500 FT AGL": {Metres: 457.2,
			Ground: true},
		"FL085": {Metres: 2590.8, Over: PressureLevel}, "GND": {Ground: true}, "sfc": {Ground: true},
		"MSL": {Over: MeanSeaLevel},
		"UNL": {Metres: math.Inf(1), Unlimited: true, Over: MeanSeaLevel},
	} {
		got, err := ParseLevel(text)
		if got.Text = ""; err != nil || math.Abs(got.Metres-want.Metres) > 1e-9 || got.Over != want.Over ||
			got.Ground != want.Ground || got.Unlimited != want.Unlimited {
			t.Errorf("%s: %+v %v", text, got, err)
		}
	}
	for _, text := range []string{"", "high", "1500", "FL", "FL12345", "-", "ft"} {
		if _, err := ParseLevel(text); err == nil {
			t.Errorf("%q is a level", text)
		}
	}
}

func TestLimits(t *testing.T) {
	a := Area{Item: Item{Fields: []Field{{Key: FieldFloor, Value: "GND"}, {Key: FieldCeiling, Value: "low"},
		{Key: FieldFrom, Value: "2026-09-01"}, {Key: FieldUntil, Value: "2027-03-31"}}}}
	l, faults := a.Limits()
	if l.Floor == nil || !l.Floor.Ground || l.Ceiling != nil || len(faults) != 1 || !strings.Contains(faults[0], "low") {
		t.Errorf("%+v %v", l, faults)
	}
	day := func(text string) int64 {
		ns, _, _, _ := instant.Parse([]byte(text), nil)
		return ns
	}
	for text, want := range map[string]bool{"2026-08-31T23:59:59Z": false, "2026-09-01T00:00:00Z": true,
		"2027-03-31T23:00:00Z": true, "2027-04-01T00:00:00Z": false} {
		if l.At(day(text), day(text)) != want {
			t.Errorf("%s: %v", text, !want)
		}
	}
}
