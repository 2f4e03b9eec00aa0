package measure

import (
	"math"
	"strings"
	"testing"
	"time"
)

func TestParse(t *testing.T) {
	for _, c := range []struct {
		text   string
		metres float64
	}{{"5m", 5}, {"0.3nm", 555.6}, {"800ft", 243.84}, {"1.2 km", 1200}, {"2mi", 3218.688}} {
		if got, err := ParseLength(c.text); err != nil || math.Abs(got-c.metres) > 1e-9 {
			t.Errorf("%s: %v, %v", c.text, got, err)
		}
	}
	for _, c := range []struct {
		text string
		ms   float64
	}{{"12kn", 6.173333333}, {"4km/h", 1.111111111}, {"1.5m/s", 1.5}} {
		if got, err := ParseSpeed(c.text); err != nil || math.Abs(got-c.ms) > 1e-8 {
			t.Errorf("%s: %v, %v", c.text, got, err)
		}
	}
	for _, c := range []struct {
		text string
		want time.Duration
	}{{"90s", 90 * time.Second}, {"5min", 5 * time.Minute}, {"2h", 2 * time.Hour}, {"1.5h", 90 * time.Minute},
		{"7h2min13s", 25333 * time.Second}, {"7 h 2 min 13 s", 25333 * time.Second}, {"-1h30min", -90 * time.Minute}} {
		if got, err := ParseDuration(c.text); err != nil || got != c.want {
			t.Errorf("%s: %v, %v", c.text, got, err)
		}
	}
}

// A quantity without its measure, or with one that could be two, is refused with advice.
func TestRefused(t *testing.T) {
	for _, c := range []struct{ text, want string }{{"5", "write 5m"}, {"m", "not a length"}, {"5 furlongs", "not a " +
		"length"},
		{"", "not a length"}, {"1e999m", "not a length"}} {
		if _, err := ParseLength(c.text); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("length %q: %v", c.text, err)
		}
	}
	if _, err := ParseDuration("5m"); err == nil || !strings.Contains(err.Error(), "5min") {
		t.Errorf("duration 5m: %v", err)
	}
	for _, text := range []string{"5", "fast", "5m"} {
		if _, err := ParseSpeed(text); err == nil {
			t.Errorf("speed %q is taken", text)
		}
	}
	if _, err := ParseSystem("imperial"); err == nil {
		t.Error("a system of measures that there is not")
	}
}

func TestWrite(t *testing.T) {
	for _, c := range []struct{ got, want string }{
		{Metric.Length(0), "0.0 m"}, {Metric.Length(816.4), "816 m"}, {Metric.Length(18880), "18.88 km"},
		{Metric.Length(1234567), "1,235 km"},
		{Nautical.Length(1852), "1.00 nm"}, {Nautical.Length(60), "60.0 m"}, {Flight.Height(304.8), "1000 ft"},
		{Metric.Height(-0.01), "0.0 m"},
		{Metric.Speed(1), "3.6 km/h"}, {Flight.Speed(1852.0 / 3600), "1.0 kn"}, {Count(1234567), "1,234,567"},
		{Count(-1000), "-1,000"}, {Count(999), "999"},
		{Duration(3*time.Hour + 19*time.Minute), "3 h 19 min"}, {Duration(49 * time.Hour), "2 d 1 h"},
		{Duration(10 * time.Minute), "10 min"}, {Duration(2 * time.Hour), "2 h"}, {Duration(48 * time.Hour), "2 d"},
		{Exactly(25333 * time.Second), "7 h 2 min 13 s"}, {Exactly(-90 * time.Second), "-1 min 30 s"},
		{Exactly(100 * time.Millisecond), "0.1 s"}, {Exactly(26 * time.Hour), "1 d 2 h"},
		{Duration(5 * time.Second), "5 s"}, {Duration(-90 * time.Second), "-1 min 30 s"},
	} {
		if c.got != c.want {
			t.Errorf("got %q, want %q", c.got, c.want)
		}
	}
}

func TestParseSize(t *testing.T) {
	for text, want := range map[string]int64{"500MB": 500e6, "4GiB": 4 << 30, "1024": 1024, "1.5 KiB": 1536, "2tb": 2e12} {
		if got, err := ParseSize(text); err != nil || got != want {
			t.Errorf("%s: %d, %v", text, got, err)
		}
	}
	for _, text := range []string{"", "much", "-5MB", "0", "5 apples", "1e30TiB"} {
		if got, err := ParseSize(text); err == nil {
			t.Errorf("%q is taken as %d", text, got)
		}
	}
}

// What only damaged data or a slip of the finger gives is written, or refused; it never ends the program.
func TestExtremes(t *testing.T) {
	for got, want := range map[string]string{
		Count(math.MinInt): "-9,223,372,036,854,775,808", Metric.Length(1e300): "1e+297 km",
		Nautical.Length(-1e300): "-5.4e+296 nm", Metric.Height(1e23): "1e+23 m", Metric.Length(math.Inf(1)): "+Inf km",
		Duration(math.MinInt64): "-106751 d 23 h",
	} {
		if got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
	for text, parse := range map[string]func(string) error{
		"1e300m":     func(s string) error { _, err := ParseLength(s); return err },
		"1e12km/h":   func(s string) error { _, err := ParseSpeed(s); return err },
		"1e300h":     func(s string) error { _, err := ParseDuration(s); return err },
		"1e99ft/min": func(s string) error { _, err := ParseRate(s); return err },
	} {
		if err := parse(text); err == nil || !strings.Contains(err.Error(), "impossibly large") {
			t.Errorf("%s: %v", text, err)
		}
	}
}
