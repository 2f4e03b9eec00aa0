package picture

import "testing"

func TestParseSize(t *testing.T) {
	for text, want := range map[string][2]int{"640x480": {640, 480}, "1000×700": {1000, 700}} {
		if w, h, err := ParseSize(text); err != nil || w != want[0] || h != want[1] {
			t.Errorf("%q: %d %d %v", text, w, h, err)
		}
	}
	for _, text := range []string{"x", "10x10", "640", "640x", "99999x500", "-640x480"} {
		if _, _, err := ParseSize(text); err == nil {
			t.Errorf("%q is a size", text)
		}
	}
	for text, want := range map[string]float64{"1:25000": 25000, "25,000": 25000, "1:25 000": 25000} {
		if v, err := ParseScale(text); err != nil || v != want {
			t.Errorf("%q: %v %v", text, v, err)
		}
	}
	for _, text := range []string{"1:0", "big", "1:5", "-3"} {
		if _, err := ParseScale(text); err == nil {
			t.Errorf("%q is a scale", text)
		}
	}
}
