package geodesy

import "testing"

func TestNotation(t *testing.T) {
	for _, c := range []struct {
		n        Notation
		lat, lon float64
		want     string
	}{
		{Degrees, -47.60125, 11.3021, "47.60125° S 11.30210° E"},
		{Minutes, -47.60125, 11.3021, "47°36.075′ S 011°18.126′ E"},
		{SecondsOfArc, -47.60125, 11.3021, "47°36′04.5″ S 011°18′07.6″ E"},
		{Minutes, 59.9999999, -0.9999999, "60°00.000′ N 001°00.000′ W"}, // no minutes of 60
		{SecondsOfArc, 0.9999999, 179.9999999, "01°00′00.0″ N 180°00′00.0″ E"},
	} {
		if got := c.n.Format(c.lat, c.lon); got != c.want {
			t.Errorf("%v %v: got %s, want %s", c.lat, c.lon, got, c.want)
		}
	}
	if _, err := ParseNotation("polar"); err == nil {
		t.Error("a notation that there is not")
	}
}
