package rtz

import (
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/holds"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// declaration says what a route of the format holds.
var declaration = &holds.Declaration{
	Noun:  "RTZ",
	Trims: true,
	Holds: holds.Places{
		holds.Route: holds.Only(holds.Name).
			With(holds.Fields, holds.Held{Why: notOfSchema, KeyWords: keyWords, Keys: func(f *nav.Field) bool {
				return contains(infoKeys, f.Key) && valid(f.Key, f.Value) || f.Key == "schedule" ||
					f.Key == defaultPrefix+"radius" && valid("radius", f.Value) || known(f, defaultPrefix+legPrefix)
			}}),
		holds.RoutePoint: holds.Only(holds.Name, holds.Time).
			With(holds.Fields, holds.Held{Why: notOfSchema, KeyWords: keyWords,
				Keys: func(f *nav.Field) bool {
					return contains([]string{"id", "revision", "radius"}, f.Key) && valid(f.Key, f.Value) ||
						known(f, legPrefix, "manual ", "calculated ")
				}}),
	},
}

const notOfSchema = "RTZ has no such attribute, or its schema doesn't allow the value"

const keyWords = "attributes of its schema with valid values"

// known says whether a field is an attribute of a leg or of a schedule's element, with one of some prefixes.
func known(f *nav.Field, prefixes ...string) bool {
	for _, p := range prefixes {
		if rest, ok := strings.CutPrefix(f.Key, p); ok && (contains(legKeys, rest) || contains(timeKeys, rest)) {
			return valid(rest, f.Value)
		}
	}
	return false
}

// kind is the type of an attribute's value.
type kind uint8

const (
	text kind = iota
	number
	integer
	moment
	duration
	geometry
)

// types are those of the attributes that are no texts, by the schema of IEC 61174, annex S.
var types = func() map[string]kind {
	out := map[string]kind{"geometryType": geometry, "id": integer, "revision": integer, "vesselMMSI": integer,
		"vesselIMO": integer}
	for _, name := range []string{"radius", "starboardXTD", "portsideXTD", "safetyContour", "safetyDepth", "speedMin",
		"speedMax", "draughtForward", "draughtAft", "staticUKC", "dynamicUKC", "masthead", "vesselDisplacement", "vesselGM",
		"vesselMaxRoll", "vesselMaxWave", "vesselMaxWind", "vesselSpeedMax", "vesselServiceMin", "vesselServiceMax", "speed",
		"speedWindow", "windSpeed", "windDirection", "currentSpeed", "currentDirection", "windLoss", "waveLoss", "totalLoss",
		"rpm", "pitch", "fuel", "relFuelSave", "absFuelSave"} {
		out[name] = number
	}
	for _, name := range []string{"validityPeriodStart", "validityPeriodStop", "etd", "eta"} {
		out[name] = moment
	}
	for _, name := range []string{"etdWindowBefore", "etdWindowAfter", "etaWindowBefore", "etaWindowAfter", "stay"} {
		out[name] = duration
	}
	return out
}()

var (
	isInteger  = pattern.New(`^[+-]?\d+$`)
	isDuration = pattern.New(`^-?P(?:\d+Y)?(?:\d+M)?(?:\d+D)?(?:T(?:\d+H)?(?:\d+M)?(?:\d+(?:\.\d+)?S)?)?$`)
)

// valid says whether a value is of the type of an attribute.
func valid(name, value string) bool {
	switch types[name] {
	case number:
		_, _, ok := decimal.Parse([]byte(value))
		return ok && !strings.ContainsAny(value, "eE")
	case integer:
		return isInteger.MatchString(value)
	case moment:
		_, mark, _, ok := instant.Parse([]byte(value), nil)
		return ok && mark >= instant.Seconds
	case duration:
		return isDuration.MatchString(value) && len(value) > 2
	case geometry:
		return value == "Loxodrome" || value == "Orthodrome"
	}
	return true
}
