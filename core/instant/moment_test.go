package instant

import (
	"testing"
	"time"
)

func TestParseZone(t *testing.T) {
	for text, want := range map[string]int{"UTC": 0, "+02:00": 7200, "-09:30": -34200} {
		zone, err := ParseZone(text)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if _, offset := time.Unix(0, 0).In(zone).Zone(); offset != want {
			t.Errorf("%s: %d seconds", text, offset)
		}
	}
	for _, text := range []string{"", "noon", "+2", "2:00", "+25:00"} {
		if _, err := ParseZone(text); err == nil {
			t.Errorf("%q is taken", text)
		}
	}
}

// A day counts whole: since its beginning, until its end, in the zone that is meant.
func TestParseMoment(t *testing.T) {
	east := time.FixedZone("", 2*3600)
	for _, c := range []struct {
		text string
		zone *time.Location
		end  bool
		want string
	}{
		{"2026-03-14", nil, false, "2026-03-14T00:00:00Z"}, {"2026-03-14", nil, true, "2026-03-14T23:59:59.999999999Z"},
		{"2026-03-14", east, false, "2026-03-13T22:00:00Z"}, {"2026-03", nil, true, "2026-03-31T23:59:59.999999999Z"},
		{"2024", nil, true, "2024-12-31T23:59:59.999999999Z"}, {"2026-03-14T05:30", east, false, "2026-03-14T03:30:00Z"},
		{"2026-03-14T05:30:00Z", east, true, "2026-03-14T05:30:00Z"},
	} {
		at, err := ParseMoment(c.text, c.zone, c.end)
		if got := at.UTC().Format(time.RFC3339Nano); err != nil || got != c.want {
			t.Errorf("%s %v: %s, %v", c.text, c.end, got, err)
		}
	}
}
