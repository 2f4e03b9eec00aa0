package symbol

import (
	"regexp"
	"testing"
)

func TestWordsAreSound(t *testing.T) {
	plain := regexp.MustCompile(`^[a-z]+(-[a-z]+)*$`)
	seen := map[string]string{}
	for _, s := range All {
		if !plain.MatchString(s.Word) || s.Shows == "" {
			t.Errorf("%+v", s)
		}
		for _, w := range append([]string{s.Word}, s.Words()...) {
			if other, twice := seen[w]; twice {
				t.Errorf("%q stands for %s and %s", w, other, s.Word)
			}
			seen[w] = s.Word
		}
	}
}

func TestFromIcon(t *testing.T) {
	for href, want := range map[string]string{
		"files/rock.png": "rock", "icons/ROCKS.PNG": "rock",
		"http://maps.veldrin.example/shapes/parking_lot.png": "parking", "camp-site-2.png": "camp",
		`C:\icons\Anchor.gif`:    "anchorage",
		"pushpin/red-anchor.png": "anchorage", "red-pushpin.png": "mark", "flag-hazard.png": "hazard", "a.png?x=rock": "",
		"": "", "drop_zone.svg": "drop-zone", "first-aid.png": "first-aid", "blue.png": "",
	} {
		if got := FromIcon(href); got != want {
			t.Errorf("%s: %q, want %q", href, got, want)
		}
	}
}

func TestNearest(t *testing.T) {
	for word, want := range map[string]string{"hazrd": "hazard", "Anchorag": "anchorage", "spaceport": ""} {
		if got := Nearest(word); got != want {
			t.Errorf("%s: %q", word, got)
		}
	}
	if s, ok := ByWord("Rock-Awash"); !ok || s.Realm != Sea {
		t.Error("a word in capitals")
	}
}

// From every symbol the broader ones lead to the plain mark.
func TestLike(t *testing.T) {
	for _, s := range All {
		n := 0
		for word := s.Word; word != "mark"; word = Like(word) {
			if _, ok := ByWord(word); !ok || n > 5 {
				t.Errorf("%s leads to %q", s.Word, word)
				break
			}
			n++
		}
	}
}

// What people call a symbol is understood in any case, with or without its colour, and nothing is guessed.
func TestMeaning(t *testing.T) {
	for text, want := range map[string]string{
		"camp": "camp", "Campground": "camp", "CAMP SITE": "camp", "camp-site": "camp", "car park": "parking",
		"Parking Area": "parking", "peak": "summit", "Summit": "summit", "Drinking Water": "water", "spring": "spring",
		"Anchorage": "anchorage", "Anchor": "anchorage", "mooring": "mooring", "Buoys": "buoy", "Buoy, White": "buoy",
		"Flag, Blue": "flag", "flag_red": "flag", "rock_awash": "rock-awash", "Lighthouse": "light", "Light": "light",
		"Waypoint": "mark", "boat ramp": "slipway", "Airport": "airfield", "Radio Tower": "mast",
		"": "", "Zeppelin": "", "Bank": "", "Water Sports Shop": "", "Blue": "", "fishmonger": "",
	} {
		if got := Meaning(text); got != want {
			t.Errorf("%q means %q, want %q", text, got, want)
		}
	}
	if len(byPhrase()) < 200 {
		t.Errorf("only %d words are known", len(byPhrase()))
	}
	for _, symbol := range All {
		if _, ok := ByWord(symbol.like); symbol.like != "" && !ok {
			t.Errorf("%q is no symbol", symbol.like)
		}
	}
	for phrase, word := range byPhrase() {
		if got := Meaning(phrase); got != word {
			t.Errorf("%q means %q, want %q", phrase, got, word)
		}
	}
}
