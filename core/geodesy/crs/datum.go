package crs

import (
	"strings"
	"sync"
	"unicode"
)

// plainName brings the name of a system to small letters and digits.
func plainName(name string) string {
	return strings.Map(func(r rune) rune {
		if r = unicode.ToLower(r); unicode.IsLetter(r) || unicode.IsDigit(r) {
			return r
		}
		return -1
	}, name)
}

// byName are the systems of latitude and longitude by their names, and those of datums that have one alone.
var byName = sync.OnceValue(func() map[string]*System {
	out := map[string]*System{}
	add := func(name string, s *System) {
		if old := out[name]; name != "" && (old == nil || old.Code > s.Code) {
			out[name] = s
		}
	}
	for _, s := range geographicSystems() {
		add(plainName(s.Name), s)
	}
	for _, s := range geographicSystems() {
		for _, name := range []string{plainName(s.Geographic.Datum), plainName(s.Geographic.Alias)} {
			if out[name] == nil {
				add(name, s)
			}
		}
	}
	return out
})

// OfDatum finds the system of latitude and longitude of this name, such as ED50, NAD 27 or wgs84; nil if there is none.
func OfDatum(name string) *System {
	found := byName()[plainName(name)]
	if found == nil {
		return nil
	}
	s := *found
	if s.ready() != nil {
		return nil
	}
	return &s
}

// Named finds the first word in a text that is the name of a datum, where it can be nothing else: with a digit, or in
// capital letters.
func Named(text string) *System {
	words := strings.FieldsFunc(text, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '-'
	})
	for i, w := range words {
		tries := []string{w}
		if i+1 < len(words) && strings.IndexFunc(words[i+1], func(r rune) bool { return !unicode.IsDigit(r) }) < 0 {
			tries = append(tries, w+words[i+1]) // NAD 27
		}
		for _, name := range tries {
			if len(name) < 3 || name != strings.ToUpper(name) && !strings.ContainsAny(name, "0123456789") ||
				strings.IndexFunc(name, unicode.IsLetter) < 0 {
				continue
			}
			if s := OfDatum(name); s != nil {
				return s
			}
		}
	}
	return nil
}

// Shifted says whether positions of the system have other degrees in WGS 84, or no shift to it is known.
func (s *System) Shifted() bool { return s != nil && (s.Shift == nil || !s.Shift.null()) }

// SameDatum says whether two systems measure latitude and longitude alike, so that a shift of one is that of the other.
func (s *System) SameDatum(o *System) bool {
	a, b := s.Geographic, o.Geographic
	if a.Code != 0 && b.Code != 0 {
		return a.Code == b.Code || a.Datum == b.Datum && a.Meridian == b.Meridian
	}
	return plainName(a.Datum) == plainName(b.Datum) || plainName(a.Name) == plainName(b.Name)
}
