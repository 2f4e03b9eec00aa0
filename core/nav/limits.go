package nav

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
)

// The fields that say of an area between which heights and when it holds.
const (
	FieldFloor   = "floor"
	FieldCeiling = "ceiling"
	FieldFrom    = "valid from"
	FieldUntil   = "valid until"
)

// LimitWords calls the fields of IsLimit.
const LimitWords = "floor, ceiling, valid from and valid until"

// FieldSpeed is the field of a route's point with the speed from there on, such as 110kn.
const FieldSpeed = "speed"

// IsLimit says whether a field says when or between which heights an area holds, and can be read so.
func IsLimit(f *Field) bool {
	switch f.Key {
	case FieldFloor, FieldCeiling:
		_, err := ParseLevel(f.Value)
		return err == nil
	case FieldFrom, FieldUntil:
		_, _, _, ok := instant.Parse([]byte(f.Value), nil)
		return ok
	}
	return false
}

// Level is a height that bounds an area.
type Level struct {
	Metres    float64
	Over      VerticalDatum // MeanSeaLevel or PressureLevel; DatumUnstated where Ground is set
	Ground    bool          // above the ground
	Unlimited bool
	Text      string // as the source has it
}

const footMetres = 0.3048 // the international foot, ISO 80000-3

// ParseLevel reads a height as aeronautical publications write it (ICAO Annex 15): 1500ft, 450m, with AMSL or AGL
// behind it; FL085; GND, SFC or MSL; UNL.
func ParseLevel(text string) (Level, error) {
	l := Level{Text: strings.TrimSpace(text), Over: MeanSeaLevel}
	s := strings.ToUpper(strings.ReplaceAll(l.Text, " ", ""))
	switch s {
	case "GND", "SFC", "GROUND", "SURFACE":
		l.Ground, l.Over = true, DatumUnstated
		return l, nil
	case "MSL", "SEA", "0":
		return l, nil
	case "UNL", "UNLIM", "UNLIMITED":
		l.Unlimited, l.Metres = true, math.Inf(1)
		return l, nil
	}
	if n, ok := strings.CutPrefix(s, "FL"); ok {
		v, err := strconv.ParseUint(n, 10, 16)
		if err != nil || len(n) > 3 {
			return l, fmt.Errorf("%q is not a flight level: it has up to three digits, such as FL085", text)
		}
		l.Metres, l.Over = float64(v)*100*footMetres, PressureLevel
		return l, nil
	}
	for _, suffix := range []string{"AMSL", "MSL", "ALT", "AGL", "HGT"} { // the longer of two first
		if rest, ok := strings.CutSuffix(s, suffix); ok {
			s, l.Ground = rest, suffix == "AGL" || suffix == "HGT"
			break
		}
	}
	factor := 1.0
	if rest, ok := strings.CutSuffix(s, "FT"); ok {
		s, factor = rest, footMetres
	} else if rest, ok := strings.CutSuffix(s, "M"); ok {
		s = rest
	} else {
		return l, fmt.Errorf("%q is not a limit of height: write 1500ft, 450m, FL085, GND or UNL", text)
	}
	v, _, ok := decimal.Parse([]byte(s))
	if !ok {
		return l, fmt.Errorf("%q is not a limit of height: write 1500ft, 450m, FL085, GND or UNL", text)
	}
	if l.Metres = v * factor; l.Ground {
		l.Over = DatumUnstated
	}
	return l, nil
}

// Limits are the heights and times between which an area holds; nil where there is no bound.
type Limits struct {
	Floor, Ceiling *Level
	From, Until    *int64 // nanoseconds since 1970 UTC
}

// limitWords are other words for the fields of limits, as lists of airspaces have them.
var limitWords = map[string]string{"lower": FieldFloor, "lower limit": FieldFloor, "lowerlimit": FieldFloor,
	"bottom": FieldFloor, "base": FieldFloor, "upper": FieldCeiling, "upper limit": FieldCeiling,
	"upperlimit": FieldCeiling, "top": FieldCeiling}

