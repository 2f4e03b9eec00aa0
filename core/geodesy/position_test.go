package geodesy

import (
	"errors"
	"math"
	"strings"
	"testing"
)

// All of these are one place, as people write it.
func TestPositionsOfOnePlace(t *testing.T) {
	for _, text := range []string{
		"-47.6 11.3", "-47.6, 11.3", "-47.6,11.3", "-47,6 11,3", "-47,6; 11,3", "-47,60 / 11,30", "47.6S 11.3E",
		"S47.6 E11.3", "s 47.6, e 11.3",
		"11.3E 47.6S", "47.6° S 11.3° E", "47,60000° S 11,30000° E", "47°36'S 11°18'E", "47° 36.000' S, 011° 18.000' E",
		"47º36′00″S 011º18′00″E",
		"47 36 S 11 18 E", "47 36 00 S 011 18 00 E", "47:36:00S 11:18:00E", "S47 36.0 E011 18.0", "-47 36 11 18",
		"-47 36 0 11 18 0", "−47°36′ +11°18′",
		"-47:36 11:18", "4736S01118E", "473600S0111800E", "S4736E01118", "4736.0S01118.0E", "4736S/01118E", "4736S 01118E",
		"Lat: -47.6 Lon: 11.3",
		"Lat 47°36' S Long 11°18' E", "47.6 South 11.3 East", "47 deg 36 min S 11 deg 18 min E", "(-47.6, 11.3)",
		"47°36'00.0''S 11°18'00.0''E",
	} {
		lat, lon, err := ParsePosition(text)
		if err != nil || math.Abs(lat+47.6) > 1e-12 || math.Abs(lon-11.3) > 1e-12 {
			t.Errorf("%q: %v %v %v", text, lat, lon, err)
		}
	}
	for _, text := range []string{"32 south 672887.55 4725593.40", "32G 672887.55 4725593.40",
		"UTM zone 32 G 672887.55 m E 4725593.40 m N", "32 G 672887.55E 4725593.40N", "33 south 221887.25 4721520.90"} {
		lat, lon, err := ParsePosition(text)
		if d, _, _ := Inverse(lat, lon, -47.6, 11.3); err != nil || d > 0.01 {
			t.Errorf("%q: %v %v %v", text, lat, lon, err)
		}
	}
}

// The expected figures are those of the reference implementation of the grid (GeographicLib 2.1, its command for
// conversions), which reads a reference as the middle of its square.
func TestMGRS(t *testing.T) {
	for _, c := range []struct {
		lat, lon float64
		want     string
	}{
		{-47.6, 11.3, "32GPN7288725593"},
		{0, 0, "31NAA6602100000"},
		{-0.00001, -179.99, "1MAV6713599998"},
		{60.5, 5.2, "32VKN9133013123"},
		{78.2, 15.6, "33XWG1369680760"},
		{73, 9.5, "33XUB2074308714"},
		{72.5, 33.2, "37XCA0560454098"},
		{-80, 1, "31CDM6123517747"},
		{83.99, -1, "30XWU2337427383"},
		{84.5, 40, "ZFC9279531884"},
		{88, -120, "YYJ0768211034"},
		{90, 0, "ZAH0000000000"},
		{-85, 100, "BHM4701803545"},
		{-81, -170, "AYC2614514019"},
		{-90, 0, "BAN0000000000"},
		{8, -75.001, "18PVP9988984297"},
		{32, 140.5, "54SVA5277240544"},
		{-33.5, 151, "56HLH1421491490"},
	} {
		got := MGRS(c.lat, c.lon, 5)
		if strings.ReplaceAll(got, " ", "") != c.want {
			t.Errorf("%v %v: %s, want %s", c.lat, c.lon, got, c.want)
		}
		lat, lon, err := ParsePosition(c.want)
		if d, _, _ := Inverse(lat, lon, c.lat, c.lon); err != nil || d > 0.75 {
			t.Errorf("%s: %v %v %v, %.2f m off", c.want, lat, lon, err, d)
		}
	}
	for text, want := range map[string][2]float64{
		"32GPV7225":       {-41.30352580870531, 11.06051604733473},
		"32GPV728255":     {-41.30300081725824, 11.06468000232381},
		"31NAA6602100000": {0.00000451741552, 0.00000051081506},
		"ZAH0000000000":   {89.99999363103514, 135.00000000000000},
		"BFS1234567890":   {-84.93608482132466, 33.72553201617419},
	} {
		lat, lon, err := ParsePosition(text)
		if d, _, _ := Inverse(lat, lon, want[0], want[1]); err != nil || d > 0.01 {
			t.Errorf("%s: %v %v %v, %.2f m off", text, lat, lon, err, d)
		}
	}
}

