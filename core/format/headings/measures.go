package headings

import (
	"math"
	"strings"

	"gyrolith/core/pattern"
)

// Quantity is what a column of numbers measures.
type Quantity uint8

// The quantities whose measures titles name.
const (
	None   Quantity = iota // what has no measure
	Length                 // of heights and depths, in metres
	Speed                  // in metres a second
	Angle                  // of courses, in degrees
	Area                   // of the sizes of areas, in square metres
	Span                   // of time, in seconds
)

// Measure is one that a title names: its name, and how many of our own it is.
type Measure struct {
	Name   string
	Factor float64
}

// FlightLevels is the measure of pressure heights: hundreds of feet in the standard atmosphere.
const FlightLevels = "flight levels"

const (
	foot = 0.3048
	knot = 1852.0 / 3600
)

// The measures by the words that stand for them in the languages of offices, folded. Miles are statute miles and
// "sm" is the nautical mile of German charts.
var measures = [...]map[string]Measure{
	Length: byWords(map[Measure]string{
		{"metres", 1}: "m,metre,metres,meter,meters,metern,metros,metro,metri,mtr,mts,metrow,metru,metria,mt",
		{"feet", foot}: "ft,feet,foot,fuss,fusse,pieds,pied,pies,pie,piedi,piede,pes,fot,fod,voet,stopy,stop,jalkaa,ft us," +
			"us ft,usft,ftus",
		{"fathoms", 6 * foot}: "fathoms,fathom,fm,fms,ftm,ftms,fth,faden,brasses,brasse,brazas,braza,braccia,bracas," +
			"braca,vadem,vademen,favner,favn,famnar,famn,syli,sylta",
		{"kilometres", 1000}: "km,kilometre,kilometres,kilometer,kilometers,kilometern,kilometros,chilometri",
		{"nautical miles", 1852}: "nm,nmi,naut mi,nautical miles,nautical mile,sm,seemeilen,seemeile,milles " +
			"nautiques,milles,millas nauticas,miglia nautiche,milhas nauticas,zeemijl,zeemijlen,sjomil,somil,mpk,milles marins",
		{"miles", 1609.344}:              "mi,mile,miles,meilen,statute miles",
		{"yards", 3 * foot}:              "yd,yds,yard,yards",
		{"centimetres", 0.01}:            "cm,centimetres,centimeters,zentimeter,centimetros,centimetri",
		{"decimetres", 0.1}:              "dm,dezimeter,decimetres,decimeters",
		{"hundreds of feet", 100 * foot}: "hft,hundreds of feet,hundred feet",
		{FlightLevels, 100 * foot}:       "fl,flight level,flight levels,flugflache,niveau de vol,nivel de vuelo",
	}),
	Speed: byWords(map[Measure]string{
		{"metres a second", 1}: "m s,ms,mps,m sec,metres per second,meters per second,meter pro sekunde,m sek",
		{"knots", knot}: "kn,kt,kts,kns,knot,knots,knoten,noeud,noeuds,nœuds,nudo,nudos,nodo,nodi,nos,knop,knopen,knob," +
			"knop,knopar,knyter,wezly,wezlow,uzly,uzlu,solmua",
		{"kilometres an hour", 1 / 3.6}: "km h,kmh,kph,km std,km t,km hr,kmph,kilometres per hour,kilometers per hour," +
			"stundenkilometer,km godz",
		{"miles an hour", 1609.344 / 3600}: "mph,mi h,miles per hour",
		{"feet a second", foot}:            "ft s,fps,ft sec",
		{"feet a minute", foot / 60}:       "ft min,fpm",
	}),
	Angle: byWords(map[Measure]string{
		{"degrees", 1}: "deg,degs,degree,degrees,grad,grade,gradi,grados,degres,graus,graden,grader,stopni,stupnu,astetta," +
			"true,deg true,degrees true,t,rw,rechtweisend,vrai",
		{"radians", 180 / math.Pi}: "rad,radian,radians,radiant,bogenmass",
		{"gon", 360.0 / 400}:       "gon,gons,neugrad,gradians,gradian",
		{"mils", 360.0 / 6400}:     "mil,mils",
	}),
	Area: byWords(map[Measure]string{
		{"square metres", 1}: "m2,m²,sqm,sq m,square metres,square meters,quadratmeter,metres carres," +
			"metros cuadrados",
		{"hectares", 1e4}:                      "ha,hectare,hectares,hektar,hectareas,ettari",
		{"square kilometres", 1e6}:             "km2,km²,sq km,square kilometres,square kilometers,quadratkilometer",
		{"square nautical miles", 1852 * 1852}: "nm2,nm²,sq nm,square nautical miles",
		{"acres", 4046.8564224}:                "ac,acre,acres",
	}),
	Span: byWords(map[Measure]string{
		{"seconds", 1}:  "s,sec,second,seconds",
		{"minutes", 60}: "min,minute,minutes",
		{"hours", 3600}: "h,hr,hour,hours",
	}),
	None: {},
}

