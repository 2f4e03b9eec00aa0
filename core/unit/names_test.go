package unit

import (
	"strings"
	"testing"
)

// What becomes of letters that a unit has not, by the profile's word for accents and case.
func TestLetters(t *testing.T) {
	for _, c := range []struct {
		text    Text
		in, out string
	}{
		{Text{Characters: "A-Za-z "}, "Østre Båe", "Ostre Bae"},
		{Text{Characters: "A-Za-z "}, "Straße über Æ", "Strasse uber Ae"},
		{Text{Characters: "A-Za-z ", Accents: "drop"}, "Østre Båe", "stre Bae"},
		{Text{Characters: "A-Za-zØå ", Accents: "keep"}, "Østre Båe", "Østre Båe"},
		{Text{Characters: "A-Za-z ", Accents: "keep"}, "Båe", "Bae"},
		{Text{Characters: "A-Z "}, "Cairn Hill", "CAIRN HILL"},
		{Text{Characters: "a-z ", Case: "lower"}, "Cairn HILL", "cairn hill"},
		{Text{Case: "upper"}, "Båe", "BÅE"},
		{Text{}, "as it is: Øß…", "as it is: Øß…"},
		{Text{Characters: "A-Za-z0-9"}, "tabs\tand\nlines", "tabs and lines"},
		{Text{Characters: "A-Z", Case: "upper"}, "日本", "RI BEN"},
		{Text{Characters: "A-Za-z' -"}, "Grey Mare’s – Foal", "Grey Mare's - Foal"},
	} {
		if got := spelled(&c.text, c.in); got != c.out {
			t.Errorf("%q by %+v: %q, want %q", c.in, c.text, got, c.out)
		}
	}
}

// Names of five characters can be told apart and still say what they stand for.
func TestIdentifiers(t *testing.T) {
	n := NewNamer(Text{Length: 5, Characters: "A-Z0-9", Case: "upper"})
	for _, c := range []struct{ in, out string }{
		{"Lantern Head north", "LANTN"}, {"Lantern Head south", "LANTS"}, {"Rock 10", "ROC10"}, {"Rock 1", "ROCK1"},
		{"The Teeth, outer", "TEEOU"},
		{"VC01", "VC01"}, {"Sexton", "SEXTN"}, {"Sexton", "SEXTB"}, {"A B", "AB"}, {"", "POIN1"}, {"1234567", "POINC"},
	} {
		got := n.Fit(c.in, "point")
		if len(got) > 5 || got == "" || strings.ToUpper(got) != got {
			t.Errorf("%q becomes %q", c.in, got)
		}
		if c.in != "Sexton" && got != c.out {
			t.Errorf("%q becomes %q, want %q", c.in, got, c.out)
		}
	}
}

func TestUnique(t *testing.T) {
	same := NewNamer(Text{Length: 6, Unique: "none"})
	if a, b := same.Fit("Landing", "x"), same.Fit("Landing", "x"); a != b {
		t.Errorf("names need not differ, and are %q and %q", a, b)
	}
	apart := NewNamer(Text{Length: 6})
	seen := map[string]bool{}
	for range 120 {
		name := apart.Fit("Landing", "x")
		if seen[strings.ToLower(name)] || len(name) > 6 {
			t.Fatalf("%q", name)
		}
		seen[strings.ToLower(name)] = true
	}
}

func TestRoomForFileNames(t *testing.T) {
	for _, c := range []struct {
		name   string
		length int
	}{{"Landing to Cairn Hill", 8}, {"Ø", 8}, {"", 3}, {"con", 8}, {"a/b/c", 8}, {strings.Repeat("long ", 40), 40}} {
		got := FileName(c.name, c.length)
		if got == "" || len(got) > c.length+1 || strings.ContainsAny(got, `/\:*?"<>|`) {
			t.Errorf("%q in %d becomes %q", c.name, c.length, got)
		}
	}
}
