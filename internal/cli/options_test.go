package cli

import (
	"slices"
	"testing"
	"time"
)

func TestParseSize(t *testing.T) {
	for text, want := range map[string]int64{"500MB": 500e6, "4GiB": 4 << 30, "1024": 1024, "1.5 KiB": 1536, "2tb": 2e12} {
		if got, err := parseSize(text); err != nil || got != want {
			t.Errorf("%s: %d, %v", text, got, err)
		}
	}
	for _, text := range []string{"", "much", "-5MB", "0", "5 apples", "1e30TiB"} {
		if got, err := parseSize(text); err == nil {
			t.Errorf("%q is taken as %d", text, got)
		}
	}
}

func TestParseZone(t *testing.T) {
	for text, want := range map[string]int{"UTC": 0, "+02:00": 7200, "-09:30": -34200} {
		zone, err := parseZone(text)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if _, offset := time.Unix(0, 0).In(zone).Zone(); offset != want {
			t.Errorf("%s: %d seconds", text, offset)
		}
	}
	for _, text := range []string{"", "noon", "+2", "2:00", "+25:00"} {
		if _, err := parseZone(text); err == nil {
			t.Errorf("%q is taken", text)
		}
	}
}

// A day counts whole: since its beginning, until its end, in the zone that is meant.
func TestParseWhen(t *testing.T) {
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
		ns, err := parseWhen(c.text, c.zone, c.end)
		if got := time.Unix(0, ns).UTC().Format(time.RFC3339Nano); err != nil || got != c.want {
			t.Errorf("%s %v: %s, %v", c.text, c.end, got, err)
		}
	}
}

// A negative number after an option is its value; a file's name and what follows -- are left alone.
func TestJoinNegative(t *testing.T) {
	got := joinNegative([]string{"look", "--inside", "-10,-20,5,6", "-5.gpx", "--take", "x", "--", "--a", "-1"})
	want := []string{"look", "--inside=-10,-20,5,6", "-5.gpx", "--take", "x", "--", "--a", "-1"}
	if !slices.Equal(got, want) {
		t.Errorf("got %q", got)
	}
}

func TestShow(t *testing.T) {
	for text, want := range map[string]string{"Østre Båe": "Østre Båe", "a\x1b[2Jb": `a\u001b[2Jb`, "x\u202ey": `x\u202ey`, "l\nm": `l\u000am`} {
		if got := show(text); got != want {
			t.Errorf("%q is shown as %q", text, got)
		}
	}
	if got := oneLine("a long name\nof a place", 10); got != "a long na…" {
		t.Errorf("got %q", got)
	}
}