func byWords(list map[Measure]string) map[string]Measure {
	out := map[string]Measure{}
	for m, words := range list {
		for w := range strings.SplitSeq(words, ",") {
			out[w] = m
		}
	}
	return out
}

// remarks are words in brackets or behind a title that are no measures, but say more of a quantity.
var remarks = func() map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq("msl amsl asl gps wgs84 wgs nhn nn hae egm96 egm2008 dgm dem dtm srtm baro max min " +
		"avg mean est approx utc cog sog cmg calc z sea geoid dhhn92 dhhn2016 ellipsoid lat mllw chart datum corr raw " +
		"abs rel ca gemessen geschatzt mittel ned up down true magn") {
		out[w] = true
	}
	return out
}()

// MeasureOf finds the measure that a title names for a quantity: in brackets, or as its last words. Unknown is a word
// in brackets that looks like a measure and is none that is known; "" is none. Where nothing is named the factor is
// 1.
func MeasureOf(title string, q Quantity) (m Measure, unknown string) {
	m = Measure{Factor: 1}
	if p := inBrackets.FindStringSubmatch(title); p != nil {
		inside := Folded(p[1])
		if found, ok := inWords(inside, q); ok {
			return found, ""
		}
		const longest = 8 // letters of a measure
		if inside != "" && !strings.Contains(inside, " ") && len(inside) <= longest && !remarks[inside] &&
			strings.Trim(inside, "0123456789") == inside {
			return m, strings.TrimSpace(p[1])
		}
	}
	words := strings.Fields(Folded(inBrackets.ReplaceAllString(title, " ")))
	for n := min(3, len(words)-1); n > 0; n-- {
		if found, ok := measures[q][strings.Join(words[len(words)-n:], " ")]; ok {
			return found, ""
		}
	}
	return m, ""
}

// Named finds the measure of a quantity that a text names.
func Named(text string, q Quantity) (Measure, bool) { return inWords(Folded(text), q) }

// InMetres says whether a title of heights names no other measure.
func InMetres(title string) bool {
	m, _ := MeasureOf(title, Length)
	return m.Factor == 1
}

// inWords finds the measure in the words of a text, the longest first: m, m ü. M., ft MSL.
func inWords(text string, q Quantity) (Measure, bool) {
	words := strings.Fields(text)
	for n := min(3, len(words)); n > 0; n-- {
		for i := 0; i+n <= len(words); i++ {
			if found, ok := measures[q][strings.Join(words[i:i+n], " ")]; ok {
				return found, true
			}
		}
	}
	return Measure{}, false
}

// quantities are those of columns by what they hold.
var quantities = map[string]Quantity{"height": Length, "depth": Length, "speed": Speed, "course": Angle}

// QuantityOf says what a column of numbers measures by what it holds.
func QuantityOf(holds string) (Quantity, bool) {
	q, ok := quantities[holds]
	return q, ok
}

// withoutMeasure takes the measure off the end of a folded title: depth fathoms becomes depth.
func withoutMeasure(folded string) string {
	words := strings.Fields(folded)
	for n := min(3, len(words)-1); n > 0; n-- {
		rest, last := words[:len(words)-n], strings.Join(words[len(words)-n:], " ")
		last = strings.TrimPrefix(last, "in ")
		h, known := headRanks[strings.Join(rest, " ")]
		if !known {
			continue
		}
		if q, ok := quantities[h.Holds]; ok {
			if _, is := measures[q][last]; is {
				return strings.Join(rest, " ")
			}
		}
	}
	return folded
}

// CellMeasure parts a cell such as 12 ft into its number and the measure that it names itself.
func CellMeasure(cell string, q Quantity) (number string, m Measure, ok bool) {
	p := withUnit.FindStringSubmatch(cell)
	if p == nil {
		return cell, Measure{}, false
	}
	m, ok = measures[q][Folded(p[2])]
	if !ok {
		return cell, Measure{}, false
	}
	return strings.TrimSpace(p[1]), m, true
}

var withUnit = pattern.New(`^\s*([-+−]?[0-9][0-9 .,'’]*)\s*([^0-9]+?)\s*$`)