func TestPositionsOfTwoMinds(t *testing.T) {
	for text, want := range map[string]string{
		"-47.6S 11.3E":             "both a sign and a letter",
		"47°60'S 11°18'E":          "has 60 minutes",
		"47 36 60 S 11 18 0 E":     "has 60 seconds",
		"4760S01118E":              "has 60 minutes",
		"91S 011E":                 "beyond 90",
		"47S181E":                  "beyond 180",
		"-47.6 190":                "beyond 180",
		"47.6S 11.3":               "only one of the two",
		"47.6S 11.3N":              "the same kind of letter",
		"47.6 36 S 11.3 18 E":      "has decimals in",
		"32S 672887 4725593":       "southern half of the earth, or the latitude band S",
		"32N 672887 725593":        "northern half of the earth, or the latitude band N",
		"61 south 672887 4725593":  "no UTM zone 61",
		"32H 672887 4725593":       "not in the band H",
		"32 south 72887 4725593":   "outside of a UTM zone",
		"32 south 999999999 472":   "outside of a UTM zone",
		"32 south 1672887 4725593": "outside of a UTM zone",
		"32GPV7288 725593":         "as many",
		"32GAA1234512345":          "no square AA in zone 32",
		"32GPV123":                 "3 digits, which",
		"Sorrel Landing":           "is not a position",
		"":                         "is not a position", "47": "is not a position", "1 2 3": "is not a position",
		"47.6.1 11.3": "is not a position", "12:30 UTC": "is not a position",
	} {
		lat, lon, err := ParsePosition(text)
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v %v %v, want %q", text, lat, lon, err, want)
		}
	}
}

// What is written is read again, in every notation and everywhere on the earth.
func TestNotationsAreRead(t *testing.T) {
	if testing.Short() {
		t.Skip("long, and nothing in it happens side by side")
	}
	off := map[Notation]float64{Degrees: 1, Minutes: 1.4, SecondsOfArc: 2.3, Grid: 0.8, MilitaryGrid: 0.8, FlightPlan: 22}
	for lat := -90.0; lat <= 90; lat += 2.37 {
		for lon := -179.9; lon < 180; lon += 3.93 {
			for n, most := range off {
				text := n.Format(lat, lon)
				la, lo, err := ParsePosition(text)
				d, _, _ := Inverse(la, lo, lat, lon)
				if err != nil || d > most {
					t.Fatalf("%v %v as %s: %q is read as %v %v, %.1f m off, %v", lat, lon, n, text, la, lo, d, err)
				}
				if again := n.Format(la, lo); again != text && n != Grid {
					t.Errorf("%q becomes %q", text, again)
				}
			}
		}
	}
}

func FuzzParsePosition(f *testing.F) {
	for _, s := range []string{"-47.6 11.3", "47°36.000' S 011°18.000' E", "4736S01118E", "32 south 672887 4725593",
		"32G PV 72887 25593", "UPS south 2000000 2000000", "Lat: 1 Lon: 2", "1,5 2,5", "N E", "-", "°"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		lat, lon, err := ParsePosition(s)
		if err == nil && !(lat >= -90 && lat <= 90 && lon >= -180 && lon < 180) {
			t.Errorf("%q: %v %v", s, lat, lon)
		}
		if err != nil && err.Error() == "" || errors.Is(err, nil) && err != nil {
			t.Errorf("%q: an error without words", s)
		}
	})
}
