package instant

import (
	"math/rand/v2"
	"regexp"
	"testing"
	"time"
)

func TestTimeKeepsPrecision(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{"2026-03-14T05:30:00Z", "2026-03-14T05:30:00Z"},
		{"2026-03-14T05:30:00.120Z", "2026-03-14T05:30:00.120Z"},
		{"2026-03-14T07:30:00+02:00", "2026-03-14T05:30:00Z"},
		{"2026-03-14T02:00:00-03:30", "2026-03-14T05:30:00Z"},
		{"2026-03-14 05:30Z", "2026-03-14T05:30:00Z"},
		{"2026-03-14T24:00:00Z", "2026-03-15T00:00:00Z"},
		{"2016-12-31T23:59:60Z", "2017-01-01T00:00:00Z"},
		{"1969-12-31T23:59:59.5Z", "1969-12-31T23:59:59.5Z"},
		{"1900-03-01", "1900-03-01"}, {"2000-02-29", "2000-02-29"}, {"2026-03", "2026-03"}, {"2026", "2026"},
		{"2026-03-14T05:30:00.123456789123Z", "2026-03-14T05:30:00.123456789Z"},
		{"2026-02-29", ""}, {"1900-02-29", ""}, {"2026-13-01", ""}, {"2026-03-14T25:00:00Z", ""}, {"14.3.2026", ""}, {"", ""},
		{"2026-03-14T05:30:00Zx", ""}, {"2026-3-14", ""}, {"9999-01-01", ""}, {"0000-00-00", ""},
	} {
		ns, mark, _, ok := Parse([]byte(c.text), nil)
		got := ""
		if ok {
			got = string(Append(nil, ns, mark))
		}
		if got != c.want {
			t.Errorf("%q: got %q, want %q", c.text, got, c.want)
		}
	}
}

// A time without a zone is read by the clock that the user names.
func TestTimeWithoutZone(t *testing.T) {
	ns, _, zoned, ok := Parse([]byte("2026-03-14T05:30:00"), time.FixedZone("", 2*3600))
	if got := time.Unix(0, ns).UTC().Format(time.RFC3339); !ok || zoned || got != "2026-03-14T03:30:00Z" {
		t.Errorf("got %s %v %v", got, zoned, ok)
	}
}

var rfc3339 = regexp.MustCompile(`^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?(Z|[+-]([01]\d|2[0-3]):[0-5]\d)$`)

// The standard library's time package is the judge.
func FuzzTime(f *testing.F) {
	f.Add("2026-03-14T05:30:00Z")
	f.Add("1969-12-31T23:59:59.5+05:30")
	f.Fuzz(func(t *testing.T, s string) {
		want, err := time.Parse(time.RFC3339Nano, s)
		// The judge takes more than the standard has, such as an hour of one digit.
		if err != nil || want.Year() < firstYear || want.Year() > lastYear || !rfc3339.MatchString(s) {
			return
		}
		ns, mark, zoned, ok := Parse([]byte(s), nil)
		if !ok || !zoned {
			t.Fatalf("%q: refused", s)
		}
		if ns != want.UnixNano() {
			t.Fatalf("%q: %d, the judge has %d", s, ns, want.UnixNano())
		}
		back, err := time.Parse(time.RFC3339Nano, string(Append(nil, ns, mark)))
		if err != nil || back.UnixNano() != ns {
			t.Fatalf("%q is written as %s", s, Append(nil, ns, mark))
		}
		var c Clock
		if fast, fastMark, ok := c.Parse([]byte(s)); ok && (fast != ns || fastMark != mark) {
			t.Fatalf("%q: the clock reads %d %d, want %d %d", s, fast, fastMark, ns, mark)
		}
	})
}

func TestEveryDay(t *testing.T) {
	day := time.Date(1899, 12, 28, 0, 0, 0, 0, time.UTC)
	for range 60000 {
		text := day.Format(time.DateOnly)
		ns, mark, _, ok := Parse([]byte(text), nil)
		if !ok || ns != day.UnixNano() || string(Append(nil, ns, mark)) != text {
			t.Fatalf("%s: %v %d %s", text, ok, ns, Append(nil, ns, mark))
		}
		day = day.AddDate(0, 0, 1)
	}
}

// Years that can't be held and leap seconds are told from what is no time at all.
func TestTimeDoubt(t *testing.T) {
	for text, want := range map[string][2]bool{
		"1677-01-01T00:00:00Z": {true, false}, "2300-01-01": {true, false}, "12026-03-14T05:30:00Z": {true, false},
		"2016-12-31T23:59:60Z": {false, true}, "2026-03-14T05:30:00Z": {}, "": {}, "14/03/2026": {}, "5:30": {},
		"46123": {}, "1600": {true, false}, "0": {}, "Rock": {},
	} {
		if beyond, leap := Doubtful([]byte(text)); beyond != want[0] || leap != want[1] {
			t.Errorf("%q: %v %v", text, beyond, leap)
		}
	}
	if ns, _, _, ok := Parse([]byte("2016-12-31T23:59:60Z"), nil); !ok || ns != 1483228800e9 {
		t.Errorf("the leap second is %d", ns)
	}
}

// A clock reads and writes times as they are read and written without one, whatever came before.
func TestClock(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	var c Clock
	at := int64(1.7e18)
	for i := range 300_000 {
		if at += random.Int64N(3e9); i%50 == 0 {
			at = random.Int64() - random.Int64()
		}
		mark := Mark(random.IntN(int(Seconds) + 10))
		text := Append(nil, at, mark)
		if got := c.Append([]byte("x"), at, mark); string(got) != "x"+string(text) {
			t.Fatalf("%d of precision %d is %s, not %s", at, mark, got[1:], text)
		}
		if len(text) > 0 && i%3 == 0 {
			text[random.IntN(len(text))] = "0123456789:-.TZ \x00\xff"[random.IntN(18)]
		}
		ns, read, ok := c.Parse(text)
		if !ok {
			if mark >= Seconds && i%3 > 0 {
				t.Fatalf("%s isn't read", text)
			}
			continue
		}
		if want, wantMark, zoned, ok := Parse(text, nil); !ok || !zoned || ns != want || read != wantMark {
			t.Fatalf("%q is %d, %d, not %d, %d", text, ns, read, want, wantMark)
		}
	}
}