// Limits reads what the fields floor, ceiling, valid from and valid until say. What can't be read bounds nothing, and
// is told.
func (a *Area) Limits() (l Limits, faults []string) {
	for key, to := range map[string]**Level{FieldFloor: &l.Floor, FieldCeiling: &l.Ceiling} {
		text, ok := Get(a.Fields, key)
		for i := 0; !ok && i < len(a.Fields); i++ {
			word := strings.NewReplacer("_", " ", "-", " ").Replace(strings.ToLower(a.Fields[i].Key))
			if limitWords[word] == key {
				text, ok = a.Fields[i].Value, true
			}
		}
		if ok && text != "" {
			level, err := ParseLevel(text)
			if err != nil {
				faults = append(faults, fmt.Sprintf("%s: %v", key, err))
				continue
			}
			*to = &level
		}
	}
	for key, to := range map[string]**int64{FieldFrom: &l.From, FieldUntil: &l.Until} {
		if text, ok := Get(a.Fields, key); ok && text != "" {
			ns, mark, _, ok := instant.Parse([]byte(text), nil)
			if !ok {
				faults = append(faults, fmt.Sprintf("%s: %q is not a time", key, text))
				continue
			}
			if key == FieldUntil && mark == instant.Day { // a day counts whole
				ns += int64(24*time.Hour) - 1
			}
			*to = &ns
		}
	}
	return
}

// At says whether the area holds at a time in nanoseconds since 1970.
func (l *Limits) At(from, until int64) bool {
	return (l.From == nil || until >= *l.From) && (l.Until == nil || from <= *l.Until)
}

// Comparable says whether a height above something can be held against the level.
func (l *Level) Comparable(over VerticalDatum) bool {
	return !l.Ground && !l.Unlimited && over.Comparable(l.Over)
}

// Misses says why heights between two, in metres, are not in the area: above its ceiling or below its floor. It is ""
// for those that are, and for those that can't be held against either.
func (l *Limits) Misses(low, high float64, over VerticalDatum) string {
	if c := l.Ceiling; c != nil && c.Comparable(over) && low > c.Metres {
		return fmt.Sprintf("above its ceiling of %s", c.Text)
	}
	if f := l.Floor; f != nil && f.Comparable(over) && high < f.Metres {
		return fmt.Sprintf("below its floor of %s", f.Text)
	}
	return ""
}

// Outside says why a place within the outline is not in the area, by its height and time; "" where it is. What is not
// known counts as inside.
func (l *Limits) Outside(p *Point) string {
	if p.HasTime() && !l.At(p.UnixNano(), p.UnixNano()) {
		return "when it doesn't hold"
	}
	if !p.HasHeight() {
		return ""
	}
	return l.Misses(p.Height(), p.Height(), p.VerticalDatum())
}

// Hold says whether a place within the outline is in the area.
func (l *Limits) Hold(p *Point) bool { return l.Outside(p) == "" }

// Cuts gives the parts of a leg, from 0 to 1, at which its height or time comes to a limit.
func (l *Limits) Cuts(a, b *Point) (out []float64) {
	cut := func(from, to, at float64) {
		if t := (at - from) / (to - from); t > 0 && t < 1 {
			out = append(out, t)
		}
	}
	if a.HasHeight() && b.HasHeight() && a.VerticalDatum().Comparable(b.VerticalDatum()) {
		for _, level := range []*Level{l.Floor, l.Ceiling} {
			if level != nil && level.Comparable(a.VerticalDatum()) {
				cut(a.Height(), b.Height(), level.Metres)
			}
		}
	}
	if a.HasTime() && b.HasTime() {
		for _, at := range []*int64{l.From, l.Until} {
			if at != nil {
				cut(0, float64(b.Since(a)), float64(*at-a.UnixNano()))
			}
		}
	}
	return
}
