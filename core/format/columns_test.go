package format

import "testing"

func TestParseColumns(t *testing.T) {
	got, err := ParseColumns(`name, lat=Breite,"lon=Länge, Grad",field:depth=Tiefe,field:x,height[ft],speed[kn]=Fahrt`)
	want := []Column{{"name", "name", ""}, {"Breite", "lat", ""}, {"Länge, Grad", "lon", ""}, {"Tiefe", "field:depth", ""},
		{"x", "field:x", ""}, {"height", "height", "ft"}, {"Fahrt", "speed", "kn"}}
	if err != nil || len(got) != len(want) {
		t.Fatalf("%v %v", got, err)
	}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("%v, want %v", got[i], want[i])
		}
	}
	for _, text := range []string{"", "nme", "field:", "name,,lat", "height=ft", "height[kn]", "height[x]", "name[m]"} {
		if got, err := ParseColumns(text); err == nil {
			t.Errorf("%q is %v", text, got)
		}
	}
}

func TestDecodeText(t *testing.T) {
	for raw, want := range map[string]string{"Größe": "Größe", "\ufeffGröße": "Größe", "Gr\xf6\xdfe": "Größe",
		"\xff\xfeG\x00\xf6\x00": "Gö", "\xfe\xff\x00G\x00\xf6": "Gö", "cut Gr\xc3": "cut Gr\xc3"} {
		if got, _ := DecodeText([]byte(raw)); string(got) != want {
			t.Errorf("%q is %q, want %q", raw, got, want)
		}
	}
	if _, guessed := DecodeText([]byte("Gr\xf6\xdfe")); !guessed {
		t.Error("the guess is not told")
	}
}
