package format

import (
	"strings"
	"testing"
)

func TestColumns(t *testing.T) {
	got, _, err := DataWords.Parse(`name, lat=Breite,"lon=Länge, Grad",field:depth=Tiefe,field:x,height[ft],` +
		`speed[kn]=Fahrt,leg-distance,blank:ATA`)
	want := []Column{{"name", "name", "", false}, {"Breite", "lat", "", true}, {"Länge, Grad", "lon", "", true},
		{"Tiefe", "field:depth", "", true}, {"x", "field:x", "", false}, {"height", "height", "ft", false},
		{"Fahrt", "speed", "kn", true}, {"leg distance", "leg-distance", "", false}, {"ATA", "blank:ATA", "", false}}
	if err != nil || len(got) != len(want) {
		t.Fatalf("%v %v", got, err)
	}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("%v, want %v", got[i], want[i])
		}
	}
	for _, text := range []string{"", "nme", "field:", "blank:", "name,,lat", "height=ft", "height[kn]", "height[x]",
		"name[m]", "elapsed[m]"} {
		if got, _, err := DataWords.Parse(text); err == nil {
			t.Errorf("%q is %v", text, got)
		}
	}
	if _, _, err := DataWords.Parse("heigt[ft]"); err == nil || !strings.Contains(err.Error(), "did you mean height?") {
		t.Errorf("%v names no word that comes near", err)
	}
}

// A word of an earlier release is understood, and said.
func TestWordsOfBefore(t *testing.T) {
	w := Words{List: DataWords.List, Were: map[string]string{"total": "along"}}
	got, notes, err := w.Parse("total[nm]=Log")
	if err != nil || got[0] != (Column{"Log", "along", "nm", true}) || len(notes) != 1 ||
		!strings.Contains(notes[0], "total is called along now") {
		t.Errorf("%v %v %v", got, notes, err)
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
