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
		for _, w := range append([]string{s.Word}, s.Icons...) {
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
